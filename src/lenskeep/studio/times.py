"""Times that photographs were taken at."""

from datetime import datetime


def seconds_of(text: str | None) -> float | None:
    """Seconds of an ISO time; None without one, or where it is none."""
    try:
        return datetime.fromisoformat(text).timestamp() if text else None
    except (ValueError, OverflowError):
        return None
