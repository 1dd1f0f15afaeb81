"""The command that tells which frames need an eye."""

import json
from typing import Annotated

import typer

from lenskeep.cli.shared import ShootName, app, said, the_library, the_shoot
from lenskeep.store import checks
from lenskeep.studio import checking


@app.command()
def check(shoot: ShootName, as_json: Annotated[bool, typer.Option("--json", help="As JSON.")] = False) -> None:
    """Tell which frames need an eye before they leave, the worst first, and why."""
    library = the_library()
    target = the_shoot(library, shoot)
    with said():
        found = checking.entries(library, target.id)
    left, done = checks.counts(library.db, target.id)
    if as_json:
        frames = [
            {
                "frame": e.frame.file_name,
                "weight": round(e.weight, 3),
                "step": e.blamed.name if e.blamed else None,
                "why": [{"kind": f.kind, "words": f.words} for f in e.faults],
            }
            for e in found
        ]
        typer.echo(json.dumps({"left": left, "seen": done, "frames": frames}, indent=2))
        return
    for e in found:
        typer.echo(f"{e.frame.file_name:28} {'; '.join(f.words for f in e.faults)}")
    typer.echo(f"{left} to look at, {done} seen.")
