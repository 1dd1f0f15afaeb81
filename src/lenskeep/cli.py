"""The command line: the whole job without a browser, along the same code path."""

import json
import os
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from enum import StrEnum
from pathlib import Path
from typing import Annotated

import typer

from lenskeep.core.percent import from_percent
from lenskeep.core.plan import make_plan
from lenskeep.core.problems import UserProblem
from lenskeep.core.tabled import colour_table
from lenskeep.files.assets import in_memory
from lenskeep.files.cube import write_cube
from lenskeep.files.recipes import file_schema, read_recipe
from lenskeep.files.written import write_beside
from lenskeep.store import jobs, recipes, shoots
from lenskeep.studio import bring_in, keeping, looks, sweep
from lenskeep.studio import find as finding
from lenskeep.studio import plain_files as single
from lenskeep.studio.book.take_in import take_in
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.library import Library, home_from_environment
from lenskeep.studio.queue import make_runner
from lenskeep.studio.tidy import room, room_words, tidy

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


def _stop(message: str) -> typer.Exit:
    typer.secho(message, err=True, fg="red")
    return typer.Exit(1)


@contextmanager
def _said() -> Iterator[None]:
    """Problems that people can mend are said, not traced."""
    try:
        yield
    except UserProblem as problem:
        raise _stop(str(problem)) from problem


def _library() -> Library:
    library = Library(home_from_environment())
    with _said():
        _ = library.db
    return library


def _shoot(library: Library, name: str) -> shoots.Shoot:
    found = shoots.shoot_by_name(library.db, name)
    if found is None and name.isdigit() and len(name) < 19:
        found = shoots.shoot(library.db, int(name))
    if found is None:
        known = ", ".join(s.name for s in shoots.shoots(library.db)) or "none yet"
        raise _stop(f'There is no shoot "{name}". Known: {known}.')
    return found


def _run(library: Library, job_id: int | None) -> None:
    """Run the queue here, or wait for the server that runs it; print progress; fail if the job failed."""
    if job_id is None:
        return
    runner = make_runner(library)
    thread = threading.Thread(target=runner.run_until_idle, daemon=True)
    thread.start()
    shown = ""
    try:
        while True:
            job = jobs.job(library.db, job_id)
            if job is None:
                raise _stop("The job is gone.")
            line = f"{job.done} of {job.total}" + (f", {job.failed} failed" if job.failed else "")
            line = f"{line}. {runner.trouble}" if runner.trouble else line
            if line != shown:
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
    typer.echo(job.message)
    if job.state != "done" or (job.total and job.failed == job.total):
        raise typer.Exit(1)


@app.command("import")
def import_(
    folder: Annotated[Path, typer.Argument(help="A folder, a ZIP or one photograph.")],
    name: Annotated[str | None, typer.Option(help="Name of the shoot; by default that of the folder.")] = None,
) -> None:
    """Bring in a shoot."""
    if not folder.exists():
        raise _stop(f"{folder} can't be found.")
    library = _library()
    with _said():
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
    library = _library()
    with _said():
        job_id = finding.queue_finding(library, _shoot(library, shoot).id)
    if job_id is None:
        typer.echo("Every frame has its masks already.")
    _run(library, job_id)


@app.command()
def apply(
    shoot: ShootName,
    recipe: Annotated[str, typer.Option(help="A recipe file, or the name of a recipe in the book.")],
    version: Annotated[int | None, typer.Option(help="Version; by default the newest.")] = None,
    strength: Annotated[float, typer.Option(min=0, max=200, help="In per cent.")] = 100.0,
) -> None:
    """Give a shoot a look and render every frame with its own masks."""
    library = _library()
    target = _shoot(library, shoot)
    with _said():
        if recipe.endswith(".json"):
            chosen = take_in(library, read_recipe(Path(recipe)))
        else:
            found = [v for v in recipes.versions(library.db) if v.name == recipe and version in (None, v.version)]
            if not found:
                raise _stop(f'There is no recipe "{recipe}" in the book, or not in this version.')
            chosen = found[0]
        typer.echo(f"{chosen.name}, version {chosen.version}, on {target.name}:")
        job_id = looks.give_look(library, target.id, chosen.id, from_percent(strength))
    _run(library, job_id)


@app.command()
def export(
    shoot: ShootName,
    out: Annotated[Path, typer.Option(help="A folder, or a file ending in .zip.")],
    quality: Annotated[int, typer.Option(min=40, max=100)] = 92,
    long_side: Annotated[int | None, typer.Option(min=200, max=20000, help="In pixels; by default full size.")] = None,
    colours: Annotated[Colours, typer.Option(help="Colours of the files.")] = Colours.srgb,
) -> None:
    """Hand over: finished JPEGs and a CSV of what was applied."""
    library = _library()
    target = _shoot(library, shoot)
    as_zip = out.suffix.lower() == ".zip"
    if as_zip and (out.exists() or library.holds(out)):
        raise _stop(f"{out} exists already, or is inside the library. Choose another name.")
    options = deliver.DeliveryOptions(
        quality=quality,
        long_side=long_side,
        space=colours.value,
        folder=None if as_zip else str(out.resolve()),
    )
    with _said():
        job_id = deliver.queue_delivery(library, target.id, options)
    _run(library, job_id)
    job = jobs.job(library.db, job_id)
    if as_zip and job is not None:
        with _said():
            out.parent.mkdir(parents=True, exist_ok=True)
            deliver.write_zip(library, job, out)
        typer.echo(str(out))


@app.command()
def detect(
    photos: Annotated[list[Path], typer.Argument(help="Photographs.")],
    out: Annotated[Path, typer.Option(help="Folder for the masks.")],
) -> None:
    """Write every mask as NAME.KIND.png and boxes, kinds, trust and reasons as NAME.json for plain files, without a
    library.
    """
    bad = 0
    with _said():
        names = single.check_targets(photos, out)
    for path, name in names.items():
        try:
            facts = single.detect_file(path, out, name)
        except UserProblem as problem:
            typer.secho(str(problem), err=True, fg="yellow")
            bad += 1
            continue
        doubts = f" – {' '.join(facts.reasons)}" if facts.reasons else ""
        trusts = {"subject": facts.subject, "sky": facts.sky, **facts.others}
        told = ", ".join(f"{kind} {finding.trust:.2f}" for kind, finding in trusts.items())
        typer.echo(f"{path.name}: {told}{doubts}")
    if bad:
        raise typer.Exit(1)


@app.command()
def render(
    photos: Annotated[list[Path], typer.Argument(help="Photographs.")],
    recipe: Annotated[Path, typer.Option(help="A recipe file.")],
    out: Annotated[Path, typer.Option(help="Folder for the finished JPEGs.")],
    quality: Annotated[int, typer.Option(min=40, max=100)] = 92,
    strength: Annotated[float, typer.Option(min=0, max=200, help="In per cent.")] = 100.0,
) -> None:
    """Render plain files with a recipe, without a library. Nothing that is there already is replaced."""
    with _said():
        file = read_recipe(recipe)
        plan, assets = make_plan(file.recipe, from_percent(strength)), in_memory(file.assets)
        names = single.check_targets(photos, out)
        for path, name in names.items():
            single.check_not_itself(path, out / f"{name}.jpg")
    bad = 0
    for path, name in names.items():
        try:
            target = single.render_file(path, plan, assets, out / f"{name}.jpg", quality)
        except UserProblem as problem:
            typer.secho(str(problem), err=True, fg="yellow")
            bad += 1
            continue
        typer.echo(str(target) if target.stem == path.stem else f"{target}, since {path.stem}.jpg was taken")
    if bad:
        raise typer.Exit(1)


@app.command()
def table(
    recipe: Annotated[Path, typer.Option(help="A recipe file of per-pixel adjustments on the whole frame.")],
    out: Annotated[Path, typer.Option(help="The .cube file to write.")],
    size: Annotated[int, typer.Option(min=2, max=129, help="Steps a side.")] = 33,
) -> None:
    """Write a recipe as a .cube colour table. Nothing that is there already is replaced."""
    with _said():
        chosen = read_recipe(recipe)
        cube = colour_table(chosen.recipe, size, in_memory(chosen.assets))
        target = write_beside(out, write_cube(cube, chosen.recipe.name).encode())
    typer.echo(str(target))


@app.command()
def schema() -> None:
    """Print the JSON Schema of a recipe file."""
    typer.echo(json.dumps(file_schema(), indent=2, ensure_ascii=False))


@app.command()
def backup(folder: Annotated[Path, typer.Argument(help="Best on another disk; only what is new is copied.")]) -> None:
    """Copy the database and the originals. Masks and finished pictures can be made again from those."""
    with _said():
        copied = keeping.backup(_library(), folder, typer.echo)
    typer.echo(f"The backup in {folder} is complete; {copied} originals were new.")


@app.command()
def restore(folder: Annotated[Path, typer.Argument(help="What 'lenskeep backup' has made.")]) -> None:
    """Bring a library back from a backup, where there is none. Masks and looks are made again at the next start."""
    library = Library(home_from_environment())
    with _said():
        count = keeping.restore(folder, library, typer.echo)
    typer.echo(f"{count} originals are back in {library.home}. 'lenskeep serve' finds masks and applies looks again.")


@app.command()
def verify() -> None:
    """Look through the library: database, originals by their sums, recipes, masks, hand-overs, leftovers."""
    library = _library()
    report = keeping.verify(library, typer.echo)
    for words in report.wrong:
        typer.secho(words, err=True, fg="yellow")
    left = f" {report.left_over} files are left over; they are swept at the next start." if report.left_over else ""
    typer.echo(f"{report.originals} originals and {report.frames} frames looked at.{left}")
    if report.wrong:
        raise _stop(f"{len(report.wrong)} things are wrong.")
    typer.echo("All is well.")


@app.command("tidy")
def tidy_(
    gigabytes: Annotated[
        float | None, typer.Option(help="Room for what can be made again; by default LENSKEEP_CACHE_GB.", min=0)
    ] = None,
) -> None:
    """Say what takes how much room, and bring masks and finished pictures under their budget."""
    library = _library()
    with _said(), make_runner(library).alone() as mine:
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
    library = _library()
    sweep.queue_sweep(library)
    _run(library, next(j.id for j in jobs.jobs(library.db) if j.kind == sweep.KIND))


@app.command()
def serve(
    port: Annotated[int | None, typer.Option(help="By default LENSKEEP_PORT, or 8431.")] = None,
    cluster: Annotated[
        str | None,
        typer.Option(help="Address of a Dask scheduler whose workers run the jobs, such as tcp://studio:8786."),
    ] = None,
) -> None:
    """Start the application on 127.0.0.1."""
    from lenskeep.web.serving import serve as run_server

    chosen = port or int(os.environ.get("LENSKEEP_PORT") or 8431)
    library = _library()
    typer.echo(f"Lens Keep is at http://127.0.0.1:{chosen} – the library is {library.home}. Ctrl+C stops it.")
    run_server(library, chosen, cluster)


@app.command()
def demo(
    only_seed: Annotated[bool, typer.Option("--only-seed", help="Make the demo library and stop.")] = False,
) -> None:
    """Make the demo library on first use and start the application, which works through what is queued."""
    from lenskeep.demo.seed import seed

    library = _library()
    if seed(library, typer.echo):
        typer.echo("Masks are being found and looks applied; the first shoot is ready in about a minute.")
    if only_seed:
        for job in reversed([j for j in jobs.jobs(library.db) if j.active]):
            _run(library, job.id)
    else:
        serve(None)


if __name__ == "__main__":
    app()
