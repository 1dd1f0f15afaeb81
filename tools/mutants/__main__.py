"""``python -m tools.mutants [NUMBER] [words]``: plant each fault of ``faults.toml`` (from that number on; those whose
file or words hold these) in a copy of the sources, run the tests that it names, and say which of them no test sees.
"""

import os
import shutil
import subprocess
import sys
import tempfile
import time
import tomllib
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parent.parent.parent
FAULTS = Path(__file__).parent / "faults.toml"
COPIED = ("src", "tests", "tools", "benchmarks", "pyproject.toml", "README.md")
LONGEST_SECONDS = 300.0


@dataclass(frozen=True)
class Fault:
    """In ``file``, below src/lenskeep, ``was`` becomes ``becomes``; ``tests`` are pytest's words for who should see."""

    says: str
    file: str
    was: str
    becomes: str
    tests: str


def faults(words: str = "") -> list[Fault]:
    """Those of the list, in its order."""
    read = tomllib.loads(FAULTS.read_text("utf-8"))["fault"]
    every = [Fault(**entry) for entry in read]
    return [f for f in every if words.lower() in f"{f.file} {f.says}".lower()]


def copy_sources(into: Path) -> None:
    """With their compiled kernels: those of files that stay as they are need not be compiled anew."""
    for name in COPIED:
        source = ROOT / name
        if source.is_dir():
            shutil.copytree(source, into / name)
        else:
            shutil.copy2(source, into / name)


def seen(fault: Fault, copy: Path) -> bool:
    """Whether one of its tests fails with the fault planted. Raises ValueError when there is nowhere to plant it."""
    path = copy / "src" / "lenskeep" / fault.file
    text = path.read_text("utf-8")
    if text.count(fault.was) != 1:
        raise ValueError(f"{fault.file} holds it {text.count(fault.was)} times: {fault.was}")
    before = path.stat()
    path.write_text(text.replace(fault.was, fault.becomes), "utf-8")
    try:
        return _fails(fault, copy)
    finally:
        path.write_text(text, "utf-8")
        os.utime(path, ns=(before.st_atime_ns, before.st_mtime_ns))


def _fails(fault: Fault, copy: Path) -> bool:
    environment = os.environ | {"PYTHONPATH": f"{copy / 'src'}{os.pathsep}{copy}", "PYTHONDONTWRITEBYTECODE": "1"}
    words = [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", *fault.tests.split()]
    try:
        done = subprocess.run(
            words, cwd=copy, env=environment, capture_output=True, text=True, timeout=LONGEST_SECONDS, check=False
        )
    except subprocess.TimeoutExpired:
        return True  # what hangs is seen
    if done.returncode not in (0, 1):
        raise ValueError(f"pytest {fault.tests} did not run: {done.stdout[-400:]}{done.stderr[-400:]}")
    return done.returncode == 1


def main(words: list[str]) -> int:
    """Returns how many faults no test has seen."""
    first = int(words.pop(0)) if words and words[0].isdigit() else 1
    chosen, missed = faults(" ".join(words))[first - 1 :], []
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder)
        copy_sources(copy)
        for number, fault in enumerate(chosen, first):
            began = time.monotonic()
            caught = seen(fault, copy)
            if not caught:
                missed.append(fault)
            took = time.monotonic() - began
            print(
                f"{number:3d} {'seen' if caught else 'MISSED':6s} {took:4.0f} s  {fault.file}: {fault.says}", flush=True
            )
    share = 100.0 * (len(chosen) - len(missed)) / max(len(chosen), 1)
    print(f"{len(chosen) - len(missed)} of {len(chosen)} faults are seen ({share:.0f} %)")
    return len(missed)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]) > 0)
