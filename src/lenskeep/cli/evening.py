"""Commands that look at a shoot as a whole: its scenes, and how even they are."""

import json
from typing import Annotated, Any

import typer

from lenskeep.cli.shared import ShootName, app, said, stop, the_library, the_shoot
from lenskeep.studio import scening
from lenskeep.studio.scening import FoundScene, Needed

AsJson = Annotated[bool, typer.Option("--json", help="As JSON.")]


@app.command()
def scenes(shoot: ShootName, as_json: AsJson = False) -> None:
    """Tell the scenes and bursts of a shoot, as they are found from time and place."""
    library = the_library()
    target = the_shoot(library, shoot)
    with said():
        found = scening.found_scenes(library, target.id)
    if as_json:
        typer.echo(json.dumps([_scene(scene) for scene in found], indent=2))
        return
    for scene in found:
        first, last = scene.frames[0].file_name, scene.frames[-1].file_name
        bursts = f", bursts of {', '.join(str(len(b)) for b in scene.bursts)}" if scene.bursts else ""
        typer.echo(f"{scene.name}: {len(scene.frames)} frames, {first} to {last}{bursts}")


@app.command()
def even(
    shoot: ShootName,
    scene: Annotated[int | None, typer.Option(min=1, help="Number of a scene; by default all.")] = None,
    as_json: AsJson = False,
) -> None:
    """Tell what each frame needs to meet its scene's key frame, and how sure that is. Changes nothing."""
    library = the_library()
    target = the_shoot(library, shoot)
    with said():
        found = scening.found_scenes(library, target.id)
        if scene is not None and scene > len(found):
            raise stop(f"{target.name} has {len(found)} scenes.")
        chosen = found if scene is None else [found[scene - 1]]
        told = [(one, scening.evenness(library, one)) for one in chosen]
    if as_json:
        typer.echo(json.dumps([_scene(one) | {"needs": [_need(n) for n in needs]} for one, needs in told], indent=2))
        return
    for one, needs in told:
        typer.echo(f"{one.name}:")
        for each in needs:
            typer.echo(f"  {each.frame.file_name:28} {_words(each)}")


def _words(each: Needed) -> str:
    if each.is_key:
        return "the others are held to this one"
    j = each.judged
    if not j.moves:
        return "even" if j.sure else "even as far as can be told"
    sure = "sure" if j.sure else "not sure"
    return f"{j.ev:+.2f} EV, {j.mired:+.0f} mired, {j.duv:+.0f} mDuv ({sure})"


def _scene(scene: FoundScene) -> dict[str, Any]:
    names = {f.id: f.file_name for f in scene.frames}
    bursts = [[names[i] for i in burst] for burst in scene.bursts]
    return {
        "name": scene.name,
        "key": scene.key.file_name if scene.key else None,
        "frames": list(names.values()),
        "bursts": bursts,
    }


def _need(each: Needed) -> dict[str, Any]:
    j = each.judged
    left = dict(zip(("ev", "mired", "duv"), (round(v, 3) for v in j.left_over), strict=True))
    own = {"ev": round(j.ev, 3), "mired": round(j.mired, 1), "duv": round(j.duv, 1)}
    return {"frame": each.frame.file_name, "held_to": each.is_key, **own, "sure": j.sure, "left_over": left}
