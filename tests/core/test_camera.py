"""A camera's curve found from frames of one place at known exposures; nothing is believed that is not shown."""

import cv2
import numpy as np
import pytest
from PIL import ExifTags, Image

from lenskeep.core.base.curve import USUAL, Curve, bent, unbent
from lenskeep.core.even.camera import Exposed, estimated
from lenskeep.files.reading.exif import exposure_stops
from lenskeep.files.reading.photo import read_photo
from tools.known import known_frames

TRUE = Curve(power=1.75, half=0.05)


@pytest.fixture(scope="module")
def light():
    """The light of a demo's frame as far as its middle tones go, small."""
    known = next(k for k in known_frames() if k.facts["scene"] == "pier")
    return unbent(np.clip(read_photo(known.path).reduced(420), 0.0, 0.8), TRUE)


def drawn(light, stops, curve=TRUE):
    """As the camera draws it, a little moved and with grain, so that no two frames are the same."""
    grain = np.random.default_rng(round(stops * 100) + 500).normal(0, 0.002, light.shape)
    moved = np.roll(light, (round(stops * 3), 2), (0, 1))
    return Exposed(np.clip(bent(moved * 2.0**stops, curve) + grain, 0, 1).astype(np.float32), stops)


def test_the_curve_is_found_from_exposures_that_are_known(light):
    found = estimated([drawn(light, s) for s in (0.0, -0.6, 0.5, -1.2)])
    assert found is not None and abs(found.power - TRUE.power) < 0.2
    tones = np.geomspace(0.01, 0.8, 60).astype(np.float32)
    stop = np.log2(unbent(bent(unbent(tones, TRUE) / 2, TRUE), found) / unbent(tones, found))
    assert np.abs(stop + 1.0).max() < 0.12, "a stop of the camera is a stop under the curve that was found"


def test_a_usual_camera_needs_no_other_curve(light):
    assert estimated([drawn(light, s, USUAL) for s in (0.0, -0.6, 0.5, -1.2)]) is None


def test_without_places_shown_twice_or_other_exposures_nothing_is_believed(light):
    other = cv2.flip(np.random.default_rng(2).uniform(0, 0.5, light.shape).astype(np.float32), 1)
    assert estimated([]) is None
    assert estimated([drawn(light, s) for s in (0.0, 0.1, -0.1)]) is None, "exposures are all alike"
    assert estimated([Exposed(other, 0.0), drawn(light, -1.0), Exposed(other[::-1].copy(), 1.0)]) is None


def test_exposures_that_are_wrong_are_not_followed(light):
    frames = [drawn(light, s) for s in (0.0, -0.6, 0.5, -1.2)]
    lying = [Exposed(f.picture, -2.2 * f.stops) for f in frames]
    assert estimated(lying) is None


def exif(**values):
    out = Image.Exif()
    inner = out.get_ifd(ExifTags.IFD.Exif.value)
    for name, value in values.items():
        inner[ExifTags.Base[name].value] = value
    return out


@pytest.mark.parametrize(
    ("values", "stops"),
    [
        ({"ExposureTime": 1 / 100, "FNumber": 1.0, "ISOSpeedRatings": 100}, -6.6439),
        ({"ExposureTime": 0.5, "FNumber": 2.0, "ISOSpeedRatings": 400}, -1.0),
        ({"ExposureTime": 0.5, "FNumber": 2.0, "ISOSpeedRatings": (400, 400)}, -1.0),
        ({"ExposureTime": 0.5, "FNumber": 2.0}, None),
        ({"ExposureTime": 0.0, "FNumber": 2.0, "ISOSpeedRatings": 100}, None),
        ({"ExposureTime": "fast", "FNumber": 2.0, "ISOSpeedRatings": 100}, None),
        ({}, None),
    ],
)
def test_exposures_are_read_in_stops_where_they_are_whole(values, stops):
    found = exposure_stops(exif(**values))
    assert found is None if stops is None else found == pytest.approx(stops, abs=1e-3)
