"""Hand-overs into one folder, in whatever order they are asked for, stopped and gone on with: what lies there at the
end is one of them, whole, as its list says, and made equal once more.
"""

import os
import random

import pytest

from lenskeep.core.problems import UserProblem
from lenskeep.files.written import sum_of
from lenskeep.store import jobs, recipes
from lenskeep.studio import looks
from lenskeep.studio.hand_over import deliver, proof
from lenskeep.studio.queue import make_runner
from lenskeep.studio.resuming import resume
from tests.work.queues import until
from tools.made_up import look_recipe, ready_shoot

ORDERS = int(os.environ.get("ORDERS", "8"))


def one_look(folder):
    """Whether every file that the list names is as it says; returns the strengths of the looks in it."""
    listed = proof.read_list(folder / proof.LIST)
    assert all(sum_of(folder / f.file) == f.sha256 for f in listed.files)
    return listed, {f.look[0].strength for f in listed.files}


@pytest.mark.parametrize("seed", range(ORDERS))
def test_two_or_three_never_mix(library, tmp_path, seed):
    chance = random.Random(seed)
    shoot, out = ready_shoot(library, tmp_path / "card", 5), tmp_path / "out"
    version = recipes.save_recipe(library.db, look_recipe())
    looks.give_look(library, shoot, version.id, 1.0)
    runner = make_runner(library, chance.choice([0, 2]))
    running = chance.random() < 0.6
    if running:
        runner.start()
    asked = []
    try:
        for strength in chance.sample([0.2, 0.6, 1.0, 1.4], chance.randint(2, 3)):
            looks.give_look(library, shoot, version.id, strength)
            asked.append((deliver.queue_delivery(library, shoot, deliver.DeliveryOptions(folder=str(out))), strength))
            runner.wake()
            if chance.random() < 0.4:
                jobs.cancel(library.db, chance.choice(asked)[0])
            until(lambda: True)
        if not running:
            runner.start()
        until(lambda: not any(j.active for j in jobs.jobs(library.db)), 60)
        for job_id, _ in chance.sample(asked, len(asked)):  # an earlier one is not gone on with over a later one
            job = jobs.job(library.db, job_id)
            if job.state == "cancelled" and job_id != asked[-1][0]:
                with pytest.raises(UserProblem, match="later hand-over"):
                    resume(library, job)
            elif job.state == "cancelled":
                resume(library, job)
        runner.wake()
        until(lambda: not any(j.active for j in jobs.jobs(library.db)), 60)
    finally:
        runner.stop()
    listed, strengths = one_look(out)
    assert strengths == {asked[-1][1]} and len(listed.files) == 5
    assert all(one.equal for one in proof.remake(library, listed))


def test_the_later_one_says_what_it_waits_for(library, tmp_path):
    shoot, out = ready_shoot(library, tmp_path / "card", 3), tmp_path / "out"
    looks.give_look(library, shoot, recipes.save_recipe(library.db, look_recipe()).id, 1.0)
    make_runner(library, 0).run_until_idle()
    first, second = (deliver.queue_delivery(library, shoot, deliver.DeliveryOptions(folder=str(out))) for _ in range(2))
    seen = []
    real = deliver.Delivering.record

    def record(self, job, item, result):
        seen.append((job.id, jobs.job(library.db, second).message))
        real(self, job, item, result)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(deliver.Delivering, "record", record)
        make_runner(library, 0).run_until_idle()
    assert [job for job, _ in seen] == [first] * 3 + [second] * 3
    assert any("earlier hand-over" in words for _, words in seen[:3])
    assert jobs.job(library.db, second).message.startswith("3 of 3")
