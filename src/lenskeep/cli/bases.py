"""The command that sets frames' bases."""

from typing import Annotated

import typer

from lenskeep.cli.shared import ShootName, app, run, said, stop, the_library, the_shoot
from lenskeep.core.base.models import AS_IT_CAME
from lenskeep.core.problems import UserProblem
from lenskeep.store import frames
from lenskeep.store.frames import FrameSummary
from lenskeep.studio import basing, deeds
from lenskeep.studio.applying import queue_stale
from lenskeep.studio.library import Library


@app.command()
def base(
    shoot: ShootName,
    files: Annotated[list[str] | None, typer.Argument(help="File names of frames, or their numbers.")] = None,
    ev: Annotated[float | None, typer.Option(help="Exposure in EV, −4 to 4.")] = None,
    warmth: Annotated[float | None, typer.Option(help="In mired, −100 to 100; more is warmer.")] = None,
    tint: Annotated[float | None, typer.Option(help="In thousandths of Duv, −30 to 30; more is magenta.")] = None,
    highlights: Annotated[float | None, typer.Option(help="In per cent, −100 to 100.")] = None,
    shadows: Annotated[float | None, typer.Option(help="In per cent, −100 to 100.")] = None,
    measure: Annotated[bool, typer.Option("--measure", help="Balance each by its own measure.")] = False,
    clear: Annotated[bool, typer.Option("--clear", help="Back to how they came.")] = False,
    undo: Annotated[bool, typer.Option("--undo", help="Take back what was done last to frames of the shoot.")] = False,
) -> None:
    """Set frames' exposure, warmth, tint, highlights and shadows before the look; without values, tell them."""
    library = the_library()
    target = the_shoot(library, shoot)
    with said():
        if undo:
            typer.echo(deeds.undo(library, target.id))
            return
        chosen = _chosen(library, target.id, files or [])
        ids = [f.id for f in chosen]
        given = {"ev": ev, "mired": warmth, "duv": tint, "highlights": highlights, "shadows": shadows}
        values = {name: value for name, value in given.items() if value is not None}
        changed = []
        if (clear or measure or values) and not files:
            raise stop("Say which frames: lenskeep base SHOOT FRAME… --ev 0.5.")
        if clear:
            changed = basing.set_bases(library, target.id, dict.fromkeys(ids, AS_IT_CAME), "bases taken back")
        if measure:
            bases = {f.id: basing.measured(library, f) for f in chosen}
            changed += basing.set_bases(library, target.id, bases, "balancing by measure")
        if values:
            changed += basing.set_values(library, target.id, ids, values)
        for frame in frames.some(library.db, ids):
            typer.echo(f"{frame.file_name:28} {frame.own_base.words()}")
        job = queue_stale(library, target.id, set(changed))
    run(library, job)


def _chosen(library: Library, shoot_id: int, names: list[str]) -> list[FrameSummary]:
    """Frames by their file names or numbers; all of them without any. Raises UserProblem for one that is not there."""
    rows = frames.summaries(library.db, shoot_id)
    if not names:
        return rows
    by_name = {f.file_name: f for f in rows} | {str(f.id): f for f in rows}
    for name in names:
        if name not in by_name:
            raise UserProblem(f"There is no frame “{name}” in this shoot.")
    return list(dict.fromkeys(by_name[name] for name in names))
