"""Where tasks run. An engine takes a plain function and a typed task and gives a future of its typed result."""

from collections.abc import Callable
from concurrent.futures import Future
from typing import Any, Protocol

from lenskeep.core.problems import UserProblem


class WorkerDied(Exception):
    """The process that ran a task is gone. ``all_lost`` says that everything else that was under way went with it,
    ``by_somebody`` that it was killed from outside, and not for what it did.
    """

    def __init__(self, all_lost: bool, by_somebody: bool = False) -> None:
        super().__init__("a worker died")
        self.all_lost, self.by_somebody = all_lost, by_somebody


class EngineProblem(UserProblem):
    """The engine can't be used at the moment; the message says what to do."""


class Engine(Protocol):
    """Raises EngineProblem from ``slots`` and ``submit`` when it can't be used."""

    def slots(self) -> int:
        """How many tasks run at once."""

    def ahead(self) -> int:
        """How many bunches are handed over beyond those that run, so that no worker waits for its next one."""

    def submit(self, run: Callable[[Any], Any], task: Any) -> "Future[Any]":
        """The future fails with what the function raises, or with WorkerDied."""

    def rouse(self, run: Callable[[Any], Any]) -> None:
        """Have workers that would be started for the next task started now, each with ``run`` of nothing."""

    def end(self) -> None:
        """End at once, whatever is under way."""
