"""The time as it is written into the database."""

from datetime import UTC, datetime


def now() -> str:
    """ISO 8601, UTC, milliseconds."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")
