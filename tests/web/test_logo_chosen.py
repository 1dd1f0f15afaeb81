"""A logo chosen on the hand-over's page: by its file, then by its name, and what is wrong with one is said there."""

import io

import pytest
from PIL import Image

from lenskeep.core.recipes.models import Recipe
from lenskeep.files.assets import picture_of
from lenskeep.store import assets, jobs
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.hand_over import deliver


def png(size=(80, 40)):
    out = io.BytesIO()
    Image.new("RGBA", size, (20, 30, 40, 255)).save(out, "PNG")
    return out.getvalue()


def newest(visitor, shoot):
    return next(j.options for j in jobs.jobs(visitor.library.db, shoot) if j.kind == deliver.KIND)


def handed(visitor, shoot, name="", data=b"", **fields):
    """As a browser sends the form: a file that was not chosen has no name."""
    files = {"logo_file": (name, data, "image/png" if name else "application/octet-stream")}
    return visitor.post(f"/shoots/{shoot}/hand-over", data={"csrf_token": "", **fields}, files=files)


def test_its_file_is_taken_once_and_offered_by_name_then(visitor, shoot):
    page = f"/shoots/{shoot}/hand-over"
    assert 'name="logo"' not in visitor.get(page).text, "none was ever used"
    assert handed(visitor, shoot, "sign.png", png(), logo_size=8, logo_place="middle").status_code == 303
    first = newest(visitor, shoot)
    assert (first["logo_name"], first["logo_size"], first["logo_place"]) == ("sign.png", 8, "middle")
    assert picture_of(assets.asset_bytes(visitor.library.db, first["logo"])).shape == (40, 80, 4)
    again = visitor.get(page).text
    assert f'<option value="{first["logo"]}">sign.png</option>' in again
    assert handed(visitor, shoot, logo=first["logo"]).status_code == 303
    assert newest(visitor, shoot)["logo"] == first["logo"]
    assert handed(visitor, shoot).status_code == 303 and newest(visitor, shoot)["logo"] == ""


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"logo": "0" * 64}, "not in the library any more"),
        ({"name": "sign.png", "data": b"GIF89a"}, "Save it as PNG or JPEG"),
        ({"logo": "../../etc"}, ""),
        ({"logo_size": 90}, ""),
    ],
)
def test_what_is_wrong_with_it_is_said_and_nothing_is_queued(visitor, shoot, fields, words):
    answer = handed(visitor, shoot, **fields)
    assert answer.status_code == 422 and words in answer.text, answer.text[:300]
    assert not [j for j in jobs.jobs(visitor.library.db, shoot) if j.kind == deliver.KIND]


def test_at_the_bench_a_logo_is_seen_as_soon_as_it_is_brought_in(visitor, shoot):
    mark = {"id": "m", "kind": "text_mark"}
    bench.load(
        visitor.library, shoot, Recipe.model_validate({"name": "L", "steps": [{"id": "s", "adjustments": [mark]}]})
    )
    for opacity in (100.0, 40.0):  # what was set by hand is kept with another file
        sent = {"step": "s", "of": "m", "kind": "picture"}
        answer = visitor.post(
            f"/scenes/{shoot}/bench/file", data=sent, files={"file": ("sign.png", png(), "image/png")}
        )
        assert answer.status_code == 200 and "sign.png" in answer.text
        recipe = bench.draft(visitor.library, shoot).recipe
        own = recipe.steps[0].adjustments[0]
        assert own.opacity == opacity and own.picture in recipe.assets() and not own.is_neutral()
        dimmed = own.model_copy(update={"opacity": 40.0})
        step = recipe.steps[0].model_copy(update={"adjustments": [dimmed]})
        bench.load(visitor.library, shoot, recipe.model_copy(update={"steps": [step]}))
