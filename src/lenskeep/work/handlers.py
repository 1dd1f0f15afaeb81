"""How one kind of job is done, as the queue sees it."""

from collections.abc import Callable
from typing import Any, Protocol

from lenskeep.store import jobs


class Handler(Protocol):
    """``prepare`` and ``record`` run beside the database, ``run`` maybe on another machine."""

    def prepare(self, job: jobs.Job, item: jobs.Item) -> Any | None:
        """The task of an item; None when there is nothing left to do. Raises UserProblem."""

    @property
    def run(self) -> Callable[[Any], Any]:
        """A function at the top level of a module: task -> result. It writes files whole or not at all."""

    def record(self, job: jobs.Job, item: jobs.Item, result: Any) -> None:
        """Write the result down; runs in the transaction that finishes the item."""

    def failed(self, job: jobs.Job, item: jobs.Item, message: str) -> None:
        """Note on the frame that its item failed."""

    def finish(self, job: jobs.Job) -> str:
        """After the last item; returns a message. Raises UserProblem when the job as a whole failed."""
