"""Commands that look after the library."""

from pathlib import Path
from typing import Annotated

import typer

from lenskeep.cli.shared import app, run, said, stop, the_library
from lenskeep.core.problems import UserProblem
from lenskeep.store import jobs
from lenskeep.studio import keeping, sweep
from lenskeep.studio.keeping.looking import to_look_at
from lenskeep.studio.library import Library, home_from_environment
from lenskeep.studio.queue import make_runner
from lenskeep.studio.tidy import room, room_words, tidy


@app.command()
def backup(folder: Annotated[Path, typer.Argument(help="Best on another disk; only what is new is copied.")]) -> None:
    """Copy the database, the originals, what recipes refer to and masks. Finished pictures can be made again."""
    with said(), to_look_at(home_from_environment()) as library:
        done = keeping.backup(library, folder, typer.echo)
    _tell(done.wrong)
    whole = "" if done.wrong else "The backup is complete. "
    typer.echo(f"{whole}{done.originals} originals were copied to {folder}; what was there already was looked through.")
    if done.wrong:
        raise stop(f"{len(done.wrong)} things could not be copied; everything else was.")


def _tell(wrong: list[str]) -> None:
    for words in wrong:
        typer.secho(words, err=True, fg="yellow")


@app.command()
def restore(folder: Annotated[Path, typer.Argument(help="What 'lenskeep backup' has made.")]) -> None:
    """Bring a library back from a backup, where there is none. Finished pictures are made again at the next start."""
    library = Library(home_from_environment())
    with said():
        done = keeping.restore(folder, library, typer.echo)
    _tell(done.wrong)
    typer.echo(f"{done.originals} originals are back in {library.home}. 'lenskeep serve' makes the finished pictures.")
    if done.wrong:
        raise stop(f"{len(done.wrong)} things did not come back; everything else did.")


@app.command()
def verify() -> None:
    """Look through the library: database, originals by their sums, recipes, masks, hand-overs, leftovers."""
    with said(), to_look_at(home_from_environment()) as library:
        report = keeping.verify(library, typer.echo)
    _tell(report.wrong)
    left = f" {report.left_over} files are left over; they are swept at the next start." if report.left_over else ""
    typer.echo(f"{report.originals} originals and {report.frames} frames looked at.{left}")
    if report.wrong:
        raise stop(f"{len(report.wrong)} things are wrong.")
    typer.echo("All is well.")


@app.command("tidy")
def tidy_(
    gigabytes: Annotated[
        float | None, typer.Option(help="Room for what can be made again; by default LENSKEEP_CACHE_GB.", min=0)
    ] = None,
) -> None:
    """Say what takes how much room, and bring masks and finished pictures under their budget."""
    library = the_library()
    with said(), make_runner(library).alone() as mine:
        if not mine:
            raise UserProblem("The application is running; it tidies by itself. Stop it first, or let it.")
        tidied = tidy(library, None if gigabytes is None else int(gigabytes * 1e9))
    if tidied.files:
        typer.echo(tidied.words())
    for words, size in room_words(room(library)):
        typer.echo(f"{words:28s} {size:>10s}")


@app.command("sweep")
def sweep_() -> None:
    """Remove files in the library that nothing refers to any more."""
    library = the_library()
    sweep.queue_sweep(library)
    run(library, next(j.id for j in jobs.jobs(library.db) if j.kind == sweep.KIND))
