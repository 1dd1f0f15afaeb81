"""Doing the same thing once: whoever asks for what somebody is making already waits for that."""

from collections.abc import Callable, Hashable
from concurrent.futures import Future
from threading import Lock
from typing import Any, TypeVar

T = TypeVar("T")


class OneAtATime:
    """Safe from several threads."""

    def __init__(self) -> None:
        self._making: dict[Hashable, Future[Any]] = {}
        self._lock = Lock()

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """What ``make`` returns or raises; equal keys asked for meanwhile share it."""
        with self._lock:
            there = self._making.get(key)
            if there is None:
                mine: Future[Any] = Future()
                self._making[key] = mine
        if there is not None:
            found: T = there.result()
            return found
        try:
            made = make()
        except BaseException as error:
            mine.set_exception(error)
            raise
        else:
            mine.set_result(made)
            return made
        finally:
            with self._lock:
                del self._making[key]
