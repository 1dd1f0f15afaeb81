"""The demo: two dozen made-up photographs with capture times and one recipe, seeded once."""

from lenskeep.core.detect.find import DETECTOR
from lenskeep.demo.seed import seed
from lenskeep.store import frames, jobs, recipes, shoots
from lenskeep.studio import looks


def test_seeding_queues_everything_once(library):
    said = []
    assert seed(library, said.append) and not seed(library, said.append)
    assert said == ["24 made-up photographs brought in"]
    [shoot] = shoots.shoots(library.db)
    rows = frames.frames(library.db, shoot.id, DETECTOR)
    assert len(rows) == 24 and all(f.taken_at for f in rows)
    assert [f.taken_at for f in rows] == sorted(f.taken_at for f in rows)
    assert {f.height > f.width for f in rows} == {True, False}, "lying and upright frames"
    assert sorted(j.kind for j in jobs.jobs(library.db)) == ["apply", "find"]
    look = recipes.look(library.db, shoot.id)
    recipe = look.version.recipe
    parts = {p.kind for step in recipe.steps for p in recipe.region_of(step).parts}
    assert {"subject", "sky", "ramp", "pool"} <= parts
    uses = [step.shared.invert for step in recipe.steps if step.shared]
    assert sorted(uses) == [False, False, True], "one region shared by three steps, inverted in one"


def test_the_look_waits_for_the_masks(library):
    seed(library, lambda _: None)
    find, apply = sorted(jobs.jobs(library.db), key=lambda j: j.id)
    assert (find.kind, apply.kind, find.total, apply.total) == ("find", looks.KIND, 24, 24)
    assert jobs.start_next(library.db).id == find.id
