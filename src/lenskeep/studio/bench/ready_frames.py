"""Frames kept ready in memory for the Bench, within a bound in bytes, and given back when nobody works."""

import ctypes
import os
import resource
import time
from collections import OrderedDict
from collections.abc import Callable, Hashable
from contextlib import suppress
from pathlib import Path
from threading import Lock, Thread
from typing import Generic, TypeVar

from lenskeep.core.engine.kept import bytes_held
from lenskeep.studio.bench.shared_work import OneAtATime
from lenskeep.work.engines.freed import ARENA_MAX, MMAP_THRESHOLD, set_memory

IDLE_SECONDS = 30.0
WEIGH_SECONDS = 1.0
SLACK_BYTES = 150_000_000
"""What the process may take beside what is held, before freed memory is handed back at once."""
ARRAY_BYTES = 2_000_000
"""From this size on memory is asked of the system and returned to it, each piece by itself."""
T = TypeVar("T")


def room_from_environment() -> int:
    """``LENSKEEP_BENCH_MB``, or 600 MB, in bytes."""
    text = os.environ.get("LENSKEEP_BENCH_MB", "")
    return int(text) * 1_000_000 if text.isdigit() else 600_000_000


def few_arenas() -> None:
    """Let all threads of this process share two pools of memory, so that what one has freed another can use, and let
    arrays live outside of them, so that theirs is given back as soon as they go (glibc's mallopt). Called once, by
    whoever runs a server.
    """
    set_memory({ARENA_MAX: 2, MMAP_THRESHOLD: ARRAY_BYTES})


def resident_bytes() -> int:
    """What this process takes of the machine's memory; 0 where the system does not tell."""
    try:
        return int(Path("/proc/self/statm").read_text().split()[1]) * resource.getpagesize()
    except (OSError, IndexError, ValueError):
        return 0


def give_back_memory() -> None:
    """Hand freed memory back to the system, which the C library otherwise keeps for later (glibc's malloc_trim)."""
    with suppress(OSError, AttributeError):  # another C library gives it back by itself, or not at all
        ctypes.CDLL("libc.so.6").malloc_trim(0)


class ReadyFrames(Generic[T]):
    """Holds what was used last, up to ``room`` bytes of arrays. Safe from several threads; the same is made once."""

    def __init__(self, room: int | None = None, idle_seconds: float = IDLE_SECONDS) -> None:
        self._room = room_from_environment() if room is None else room
        self._idle = idle_seconds
        self._held: OrderedDict[Hashable, tuple[T, int]] = OrderedDict()
        self._lock, self._making = Lock(), OneAtATime()
        self._used, self._watching = 0.0, False
        self._weighed: dict[Hashable, float] = {}

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """What is held under ``key``, or a new one from ``make``."""
        with self._lock:
            self._used = time.monotonic()
            if key in self._held:
                self._held.move_to_end(key)
                return self._held[key][0]
        made = self._making.get(key, make)
        self._hold(key, made)
        return made

    def weigh(self, key: Hashable) -> None:
        """Count anew what is held under ``key``, which grows while it is used; the oldest go when it is too much. Under
        a moving slider it is counted once in a while.
        """
        with self._lock:
            held, now = self._held.get(key), time.monotonic()
            if now - self._weighed.get(key, 0.0) < WEIGH_SECONDS:
                return
            self._weighed = {k: t for k, t in self._weighed.items() if k in self._held} | {key: now}
        if held is not None:
            self._hold(key, held[0])
        if resident_bytes() > self._room + SLACK_BYTES:
            give_back_memory()

    def held_bytes(self) -> int:
        """What is held now."""
        with self._lock:
            return sum(size for _, size in self._held.values())

    def clear(self) -> None:
        with self._lock:
            self._held.clear()
        give_back_memory()

    def _hold(self, key: Hashable, what: T) -> None:
        size = bytes_held(what)
        with self._lock:
            self._held[key] = (what, size)
            self._held.move_to_end(key)
            total = sum(each for _, each in self._held.values())
            while total > self._room and len(self._held) > 1:
                _, (_, gone) = self._held.popitem(last=False)
                total -= gone
            if not self._watching:
                self._watching = True
                Thread(target=self._watch, name="ready frames", daemon=True).start()

    def _watch(self) -> None:
        """Clear when nothing was asked for in a while."""
        while True:
            time.sleep(min(5.0, self._idle))
            with self._lock:
                if time.monotonic() - self._used < self._idle:
                    continue
                self._held.clear()
                self._watching = False
            give_back_memory()
            return
