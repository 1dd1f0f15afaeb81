"""Parts and frames that the region tests share."""

import numpy as np

from lenskeep.core.facts import Box, Facts
from lenskeep.core.regions import Found, Region
from lenskeep.files.assets import in_memory, packed_grey
from tests.core.adjustments import kept
from tools.made_up import ASSETS, facts_for

GREY = kept(packed_grey((np.mgrid[:40, :60][1] * 255 / 59).astype(np.uint8)))
STROKE = {"points": [[0.2, 0.3], [0.5, 0.35], [0.8, 0.3]], "size": 0.2, "hardness": 0.5, "flow": 0.5}
PIECE = {
    "label": 1,
    "kind": "animal",
    "box": {"x0": 0.35, "y0": 0.38, "x1": 0.65, "y1": 0.82},
    "area": 0.1,
    "colour": [0.6, 0.06, 0.1],
}
PARTS = {
    "subject": {"kind": "subject", "which": "animals"},
    "background": {"kind": "background"},
    "sky": {"kind": "sky", "invert": True},
    "covers": {"kind": "covers", "greenery": True, "water": True},
    "skin": {"kind": "skin"},
    "face": {"kind": "face"},
    "picked": {"kind": "picked", "picks": [{"frame": "made-up", "x": 0.5, "y": 0.6, "piece": PIECE}]},
    "ramp": {"kind": "ramp", "anchor": "skyline", "y1": -0.1, "y2": 0.3},
    "band": {"kind": "band", "angle": 20.0, "fade_a": 0.1},
    "pool": {"kind": "pool", "anchor": "subject", "rx": 0.8, "angle": 30.0},
    "brush": {"kind": "brush", "strokes": [STROKE, {**STROKE, "erase": True, "points": [[0.5, 0.35]]}]},
    "image": {"kind": "image", "name": "mask.png", "picture": GREY},
    "tone_range": {"kind": "tone_range", "low": 55, "high": 75},
    "colour_match": {"kind": "colour_match", "samples": [[0.7, 0.02, 0.03]], "tolerance": 12, "softness": 8},
    "edges": {"kind": "edges", "threshold": 4, "width": 0.01},
}
"""One part of every kind, none of them with nothing in it."""


def region(*parts: dict, **more: object) -> Region:
    return Region.model_validate({"parts": list(parts), **more})


def found(h: int = 80, w: int = 120, **changes: object) -> Found:
    """A frame at any size: a disc as subject (an animal with a face and skin), sky above, greenery below it."""
    y, x = (np.mgrid[:h, :w] + 0.5).astype(np.float32)
    edge = 0.02 * h
    disc = np.clip((0.2 * h - np.hypot(x - 0.5 * w, y - 0.6 * h)) / edge + 0.5, 0, 1)
    sky = np.clip((0.4 * h - y) / edge + 0.5, 0, 1)
    picture = np.stack([0.1 + 0.8 * x / w, 0.3 + 0.2 * y / h, np.full((h, w), 0.3)], -1)
    picture[disc > 0.5] *= 0.4
    masks = {"subject": disc, "animals": disc, "sky": sky, "greenery": (1 - disc) * (1 - sky)}
    masks |= {"skin": 0.6 * disc, "face": 0.8 * disc}
    masks = {name: np.asarray(m, np.float32) for name, m in masks.items()}
    pieces = np.where(disc > 0.5, 1, np.where(sky > 0.5, 2, 3)).astype(np.uint8)
    areas = {"animals": 0.1, "greenery": 0.45, "skin": 0.08, "face": 0.08}
    facts: Facts = facts_for(h, w, **{"areas": areas, **changes})
    return Found(picture.astype(np.float32), masks, facts, pieces, "made-up", assets=in_memory(ASSETS))


def at(x0: float, y0: float, x1: float, y1: float) -> Box:
    return Box(x0=x0, y0=y0, x1=x1, y1=y1)


def _step(number: int, words: str, *parts: dict, ev: float = 0.3, **more: object) -> dict:
    joined = [{**p, **({"combine": "only within"} if i and "combine" not in p else {})} for i, p in enumerate(parts)]
    return {
        "id": f"s{number}",
        "name": words,
        "region": {"parts": joined},
        "adjustments": [{"kind": "exposure", "ev": ev}],
        **more,
    }


def _away(part: dict) -> dict:
    return {**part, "combine": "take away"}


EVERY_PART = {
    "name": "Every part",
    "regions": {
        "far": {
            "name": "Far behind",
            "region": {"parts": [PARTS["background"], {**PARTS["ramp"], "combine": "only within"}]},
        }
    },
    "steps": [
        _step(1, "Lift", PARTS["subject"], _away(PARTS["brush"])),
        _step(2, "Calm", PARTS["background"], PARTS["band"], ev=-0.3),
        _step(3, "Sky", {"kind": "sky"}, _away(PARTS["edges"]), ev=-0.2),
        _step(4, "Grass", PARTS["covers"], PARTS["tone_range"]),
        _step(5, "Skin", PARTS["skin"], {**PARTS["face"], "combine": "add"}, fallback="use the frame", ev=0.05),
        _step(6, "Pick", PARTS["picked"], {**PARTS["colour_match"], "combine": "add"}, ev=0.1),
        _step(7, "Pool", PARTS["pool"], PARTS["image"], ev=0.2),
        {"id": "s8", "name": "Haze", "shared": {"region": "far"}, "adjustments": [{"kind": "haze", "haze": 20}]},
    ],
}
"""A recipe of eight steps in which every kind of part has its work."""
