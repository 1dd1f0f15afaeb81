"""Kills by SIGKILL at random moments: of the whole server during a job with real photographs, and of the runner with
quick items. Photographs come in file by file or from a card, beside them other shoots come and go, so that sweeps run,
and now and then the library is copied and brought back. After each kill it is looked through; at the end the
hand-over's ZIP is held against one made without.

``python -m benchmarks kills [server kills] [runner kills] [seed]``
"""

import os
import random
import shutil
import sys
import tempfile
import threading
import time
from contextlib import suppress
from pathlib import Path

from benchmarks.runner_kills import runner_kills
from lenskeep.files.written import DRAFTS
from lenskeep.store import shoots
from lenskeep.studio import keeping
from lenskeep.studio.library import Library
from tools.running.kill_table import Table
from tools.running.killed import LONGEST_WAIT, Shoot, look_through, photographs, run_through
from tools.running.server import Server
from tools.running.visitor import Visitor

STAGES = ("bringing in", "finding", "applying", "handing over")
LONGEST = {"bringing in": 5.0, "finding": 5.0, "applying": 2.0, "handing over": 2.5}
"""Seconds of a stage within which the kill comes."""


def come_and_go(visitor: Visitor, photos: Path, chance: random.Random) -> None:
    """Another shoot with one of the same photographs and one of its own comes, and goes again: sweeps follow."""
    made = visitor.post("/shoots", name="Passing")["id"]
    for path in chance.sample(sorted(photos.glob("*.jpg")), 2):
        visitor.bring(made, path)
    visitor.post(f"/shoots/{made}/remove")


def bring_back(shoot: Shoot, when: str, table: Table) -> None:
    """The library as it is now, copied and brought back: everything that can be compared is the same."""
    with tempfile.TemporaryDirectory() as scratch:
        told = keeping.backup(Library(shoot.library.home), Path(scratch) / "copy").wrong
        again = Library(Path(scratch) / "again")
        told += keeping.restore(Path(scratch) / "copy", again).wrong
        for words in told:
            table.fault(when, f"copied and brought back: {words}")
        for name in ("shoots", "scenes", "layers", "recipe_versions", "findings", "deeds"):
            own, back = (sorted(map(repr, map(tuple, lib.db.reader.execute(f"SELECT * FROM {name}"))))
                         for lib in (Library(shoot.library.home), again))  # fmt: skip
            if own != back:
                table.fault(when, f"{name} came back otherwise")


def kill_once(shoot: Shoot, chance: random.Random, table: Table) -> None:
    """Start the server, ask for what is next, kill it at a random moment, and look at what is left."""
    stage = shoot.stage() or "nothing"
    server = Server(shoot.library.home)
    with server:
        moment = chance.uniform(0.0, LONGEST[stage])
        passing = chance if chance.random() < 0.35 else None
        asking = threading.Thread(target=_ask, args=(shoot, server.address, passing))
        asking.start()
        time.sleep(moment)
        server.kill()
        asking.join(30)
    table.kills[f"{stage} from a card" if shoot.card and stage == "bringing in" else stage] += 1
    if passing:
        table.kills["of these, while shoots come and go"] += 1
    if chance.random() < 0.1:
        bring_back(shoot, f"{stage}, copied after kill {table.kills[stage]}", table)
    look_through(shoot, f"{stage}, kill {table.kills[stage]}", table)


def _ask(shoot: Shoot, address: str, passing: random.Random | None) -> None:
    with suppress(Exception):  # the server is killed under its hands
        visitor = Visitor(address, 20.0)
        shoot.start(visitor, shoot.stage())
        if passing:
            come_and_go(visitor, shoot.photos, passing)


def at_the_end(shoot: Shoot, expected: dict[str, str], when: str, table: Table) -> None:
    """Without further kills the shoot is finished by itself, and leaves as it would have without any."""
    try:
        got = run_through(shoot)
    except AssertionError as error:
        table.fault(when, str(error))
        return
    if got != expected:
        table.fault(when, f"the ZIP differs: {sorted(set(got.items()) ^ set(expected.items()))}")
    left = list((shoot.library.home / "incoming").glob("*"))
    if left:
        table.fault(when, f"left in incoming: {left}")
    drafts = list(shoot.library.home.rglob(DRAFTS))
    if drafts:
        table.fault(when, f"drafts are left: {drafts}")
    look_through(shoot, when, table)
    for words in keeping.verify(Library(shoot.library.home)).wrong:
        table.fault(when, f"verify: {words}")


def server_kills(count: int, seed: int, table: Table) -> None:
    chance = random.Random(seed)
    with tempfile.TemporaryDirectory() as scratch:
        photos = photographs(Path(scratch) / "card")
        expected = run_through(Shoot(Path(scratch) / "without", photos))
        done, number = 0, 0
        while done < count:
            home = Path(scratch) / f"home-{number}"
            shoot = Shoot(home, photos, card=number % 8 == 0 or number % 8 == 5)
            stage = STAGES[number % len(STAGES)]
            _go_to(shoot, stage)
            for _ in range(chance.randint(3, 6)):
                if done >= count or shoot.stage() is None:
                    break
                kill_once(shoot, chance, table)
                shoot.id = shoot.id or _own_shoot(shoot.library)
                done += 1
            number += 1
            at_the_end(shoot, expected, f"the end of library {number}", table)
            shutil.rmtree(home, ignore_errors=True)
            print(f"  {done} of {count} server kills, {len(table.faults)} faults", flush=True)


def _go_to(shoot: Shoot, stage: str) -> None:
    """Without a kill, to where ``stage`` is the next thing to do."""
    if shoot.stage() == stage:
        return
    with Server(shoot.library.home) as server:
        visitor, end = Visitor(server.address), time.monotonic() + LONGEST_WAIT
        # finding begins by itself with what comes in, and is not waited for: it would be over
        while (now := shoot.stage()) != stage or (stage != "finding" and shoot.active()):
            assert time.monotonic() < end, f"{now} does not end: {shoot.active()}"
            if now != stage:  # asked once: it may have ended by the time it is started, and the next one must not begin
                shoot.start(visitor, now)
            time.sleep(0.05)
        visitor.close()


def _own_shoot(library: Library) -> int:
    return next((s.id for s in shoots.shoots(library.db) if s.name == "Two dogs"), 0)


def main(words: list[str]) -> int:
    """Returns the number of faults."""
    numbers = [int(w) for w in words if w.isdigit()]
    os.environ.setdefault("LENSKEEP_FOLDERS", tempfile.gettempdir())
    servers, runners, seed = (*numbers, *(150, 850, 20261126)[len(numbers) :])
    table, began = Table(), time.monotonic()
    print(f"Kills: {servers} of the server, {runners} of the runner, seed {seed}", flush=True)
    runner_kills(runners, seed, table)
    server_kills(servers, seed, table)
    table.show()
    print(f"  in {time.monotonic() - began:.0f} s")
    return len(table.faults)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]) > 0)
