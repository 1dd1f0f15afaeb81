"""How fast work goes, in words."""

LEAST_SECONDS, LEAST_DONE = 4.0, 3
"""Before so much is known, nothing is said."""


def pace_words(done: int, left: int, seconds: float) -> str:
    """Such as "38 a minute, about 4 min left", of so many that were done in so many seconds; "" while it is early."""
    if seconds < LEAST_SECONDS or done < LEAST_DONE:
        return ""
    rate = 60.0 * done / seconds
    shown = f"{rate:.0f}" if rate >= 10 else f"{rate:.1f}"
    return f"{shown} a minute, {_left(left / rate * 60.0)} left" if left else f"{shown} a minute"


def _left(seconds: float) -> str:
    if seconds < 55:
        return f"about {max(5, round(seconds / 5) * 5)} s"
    minutes = round(seconds / 60)
    if minutes < 60:
        return f"about {max(minutes, 1)} min"
    hours, rest = divmod(round(minutes / 5) * 5, 60)
    return f"about {hours} h {rest} min" if rest else f"about {hours} h"
