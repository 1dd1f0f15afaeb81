"""The server's memory under many pictures of the Bench at once, and a minute after."""

import statistics
import tempfile
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import psutil

from benchmarks.speed import six_steps
from lenskeep.store import frames
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.library import Library
from tools.made_up import ready_shoot
from tools.running.server import Server
from tools.running.visitor import Visitor

FRAMES, PICTURES, AT_ONCE, REST_SECONDS = 60, 300, 20, 60


def measured() -> dict[str, float]:
    with tempfile.TemporaryDirectory() as scratch:
        library = Library(Path(scratch) / "home")
        shoot = ready_shoot(library, Path(scratch) / "card", FRAMES, 1067, 1600)
        ids = [f.id for f in frames.frames(library.db, shoot)]
        bench.load(library, shoot, six_steps())
        with Server(library.home) as server:
            process, visitor = psutil.Process(server.process.pid), Visitor(server.address, 300.0)
            before, most, ended = process.memory_info().rss, [0], threading.Event()

            def watch() -> None:
                while not ended.wait(0.05):
                    most[0] = max(most[0], process.memory_info().rss)

            watching = threading.Thread(target=watch)
            watching.start()

            def ask(number: int) -> float:
                began = time.perf_counter()
                wanted = {"frame": ids[number % FRAMES], "side": "key" if number % 3 else "witness"}
                answer = visitor.http.post(f"/scenes/{shoot}/bench/picture", json=wanted)
                assert answer.status_code == 200, answer.text
                return time.perf_counter() - began

            with ThreadPoolExecutor(AT_ONCE) as pool:
                seconds = list(pool.map(ask, range(PICTURES)))
            time.sleep(REST_SECONDS)
            ended.set()
            watching.join()
            after = process.memory_info().rss
    return {
        "before_gigabytes": before / 1e9,
        "most_gigabytes": most[0] / 1e9,
        "after_gigabytes": after / 1e9,
        "median_seconds": statistics.median(seconds),
    }
