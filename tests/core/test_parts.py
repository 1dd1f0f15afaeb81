"""What each kind of part does that a photographer counts on."""

import numpy as np
import pytest

from lenskeep.core.colour.oklab import to_oklab
from lenskeep.core.facts import Piece
from tests.core.parts import PARTS, PIECE, STROKE, at, found, region


def grid(h=80, w=120):
    y, x = np.mgrid[:h, :w] + 0.5
    return x / w, y / h


def test_a_band_is_full_along_its_line_and_fades_on_each_side_on_its_own():
    alpha = region({"kind": "band", "y": 0.5, "full": 0.1, "fade_a": 0.1, "fade_b": 0.3}).alpha(found(200, 120))
    column = alpha[:, 60]
    assert column[80:120].min() == 1 and column[:60].max() == 0 and column[181:].max() == 0
    assert column[70] == pytest.approx(0.5, abs=0.05) and column[150] == pytest.approx(0.5, abs=0.05)
    assert np.ptp(alpha, axis=1).max() < 1e-6


def test_a_turned_band_stands_across_in_pixels_not_in_shares():
    alpha = region({"kind": "band", "angle": 45, "full": 0.02, "fade_a": 0.02, "fade_b": 0.02}).alpha(found(200, 400))
    y, x = np.nonzero(alpha > 0.9)
    slope = np.polyfit(x, y, 1)[0]
    assert slope == pytest.approx(1.0, abs=0.06)


def test_a_tone_range_takes_the_untouched_pictures_own_lightness():
    f = found()
    lightness = 100 * to_oklab(f.picture)[..., 0]
    alpha = region({"kind": "tone_range", "low": 66, "high": 76, "soft_low": 3, "soft_high": 3}).alpha(f)
    calm = np.abs(np.gradient(lightness)[1]) < 1.5
    assert alpha[calm & (lightness > 68) & (lightness < 74)].min() > 0.95
    assert alpha[calm & ((lightness < 61) | (lightness > 81))].max() < 0.05


def test_a_colour_match_follows_its_samples_and_takes_shade_for_the_same_colour():
    f = found()
    lab = to_oklab(f.picture)
    one = [float(v) for v in lab[70, 5]]
    narrow = region({"kind": "colour_match", "samples": [one], "tolerance": 2, "softness": 1}).alpha(f)
    assert narrow[70, 5] == 1 and narrow[70, 110] == 0
    both = region(
        {"kind": "colour_match", "samples": [one, [float(v) for v in lab[70, 110]]], "tolerance": 2, "softness": 1}
    ).alpha(f)
    assert both[70, 5] == 1 and both[70, 110] == 1 and both.sum() > narrow.sum()
    wide = region({"kind": "colour_match", "samples": [one], "tolerance": 20, "softness": 1}).alpha(f)
    assert (wide >= narrow - 1e-6).all() and wide.sum() > 2 * narrow.sum()
    assert region({"kind": "colour_match"}).alpha(f).max() == 0


def test_edges_lie_on_the_subjects_outline_and_not_on_smooth_ground():
    f = found(200, 300)
    alpha = region({"kind": "edges", "threshold": 10, "width": 0.004}).alpha(f)
    x, y = grid(200, 300)
    reach = np.hypot((x - 0.5) * 300, (y - 0.6) * 200) / 200
    assert alpha[np.abs(reach - 0.2) < 0.004].mean() > 0.8
    assert alpha[np.abs(reach - 0.2) > 0.04].max() < 0.05


def test_an_image_is_stretched_to_the_frame_and_one_that_is_gone_is_nothing():
    alpha = region(PARTS["image"]).alpha(found())
    assert alpha[:, 0].max() < 0.03 and alpha[:, -1].min() > 0.97
    assert (np.diff(alpha.mean(0)) >= -1e-3).all()
    assert region({"kind": "image", "picture": "a" * 64}).alpha(found()).max() == 0
    with pytest.raises(ValueError, match="picture"):
        region({"kind": "image", "picture": "iVBORw0KGgo="})


def test_strokes_add_and_erase_and_keep_to_opacity():
    f = found()
    line = {"points": [[0.2, 0.5], [0.8, 0.5]], "size": 0.1, "hardness": 0.9, "flow": 1.0}
    alpha = region({"kind": "brush", "strokes": [line]}).alpha(f)
    assert alpha[40, 60] > 0.99 and alpha[10, 60] == 0 and alpha[40, 115] == 0
    half = region({"kind": "brush", "strokes": [{**line, "opacity": 0.5}]}).alpha(f)
    assert half.max() == pytest.approx(0.5, abs=0.01)
    gone = region({"kind": "brush", "strokes": [line, {**line, "erase": True, "points": [[0.5, 0.5]]}]}).alpha(f)
    assert gone[40, 60] < 0.05 and gone[40, 30] > 0.9
    faint = region({"kind": "brush", "strokes": [{**line, "flow": 0.05}]}).alpha(f)
    assert 0.1 < faint[40, 60] < 0.9


def test_an_edge_aware_stroke_stops_where_the_colour_changes():
    f = found(160, 240)
    f.picture[:] = 0.1
    f.picture[:, 120:] = np.array([0.7, 0.3, 0.1], np.float32)
    stroke = {"points": [[0.4, 0.3], [0.4, 0.7]], "size": 0.4, "hardness": 0.9, "flow": 1.0}
    plain = region({"kind": "brush", "strokes": [stroke]}).alpha(f)
    careful = region({"kind": "brush", "strokes": [{**stroke, "edge_aware": True}]}).alpha(f)
    assert plain[80, 130] > 0.9 and careful[80, 130] < 0.05 and careful[80, 110] > 0.9


def test_a_brush_follows_the_subject_and_a_repair_stays_on_its_frame():
    part = {"kind": "brush", "anchor": "subject", "strokes": [{**STROKE, "points": [[0.5, 0.5]], "size": 0.4}]}
    for box in (at(0.1, 0.1, 0.4, 0.5), at(0.5, 0.4, 0.9, 0.9)):
        alpha = region(part).alpha(found(subject_box=box))
        x, y = grid()
        middle = (alpha * x).sum() / alpha.sum(), (alpha * y).sum() / alpha.sum()
        assert middle == pytest.approx(box.middle, abs=0.01)
    assert region({**part, "only_on": "made-up"}).alpha(found()).max() > 0.4
    assert region({**part, "only_on": "another"}).alpha(found()).max() == 0


def test_a_smoothed_stroke_loses_its_tremor_and_keeps_its_ends():
    wobble = [[0.1 + 0.02 * i, 0.5 + 0.03 * (-1) ** i] for i in range(40)]
    stroke = {**STROKE, "points": wobble, "size": 0.03, "flow": 1.0}
    rough = region({"kind": "brush", "steadiness": 0, "strokes": [stroke]}).alpha(found(400, 600))
    calm = region({"kind": "brush", "steadiness": 1, "strokes": [stroke]}).alpha(found(400, 600))
    spread = [float(np.std(np.nonzero(a > 0.5)[0])) for a in (rough, calm)]
    assert spread[1] < 0.75 * spread[0]
    for point in (wobble[0], wobble[-1]):
        assert calm[int(point[1] * 400), int(point[0] * 600)] > 0.5


def test_a_picked_object_is_the_one_under_the_click_and_elsewhere_the_most_alike():
    f = found()
    here = region(PARTS["picked"]).alpha(f)
    np.testing.assert_allclose(here, f.subject, atol=1e-6)
    sky = {"frame": "made-up", "x": 0.5, "y": 0.1, "piece": {**PIECE, "label": 2, "kind": "sky"}}
    assert region({"kind": "picked", "picks": [sky]}).alpha(f)[5, 60] > 0.95
    other = found()
    other.key = "another frame"
    pieces = [
        Piece(label=1, kind="animal", box=at(0.35, 0.38, 0.65, 0.82), area=0.1, colour=(0.15, 0.0, 0.0)),
        Piece(label=2, kind="animal", box=at(0, 0, 1, 0.4), area=0.4, colour=(0.6, 0.06, 0.1)),
    ]
    other.facts = other.facts.model_copy(update={"pieces": pieces})
    alike = region(PARTS["picked"]).alpha(other)
    assert alike[5, 60] < 0.2  # the second animal has no share in the subject's soft outline there
    other.facts = other.facts.model_copy(update={"pieces": []})
    np.testing.assert_allclose(region(PARTS["picked"]).alpha(other), other.subject)


def test_a_click_takes_away_what_another_added():
    add = PARTS["picked"]["picks"][0]
    both = {"kind": "picked", "picks": [add, {**add, "away": True}]}
    assert region(both).alpha(found()).max() < 0.26  # half of it left where its outline is soft


def test_the_largest_of_two_objects_leaves_the_other():
    f = found()
    f.pieces[:, 60:][f.pieces[:, 60:] == 1] = 4
    f.pieces[:40][f.pieces[:40] == 1] = 4
    pieces = [
        Piece(label=1, kind="animal", box=at(0.35, 0.5, 0.5, 0.82), area=0.03, colour=(0.5, 0, 0)),
        Piece(label=4, kind="person", box=at(0.35, 0.38, 0.65, 0.82), area=0.07, colour=(0.5, 0, 0)),
    ]
    f.facts = f.facts.model_copy(update={"pieces": pieces})
    alpha = region({"kind": "subject", "which": "largest"}).alpha(f)
    assert alpha[50, 70] > 0.9 and alpha[60, 50] < 0.1
    assert (alpha <= f.subject + 1e-6).all()


def test_ticked_covers_add_up_and_none_is_lost_when_one_is_there():
    f = found()
    greenery = region({"kind": "covers"}).alpha(f)
    np.testing.assert_allclose(greenery, f.mask("greenery"))
    water = region({"kind": "covers", "greenery": False, "water": True})
    assert water.lost(f) == ["water"] and not water.holds(f)
    both = region({"kind": "covers", "greenery": True, "water": True, "buildings": True})
    assert both.lost(f) == [] and both.sentence() == "greenery and water and buildings"
