"""A small memory of results by content key, the oldest forgotten first."""

from collections import OrderedDict
from collections.abc import Callable
from threading import Lock
from typing import Any, TypeVar

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
