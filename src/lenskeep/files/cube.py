"""Colour tables in .cube files: 1-D or 3-D, with title, domain and comments; read with clear errors, and written.

The format's keywords are LUT_1D_SIZE, LUT_3D_SIZE, DOMAIN_MIN, DOMAIN_MAX and TITLE; what follows a # is a comment; of
a 3-D table red changes fastest.
"""

import re
import warnings
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lenskeep.core.adjust.colour.colour_table import FARTHEST, quantised
from lenskeep.core.problems import UserProblem
from lenskeep.core.types import Float
from lenskeep.files.assets import MOST_TABLE_BYTES, asset_key, packed_numbers

MOST_1D, MOST_3D = 65536, 129
_FIRST_ROW = re.compile(r"^[ \t]*[-+.\d]", re.MULTILINE)
MOST_CHARACTERS = 90_000_000
KEPT_3D = 65
"""Larger tables that do not fit into a recipe are brought to so many steps a side."""


class CubeProblem(UserProblem):
    """A .cube file that can't be used; the message says where and what to do."""


@dataclass(frozen=True)
class Cube:
    """``entries`` (n, n, n, 3) indexed by red, green, blue, or (n, 3); ``low`` and ``high`` (3,) are the domain."""

    title: str
    entries: Float
    low: Float
    high: Float

    def fields(self, name: str) -> tuple[dict[str, object], bytes]:
        """The fields of a colour table adjustment, and the asset that it refers to."""
        fields, data = self._packed(self.entries, name)
        if len(data) > MOST_TABLE_BYTES and self.entries.ndim == 4:
            fields, data = self._packed(_resampled(self.entries, KEPT_3D), name)
        if len(data) > MOST_TABLE_BYTES:
            raise CubeProblem(f"{name} holds more than a recipe can. Export it with fewer steps.")
        return fields, data

    def _packed(self, entries: Float, name: str) -> tuple[dict[str, object], bytes]:
        codes, span = quantised(entries)
        data = packed_numbers(codes)
        fields: dict[str, object] = {
            "name": (self.title or name)[:120],
            "dimensions": 1 if entries.ndim == 2 else 3,
            "size": entries.shape[0],
            "low": [float(v) for v in self.low],
            "high": [float(v) for v in self.high],
            "span": list(span),
            "data": asset_key(data),
        }
        return fields, data


def _resampled(entries: Float, size: int) -> Float:
    """A table (n, n, n, 3) read linearly at ``size`` steps a side."""
    for axis in range(3):
        at = np.linspace(0.0, entries.shape[axis] - 1.0, size)
        first = np.minimum(at.astype(int), entries.shape[axis] - 2)
        share = (at - first).astype(np.float32).reshape([-1 if a == axis else 1 for a in range(4)])
        entries = np.take(entries, first, axis) * (1 - share) + np.take(entries, first + 1, axis) * share
    return np.asarray(entries, np.float32)


def read_cube(text: str, name: str) -> Cube:
    """Read a .cube file's text. Raises CubeProblem naming the line."""
    title, size, dimensions = "", 0, 3
    low, high = np.zeros(3, np.float32), np.ones(3, np.float32)
    rows: list[str] = []
    if len(text) > MOST_CHARACTERS:
        raise CubeProblem(f"{name} is larger than any table that is taken. Export it with at most 65 steps a side.")
    head, numbers = _split(text)
    for number, line in _meant(head):
        word, _, rest = line.partition(" ")
        upper = word.upper()
        if upper == "TITLE":
            title = rest.strip().strip('"')[:80]
        elif upper in ("LUT_1D_SIZE", "LUT_3D_SIZE"):
            dimensions = int(upper[4])
            size = _size(rest, dimensions, f"{name}, line {number}")
        elif upper == "DOMAIN_MIN":
            low = _three(rest, f"{name}, line {number}")
        elif upper == "DOMAIN_MAX":
            high = _three(rest, f"{name}, line {number}")
        elif upper[0].isalpha():
            continue  # keywords of other makers: they say nothing of the entries
        else:
            rows.append(line)
    if size == 0:
        raise CubeProblem(f"{name} does not say its size (LUT_3D_SIZE or LUT_1D_SIZE). Is it a .cube file?")
    if (low >= high).any():
        raise CubeProblem(f"{name}: DOMAIN_MAX must be larger than DOMAIN_MIN in every channel.")
    wanted = size**dimensions
    if numbers is None:
        if len(rows) != wanted:
            raise CubeProblem(f"{name} should hold {wanted:,} colours and holds {len(rows):,}. Export it again.")
        numbers = _numbers(" ".join(rows))
        if numbers is None:
            raise CubeProblem(f"{name} holds something that is not a number. Export it again.")
    values = numbers
    if values.size != 3 * wanted and values.size % 3 == 0:
        raise CubeProblem(f"{name} should hold {wanted:,} colours and holds {values.size // 3:,}. Export it again.")
    if values.size != 3 * wanted or not np.isfinite(values).all():
        raise CubeProblem(f"{name}: every colour needs three numbers. Export it again.")
    if max(float(np.abs(v).max()) for v in (values, low, high)) > FARTHEST:
        raise CubeProblem(f"{name} holds numbers over a million, which are no colours. Export it again.")
    entries: Float = values.astype(np.float32).reshape(-1, 3)
    if dimensions == 3:
        entries = entries.reshape(size, size, size, 3).transpose(2, 1, 0, 3)
    return Cube(title, np.ascontiguousarray(entries), low, high)


def _split(text: str) -> tuple[str, NDArray[np.float64] | None]:
    """The head of a file and all numbers after it at once, which is many times faster than line by line; the whole text
    and None where something else stands between the numbers.
    """
    first = _FIRST_ROW.search(text)
    if first is None:
        return text, None
    values = _numbers(text[first.start() :])
    return (text, None) if values is None else (text[: first.start()], values)


def _numbers(text: str) -> NDArray[np.float64] | None:
    """All of them; None when something is not a number."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", DeprecationWarning)  # NumPy's word for text after the last number
            return np.fromstring(text, np.float64, sep=" ")
    except (DeprecationWarning, ValueError):
        return None


def _meant(text: str) -> Iterator[tuple[int, str]]:
    for number, line in enumerate(text.lstrip("\ufeff").splitlines(), 1):
        plain = " ".join(line.split("#", 1)[0].split())
        if plain:
            yield number, plain


def _size(text: str, dimensions: int, where: str) -> int:
    most = MOST_3D if dimensions == 3 else MOST_1D
    if not text.strip().isdigit() or not 2 <= int(text) <= most:
        raise CubeProblem(f"{where}: the size must be a whole number from 2 to {most}.")
    return int(text)


def _three(text: str, where: str) -> Float:
    try:
        values = np.array(text.split(), np.float32)
    except ValueError:
        values = np.empty(0, np.float32)
    if values.shape != (3,) or not np.isfinite(values).all():
        raise CubeProblem(f"{where}: three numbers are needed here.")
    return values


def write_cube(entries: Float, title: str) -> str:
    """The text of a 3-D .cube file for (n, n, n, 3) indexed by red, green, blue."""
    lines = [f'TITLE "{title.replace(chr(34), chr(39))}"', f"LUT_3D_SIZE {entries.shape[0]}", ""]
    lines += [f"{r:.6f} {g:.6f} {b:.6f}" for r, g, b in entries.transpose(2, 1, 0, 3).reshape(-1, 3)]
    return "\n".join(lines) + "\n"
