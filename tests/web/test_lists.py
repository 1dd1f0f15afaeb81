"""Lists that come back are taken in on the hand-over's page, and what is wrong with one is said there."""

from urllib.parse import unquote

from lenskeep.store import frames
from lenskeep.studio import many
from lenskeep.studio.hand_over import deliver, proof
from lenskeep.studio.queue import make_runner


def sent(visitor, shoot, name, data):
    return visitor.post(f"/shoots/{shoot}/lists", files={"file": (name, data, "application/json")})


def test_the_list_of_a_hand_over_gives_frames_back_what_they_changed(visitor, shoot, tmp_path):
    library = visitor.library
    first = frames.summaries(library.db, shoot)[0]
    many.do(library, shoot, [first.id], many.SetBase(what="base", values={"ev": 0.5}))
    deliver.queue_delivery(library, shoot, deliver.DeliveryOptions(folder=str(tmp_path / "out")))
    assert make_runner(library, 0).run_until_idle()
    data = (tmp_path / "out" / proof.LIST).read_bytes()
    many.do(library, shoot, [first.id], many.AsTheyCame(what="came"))
    answer = sent(visitor, shoot, proof.LIST, data)
    assert answer.status_code == 303 and "changed as the list has it" in unquote(answer.headers["location"])
    assert frames.frame(library.db, first.id).override.base.ev == 0.5
    assert "changed as the list has it" in visitor.get(answer.headers["location"]).text


def test_what_is_no_list_is_said_and_changes_nothing(visitor, shoot):
    before = [f.touched for f in frames.summaries(visitor.library.db, shoot)]
    for name, data, words in (
        ("recipe.json", b'{"format": 2}', "recipe.json is neither"),
        ("photo.json", b"\xff\xd8\xff", "photo.json is neither"),
        ("half.json", b'{"format": "lenskeep-list/1", ', "is no JSON"),
        ("favourites.json", b'{"format": "lenskeep-favourites/1", "files": 3}', "no list of favourites"),
    ):
        answer = sent(visitor, shoot, name, data)
        assert answer.status_code == 422 and words in answer.text, answer.text[:200]
    assert visitor.post(f"/shoots/{shoot + 99}/lists", files={"file": ("a.json", b"{}")}).status_code == 404
    assert [f.touched for f in frames.summaries(visitor.library.db, shoot)] == before
