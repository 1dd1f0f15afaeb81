"""Room on the disk: estimated and looked at before work begins, so that it does not end in the middle."""

import os
from collections.abc import Iterable
from pathlib import Path

from lenskeep.core.problems import UserProblem
from lenskeep.files.archive import free_space

SCREEN_BYTES = 1_300_000
"""A finished frame at screen size with its small copy, generously."""
FOUND_BYTES = 2_200_000
"""What finding writes for a frame: its untouched picture at screen size, masks, pieces."""


def spare_bytes() -> int:
    """What is left free for the database and for other programs: ``LENSKEEP_SPARE_MB``, or 500 MB."""
    text = os.environ.get("LENSKEEP_SPARE_MB", "")
    return int(text) * 1_000_000 if text.isdigit() else 500_000_000


def check_room(folder: Path, wanted: int, what: str) -> None:
    """Raises UserProblem when the disk that ``folder`` lies on has no room for so many bytes."""
    left = free_space(folder) - spare_bytes()
    if left < wanted:
        raise UserProblem(
            f"The disk is nearly full: {what} needs about {_megabytes(wanted)}, and {_megabytes(max(left, 0))} can be "
            "used. Make room and try again."
        )


def _megabytes(count: int) -> str:
    return f"{count / 1e9:.1f} GB" if count >= 1e9 else f"{max(1, round(count / 1e6)):,} MB"


def size_estimate(sizes: Iterable[tuple[int, int]], most: float, quality: int, long_side: int | None) -> int:
    """About how many bytes files of (width, height) will take that need ``most`` bytes a pixel at the best quality."""
    bytes_a_pixel = most * (0.25 + 0.75 * (max(quality, 40) - 40) / 60)
    total = 0.0
    for width, height in sizes:
        scale = min(1.0, long_side / max(width, height, 1)) if long_side else 1.0
        total += width * height * scale * scale * bytes_a_pixel + 40_000
    return round(total)
