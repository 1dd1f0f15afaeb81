"""Several items' tasks run one after another in one go, so that handing them over costs little."""

import pickle
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any


@dataclass(frozen=True)
class Bunch:
    """Tasks for one function at the top level of a module."""

    run: Callable[[Any], Any]
    tasks: tuple[Any, ...] = field(repr=False)


@dataclass(frozen=True)
class Outcome:
    """What came of one task: its result, or what it raised."""

    result: Any = field(default=None, repr=False)
    error: Exception | None = None


def run_bunch(bunch: Bunch) -> list[Outcome]:
    """One outcome a task; what one raises harms no other."""
    return [_outcome(bunch.run, task) for task in bunch.tasks]


def _outcome(run: Callable[[Any], Any], task: Any) -> Outcome:
    try:
        return Outcome(run(task))
    except Exception as error:
        try:
            pickle.dumps(error)
        except Exception:
            return Outcome(error=RuntimeError(f"{type(error).__name__}: {error}"))
        return Outcome(error=error)
