"""A gallery that opens from a folder without a server: one page and JPEGs in two sizes, where a client ticks favourites
and saves a list of them; and that list, read back.
"""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from importlib.resources import files
from typing import Any
from urllib.parse import quote

import numpy as np

from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.engine.encode.base import Numbers
from lenskeep.core.engine.planes import smaller
from lenskeep.core.problems import UserProblem
from lenskeep.files.writing.jpeg import jpeg_bytes

PAGE, SMALL, LARGE = "index.html", "small", "large"
SIDES = {SMALL: 480, LARGE: 1920}
QUALITY = 85
FAVOURITES = "lenskeep-favourites/1"
MOST_BYTES, MOST_FILES = 20_000_000, 50_000


@dataclass(frozen=True)
class Hung:
    """A picture of a gallery: what its file and its JPEGs are called, and the hash of its original."""

    file: str
    jpeg: str
    original: str


def pictures(pixels: Numbers, space: OutputSpace) -> dict[str, bytes]:
    """JPEGs of a finished picture (h, w, 3), 8 or 16 bits, by the name of the folder that each belongs to."""
    eight = pixels if pixels.dtype == np.uint8 else np.asarray(pixels >> 8, np.uint8)
    return {
        name: jpeg_bytes(smaller(eight, side), QUALITY, None, space != "srgb", space) for name, side in SIDES.items()
    }


def page(shoot: str, job: int, hung: Sequence[Hung]) -> str:
    """The gallery's page."""
    listed = [
        {
            "file": h.file,
            "small": f"{SMALL}/{quote(h.jpeg)}",
            "large": f"{LARGE}/{quote(h.jpeg)}",
            "original": h.original,
        }
        for h in hung
    ]
    data = json.dumps({"shoot": shoot, "id": f"{shoot} {job}", "files": listed}, ensure_ascii=False)
    html = (files("lenskeep.files") / "gallery.html").read_text("utf-8")
    return html.replace("__DATA__", data.replace("<", "\\u003c"))


def is_favourites(data: bytes) -> bool:
    """Whether a file says of itself that it is a gallery's list."""
    return FAVOURITES.encode() in data[:MOST_BYTES]


def favourites(data: bytes, name: str) -> list[str]:
    """The hashes of the originals that a client chose. Raises UserProblem with what is wrong with the file."""
    wrong = UserProblem(f"{name} is no list of favourites. Ask for the file that the gallery saves.")
    if len(data) > MOST_BYTES:
        raise wrong
    try:
        held: Any = json.loads(data.decode("utf-8-sig"))
    except (ValueError, RecursionError) as error:
        raise wrong from error
    if not isinstance(held, dict) or held.get("format") != FAVOURITES or not isinstance(held.get("files"), list):
        raise wrong
    chosen = [one.get("original") for one in held["files"][:MOST_FILES] if isinstance(one, dict)]
    return [one for one in chosen if isinstance(one, str) and len(one) == 64]
