"""A shoot whose server is killed on its way, from files to ZIP, leaves as one whose server was not."""

import http.client
import time

import pytest

from lenskeep.store import jobs
from tests.work.stopped import frozen
from tools.running.kill_table import Table
from tools.running.killed import Shoot, look_through, photographs, run_through
from tools.running.server import Server
from tools.running.visitor import Visitor

pytestmark = pytest.mark.slow  # whole shoots, killed and worked through again


@pytest.fixture(scope="module")
def without_a_kill(tmp_path_factory):
    folder = tmp_path_factory.mktemp("without")
    photos = photographs(folder / "card", 2)
    return photos, run_through(Shoot(folder / "home", photos))


@pytest.mark.parametrize("moment", ["bringing in", "handing over"])
def test_a_shoot_killed_on_its_way_leaves_as_one_that_was_not(without_a_kill, tmp_path, moment):
    photos, expected = without_a_kill
    shoot, table = Shoot(tmp_path / "home", photos), Table()
    with Server(shoot.library.home) as server:
        visitor = Visitor(server.address)
        shoot.id = visitor.post("/shoots", name="Two dogs")["id"]
        if moment == "bringing in":
            visitor.bring(shoot.id, next(photos.glob("*.jpg")))
            data = next(photos.glob("*.zip")).read_bytes()
            connection = http.client.HTTPConnection("127.0.0.1", server.port)
            connection.connect()
            connection.sock.sendall(b"POST /nowhere HTTP/1.1\r\nhost: 127.0.0.1\r\n\r\n" + data[:100])
            with shoot.library.scratch() as folder:  # what is on its way when the power goes
                left = folder / "half.zip"
                left.write_bytes(data[:1000])
                server.kill()
                connection.close()
                (shoot.library.home / "incoming" / "dead").mkdir()
                (shoot.library.home / "incoming" / "dead" / "half.zip").write_bytes(data[:1000])
        else:
            while shoot.stage() != "handing over":
                shoot.start(visitor, shoot.stage())
                time.sleep(0.05)
            shoot.start(visitor, shoot.stage())
            job = jobs.jobs(shoot.library.db, shoot.id)[0]
            frozen(server, shoot.library, job.id, lambda job: job.done >= 2)
            server.kill()
    look_through(shoot, "after the kill", table)
    assert run_through(shoot) == expected
    look_through(shoot, "at the end", table)
    assert table.faults == [] and not list((shoot.library.home / "incoming").iterdir())
