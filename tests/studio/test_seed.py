"""The demo: three made-up shoots at different stages, seeded once."""

from lenskeep.demo.seed import DUNES, FERRY, SHOOTS, STUDIO, seed
from lenskeep.store import frames, jobs, scenes, shoots
from lenskeep.studio import applying
from lenskeep.studio import find as finding
from lenskeep.studio.looks import look_of_shoot


def shoot_of(library, one):
    return shoots.shoot_by_name(library.db, one.title)


def rows_of(library, one):
    return frames.frames(library.db, shoot_of(library, one).id)


def test_seeding_brings_in_three_shoots_once(library):
    said = []
    assert seed(library, said.append) and not seed(library, said.append)
    assert [shoot.name for shoot in shoots.shoots(library.db)] == [one.title for one in SHOOTS]
    counts = [len(rows_of(library, one)) for one in SHOOTS]
    assert sum(counts) >= 48 and said == [f"{sum(counts)} made-up photographs brought in"]
    for one in SHOOTS:
        rows = rows_of(library, one)
        assert all(f.taken_at for f in rows) and [f.taken_at for f in rows] == sorted(f.taken_at for f in rows)
        assert {f.height > f.width for f in rows} == {True, False}, "lying and upright frames"
        key = next(f for f in rows if f.id == scenes.first_scene(library.db, shoot_of(library, one).id).key_frame_id)
        assert key.file_name == f"{one.key}.jpg"


def test_the_first_shoot_gets_its_look_when_its_masks_are_found(library):
    seed(library, lambda _: None)
    ferry = shoot_of(library, FERRY)
    find, apply = sorted((j for j in jobs.jobs(library.db, ferry.id)), key=lambda j: j.id)
    count = len(rows_of(library, FERRY))
    assert (find.kind, apply.kind, find.total, apply.total) == (finding.KIND, applying.KIND, count, count)
    assert [j.id for j in jobs.start_queued(library.db)][:1] == [find.id]
    recipe = look_of_shoot(library, ferry.id).version.recipe
    parts = {p.kind for step in recipe.steps for p in recipe.region_of(step).parts}
    assert {"subject", "sky", "ramp", "pool"} <= parts
    uses = [step.shared.invert for step in recipe.steps if step.shared]
    assert sorted(uses) == [False, False, True], "one region shared by three steps, inverted in one"


def test_the_second_shoot_is_half_done_and_the_third_untouched(library):
    seed(library, lambda _: None)
    dunes, rows = shoot_of(library, DUNES), rows_of(library, DUNES)
    apply = next(j for j in jobs.jobs(library.db, dunes.id) if j.kind == applying.KIND)
    assert 0 < apply.total < len(rows)
    assert {f.file_name[:-4] for f in rows if f.accepted} == set(DUNES.accepted)
    changed = {f.file_name[:-4]: f.override.strength for f in rows if not f.override.is_neutral}
    assert changed == DUNES.weaker
    studio = shoot_of(library, STUDIO)
    assert look_of_shoot(library, studio.id) is None
    assert [j.kind for j in jobs.jobs(library.db, studio.id)] == [finding.KIND]
