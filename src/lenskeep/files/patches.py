"""What clean-up changed of one photograph, kept as a file: patches of its own pixels, and what they change of its
working copy. NumPy's archive format, without pickles.
"""

import io
from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from lenskeep.core.clean.applied import Patch, patched
from lenskeep.core.clean.strokes import Box
from lenskeep.core.engine.planes import proxy_size
from lenskeep.core.types import Float, LinearRGB
from lenskeep.files.problems import PhotoProblem
from lenskeep.files.reading.photo import Photo, reducing

GONE = "What was cleaned up on this frame can't be read. Undo a mark and do it again."


@dataclass(frozen=True)
class Cleaned:
    """``patches`` are pixels of the photograph's own numbers; ``changes`` what to add to its picture reduced to
    ``size`` (h, w), linear.
    """

    patches: tuple[Patch, ...]
    size: tuple[int, int]
    changes: tuple[tuple[Box, LinearRGB], ...]

    def photo(self, photo: Photo) -> Photo:
        """The photograph with its patches."""
        return replace(photo, pixels=patched(photo.pixels, self.patches)) if self.patches else photo

    def working(self, picture: LinearRGB) -> LinearRGB:
        """A working copy as if it were made of the cleaned photograph. Raises PhotoProblem for one of another size."""
        if picture.shape[:2] != self.size:
            raise PhotoProblem(GONE)
        out = picture.copy()
        for box, change in self.changes:
            out[box.part] = np.maximum(out[box.part] + change, 0.0)
        return out


def cleaned_of(photo: Photo, patches: Iterable[Patch], side: int) -> Cleaned:
    """The same of a photograph and what was changed of it, with a working copy of at most ``side`` pixels."""
    held = tuple(patches)
    size = proxy_size(photo.height, photo.width, side)
    after = replace(photo, pixels=patched(photo.pixels, held))
    return Cleaned(held, size, tuple(_change(photo, after, patch.box, size) for patch in held))


def _change(before: Photo, after: Photo, box: Box, size: tuple[int, int]) -> tuple[Box, LinearRGB]:
    """The difference, averaged as the photograph is when it is reduced."""
    part = (box.top, box.low, box.left, box.right)
    away = np.asarray(after.block(*part) - before.block(*part), np.float32)
    if size == (before.height, before.width):
        return box, away
    bins, across, step = reducing(before.height, before.width, *size)
    strips = [(first, min(step, before.height - first)) for first in range(0, before.height, step)]
    edges = [first + np.arange(n := max(1, round(rows / bins))) * (rows / n) for first, rows in strips]
    down = _twice(np.concatenate([*edges, [float(before.height)]]), size[0], box.top, box.low)
    along = _twice(np.linspace(0.0, before.width, across + 1), size[1], box.left, box.right)
    small = np.einsum("yi,ijc->yjc", down[1], away, optimize=True)
    small = np.einsum("xj,yjc->yxc", along[1], small, optimize=True)
    return Box(*down[0], *along[0]), np.asarray(small, np.float32)


def _twice(edges: NDArray[np.float64], small: int, first: int, last: int) -> tuple[tuple[int, int], Float]:
    """Which pixels of a side that is reduced by way of cells with these ``edges`` a range touches, and its shares."""
    (low, high), one = _shares(edges, first, last)
    count = len(edges) - 1
    ends, two = _shares(np.linspace(0.0, count, small + 1), low, high)
    return ends, np.asarray(two @ one, np.float32)


def _shares(edges: NDArray[np.float64], first: int, last: int) -> tuple[tuple[int, int], Float]:
    """Which cells pixels ``first … last - 1`` touch, and (cells, pixels) their shares in the cells' averages."""
    low = int(np.searchsorted(edges, first, "right")) - 1
    high = min(int(np.searchsorted(edges, last, "left")), len(edges) - 1)
    starts, ends = edges[low:high, None], edges[low + 1 : high + 1, None]
    pixels = np.arange(first, last)[None, :]
    shares = np.clip(np.minimum(ends, pixels + 1) - np.maximum(starts, pixels), 0.0, None) / (ends - starts)
    return (low, high), np.asarray(shares, np.float32)


def cleaned_bytes(made: Cleaned) -> bytes:
    held: dict[str, np.ndarray] = {"size": np.array(made.size, np.int32)}
    for n, patch in enumerate(made.patches):
        held |= {f"box{n}": _plain(patch.box), f"pixels{n}": patch.pixels}
    for n, (box, change) in enumerate(made.changes):
        held |= {f"small{n}": _plain(box), f"change{n}": change}
    out = io.BytesIO()
    np.savez(out, **held)  # type: ignore[arg-type]
    return out.getvalue()


def _plain(box: Box) -> np.ndarray:
    return np.array([box.top, box.low, box.left, box.right], np.int32)


def read_cleaned(data: bytes) -> Cleaned:
    """Raises PhotoProblem for what is no such file, or a damaged one."""
    try:
        with np.load(io.BytesIO(data), allow_pickle=False) as held:
            count = sum(name.startswith("box") for name in held.files)
            boxes = [Box(*map(int, held[f"box{n}"])) for n in range(count)]
            smaller = [Box(*map(int, held[f"small{n}"])) for n in range(count)]
            patches = tuple(Patch(box, held[f"pixels{n}"]) for n, box in enumerate(boxes))
            changes = tuple((box, np.asarray(held[f"change{n}"], np.float32)) for n, box in enumerate(smaller))
            h, w = (int(v) for v in held["size"])
            return Cleaned(patches, (h, w), changes)
    except Exception as error:  # a damaged archive raises errors of zipfile and zlib
        raise PhotoProblem(GONE) from error
