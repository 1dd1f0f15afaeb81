"""Good photographs sent among huge and damaged ones, several at a time: none of the good may be refused.

``python -m benchmarks crowd [good] [huge] [damaged]``
"""

import io
import random
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
from PIL import Image

from tools.made_up import write_photo
from tools.running.server import Server
from tools.running.visitor import Visitor

AT_A_TIME = 3
HUGE = (7000, 9000)


def _huge(folder: Path, count: int) -> list[Path]:
    """Pictures of 63 MP, all different in their last bytes."""
    out = io.BytesIO()
    Image.fromarray(np.random.default_rng(1).integers(0, 255, (*HUGE, 3), np.uint8)).save(out, "JPEG", quality=60)
    paths = [folder / f"huge-{n}.jpg" for n in range(count)]
    for n, path in enumerate(paths):
        path.write_bytes(out.getvalue() + n.to_bytes(4, "big"))
    return paths


def _damaged(folder: Path, count: int, chance: random.Random) -> list[Path]:
    """Truncated, altered, and no pictures at all."""
    whole = write_photo(folder / "whole.jpg", 1, height=600, width=900).read_bytes()
    paths = [folder / f"damaged-{n}.jpg" for n in range(count)]
    for n, path in enumerate(paths):
        cut = whole[: chance.randrange(300, len(whole) - 200)]
        path.write_bytes((cut, bytes(reversed(whole)), cut[:20] + chance.randbytes(5000))[n % 3] + n.to_bytes(4, "big"))
    return paths


def main(words: list[str]) -> int:
    """Returns the number of good photographs that were refused."""
    numbers = [int(w) for w in words if w.isdigit()]
    good, huge, damaged = (*numbers, *(2000, 200, 200)[len(numbers) :])
    chance = random.Random(20261201)
    with tempfile.TemporaryDirectory() as scratch:
        folder = Path(scratch)
        paths = [write_photo(folder / f"good-{n}.jpg", n, height=300, width=450) for n in range(good)]
        paths += _huge(folder, huge) + _damaged(folder, damaged, chance)
        chance.shuffle(paths)
        with Server(folder / "home", workers=1) as server:
            visitor = Visitor(server.address, 300.0)
            shoot = visitor.post("/shoots", name="Crowd")["id"]
            began = time.monotonic()
            with ThreadPoolExecutor(AT_A_TIME) as pool:
                answers = list(pool.map(lambda path: (path.name, visitor.bring(shoot, path)), paths))
            took = time.monotonic() - began
    refused = {name: answer["refused"][0][1] for name, answer in answers if answer["refused"]}
    print(f"Crowd: {good} good, {huge} huge, {damaged} damaged, {AT_A_TIME} at a time, {took:.0f} s")
    for kind, count in (("good", good), ("huge", huge), ("damaged", damaged)):
        own = [why for name, why in refused.items() if name.startswith(kind)]
        print(f"  {kind:8s} {count - len(own):5d} taken  {len(own):5d} refused  {own[:1]}")
    return sum(name.startswith("good") for name in refused)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]) > 0)
