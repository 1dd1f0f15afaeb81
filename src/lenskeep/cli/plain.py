"""Commands that work on plain files, without a library."""

import io
import json
from pathlib import Path
from typing import Annotated

import typer

from lenskeep.cli.shared import app, said
from lenskeep.cli.stacks import stacked
from lenskeep.core.percent import from_percent
from lenskeep.core.plan import plan_of
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.group_changes import LIMITS
from lenskeep.core.render import Cut
from lenskeep.core.tabled import colour_table
from lenskeep.files.assets import in_memory
from lenskeep.files.cube import write_cube
from lenskeep.files.recipes import file_schema, read_recipe
from lenskeep.files.writing import FORMS
from lenskeep.files.writing.jpeg import JPEG
from lenskeep.files.written import write_beside
from lenskeep.studio import plain_files as single
from lenskeep.studio.sheets import Column, cells
from lenskeep.studio.sheets import line_up as sheet_of


@app.command()
def detect(
    photos: Annotated[list[Path], typer.Argument(help="Photographs.")],
    out: Annotated[Path, typer.Option(help="Folder for the masks.")],
    explain: Annotated[bool, typer.Option(help="Say who was found or refused, by which witnesses.")] = False,
) -> None:
    """Write every mask as NAME.KIND.png and boxes, kinds, trust and reasons as NAME.json for plain files, without a
    library.
    """
    bad = 0
    with said():
        names = single.check_targets(photos, out)
    for path, name in names.items():
        try:
            facts, who = single.detect_file(path, out, name)
        except UserProblem as problem:
            typer.secho(str(problem), err=True, fg="yellow")
            bad += 1
            continue
        doubts = f" – {' '.join(facts.reasons)}" if facts.reasons else ""
        trusts = {"subject": facts.subject, "sky": facts.sky, **facts.others}
        told = ", ".join(f"{kind} {finding.trust:.2f}" for kind, finding in trusts.items())
        typer.echo(f"{path.name}: {told}{doubts}")
        for line in who if explain else ():
            typer.echo(f"  {line}")
    if bad:
        raise typer.Exit(1)


@app.command()
def render(
    photos: Annotated[list[Path], typer.Argument(help="Photographs.")],
    out: Annotated[Path, typer.Option(help="Folder for the finished files.")],
    recipe: Annotated[
        list[str] | None,
        typer.Option(help="A recipe file or a ready recipe, maybe FILE@150%; several stand upon another, in order."),
    ] = None,
    effect: Annotated[str | None, typer.Option(help="An effect's file, or a ready effect, above them.")] = None,
    where: Annotated[str, typer.Option(help=f"Where it works: whole, {', '.join(LIMITS)}, or “not …”.")] = "whole",
    quality: Annotated[int, typer.Option(min=40, max=100, help="Of a JPEG.")] = 92,
    strength: Annotated[float, typer.Option(min=0, max=200, help="In per cent.")] = 100.0,
    form: Annotated[str, typer.Option(help=f"One of {', '.join(FORMS)}.")] = JPEG.name,
    cut: Annotated[str | None, typer.Option(help="X,Y,W,H in full pixels: this part alone, as it would leave.")] = None,
) -> None:
    """Render plain files with a recipe, without a library. Nothing that is there already is replaced."""
    with said():
        stack = stacked(recipe or [], effect, where, from_percent(strength))
        if form not in FORMS:
            raise UserProblem(f"There is no form “{form}”. Choose one of {', '.join(FORMS)}.")
        kind, part = FORMS[form], None if cut is None else _cut(cut)
        plan, assets = plan_of(stack.layers), in_memory(stack.assets)
        names = single.check_targets(photos, out)
        for path, name in names.items():
            single.check_not_itself(path, out / f"{name}{kind.suffix}")
    bad = 0
    for path, name in names.items():
        try:
            target = single.render_file(path, plan, assets, out / f"{name}{kind.suffix}", kind, quality, part)
        except UserProblem as problem:
            typer.secho(str(problem), err=True, fg="yellow")
            bad += 1
            continue
        typer.echo(str(target) if target.stem == path.stem else f"{target}, since {path.stem}{kind.suffix} was taken")
    if bad:
        raise typer.Exit(1)


def _cut(text: str) -> Cut:
    """X,Y,W,H. Raises UserProblem."""
    numbers = text.split(",")
    if len(numbers) != 4 or not all(n.strip().isdecimal() for n in numbers):
        raise UserProblem(f"A cut is four whole numbers, X,Y,W,H, not “{text}”.")
    x, y, width, height = (int(n) for n in numbers)
    if width < 1 or height < 1:
        raise UserProblem("A cut is at least one pixel wide and high.")
    return Cut(x, y, width, height)


@app.command("line-up")
def line_up(
    photos: Annotated[list[Path], typer.Argument(help="Photographs, down.")],
    recipe: Annotated[list[str], typer.Option(help="A recipe file or a ready recipe, maybe at a strength: across.")],
    out: Annotated[Path, typer.Option(help="The sheet to write, ending in .png.")],
) -> None:
    """Photographs with recipes beside each other, on one sheet. Nothing that is there already is replaced."""
    with said():
        if out.suffix.lower() != ".png":
            raise UserProblem("The sheet is a PNG. Let its name end in .png.")
        stacks = [stacked([name]) for name in recipe]
        columns = [Column(s.title, plan_of(s.layers), in_memory(s.assets)) for s in stacks]
    rows, bad = [], 0
    for path in photos:
        try:
            rows.append((path.name, cells(path, columns)))
        except UserProblem as problem:
            typer.secho(str(problem), err=True, fg="yellow")
            bad += 1
    if not rows:
        raise typer.Exit(1)
    data = io.BytesIO()
    sheet_of(rows, ["As it came", *(c.title for c in columns)]).save(data, "PNG")
    with said():
        typer.echo(str(write_beside(out, data.getvalue())))
    if bad:
        raise typer.Exit(1)


@app.command()
def table(
    recipe: Annotated[Path, typer.Option(help="A recipe file of per-pixel adjustments on the whole frame.")],
    out: Annotated[Path, typer.Option(help="The .cube file to write.")],
    size: Annotated[int, typer.Option(min=2, max=129, help="Steps a side.")] = 33,
) -> None:
    """Write a recipe as a .cube colour table. Nothing that is there already is replaced."""
    with said():
        chosen = read_recipe(recipe)
        cube = colour_table(chosen.recipe, size, in_memory(chosen.assets))
        target = write_beside(out, write_cube(cube, chosen.recipe.name).encode())
    typer.echo(str(target))


@app.command()
def schema() -> None:
    """Print the JSON Schema of a recipe file."""
    typer.echo(json.dumps(file_schema(), indent=2, ensure_ascii=False))
