"""What lies under the dust: each speck's place on every frame of a shoot, developed from the same render without it.

Usage: python -m tools.photos.undusted SHOOT RENDERS

Writes ``undusted.jpg`` beside the shoot's truth: a row a frame, in the order of the shoot's list, a tile a speck.
Frames whose render is missing are left black and named.
"""

import io
import sys
from pathlib import Path

import numpy as np
from PIL import Image

from tools.photos import shoots

TILE = 72
QUALITY = 97


def corner(share, side):
    """Where a tile begins whose middle is at a share of a side, the frame not left."""
    return min(max(round(share * side) - TILE // 2, 0), side - TILE)


def tiles(picture, specks):
    """The specks' tiles of a picture as its sensor has it, (TILE, TILE · specks, 3)."""
    h, w = picture.shape[:2]
    out = []
    for speck in specks:
        y, x = corner(speck["y"], h), corner(speck["x"], w)
        out.append(picture[y : y + TILE, x : x + TILE])
    return np.hstack(out)


def main(name, renders):
    shoot = shoots.read(name)
    specks = shoot["dust"]
    rows = []
    for number, frame in enumerate(shoot["frames"]):
        path = renders / f"{name}-{frame['shot']}.npz"
        if not path.exists():
            print(f"{frame['name']}: left out, {path.name} is not rendered yet")
            rows.append(np.zeros((TILE, TILE * len(specks), 3), np.uint8))
            continue
        # the same grain, since the same numbers are drawn
        bare = shoots.developed(shoot | {"dust": []}, frame, shoots.load_render(path), number)[0]
        held = Image.open(io.BytesIO(shoots.as_jpeg(bare)[0]))  # what a file loses, this one loses, too
        rows.append(tiles(np.asarray(held), specks))
    target = shoots.TRUTH / shoot["folder"] / "undusted.jpg"
    Image.fromarray(np.vstack(rows)).save(target, quality=QUALITY, subsampling=0)
    print(target, f"{target.stat().st_size // 1024} KB")


if __name__ == "__main__":
    main(sys.argv[1], Path(sys.argv[2]))
