"""What the commands share: the application, the library, a shoot by its name, a job run to its end."""

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from enum import StrEnum
from typing import Annotated

import typer

from lenskeep.core.problems import UserProblem
from lenskeep.store import jobs, shoots
from lenskeep.studio.library import Library, home_from_environment
from lenskeep.studio.queue import make_runner

app = typer.Typer(
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
    help="Lens Keep: one look held across a whole shoot, with the masks found again on every frame.",
)


class Colours(StrEnum):
    """Output spaces by name."""

    srgb = "srgb"
    display_p3 = "display-p3"
    rec2020 = "rec2020"


ShootName = Annotated[str, typer.Argument(help="Name of the shoot, or its number.")]


def stop(message: str) -> typer.Exit:
    typer.secho(message, err=True, fg="red")
    return typer.Exit(1)


@contextmanager
def said() -> Iterator[None]:
    """Problems that people can mend are said, not traced."""
    try:
        yield
    except UserProblem as problem:
        raise stop(str(problem)) from problem


def the_library() -> Library:
    library = Library(home_from_environment())
    with said():
        _ = library.db
    return library


def the_shoot(library: Library, name: str) -> shoots.Shoot:
    found = shoots.shoot_by_name(library.db, name)
    if found is None and name.isdigit() and len(name) < 19:
        found = shoots.shoot(library.db, int(name))
    if found is None:
        known = ", ".join(s.name for s in shoots.shoots(library.db)) or "none yet"
        raise stop(f'There is no shoot "{name}". Known: {known}.')
    return found


def run(library: Library, job_id: int | None, quiet: bool = False) -> None:
    """Run the queue here, or wait for the server that runs it; print progress, or nothing where it would stand amid
    something else; fail if the job failed.
    """
    if job_id is None:
        return
    from lenskeep.studio.preparing import Preparation  # with all kernels: other commands begin without

    Preparation().run(lambda words: None if quiet else typer.echo(words))
    runner = make_runner(library)
    thread = threading.Thread(target=runner.run_until_idle, daemon=True)
    thread.start()
    shown = ""
    try:
        while True:
            job = jobs.job(library.db, job_id)
            if job is None:
                raise stop("The job is gone.")
            line = f"{job.done} of {job.total}" + (f", {job.failed} failed" if job.failed else "")
            line = f"{line}. {runner.trouble}" if runner.trouble else line
            if line != shown and not quiet:
                typer.echo(f"  {line}")
                shown = line
            if not job.active:
                break
            time.sleep(0.2)
    finally:
        runner.begin_stop()
        thread.join(5)
        runner.stop()
    for name, reason in jobs.failures(library.db, job_id):
        typer.secho(f"  {name}: {reason}", err=True, fg="yellow")
    if not quiet:
        typer.echo(job.message)
    if job.state != "done" or (job.total and job.failed == job.total):
        raise typer.Exit(1)
