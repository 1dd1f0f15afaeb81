"""A logo over every picture that leaves: where and how large, offered again, kept while it is meant, proven."""

import json

import numpy as np
import pytest
from PIL import Image

from lenskeep.core.problems import UserProblem
from lenskeep.store import assets, frames, jobs
from lenskeep.store import ways as kept_ways
from lenskeep.studio.hand_over import deliver, logos, proof, ways
from lenskeep.studio.hand_over.options import DeliveryOptions
from tests.studio.doing import handed, pictures, run
from tools.made_up import ready_shoot

RED = (255, 0, 0)


@pytest.fixture
def shoot(library, tmp_path):
    return ready_shoot(library, tmp_path / "card", 5)


@pytest.fixture
def logo(tmp_path):
    """A red sign, twice as wide as high, with nothing around it."""
    image = Image.new("RGBA", (400, 200), (0, 0, 0, 0))
    image.paste((*RED, 255), (0, 0, 400, 200))
    path = tmp_path / "our sign.png"
    image.save(path)
    return path


def red_box(path):
    """Where a picture is red, as x0, y0, x1, y1 in 0…1, and its width over its height."""
    picture = np.asarray(Image.open(path).convert("RGB"), int)
    where = (picture[..., 0] > 200) & (picture[..., 1:].max(-1) < 90)
    y, x = np.nonzero(where)
    h, w = where.shape
    return (x.min() / w, y.min() / h, (x.max() + 1) / w, (y.max() + 1) / h), w / h


@pytest.mark.parametrize(
    ("place", "corner"), [("bottom left", (0, 1)), ("top right", (1, 0)), ("bottom right", (1, 1))]
)
def test_it_stands_in_its_corner_at_its_height(library, shoot, tmp_path, logo, place, corner):
    key, name = logos.take(library, logo, logo.name)
    out = handed(library, shoot, tmp_path / "out", logo=key, logo_name=name, logo_place=place, logo_size=10)
    for file in pictures(out):
        (x0, y0, x1, y1), aspect = red_box(out / file)
        long = max(aspect, 1.0)
        assert y1 - y0 == pytest.approx(0.1 * long, abs=0.012)
        assert (x1 - x0) * aspect == pytest.approx(0.2 * long, abs=0.02), "its proportions are kept"
        gap_x, gap_y = (1 - x1, x0)[corner[0] == 0] * aspect, (1 - y1, y0)[corner[1] == 0]
        assert gap_x == pytest.approx(0.025 * long, abs=0.01) and gap_y == pytest.approx(0.025 * long, abs=0.01)


def test_a_logo_wider_than_the_frame_is_made_smaller_not_cut(library, shoot, tmp_path):
    path = tmp_path / "wide.png"
    Image.new("RGB", (1200, 100), RED).save(path)
    key, name = logos.take(library, path, path.name)
    out = handed(
        library,
        shoot,
        tmp_path / "out",
        logo=key,
        logo_name=name,
        logo_size=30,
        frames=[frames.frames(library.db, shoot)[0].id],
    )
    (x0, _, x1, _), _ = red_box(out / pictures(out)[0])
    assert x0 > 0.01 and x1 < 0.99 and x1 - x0 > 0.9


def test_a_text_and_a_logo_leave_together(library, shoot, tmp_path, logo):
    key, name = logos.take(library, logo, logo.name)
    one = [frames.frames(library.db, shoot)[0].id]
    plain = handed(library, shoot, tmp_path / "plain", frames=one, form="png")
    both = handed(library, shoot, tmp_path / "both", frames=one, form="png", mark="Anna", logo=key, logo_name=name)
    a, b = (np.asarray(Image.open(f / pictures(f)[0]).convert("RGB"), int) for f in (plain, both))
    moved = np.abs(a - b).max(-1) > 12
    h, w = moved.shape
    assert moved[h // 2 :, : w // 2].any() and moved[h // 2 :, w // 2 :].any() and not moved[: h // 2].any()


def test_it_is_offered_again_and_stays_for_as_long_as_a_way_or_a_hand_over_means_it(library, shoot, tmp_path, logo):
    key, name = logos.take(library, logo, logo.name)
    assert logos.known(library) == {} and key in assets.unused(library.db, "9999"), "nothing means it yet"
    ways.keep(library, "web", DeliveryOptions(logo=key, logo_name=name))
    assert logos.known(library) == {key: "our sign.png"} and key not in assets.unused(library.db, "9999")
    job = ways.queue(library, shoot, ["web"], DeliveryOptions(folder=str(tmp_path / "ways")))[0]
    run(library)
    assert red_box(next((tmp_path / "ways" / "web").glob("*.jpg")))
    kept_ways.forget(library.db, "web")
    assert logos.known(library) == {key: "our sign.png"}, "the hand-over holds it"
    with library.db.writing() as write:
        write.execute("DELETE FROM jobs WHERE id = ?", (job,))
    assert logos.known(library) == {} and key in assets.unused(library.db, "9999")


def test_brought_in_once_more_it_is_young_again(library, logo):
    key, _ = logos.take(library, logo, logo.name)
    with library.db.writing() as write:
        write.execute("UPDATE assets SET brought_in_at = '2020'")
    assert key in assets.unused(library.db, "2021")
    logos.take(library, logo, logo.name)
    assert key not in assets.unused(library.db, "2021"), "a sweep between choosing and queueing would take it away"


def test_what_is_no_picture_is_refused_with_what_to_do(library, tmp_path):
    path = tmp_path / "sign.png"
    path.write_bytes(b"no picture at all")
    with pytest.raises(UserProblem, match="Save it as PNG or JPEG"):
        logos.take(library, path, path.name)


def test_a_lost_logo_is_said_and_no_file_leaves_without_it(library, shoot, tmp_path, logo):
    key, name = logos.take(library, logo, logo.name)
    assets.asset_path(library.db, key).unlink()
    job = deliver.queue_delivery(
        library, shoot, DeliveryOptions(folder=str(tmp_path / "out"), logo=key, logo_name=name)
    )
    run(library)
    reasons = {words for _, words in jobs.failures(library.db, job)}
    assert reasons == {"The logo “our sign.png” is not in the library any more. Choose it again."}
    assert not pictures(tmp_path / "out")


def test_the_proof_makes_it_again_with_its_logo(library, tmp_path, logo):
    shoot_id = ready_shoot(library, tmp_path / "card", 2)
    key, name = logos.take(library, logo, logo.name)
    out = handed(library, shoot_id, tmp_path / "out", logo=key, logo_name=name)
    listed = json.loads((out / proof.LIST).read_text())
    assert listed["options"]["logo"] == key
    listed_again = proof.read_list(out / proof.LIST)
    assert [r.why for r in proof.remake(library, listed_again)] == ["", ""]
    without = listed_again.model_copy(update={"options": listed_again.options.model_copy(update={"logo": ""})})
    assert not any(r.equal for r in proof.remake(library, without)), "the logo is part of what is proven"
