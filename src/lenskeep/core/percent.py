"""Strengths: fractions inside (1 is whole), per cent where people write and read them."""


def from_percent(value: float) -> float:
    """80 as 0.8."""
    return value / 100.0


def to_percent(value: float) -> int:
    """0.8 as 80, to the nearest whole one."""
    return round(100 * value)
