"""Commands that clean up: marks on one photograph, dust through a shoot."""

import json
from dataclasses import asdict
from pathlib import Path
from typing import Annotated

import typer

from lenskeep.cli.shared import ShootName, app, run, said, stop, the_library, the_shoot
from lenskeep.files.writing import form_of
from lenskeep.store import dust as kept
from lenskeep.studio import dusting
from lenskeep.studio.cameras import learn_cameras
from lenskeep.studio.plain_files import heal_file


@app.command()
def heal(
    photo: Annotated[Path, typer.Argument(help="A photograph.")],
    marks: Annotated[Path, typer.Option(help="A grey PNG of it: white where something should go.")],
    out: Annotated[Path, typer.Option(help="The file to write; its ending says the form. Nothing is replaced.")],
    quality: Annotated[int, typer.Option(min=40, max=100, help="Of a JPEG.")] = 95,
) -> None:
    """Heal marks on a plain file, without a library: each is filled from around it and joined in light."""
    for path in (photo, marks):
        if not path.is_file():
            raise stop(f"{path} can't be found.")
    with said():
        target, count = heal_file(photo, marks, out, form_of(out.suffix), quality)
    typer.echo(f"{count} {'mark' if count == 1 else 'marks'} healed: {target}")


@app.command()
def dust(
    shoot: ShootName,
    as_json: Annotated[bool, typer.Option("--json", help="As JSON.")] = False,
    again: Annotated[bool, typer.Option("--again", help="Look for it anew.")] = False,
    confirm: Annotated[bool, typer.Option("--confirm", help="Take all that was found for dust.")] = False,
    heal: Annotated[bool, typer.Option("--heal", help="Heal confirmed dust wherever it is seen.")] = False,
) -> None:
    """Tell where dust lies on the sensor of a shoot's camera, and how sure that is."""
    library = the_library()
    target = the_shoot(library, shoot)
    with said():
        learn_cameras(library, target.id)
        if again or not dusting.of_shoot(library, target.id):
            run(library, dusting.queue_search(library, target.id), quiet=as_json)
        found = dusting.of_shoot(library, target.id)
        if confirm:
            kept.set_state(library.db, [d.id for d in found if d.state == "found"], "confirmed")
            found = dusting.of_shoot(library, target.id)
        if heal:
            run(library, dusting.queue_heal(library, target.id), quiet=as_json)
    if as_json:
        typer.echo(json.dumps([asdict(one) for one in found], indent=2))
        return
    for one in found:
        typer.echo(
            f"{one.camera}: {one.x:.3f}, {one.y:.3f} of the sensor, radius {100 * one.radius:.2f} % – evidence "
            f"{one.evidence:.0f}, seen on {one.seen:.0f} of {one.calm:.0f} calm frames, {one.state}"
        )
    if not found:
        typer.echo("No dust was found.")
