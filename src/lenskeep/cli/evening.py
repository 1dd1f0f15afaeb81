"""Commands that look at a shoot as a whole: its scenes, how even they are, and evening them out."""

import json
from typing import Annotated, Any

import typer

from lenskeep.cli.shared import ShootName, app, run, said, stop, the_library, the_shoot
from lenskeep.store import evenness
from lenskeep.studio import evening, proposing, scening
from lenskeep.studio.library import Library
from lenskeep.studio.proposing import Standing
from lenskeep.studio.scening import FoundScene

AsJson = Annotated[bool, typer.Option("--json", help="As JSON.")]


@app.command()
def scenes(shoot: ShootName, as_json: AsJson = False) -> None:
    """Tell the scenes and bursts of a shoot."""
    library = the_library()
    target = the_shoot(library, shoot)
    with said():
        found = scening.found_scenes(library, target.id)
    if as_json:
        typer.echo(json.dumps([_scene(scene) for scene in found], indent=2))
        return
    for one in found:
        if not one.frames:
            continue
        first, last = one.frames[0].file_name, one.frames[-1].file_name
        bursts = f", bursts of {', '.join(str(len(b)) for b in one.bursts)}" if one.bursts else ""
        typer.echo(f"{one.scene.name}: {len(one.frames)} frames, {first} to {last}{bursts}")


@app.command()
def even(
    shoot: ShootName,
    scene: Annotated[int | None, typer.Option(min=1, help="Number of a scene; by default all.")] = None,
    as_json: AsJson = False,
    again: Annotated[bool, typer.Option("--again", help="Measure anew what was measured already.")] = False,
    accept: Annotated[bool, typer.Option("--accept", help="Change the bases of frames where that is sure.")] = False,
) -> None:
    """Tell how each frame stands beside its scene's key frame, and what would bring it there; with --accept, do it."""
    library = the_library()
    target = the_shoot(library, shoot)
    with said():
        found = scening.found_scenes(library, target.id)
        if scene is not None and scene > len(found):
            raise stop(f"{target.name} has {len(found)} scenes.")
        chosen = found if scene is None else [found[scene - 1]]
        unknown = [one.scene.id for one in chosen if again or not evenness.needs(library.db, one.scene.id)]
        if unknown:
            _measured(library, target.id, unknown, as_json)
        chosen = [
            one for one in scening.found_scenes(library, target.id) if one.scene.id in {c.scene.id for c in chosen}
        ]
        told = [(one, proposing.standings(library, one.scene)) for one in chosen]
        jobs = [_accepted(library, one, standings) for one, standings in told] if accept else []
    if as_json:
        out = [_scene(one) | {"needs": [_need(s) for s in standings]} for one, standings in told]
        typer.echo(json.dumps(out, indent=2))
    else:
        for one, standings in told:
            typer.echo(f"{one.scene.name}:")
            for each in standings:
                typer.echo(f"  {each.frame.file_name:28} {_words(each, accept)}")
    for job in jobs:
        if job is not None:
            run(library, job, quiet=as_json)


def _measured(library: Library, shoot_id: int, scene_ids: list[int], quiet: bool) -> None:
    """Measure scenes and wait for it; the jobs follow one another."""
    run(library, evening.measure(library, shoot_id, scene_ids), quiet=quiet)
    while (job := evening.under_way(library, shoot_id)) is not None:
        run(library, job, quiet=quiet)


def _accepted(library: Library, one: FoundScene, standings: list[Standing]) -> int | None:
    bases = {s.frame.id: s.then for s in standings if s.ticked and s.then is not None}
    return proposing.accept(library, one.scene, bases) if bases else None


def _words(each: Standing, accept: bool) -> str:
    if each.then is None:
        return each.words
    done = "changed" if accept and each.ticked else "proposed" if each.ticked else "proposed, not ticked"
    why = f" ({'; '.join(each.reservations)})" if each.reservations else ""
    return f"{each.words}; {done}: {each.then.words()}{why}"


def _scene(one: FoundScene) -> dict[str, Any]:
    names = {f.id: f.file_name for f in one.frames}
    bursts = [[names[i] for i in burst] for burst in one.bursts]
    return {
        "name": one.scene.name,
        "key": one.key.file_name if one.key else None,
        "frames": list(names.values()),
        "bursts": bursts,
    }


def _need(each: Standing) -> dict[str, Any]:
    need, off = each.need, each.off

    def told(values: tuple[float, float, float]) -> dict[str, float]:
        return dict(zip(("ev", "mired", "duv"), (round(v, 3) for v in values), strict=True))

    return {
        "frame": each.frame.file_name,
        "held_to": each.is_key,
        "needs": None
        if need is None
        else {"ev": round(need.ev, 3), "mired": round(need.mired, 1), "duv": round(need.duv, 1)},
        "off": None if off is None else told(off),
        "words": each.words,
        "sure": each.sure,
        "ticked": each.ticked,
        "proposed": None if each.then is None else each.then.amounts(),
        "reservations": list(each.reservations),
    }
