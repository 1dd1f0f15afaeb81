"""Assets of recipes as bytes: made from what was brought in, and decoded for the renderer."""

import hashlib
import zlib
from collections import OrderedDict
from collections.abc import Callable, Iterable, Mapping
from threading import Lock
from typing import Any, ClassVar

import cv2
import numpy as np
from numpy.typing import NDArray

from lenskeep.core.adjust.colour.colour_table import ColourTable
from lenskeep.core.adjust.finish.overlay import Overlay
from lenskeep.core.adjust.finish.text_mark import TextMark
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.regions.kinds.image import ImagePart
from lenskeep.core.types import Mask8
from lenskeep.files.pictured import decoded

LONGEST_PICTURE, LONGEST_GREY = 2048, 1024
MOST_BYTES = 3_000_000
"""Of a picture that is laid over frames; it is made smaller until it fits."""
MOST_TABLE_BYTES = 1_900_000
_KEPT = 12


class AssetProblem(UserProblem):
    """An asset that is not there or is not what it should be; the message says which."""


def asset_key(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


def _png(pixels: NDArray[np.uint8]) -> bytes:
    ok, data = cv2.imencode(".png", pixels, [cv2.IMWRITE_PNG_COMPRESSION, 9])
    if not ok:
        raise RuntimeError("a picture could not be encoded")
    return bytes(data.tobytes())


def _reduced(pixels: NDArray[np.uint8], scale: float) -> NDArray[np.uint8]:
    if scale >= 1.0:
        return pixels
    size = (max(1, round(pixels.shape[1] * scale)), max(1, round(pixels.shape[0] * scale)))
    return np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), np.uint8)


def packed_picture(pixels: NDArray[np.uint8]) -> bytes:
    """(h, w, 4) uint8 red, green, blue, coverage as PNG, reduced to ``LONGEST_PICTURE`` and ``MOST_BYTES``."""
    scale = min(1.0, LONGEST_PICTURE / max(pixels.shape[:2]))
    while True:
        data = _png(np.ascontiguousarray(_reduced(pixels, scale)[..., [2, 1, 0, 3]]))
        if len(data) <= MOST_BYTES:
            return data
        scale *= 0.7


def packed_grey(picture: Mask8) -> bytes:
    """(h, w) uint8 as PNG, reduced to ``LONGEST_GREY``."""
    return _png(_reduced(picture, min(1.0, LONGEST_GREY / max(picture.shape))))


def packed_numbers(numbers: NDArray[np.uint16]) -> bytes:
    """Numbers of 16 bits, little-endian, zlib."""
    return zlib.compress(numbers.astype("<u2").tobytes(), 9)


def picture_of(data: bytes) -> NDArray[np.uint8] | None:
    """(h, w, 4) uint8 red, green, blue, coverage of a PNG or JPEG; None when it is none."""
    pixels = decoded(data, cv2.IMREAD_UNCHANGED)
    if pixels is None:
        return None
    if pixels.ndim == 2:
        return np.asarray(cv2.cvtColor(pixels, cv2.COLOR_GRAY2RGBA), np.uint8)
    how = cv2.COLOR_BGRA2RGBA if pixels.shape[2] == 4 else cv2.COLOR_BGR2RGBA
    return np.asarray(cv2.cvtColor(pixels, how), np.uint8)


def grey_of(data: bytes) -> Mask8 | None:
    """(h, w) uint8 of a PNG; None when it is none."""
    return decoded(data, cv2.IMREAD_GRAYSCALE, ("PNG",))


def numbers_of(data: bytes, count: int) -> NDArray[np.uint16] | None:
    """So many numbers of 16 bits, no more and no fewer; None otherwise."""
    try:
        raw = zlib.decompressobj().decompress(data, 2 * count + 1)
    except zlib.error:
        return None
    return np.frombuffer(raw, "<u2") if len(raw) == 2 * count else None


class Decoded:
    """Assets decoded from the bytes that ``read`` gives (None for what is not there). What was decoded last is kept,
    for all who read the same content, since a key is its content's hash. Safe from several threads.
    """

    _kept: ClassVar["OrderedDict[tuple[str, str], Any]"] = OrderedDict()
    _lock: ClassVar[Lock] = Lock()

    def __init__(self, read: Callable[[str], bytes | None]) -> None:
        self._read = read

    def picture(self, key: str) -> NDArray[np.uint8] | None:
        return self._get("picture", key, picture_of)  # type: ignore[no-any-return]

    def grey(self, key: str) -> Mask8 | None:
        return self._get("grey", key, grey_of)  # type: ignore[no-any-return]

    def numbers(self, key: str, count: int) -> NDArray[np.uint16] | None:
        return self._get(f"numbers {count}", key, lambda data: numbers_of(data, count))  # type: ignore[no-any-return]

    def _get(self, sort: str, key: str, decode: Callable[[bytes], Any]) -> Any:
        with self._lock:
            if (sort, key) in self._kept:
                self._kept.move_to_end((sort, key))
                return self._kept[sort, key]
        data = self._read(key) if key else None
        found = None if data is None else decode(data)
        if found is not None:
            with self._lock:
                self._kept[sort, key] = found
                while len(self._kept) > _KEPT:
                    self._kept.popitem(last=False)
        return found


def in_memory(assets: Mapping[str, bytes]) -> Decoded:
    """Assets that came with a recipe file or a task."""
    return Decoded(assets.get)


def check_assets(recipe: Recipe, assets: Mapping[str, bytes], name: str) -> None:
    """Every asset that a recipe refers to is there and is what it should be. Raises AssetProblem."""
    for data in (d for key, d in assets.items() if asset_key(d) != key):
        raise AssetProblem(f"{name} holds a picture or table of {len(data):,} bytes that was altered. Export it again.")
    for holder in _holders(recipe):
        if isinstance(holder, Overlay | TextMark):
            good = not holder.picture or picture_of(assets.get(holder.picture, b"")) is not None
            what = "a picture to lay over that is no PNG or JPEG; save it as PNG and bring that in"
        elif isinstance(holder, ImagePart):
            good = not holder.picture or grey_of(assets.get(holder.picture, b"")) is not None
            what = "a mask that is not a PNG picture; save the mask as a grey PNG and bring that in"
        elif isinstance(holder, ColourTable):
            good = not holder.data or numbers_of(assets.get(holder.data, b""), holder.count) is not None
            what = "a colour table that is not whole; bring the .cube file in again"
        else:
            continue
        if not good:
            raise AssetProblem(f"{name} holds {what}.")


def _holders(recipe: Recipe) -> Iterable[Any]:
    regions = [*(s.region for s in recipe.steps), *(r.region for r in recipe.regions.values())]
    for region in [*regions, *(g.limit for g in recipe.groups.values())]:
        yield from region.parts
    for step in recipe.steps:
        yield from step.adjustments
