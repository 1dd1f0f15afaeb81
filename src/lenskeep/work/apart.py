"""Calls that may crash, hang or swell, run in processes that may die: what they do harms nobody but themselves."""

import os
import resource
import threading
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any, TypeVar

from lenskeep.work.engines.here import end_with, forkserver

T = TypeVar("T")
MEMORY_BYTES = 3_000_000_000
"""What a call may take on top of what its process has at the start."""
SWOLLEN_BYTES = 450_000_000
"""A process that has kept more than this after a call is replaced by a fresh one."""


class Lost(Exception):
    """The process died, or had to be ended. ``slow`` says that it took too long."""

    def __init__(self, slow: bool) -> None:
        super().__init__("took too long" if slow else "died")
        self.slow = slow


def _resident() -> int:
    with open("/proc/self/statm") as handle:  # noqa: PTH123 - once a call
        return int(handle.read().split()[1]) * resource.getpagesize()


def _serve(pipe: Connection, parent: int, memory: int) -> None:
    """Answer calls until the pipe is closed."""
    os.nice(5)
    end_with(parent)
    try:
        with open("/proc/self/statm") as handle:  # noqa: PTH123
            held = int(handle.read().split()[0]) * resource.getpagesize()
        resource.setrlimit(resource.RLIMIT_AS, (held + memory, held + memory))
    except (OSError, ValueError):
        pass  # not on this system: the time limit still holds
    while True:
        try:
            run, args = pipe.recv()
        except (EOFError, OSError):
            return
        try:
            answer: tuple[bool, Any] = True, run(*args)
        except Exception as error:
            answer = False, error
        try:
            pipe.send(answer)
        except OSError:
            return  # whoever asked is gone
        except (ValueError, TypeError, AttributeError) as error:
            pipe.send((False, RuntimeError(f"the answer could not be sent: {error}")))
        answer = (True, None)
        try:
            if _resident() > SWOLLEN_BYTES:
                return
        except OSError:
            pass


class _Helper:
    def __init__(self, preload: list[str], memory: int) -> None:
        context = forkserver(preload)
        self.pipe, theirs = context.Pipe()
        self.process = context.Process(target=_serve, args=(theirs, os.getpid(), memory), daemon=True)
        self.process.start()
        theirs.close()

    def call(self, run: Callable[..., T], args: tuple[Any, ...], seconds: float) -> T:
        try:
            self.pipe.send((run, args))
            if not self.pipe.poll(seconds):
                raise Lost(slow=True)
            well, answer = self.pipe.recv()
        except (EOFError, OSError) as error:
            raise Lost(slow=False) from error
        if not well:
            raise answer
        result: T = answer
        return result

    def end(self) -> None:
        self.process.kill()
        self.process.join(2)
        self.pipe.close()


class Apart:
    """Up to ``most`` helper processes, started when they are needed and kept for the next call."""

    def __init__(self, preload: list[str], most: int = 2, memory: int = MEMORY_BYTES) -> None:
        self._preload, self._memory = preload, memory
        self._free: list[_Helper] = []
        self._room = threading.BoundedSemaphore(most)
        self._lock = threading.Lock()

    def call(self, run: Callable[..., T], *args: Any, seconds: float) -> T:
        """``run(*args)``, a function at the top level of a module. Raises what it raises, or Lost.

        A process that dies may have been killed by somebody, or have ended after its last answer: then a fresh one is
        asked once more, and only what takes that down too is to blame.
        """
        with self._room:
            try:
                return self._called(self._one_free(), run, args, seconds)
            except Lost as lost:
                if lost.slow:
                    raise
            return self._called(_Helper(self._preload, self._memory), run, args, seconds)

    def _one_free(self) -> _Helper:
        with self._lock:
            helper = self._free.pop() if self._free else None
        if helper is not None and not helper.process.is_alive():
            helper.end()
            helper = None
        return helper or _Helper(self._preload, self._memory)

    def _called(self, helper: _Helper, run: Callable[..., T], args: tuple[Any, ...], seconds: float) -> T:
        try:
            answer = helper.call(run, args, seconds)
        except Lost:
            helper.end()
            raise
        except BaseException:
            self._give_back(helper)
            raise
        self._give_back(helper)
        return answer

    def _give_back(self, helper: _Helper) -> None:
        with self._lock:
            self._free.append(helper)

    def close(self) -> None:
        """End the helpers that are not at work."""
        with self._lock:
            free, self._free = self._free, []
        for helper in free:
            helper.end()


def wait_seconds(size: int) -> float:
    """How long a file of so many bytes may take before it counts as one that hangs."""
    return 20.0 + size / 1_500_000
