"""Commands that work on shoots of the library."""

from pathlib import Path
from typing import Annotated, get_args

import typer

from lenskeep.cli.shared import Colours, ShootName, app, run, said, stop, the_library, the_shoot
from lenskeep.core.adjust.finish.text_mark import Place
from lenskeep.core.percent import from_percent
from lenskeep.core.recipes.edit import checked
from lenskeep.files.recipes import read_recipe
from lenskeep.files.writing import FORMS
from lenskeep.store import jobs, recipes
from lenskeep.studio import bring_in, looks
from lenskeep.studio import find as finding
from lenskeep.studio.book.take_in import take_in
from lenskeep.studio.hand_over import deliver, logos, proof
from lenskeep.studio.hand_over.names import FIELDS, PLAIN
from lenskeep.studio.hand_over.options import DeliveryOptions


@app.command("import")
def import_(
    folder: Annotated[Path, typer.Argument(help="A folder, a ZIP or one photograph.")],
    name: Annotated[str | None, typer.Option(help="Name of the shoot; by default that of the folder.")] = None,
) -> None:
    """Bring in a shoot."""
    if not folder.exists():
        raise stop(f"{folder} can't be found.")
    library = the_library()
    with said():
        shoot_id = bring_in.create_shoot(library, name or folder.resolve().stem)
        if folder.is_dir():
            received = bring_in.receive_folder(library, shoot_id, folder)
        else:
            received = bring_in.receive(library, shoot_id, folder, folder.name)
    for _, reason in received.refused:
        typer.secho(f"  {reason}", err=True, fg="yellow")
    typer.echo(f"{len(received.frame_ids)} frames came in as shoot {shoot_id}.")
    if not received.frame_ids:
        raise typer.Exit(1)


@app.command()
def find(shoot: ShootName) -> None:
    """Find subject, sky and skyline on every frame of a shoot."""
    library = the_library()
    with said():
        job_id = finding.queue_finding(library, the_shoot(library, shoot).id)
    if job_id is None:
        typer.echo("Every frame has its masks already.")
    run(library, job_id)


@app.command()
def apply(
    shoot: ShootName,
    recipe: Annotated[str, typer.Option(help="A recipe file, or the name of a recipe in the book.")],
    version: Annotated[int | None, typer.Option(help="Version; by default the newest.")] = None,
    strength: Annotated[float, typer.Option(min=0, max=200, help="In per cent.")] = 100.0,
) -> None:
    """Give a shoot a look and render every frame with its own masks."""
    library = the_library()
    target = the_shoot(library, shoot)
    with said():
        if recipe.endswith(".json"):
            chosen = take_in(library, read_recipe(Path(recipe)))
        else:
            found = [v for v in recipes.versions(library.db) if v.name == recipe and version in (None, v.version)]
            if not found:
                raise stop(f'There is no recipe "{recipe}" in the book, or not in this version.')
            chosen = found[0]
        typer.echo(f"{chosen.name}, version {chosen.version}, on {target.name}:")
        job_id = looks.give_look(library, target.id, chosen.id, from_percent(strength))
    run(library, job_id)


@app.command()
def remake(
    listed: Annotated[Path, typer.Argument(help="The what-was-delivered.json of a hand-over.")],
) -> None:
    """Make a hand-over once more by its list, and say of each file whether it is equal to the bit; keeps nothing."""
    library = the_library()
    wrong = count = 0
    with said():
        for one in proof.remake(library, proof.read_list(listed)):
            count += 1
            if not one.equal:
                wrong += 1
                typer.secho(f"  {one.why}", err=True, fg="yellow")
    typer.echo(f"{count - wrong} of {count} files are equal to what was delivered, bit for bit.")
    if wrong or not count:
        raise typer.Exit(1)


@app.command()
def export(
    shoot: ShootName,
    out: Annotated[Path, typer.Option(help="A folder, or a file ending in .zip.")],
    quality: Annotated[int, typer.Option(min=40, max=100)] = 92,
    long_side: Annotated[int | None, typer.Option(min=200, max=20000, help="In pixels; by default full size.")] = None,
    colours: Annotated[Colours, typer.Option(help="Colours of the files.")] = Colours.srgb,
    form: Annotated[str, typer.Option(help=f"One of {', '.join(FORMS)}.")] = "jpeg",
    names: Annotated[str, typer.Option(help=f"Fields: {', '.join('{' + n + '}' for n in FIELDS)}.")] = PLAIN,
    rating: Annotated[int, typer.Option(min=0, max=5, help="The least rating that leaves.")] = 0,
    sharpen: Annotated[str, typer.Option(help="For screen or paper, at the size delivered.")] = "",
    gallery: Annotated[bool, typer.Option("--gallery", help="With pages that a client opens.")] = False,
    logo: Annotated[Path | None, typer.Option(help="A PNG or JPEG to lay over every picture.")] = None,
    logo_size: Annotated[float, typer.Option(min=0.5, max=30, help="Its height, in per cent of the long side.")] = 6.0,
    logo_place: Annotated[str, typer.Option(help=f"One of {', '.join(get_args(Place))}.")] = "bottom left",
) -> None:
    """Hand over: finished files, a CSV of what was applied, and a list that proves it."""
    library = the_library()
    target = the_shoot(library, shoot)
    as_zip = out.suffix.lower() == ".zip"
    if as_zip and (out.exists() or library.holds(out)):
        raise stop(f"{out} exists already, or is inside the library. Choose another name.")
    if logo is not None and not logo.is_file():
        raise stop(f"{logo} can't be found.")
    with said():
        key, name = ("", "") if logo is None else logos.take(library, logo, logo.name)
        options = checked(
            DeliveryOptions,
            {
                "quality": quality,
                "long_side": long_side,
                "space": colours.value,
                "folder": None if as_zip else str(out.resolve()),
                "form": form,
                "names": names,
                "rating": rating,
                "sharpen": sharpen,
                "gallery": gallery,
                "logo": key,
                "logo_name": name,
                "logo_size": logo_size,
                "logo_place": logo_place,
            },
        )
        job_id = deliver.queue_delivery(library, target.id, options)
    run(library, job_id)
    job = jobs.job(library.db, job_id)
    if as_zip and job is not None:
        with said():
            out.parent.mkdir(parents=True, exist_ok=True)
            deliver.write_zip(library, job, out)
        typer.echo(str(out))
