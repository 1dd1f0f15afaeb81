"""How one kind of job is done, as the queue sees it."""

from collections.abc import Callable
from typing import Any, Protocol, runtime_checkable

from lenskeep.store import jobs


@runtime_checkable
class Receives(Protocol):
    """A handler whose results have something to be done with before they are written down."""

    def receive(self, job: jobs.Job, item: jobs.Item, result: Any) -> None:
        """Bring files to their place, and work out what takes long: outside of any transaction, which others wait for.
        Runs before ``record``; done once more after a kill it does no harm. Raises as ``record`` does.
        """


class Handler(Protocol):
    """``prepare`` and ``record`` run beside the database, ``run`` maybe on another machine. See ``Receives``, too; one
    that is ``durable`` has what it recorded on the disk before it counts as done.
    """

    def prepare(self, job: jobs.Job, item: jobs.Item) -> Any | None:
        """The task of an item; None when there is nothing left to do. Nobody waits for it: it runs outside of any
        transaction. Raises UserProblem.
        """

    @property
    def run(self) -> Callable[[Any], Any]:
        """A function at the top level of a module: task -> result. It writes files whole or not at all."""

    def record(self, job: jobs.Job, item: jobs.Item, result: Any) -> None:
        """Write the result down; runs in the transaction that finishes the item, so it is quick."""

    def failed(self, job: jobs.Job, item: jobs.Item, message: str) -> None:
        """Note on the frame that its item failed."""

    def finish(self, job: jobs.Job) -> str:
        """After the last item; returns a message. Raises UserProblem when the job as a whole failed."""
