"""Writes ``recipes-1.json`` and ``kept.json``; run once, on the last version whose recipes have format 1."""

import json
from typing import get_args

from lenskeep.core.recipes.models import BlendMode, FrameOverride, Recipe
from lenskeep.files.recipes import recipe_from_json
from lenskeep.studio.book.starters import starters
from lenskeep.studio.looks import Wanting
from tests.core.adjustments import STRONG, strong
from tests.core.parts import EVERY_PART
from tests.core.renders import cases
from tools.made_up import look_recipe

LIFT = {"id": "lift", "name": "Lift", "adjustments": [{"kind": "exposure", "ev": 0.3}, {"kind": "haze", "haze": -20}]}


def _recipe(name: str, *steps: dict) -> dict:
    return {"name": name, "steps": [LIFT, *steps]}


def all_recipes() -> dict[str, dict]:
    out = {"look": look_recipe().model_dump(mode="json"), "every part": EVERY_PART}
    for kind in STRONG:
        region = {"parts": [{"kind": "background"}], "feather": 0.02}
        step = {"id": "s1", "name": kind, "region": region, "adjustments": [strong(kind)], "strength": 0.8}
        out[f"kind {kind}"] = _recipe(kind, step)
    for mode in get_args(BlendMode):
        parts = [{"kind": "subject"}, {"kind": "sky", "combine": "add"}]
        step = {"id": "s1", "name": mode, "region": {"parts": parts}, "adjustments": [strong("warmth")], "blend": mode}
        out[f"blend {mode}"] = _recipe(mode, step)
    return {n: Recipe.model_validate(r).model_dump(mode="json") for n, r in out.items()} | {
        s.name: s.model_dump(mode="json") for s in starters()
    }


def main() -> None:
    cases.RECIPES.write_text(json.dumps(all_recipes(), separators=(",", ":")), "utf-8")
    out = {}
    for case in cases.cases():
        recipe = recipe_from_json(json.dumps(case.recipe), case.name)
        override = FrameOverride.model_validate(case.override or {})
        key = Wanting(recipe, case.strength).key(cases.CONTENT, override)
        out[case.name] = {"key": key, **cases.summary(cases.rendered(case))}
    kept = {"probe": cases.probe(), "cases": out}
    cases.KEPT.write_text(json.dumps(kept, separators=(",", ":")), "utf-8")
    print(len(out), "cases")


if __name__ == "__main__":
    main()
