"""Every adjustment with values that can be seen, for tests that go through all of them."""

from typing import Any

import numpy as np

from lenskeep.core.adjust import KINDS
from lenskeep.files.assets import asset_key, packed_picture
from lenskeep.files.cube import Cube
from tools.made_up import ASSETS


def warm_table(size: int = 5) -> np.ndarray:
    """A 3-D table that warms: red^0.8, blue^1.3."""
    steps = np.linspace(0, 1, size)
    red, green, blue = np.meshgrid(steps, steps, steps, indexing="ij")
    return np.stack([red**0.8, green, blue**1.3], -1).astype(np.float32)


def half_clear_picture() -> str:
    pixels = np.zeros((20, 30, 4), np.uint8)
    pixels[..., 0], pixels[..., 3] = 220, np.linspace(0, 255, 30, dtype=np.uint8)
    return kept(packed_picture(pixels))


def kept(data: bytes) -> str:
    """The key of an asset that made-up frames know."""
    ASSETS[asset_key(data)] = data
    return asset_key(data)


def table_fields(entries: np.ndarray, name: str = "warm.cube") -> dict[str, Any]:
    fields, data = Cube("", entries, np.zeros(3), np.ones(3)).fields(name)
    kept(data)
    return fields


STRONG: dict[str, dict[str, Any]] = {
    "exposure": {"ev": 0.7},
    "balance": {"balance": 100, "to": "a frame it is held to", "held_ev": -0.5, "held_mired": 40},
    "contrast": {"contrast": 40},
    "highlights": {"highlights": -60},
    "shadows": {"shadows": 60},
    "white_point": {"white": -60},
    "black_point": {"black": 60},
    "curve": {"points": [[0, 0.05], [0.4, 0.3], [1, 1]]},
    "zone_contrast": {"shadows": 40, "middle": 40, "highlights": -40},
    "warmth": {"mired": 25},
    "tint": {"duv": 8},
    "saturation": {"saturation": -40},
    "muted_colours": {"muted": 60},
    "hue_turn": {"degrees": 25},
    "colour_bands": {"green_turn": -50, "blue_chroma": 60, "orange_lightness": 40, "red_chroma": -60},
    "channel_mix": {"red_from_green": 30},
    "split_toning": {"shadows": 40, "highlights": 40},
    "colour_wash": {"wash": 40},
    "monochrome": {"grey": 100},
    "colour_table": {"share": 80, **table_fields(warm_table())},
    "fringes": {"purple": 100, "green": 100, "edge": 0.5},
    "fine_detail": {"detail": 80},
    "medium_detail": {"detail": 60},
    "broad_detail": {"detail": 60},
    "haze": {"haze": 30},
    "sharpen": {"sharpen": 120, "radius": 40, "edges": 0},
    "denoise": {"lightness": 60, "colour": 80},
    "soften": {"soften": 60, "radius": 1.2},
    "glow": {"glow": 50},
    "vignette": {"ev": -0.8},
    "fill": {"cover": 50, "style": "gradient"},
    "surface": {"surface": 60},
    "grain": {"grain": 60},
    "overlay": {"cover": 60, "picture": half_clear_picture()},
    "painterly": {"painterly": 80},
    "posterise": {"posterise": 70},
    "text_mark": {"opacity": 90, "text": "Lens Keep", "size": 8},
}
assert STRONG.keys() == KINDS.keys()


def strong(kind: str) -> dict[str, Any]:
    return {"kind": kind, **STRONG[kind]}
