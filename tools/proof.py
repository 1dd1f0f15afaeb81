"""Everything is tested, what is slow by nature too, and what came of it is written down: ``make test-all``, or
``python -m tools.proof [WORDS FOR PYTEST]``.
"""

import hashlib
import subprocess
import sys
import time
from datetime import UTC, datetime
from pathlib import Path

ROOT = Path(__file__).parent.parent
PROOF = ROOT / "docs" / "proof.md"
SLOWEST = "3600"
"""Seconds after which a test is ended: with 20 times as many examples some take long."""
GENERATOR = ("tools/photos", "tests/photos")
"""The photographs' generator and its tests, which say nothing new while both are as they were."""


def generator_sum() -> str:
    """A sum (16 hex digits) of the photographs' generator and its tests."""
    told = hashlib.sha256()
    for folder in GENERATOR:
        for path in sorted((ROOT / folder).rglob("*.py")):
            told.update(f"{path.relative_to(ROOT)}\n".encode() + path.read_bytes())
    return told.hexdigest()[:16]


def _git(*words: str) -> str:
    return subprocess.run(["git", *words], cwd=ROOT, capture_output=True, text=True, check=True).stdout.strip()


def main(words: list[str]) -> int:
    """Returns pytest's own answer."""
    began = time.monotonic()
    command = [sys.executable, "-m", "pytest", "--all", "--timeout", SLOWEST, *words]
    done = subprocess.run(command, cwd=ROOT, stdout=subprocess.PIPE, text=True, check=False)
    print(done.stdout)
    said = next((line.strip(" =") for line in reversed(done.stdout.splitlines()) if " passed" in line), "nothing ran")
    minutes = (time.monotonic() - began) / 60.0
    clean = "" if not _git("status", "--porcelain") else ", with changes that are not committed"
    PROOF.write_text(
        "# The last time that everything was tested\n\n"
        "Written by `make test-all`; what it runs beside `make test` is listed in CONTRIBUTING.md.\n\n"
        f"| | |\n| --- | --- |\n| When | {datetime.now(UTC):%Y-%m-%d %H:%M} UTC, in {minutes:.0f} minutes |\n"
        f"| Commit | {_git('rev-parse', '--short', 'HEAD')}{clean} |\n| What came of it | {said} |\n"
        f"| The photographs' generator then | {generator_sum() if done.returncode == 0 else 'not proven'} |\n",
        "utf-8",
    )
    return done.returncode


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
