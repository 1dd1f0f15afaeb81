"""How much freed memory a worker keeps for what comes next, instead of handing it back and asking for it again."""

import ctypes
import os
from collections.abc import Mapping
from contextlib import suppress

from lenskeep.work.engines.here import ONE_THREAD

TRIM_THRESHOLD, MMAP_THRESHOLD, ARENA_MAX = -1, -3, -8
"""glibc's numbers of what can be set."""
ARRAYS = 32 << 20
"""From this size on, the most that glibc allows, an array is asked of the system by itself."""
MUCH, USUAL = 256 << 20, 64 << 20
_keeps: set[bool] = set()


def keep_freed(much: bool) -> None:
    """Keep ``much`` of what is freed from now on, or as much as is usual (glibc's mallopt).

    Strips of one large photograph are as large as those of the one before, and pages that were given back are cleared
    anew: a twentieth of a hand-over's time. Finding, whose memory lies in more pieces, would hold a third more and gain
    nothing. Only in workers: a server is to give back what it does not need.
    """
    if os.environ.get(ONE_THREAD) != "1" or much in _keeps or not (much or _keeps):
        return
    set_memory({MMAP_THRESHOLD: ARRAYS, TRIM_THRESHOLD: MUCH if much else USUAL})
    _keeps.clear()
    _keeps.add(much)


def set_memory(settings: Mapping[int, int]) -> None:
    """Set how this process takes and gives back memory (glibc's mallopt)."""
    with suppress(OSError, AttributeError):  # another C library does as it sees fit
        libc = ctypes.CDLL("libc.so.6")
        for option, value in settings.items():
            libc.mallopt(option, value)
