"""Neon: what is raised beyond the frame's own colours and no darker for it, and nothing else."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.colour.oklab import from_oklab, to_oklab
from lenskeep.core.measure.guards import GUARDS, faults
from lenskeep.core.measure.neon import LEAST_REACH, _reach, neon
from tests.effort import examples

GREEN, RED = 2.4, 0.5


def patch(lightness, chroma, hue):
    lab = np.zeros((40, 60, 3), np.float32)
    lab[..., 0] = lightness
    lab[..., 1], lab[..., 2] = chroma * np.cos(hue), chroma * np.sin(hue)
    return lab


def meadow(chroma=0.11):
    """Grass of a spread of chroma, beside grey."""
    lab = patch(0.55, 1.0, GREEN)
    lab[..., 1:] *= np.linspace(0.0, chroma, 60, dtype=np.float32)[None, :, None]
    return lab


def more(lab, chroma=1.0, lightness=0.0):
    out = lab.copy()
    out[..., 1:] *= chroma
    out[..., 0] += lightness
    return out


@settings(max_examples=examples(20))
@given(st.integers(0, 99), st.floats(0.03, 0.3))
def test_what_a_hue_reaches_is_its_99th_percentile(seed, strength):
    rng = np.random.default_rng(seed)
    lab = patch(0.5, 1.0, GREEN)
    lab[..., 1:] *= strength * rng.random((40, 60, 1), np.float32) ** 2
    chroma = np.hypot(lab[..., 1], lab[..., 2])
    true = np.percentile(chroma[chroma > 0.02], 99) if (chroma > 0.02).any() else 0.0
    assert _reach(lab, chroma.astype(np.float32)).max() == pytest.approx(max(true, LEAST_REACH), abs=0.006)


def share(before, after):
    return float(neon(before, after).mean())


def test_grass_raised_far_beyond_itself_is_neon_and_more_of_it_is_more():
    some, much = share(meadow(), more(meadow(), 1.7)), share(meadow(), more(meadow(), 2.4))
    assert 0.02 < some < much


def test_grass_that_gets_darker_as_it_gets_richer_is_not():
    rich = more(meadow(), 1.7)
    rich[..., 0] -= 0.7 * (np.hypot(rich[..., 1], rich[..., 2]) - np.hypot(meadow()[..., 1], meadow()[..., 2]))
    assert share(meadow(), rich) == 0.0


def test_what_stays_within_the_frames_own_colours_is_not():
    lab = meadow(0.18)
    pale = more(lab, 0.5)
    assert share(lab, more(pale, 1.8)) == 0.0, "back to less than there was"
    assert share(lab, lab) == 0.0


def test_a_red_dress_excuses_no_grass_and_its_own_red_is_its_own():
    lab = meadow(0.10)
    lab[:20] = patch(0.5, 0.24, RED)[:20]
    after = lab.copy()
    after[20:, :, 1:] *= 2.0
    where = neon(lab, after)
    assert where[20:].mean() > 0.05 and where[:20].max() == 0.0


@settings(max_examples=examples(30))
@given(hue=st.floats(0, 6.28), chroma=st.floats(0, 0.05), tone=st.floats(0, LEAST_REACH - 0.01))
def test_toning_a_grey_picture_is_never_neon(hue, chroma, tone):
    assert share(patch(0.5, chroma, 1.0), patch(0.55, tone, hue)) == 0.0


@settings(max_examples=examples(30))
@given(ev=st.floats(-0.3, 0.3))
def test_light_alone_is_never_neon(ev):
    linear = from_oklab(meadow())
    assert share(meadow(), to_oklab(np.asarray(linear * 2.0**ev, np.float32))) < 0.002


def test_the_guard_says_how_much_and_where():
    before, after = from_oklab(meadow()), from_oklab(more(meadow(), 2.4))
    found = faults(before, after, np.zeros(before.shape[:2], np.float32), [])
    assert found.figures["neon"] > GUARDS["neon"].limit and found.maps["neon"].shape == (40, 60)
    none = faults(before, before, np.zeros(before.shape[:2], np.float32), [], ("neon",))
    assert none.figures == {"neon": pytest.approx(0.0)}
