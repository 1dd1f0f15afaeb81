"""What looking after every finished frame with the guards costs, as a share of applying."""

import time
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from benchmarks.speed import six_steps
from lenskeep.core.plan import make_plan
from lenskeep.demo.seed import ready
from lenskeep.store import frames, shoots
from lenskeep.studio.library import Library
from lenskeep.studio.tasks import render as applying
from lenskeep.studio.tasks.frame_files import files_of
from lenskeep.work.engines.carried import InFile, OutFolder

ROUNDS = 3
EVERY = 4


def measured(home: Path | None = None) -> dict[str, float]:
    """Seconds a frame of applying six steps at screen size with the guards; and their share of the rest."""
    with TemporaryDirectory() as scratch:
        library = Library(home or Path(scratch) / "home")
        ready(library, lambda _: None)
        out = OutFolder(Path(scratch) / "out")
        plan, tasks = make_plan(six_steps()), []
        for shoot in shoots.shoots(library.db):
            for row in frames.frames(library.db, shoot.id)[::EVERY]:
                computed = library.computed(row.content, row.found_by)
                assert row.found_facts is not None
                files = files_of(computed, row.content, row.found_facts, {})
                tasks.append(applying.RenderTask(InFile(computed.working), files, plan, out, "p.jpg", "t.jpg"))
        spent: list[float] = []
        real = applying.looked_after

        def timed(*given: object) -> object:
            start = time.perf_counter()
            try:
                return real(*given)  # type: ignore[arg-type]
            finally:
                spent.append(time.perf_counter() - start)

        applying.looked_after = timed  # type: ignore[assignment]
        try:
            applying.render_on_screen(tasks[0])
            spent.clear()
            start = time.perf_counter()
            for _ in range(ROUNDS):
                for task in tasks:
                    applying.render_on_screen(task)
            whole = (time.perf_counter() - start) / (ROUNDS * len(tasks))
        finally:
            applying.looked_after = real
    own = float(np.mean(spent))
    return {"seconds": whole, "guards": own, "share": own / (whole - own)}
