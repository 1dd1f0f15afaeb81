"""Described frames as bytes, light told from under a camera's curve, and how a frame stands off in words."""

import numpy as np
import pytest

from lenskeep.core.base.curve import USUAL, bent, unbent
from lenskeep.core.even.described import described
from lenskeep.core.even.judged import judged
from lenskeep.core.even.packed import packed, unpacked
from lenskeep.core.even.words import off_words
from lenskeep.files.reading.photo import read_photo
from tools.known import known_frames


@pytest.fixture(scope="module")
def pair():
    """Two frames of one scene, small."""
    found = [k for k in known_frames() if k.facts["scene"] == "pier"][:2]
    return [np.ascontiguousarray(read_photo(k.path).reduced(400)) for k in found]


def test_a_described_frame_comes_back_and_says_the_same(pair):
    looked = [described(p, {}) for p in pair]
    again = [unpacked(packed(one)) for one in looked]
    assert len(packed(looked[0])) < 1_300_000
    assert (
        again[0].quantiles.keys() == looked[0].quantiles.keys() and again[0].spectra.keys() == looked[0].spectra.keys()
    )
    assert np.array_equal(again[0].burnt, looked[0].burnt) and np.array_equal(again[0].dark, looked[0].dark)
    was, now = judged(looked)[1], judged(again)[1]
    assert now.ev == pytest.approx(was.ev, abs=0.02) and now.mired == pytest.approx(was.mired, abs=1.0)
    assert now.sure == was.sure


@pytest.mark.parametrize("data", [b"", b"PK\x03\x04 nonsense", b"x" * 400])
def test_what_is_no_description_is_refused(data):
    with pytest.raises(ValueError, match=r"described|[Pp]ickle|zip|magic"):
        unpacked(data)


def test_a_stop_of_the_camera_is_told_as_a_stop(pair):
    """A file that a curve was laid over does not change by a stop where the camera's exposure did."""
    light = unbent(np.clip(pair[0], 0, 0.85))
    frames = [np.asarray(bent(light * 2.0**ev), np.float32) for ev in (0.0, -1.0)]
    under = judged([described(f, {}, curve=USUAL) for f in frames])[1]
    on_file = judged([described(f, {}) for f in frames])[1]
    assert under.ev == pytest.approx(1.0, abs=0.06)
    assert abs(on_file.ev - 1.0) > abs(under.ev - 1.0)


@pytest.mark.parametrize(
    ("off", "words"),
    [
        ((0.0, 0.0, 0.0), "even"),
        ((0.1, 7.0, -3.0), "even"),
        ((-1.0, 0.0, 0.0), "a stop under"),
        ((0.35, 0, 0), "a third of a stop over"),
        ((2.3, 0, 0), "2 stops and a third over"),
        ((-0.7, 12, 0), "two thirds of a stop under, warmer"),
        ((0, -30, -5), "much bluer, greener"),
        ((0.15, 0, 13), "a third of a stop over, much more magenta"),
    ],
)
def test_how_a_frame_stands_in_words(off, words):
    assert off_words(*off) == words
