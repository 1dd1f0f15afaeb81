"""The sheet of a hand-over: a CSV of what was applied to every file, safe to open in a spreadsheet."""

import csv
import io
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from lenskeep.core.facts import MAIN_MASKS, Facts
from lenskeep.core.recipes.layers import masks_used
from lenskeep.core.recipes.overrides import FrameOverride
from lenskeep.files.reading.photo import Base
from lenskeep.store.deliveries import FileMade
from lenskeep.store.frames import FrameRow
from lenskeep.store.looks import Look

SHEET = "what-was-applied.csv"
COLUMNS = (
    "file", "original", "taken", "recipe", "version", "look strength", "base", "clean-up",
    "frame strength", "steps changed", "own steps", "masks repaired", "subject trust", "sky trust", "doubts",
    "missing", "accepted by hand", "checked", "rating", "note",
)  # fmt: skip


@dataclass(frozen=True)
class SheetRow:
    """One file: the frame it was made from, what was found on it, the look and changes it was made with, what it
    was ``asked`` to be called (that name may have been taken), and when and how its picture was ``checked``.
    """

    made: FileMade
    frame: FrameRow
    facts: Facts
    look: Look | None
    override: FrameOverride
    asked: str
    checked: str = ""
    raw_base: Base = ""
    turn: int = 0


def sheet(rows: Iterable[SheetRow]) -> str:
    """The text of the CSV."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for row in rows:
        writer.writerow([_plain(str(cell)) for cell in _cells(row)])
    return out.getvalue()


def _cells(row: SheetRow) -> list[object]:
    f, own, facts = row.frame, row.override, row.facts
    layers = [e for e in row.look.layers if e.enabled] if row.look else []
    changed = "; ".join(_step_words(k, v.enabled, v.strength) for k, v in sorted(own.steps.items()))
    return [
        row.made.name, f.file_name, f.taken_at or "",
        _each(e.version.name for e in layers), _each(e.version.version for e in layers),
        _each(e.strength for e in layers),
        own.base.words(), own.clean.words(), own.strength, changed,
        _each(f"{mine.recipe.name} {mine.strength:g}" for mine in own.own if mine.enabled),
        "; ".join(own.repairs.masks), _trust(facts, own, "subject"), _trust(facts, own, "sky"),
        " ".join(facts.reasons_for(_used(row))), row.made.missing,
        "yes" if f.accepted else "", row.checked, f.rating or "", row.made.note,
    ]  # fmt: skip


def _used(row: SheetRow) -> frozenset[str]:
    """The masks whose doubts matter to this file: those that its look uses and that were not repaired."""
    used = frozenset(MAIN_MASKS) if row.look is None else masks_used(row.look.stack())
    return used - set(row.override.repairs.masks)


def _trust(facts: Facts, own: FrameOverride, mask: Literal["subject", "sky"]) -> object:
    return "by hand" if mask in own.repairs.masks else getattr(facts, mask).trust


def _each(values: Iterable[object]) -> str:
    """Those of several layers one after another, the bottom first."""
    return "; ".join(f"{value}" for value in values)


def _plain(text: str) -> str:
    """Text that a spreadsheet does not take for a formula."""
    return "'" + text if text[:1] in ("=", "+", "-", "@", "\t", "\r") else text


def _step_words(step_id: str, enabled: bool | None, strength: float | None) -> str:
    words = [] if enabled is None else ["on" if enabled else "off"]
    return f"{step_id} {' '.join(words + ([] if strength is None else [f'at {strength:g}']))}"
