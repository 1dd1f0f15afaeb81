"""How delivered files are called: a pattern of fields, made safe; equal and taken names get numbers."""

import re
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from lenskeep.core.names import file_stem
from lenskeep.core.problems import UserProblem
from lenskeep.files.written import numbered
from lenskeep.store.frames import FrameSummary

FIELDS = {
    "name": "the photograph’s own name",
    "shoot": "the shoot",
    "scene": "the scene",
    "date": "the day it was taken, 2026-10-03",
    "time": "the time, 151208",
    "number": "its number in this hand-over, 0001",
    "rating": "its rating, 0 to 5",
}
PLAIN = "{name}"
MOST = 120
_FIELD = re.compile(r"\{([^{}]*)\}")


def check_pattern(pattern: str) -> str:
    """The pattern, trimmed. Raises UserProblem, with the fields that there are, where it can't be used."""
    pattern = pattern.strip() or PLAIN
    if len(pattern) > MOST:
        raise UserProblem(f"A pattern for names has {MOST} letters at most.")
    known = ", ".join(f"{{{name}}}" for name in FIELDS)
    for name in _FIELD.findall(pattern):
        if name not in FIELDS:
            raise UserProblem(f"There is no field {{{name}}} for names. Choose from {known}.")
    if re.search(r"[{}]", _FIELD.sub("", pattern)):
        raise UserProblem(f"A brace in the pattern for names is not closed. The fields are {known}.")
    if not _FIELD.search(pattern):
        raise UserProblem("Give the names a field, such as {number}; otherwise all files would be called the same.")
    return pattern


def stem_of(pattern: str, frame: FrameSummary, number: int, shoot: str, scene: str) -> str:
    """The name of one file without its ending."""
    own = Path(frame.file_name).stem
    taken = frame.taken_at or ""
    values = {
        "name": own,
        "shoot": shoot,
        "scene": scene,
        "date": taken[:10] or "no-date",
        "time": taken[11:19].replace(":", "") or "no-time",
        "number": f"{number:04d}",
        "rating": str(frame.rating),
    }
    return file_stem(_FIELD.sub(lambda found: values[found[1]], pattern), f"frame-{frame.id}")


def delivery_names(
    rows: Sequence[FrameSummary],
    suffix: str,
    is_taken: Callable[[str], bool] = lambda _: False,
    pattern: str = PLAIN,
    shoot: str = "",
    scenes: Mapping[int, str] | None = None,
) -> dict[int, str]:
    """A file name for every frame, with the form's ending; equal and taken ones get numbers."""
    used: set[str] = set()
    names = {}
    for place, frame in enumerate(rows, 1):
        first = Path(f"{stem_of(pattern, frame, place, shoot, (scenes or {}).get(frame.scene_id, ''))}{suffix}")
        name, number = first.name, 2
        while name.lower() in used or is_taken(name):
            name, number = numbered(first, number).name, number + 1
        used.add(name.lower())
        names[frame.id] = name
    return names
