"""The Bench's pictures come from the same path as deliveries, and are ready again when asked twice."""

import io
from concurrent.futures import ThreadPoolExecutor

import cv2
import numpy as np
import pytest
from PIL import Image

from lenskeep.core.colour.oklab import to_oklab
from lenskeep.core.engine.planes import PROXY_SIDE
from lenskeep.core.plan import make_plan
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.files.reading.photo import read_photo
from lenskeep.store import frames
from lenskeep.studio import bring_in
from lenskeep.studio.bench.stage import DRAFT_SIDE, KEY_SIDE, WITNESS_SIDE, Stage
from lenskeep.studio.tasks.deliver import finished_pixels
from lenskeep.studio.tasks.frame_files import files_of
from tools.made_up import look_recipe, ready_shoot, write_photo

LOOK = Recipe.model_validate(
    {
        "name": "All parts",
        "steps": [
            {
                "id": "a",
                "region": {"parts": [{"kind": "subject"}], "feather": 0.01},
                "adjustments": [{"kind": "exposure", "ev": 0.7}, {"kind": "medium_detail", "detail": 60}],
            },
            {
                "id": "b",
                "region": {"parts": [{"kind": "background"}, {"kind": "ramp", "combine": "only within"}]},
                "adjustments": [{"kind": "haze", "haze": 30}, {"kind": "saturation", "saturation": -40}],
            },
            {
                "id": "c",
                "region": {"parts": [{"kind": "pool", "anchor": "subject"}]},
                "adjustments": [{"kind": "shadows", "shadows": 30}, {"kind": "highlights", "highlights": -30}],
            },
            {"id": "d", "adjustments": [{"kind": "vignette", "ev": -0.6, "centre": "subject"}]},
        ],
    }
)


def prepared(photo, computed, facts):
    return files_of(computed, "x", facts, {}).ready(photo.reduced(PROXY_SIDE))


def linear(jpeg):
    return np.asarray(Image.open(io.BytesIO(jpeg)).convert("RGB"))


@pytest.fixture
def large(library, tmp_path):
    """One frame of 2400 × 1600 with masks."""
    shoot = ready_shoot(library, tmp_path / "card", 1, 1600, 2400)
    return frames.frames(library.db, shoot)[0]


def test_key_frame_witness_and_delivery_are_one_picture_at_three_sizes(library, large):
    stage = Stage(library)
    photo = read_photo(library.original(large.sha256, large.suffix))
    computed = library.computed(large.sha256)
    full = finished_pixels(photo, prepared(photo, computed, large.facts), make_plan(LOOK), None)
    assert full.shape == (1600, 2400, 3)
    for side in (KEY_SIDE, WITNESS_SIDE):
        seen = linear(stage.picture(large.id, LOOK, side))
        assert max(seen.shape) == side
        size = (WITNESS_SIDE, round(WITNESS_SIDE * 2 / 3))
        small = [cv2.resize(p, size, interpolation=cv2.INTER_AREA).astype(np.float32) / 255 for p in (full, seen)]
        distance = np.linalg.norm(to_oklab(small[0] ** 2.2) - to_oklab(small[1] ** 2.2), axis=-1)
        assert distance.mean() < 0.01, side


def test_a_smaller_delivery_is_the_full_one_scaled(library, large):
    photo = read_photo(library.original(large.sha256, large.suffix))
    computed = library.computed(large.sha256)
    full, half = (
        finished_pixels(photo, prepared(photo, computed, large.facts), make_plan(LOOK), side).astype(np.float32)
        for side in (None, 1200)
    )
    assert half.shape == (800, 1200, 3)
    scaled = cv2.resize(full, (1200, 800), interpolation=cv2.INTER_AREA)
    assert np.abs(scaled - half).mean() < 1.5


def test_many_at_once_see_the_same_pictures(library, tmp_path):
    shoot = ready_shoot(library, tmp_path / "card", 3)
    ids = [f.id for f in frames.frames(library.db, shoot)] * 4
    stage = Stage(library)
    alone = {i: stage.picture(i, LOOK, WITNESS_SIDE) for i in set(ids)}
    with ThreadPoolExecutor(4) as pool:
        together = list(pool.map(lambda i: Stage(library).picture(i, LOOK, WITNESS_SIDE), ids))
        shared = list(pool.map(lambda i: stage.picture(i, LOOK, WITNESS_SIDE), ids))
    assert all(alone[i] == a == b for i, a, b in zip(ids, together, shared, strict=True))


def test_what_is_not_ready_says_so(library, tmp_path):
    shoot = bring_in.create_shoot(library, "A")
    photo = write_photo(tmp_path / "a.jpg")
    [frame_id] = bring_in.receive(library, shoot, photo, "a.jpg").frame_ids
    for missing, words in ((frame_id, "not ready yet"), (999, "no longer in the library")):
        with pytest.raises(UserProblem, match=words):
            Stage(library).picture(missing, look_recipe(), WITNESS_SIDE)


def test_pull_is_measured_before_and_after(library, tmp_path):
    shoot = ready_shoot(library, tmp_path / "card", 1)
    frame = frames.frames(library.db, shoot)[0]
    before, after = Stage(library).pulls(frame.id, look_recipe(ev=1.0))
    assert after.brightness > before.brightness + 5
    with pytest.raises(KeyError, match="no such step"):
        Stage(library).contours(frame.id, look_recipe(), WITNESS_SIDE, "no such step")


def test_a_draft_is_the_same_picture_with_less_detail(library, large):
    stage = Stage(library)
    draft, final = (linear(stage.picture(large.id, LOOK, KEY_SIDE, draft=d)).astype(float) for d in (True, False))
    small = cv2.resize(final, draft.shape[1::-1], interpolation=cv2.INTER_AREA)
    assert max(draft.shape) == DRAFT_SIDE and np.abs(draft - small).mean() < 2.0
    assert np.array_equal(linear(stage.picture(large.id, LOOK, KEY_SIDE)).astype(float), final)
