"""What a machine does once: its kernels are compiled, by a process on every processor, beside the first start. Numba
keeps them beside the modules, or in the user's cache where it may not write there.
"""

import hashlib
import os
import threading
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor, as_completed
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from typing import Any

from lenskeep.core.engine.kernel import rows
from lenskeep.core.jit import compiler, kernels_of
from lenskeep.studio.untrusted import PRELOAD
from lenskeep.studio.warm import PORTIONS, warm_up
from lenskeep.work.defects import defect
from lenskeep.work.engines.here import forkserver, quiet_worker

ROOT = Path(rows.__file__).parent.parent.parent
MARK = "prepared-"


class Preparation:
    """Whether this machine is prepared, and how far it is with it."""

    def __init__(self) -> None:
        self.done, self.of = 0, len(PORTIONS)
        self.over = threading.Event()

    @property
    def words(self) -> str:
        """How far it is; "" when there is nothing to wait for."""
        return "" if self.over.is_set() else f"Preparing this machine, once: {self.done} of {self.of}."

    @classmethod
    def done_before(cls) -> "Preparation":
        """Of a machine on which nobody is to wait."""
        made = cls()
        made.over.set()
        return made

    @classmethod
    def begun(cls) -> "Preparation":
        """Going on beside everything else; what was compiled is read into this process after it, too."""
        made = cls()
        threading.Thread(target=made._beside, name="preparing", daemon=True).start()
        return made

    def _beside(self) -> None:
        self.run()
        warm_up()

    def run(self, say: Callable[[str], None] = lambda _: None) -> None:
        """Compile everything, unless that was done before. Ends well whatever happens: who needs a kernel that is not
        there compiles it.
        """
        try:
            mark = _mark()
            if not mark.is_file():
                _forget()
                say(self.words)
                self._compile(say)
                mark.touch()
        except (OSError, BrokenProcessPool):
            defect("preparing this machine")
        finally:
            self.over.set()

    def _compile(self, say: Callable[[str], None]) -> None:
        context = forkserver(PRELOAD)  # the same as all others ask for: there is one server
        count = max(1, os.cpu_count() or 1)
        with ProcessPoolExecutor(count, context, initializer=quiet_worker, initargs=(os.getpid(),)) as pool:
            for portion in as_completed([pool.submit(_compiled, number) for number in range(self.of)]):
                portion.result()
                self.done += 1
                say(self.words)


def _compiled(number: int) -> None:
    PORTIONS[number]()


def _mark() -> Path:
    """What says that everything was compiled, by this compiler for this processor, from these sources. Numba itself
    looks at the file that a kernel stands in, not at those of the kernels that it calls.
    """
    told = hashlib.sha256(compiler().encode())
    for path in sorted(_sources()):
        stat = path.stat()
        told.update(f"{path.relative_to(ROOT)} {stat.st_size} {stat.st_mtime_ns}\n".encode())
    return _folder(rows.run_rows) / f"{MARK}{told.hexdigest()[:32]}"


def _folder(kernel: Any) -> Path:
    """Where Numba keeps what it compiled of a kernel."""
    return Path(str(kernel.stats.cache_path))


def _sources() -> set[Path]:
    """Modules that have kernels, those whose numbers are compiled into them, and what says how they are compiled."""
    every = {ROOT / "jit.py", *ROOT.glob("engine/**/*.py"), *ROOT.glob("colour/*.py")}
    return every | {path for path in ROOT.rglob("*.py") if "core.jit import" in path.read_text("utf-8")}


def _forget() -> None:
    """Kernels of other sources are in the way."""
    for folder in {_folder(kernel) for kernel in kernels_of("lenskeep.core")}:
        for kept in (*folder.glob("*.nb[ic]"), *folder.glob(f"{MARK}*")):
            kept.unlink(missing_ok=True)
