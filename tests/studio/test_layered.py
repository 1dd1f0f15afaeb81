"""OpenRaster: every step a layer with its mask; laid over each other by anybody, they are the finished picture."""

import io
import xml.etree.ElementTree as ET
import zipfile

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from lenskeep.core.clean.models import Healed
from lenskeep.core.recipes.models import Recipe
from lenskeep.files.writing.openraster import Finished, openraster_bytes
from lenskeep.store import frames, recipes
from lenskeep.studio import cleaning, looks, many
from lenskeep.studio.hand_over import deliver, proof
from lenskeep.studio.hand_over.options import DeliveryOptions
from tests.effort import examples
from tests.studio.doing import asked, run
from tools.made_up import ready_shoot

IN = {kind: {"parts": [{"kind": kind}]} for kind in ("subject", "background", "sky")}
SIX = [
    {"id": "a", "name": "Lift", "region": IN["subject"], "adjustments": [{"kind": "exposure", "ev": 1.4}]},
    {"id": "b", "name": "Quieter", "region": IN["background"], "adjustments": [{"kind": "exposure", "ev": -1.1}]},
    {"id": "c", "name": "Sky", "region": IN["sky"], "strength": 0.6, "adjustments": [{"kind": "warmth", "mired": -40}]},
    {"id": "d", "name": "Paper", "blend": "multiply", "strength": 0.5, "adjustments": [{"kind": "fill", "cover": 60}]},
    {"id": "e", "name": "Colour", "adjustments": [{"kind": "saturation", "saturation": 60}]},
    {"id": "f", "name": "Edges", "adjustments": [{"kind": "vignette", "ev": -1.5}]},
]


def flattened(data):
    """(names from the bottom, the layers laid over each other, the merged image) by nothing but the file."""
    with zipfile.ZipFile(io.BytesIO(data)) as held:
        first = held.infolist()[0]
        assert (first.filename, first.compress_type, held.read("mimetype")) == ("mimetype", 0, b"image/openraster")
        root = ET.fromstring(held.read("stack.xml"))
        assert root.tag == "image" and {"w", "h", "version"} <= set(root.attrib)
        layers = root.find("stack").findall("layer")
        out, names = None, []
        for layer in reversed(layers):
            assert layer.get("composite-op") == "svg:src-over" and float(layer.get("opacity")) == 1.0
            picture = Image.open(io.BytesIO(held.read(layer.get("src")))).convert("RGBA")
            assert picture.size == (int(root.get("w")), int(root.get("h")))
            rgba = np.asarray(picture, np.float64)
            share = rgba[..., 3:] / 255
            out = rgba[..., :3] * share + (0 if out is None else out) * (1 - share)
            names.append(layer.get("name"))
        merged = np.asarray(Image.open(io.BytesIO(held.read("mergedimage.png"))).convert("RGB"), np.float64)
        assert max(Image.open(io.BytesIO(held.read("Thumbnails/thumbnail.png"))).size) <= 256
    return names, out, merged


@pytest.fixture
def layered(library, tmp_path):
    shoot = ready_shoot(library, tmp_path / "card", 1)
    looks.give_look(
        library, shoot, recipes.save_recipe(library.db, Recipe.model_validate({"name": "Six", "steps": SIX})).id, 1.0
    )
    run(library)
    return shoot


def handed(library, shoot, out, **options):
    deliver.queue_delivery(library, shoot, DeliveryOptions(folder=str(out), **options))
    run(library)
    return out


@pytest.mark.parametrize("long_side", [None, 220])
def test_the_layers_laid_over_each_other_are_what_leaves_as_a_picture(library, layered, tmp_path, long_side):
    frame = frames.frames(library.db, layered)[0]
    cleaning.mark(library, frame.id, [Healed(points=((0.2, 0.3),), size=0.1)])
    many.do(library, layered, [frame.id], asked(what="base", values={"ev": 0.4}))
    out = handed(library, layered, tmp_path / "out", form="openraster", long_side=long_side)
    names, flat, merged = flattened((out / "IMG_000.ora").read_bytes())
    assert names == [
        "As it came",
        "Clean-up",
        "Base",
        "Lift",
        "Quieter",
        "Sky",
        "Paper (multiply, as it looks)",
        "Colour",
        "Edges",
    ]
    assert np.abs(flat - merged).max() <= 2
    plain = handed(library, layered, tmp_path / "plain", form="png", long_side=long_side)
    png = np.asarray(Image.open(plain / "IMG_000.png").convert("RGB"), np.float64)
    assert np.abs(flat - png).max() <= 3 if long_side else np.array_equal(merged, png)
    assert all(r.equal for r in proof.remake(library, proof.read_list(out / proof.LIST)))


def test_a_step_is_masked_by_its_region(library, layered, tmp_path):
    out = handed(library, layered, tmp_path / "out", form="openraster")
    with zipfile.ZipFile(out / "IMG_000.ora") as held:
        alpha = np.asarray(Image.open(io.BytesIO(held.read("data/layer01.png"))))[..., 3]
    h, w = alpha.shape
    assert alpha[int(0.6 * h), w // 2] > 240 and alpha[: h // 4].max() < 40


@settings(max_examples=examples(30))
@given(st.integers(0, 2**31), st.integers(1, 8))
def test_whatever_the_layers_are_rounding_does_not_add_up(seed, count):
    rng = np.random.default_rng(seed)
    layers = [
        Finished(
            f"layer {n} <&>",
            rng.integers(0, 256, (9, 13, 3), np.uint8),
            rng.integers(0, 256, (9, 13), np.uint8) if n else None,
        )
        for n in range(count)
    ]
    data = openraster_bytes(layers)
    names, flat, merged = flattened(data)
    assert np.array_equal(merged, layers[-1].pixels) and np.abs(flat - merged).max() <= 1.01
    assert names == [layer.name for layer in layers] and data == openraster_bytes(layers)


def test_a_picture_without_layers_is_none():
    with pytest.raises(ValueError, match="at least one layer"):
        openraster_bytes([])
