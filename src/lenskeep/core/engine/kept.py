"""A small memory of results by content key, the oldest forgotten first."""

from collections import OrderedDict
from collections.abc import Callable
from threading import Lock
from typing import Any, TypeVar

import numpy as np

T = TypeVar("T")


class Kept:
    """Holds up to ``room`` results. Safe from several threads; two of them may at worst compute the same twice."""

    def __init__(self, room: int = 24) -> None:
        self._room = room
        self._items: OrderedDict[str, Any] = OrderedDict()
        self._lock = Lock()

    def get(self, key: str, make: Callable[[], T]) -> T:
        """The result kept under ``key``, or a new one from ``make``."""
        with self._lock:
            if key in self._items:
                self._items.move_to_end(key)
                found: T = self._items[key]
                return found
        made = make()
        with self._lock:
            self._items[key] = made
            while len(self._items) > self._room:
                self._items.popitem(last=False)
        return made

    def values(self) -> list[Any]:
        """What is held now."""
        with self._lock:
            return list(self._items.values())


def bytes_held(what: Any, seen: set[int] | None = None) -> int:
    """How many bytes the arrays take that something holds, however deep, each counted once."""
    seen = set() if seen is None else seen
    if id(what) in seen or what is None or isinstance(what, str | int | float):
        return 0
    seen.add(id(what))
    if isinstance(what, np.ndarray):
        own = what if what.base is None else what.base
        if own is not what and id(own) in seen:
            return 0
        seen.add(id(own))
        return int(getattr(own, "nbytes", what.nbytes))
    if isinstance(what, Kept):
        return sum(bytes_held(each, seen) for each in what.values())
    if isinstance(what, dict):
        return sum(bytes_held(each, seen) for each in list(what.values()))
    if isinstance(what, tuple | list | set):
        return sum(bytes_held(each, seen) for each in what)
    return sum(bytes_held(each, seen) for each in list(getattr(what, "__dict__", {}).values()))
