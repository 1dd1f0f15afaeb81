"""Lists that come back to a shoot: what a client chose, as ratings; what a hand-over's frames changed, onto them.

They come from outside: read in a process that may die (``studio.untrusted``), and what is wrong with one frame's entry
costs that frame alone.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from lenskeep.core.clean.models import Cloned
from lenskeep.core.problems import UserProblem, validation_words
from lenskeep.files.gallery import favourites as chosen_in
from lenskeep.files.gallery import is_favourites
from lenskeep.store import frames
from lenskeep.studio import deeds, untrusted
from lenskeep.studio.hand_over import favourites
from lenskeep.studio.hand_over.proof import FORMAT, LIST, Listed, plain_list
from lenskeep.studio.library import Library

MOST_BYTES = 40_000_000
"""Of a list that is taken in on a page."""


@dataclass(frozen=True)
class ComingBack:
    """``chosen``: the originals' sums that a client ticked, None for a hand-over's list; ``files`` are its entries, by
    the originals' sums, ``refused`` (file, why) those that can't be used.
    """

    chosen: tuple[str, ...] | None = None
    files: dict[str, Listed] = field(default_factory=dict)
    refused: tuple[tuple[str, str], ...] = ()


def read(data: bytes, name: str) -> ComingBack:
    """What is in a file. Raises UserProblem where it is none of these as a whole."""
    if is_favourites(data):
        return ComingBack(chosen=tuple(chosen_in(data, name)))
    if FORMAT.encode() not in data:
        raise UserProblem(
            f"{name} is neither a gallery’s favourites nor the list of a hand-over. Choose the file that the gallery "
            f"saved, or the {LIST} that lay beside the files."
        )
    files: dict[str, Listed] = {}
    refused = []
    for entry in plain_list(data, name):
        try:
            one = Listed.model_validate(entry)
            files[one.original.sha256] = one
        except ValidationError as error:
            refused.append((_called(entry), validation_words(error, whole_place=True)))
    if refused and not files:
        raise UserProblem(f"{name} can't be used: {refused[0][0]}: {refused[0][1]}")
    return ComingBack(files=files, refused=tuple(refused))


def _called(entry: Any) -> str:
    return str(entry.get("file", "an entry"))[:120] if isinstance(entry, dict) else "an entry"


def take(library: Library, shoot_id: int, path: Path, name: str) -> str:
    """Take in a gallery's favourites or a hand-over's list, as one deed; says in words what it did. Raises
    UserProblem.
    """
    found = untrusted.list_of_upload(path, name)
    if found.chosen is not None:
        return favourites.take(library, shoot_id, found.chosen, name)
    return take_changes(library, shoot_id, found, name)


def take_changes(library: Library, shoot_id: int, found: ComingBack, name: str) -> str:
    """Frames get base, clean-up, repairs and changes of the look as a list keeps them, known by their originals.

    What stands another way up by now is passed over, since repairs and marks would lie elsewhere; so is what needs
    something that is not in the library. The looks themselves stay the scenes' own.
    """
    listed, refused = found.files, list(found.refused)
    here = [f for f in frames.summaries(library.db, shoot_id) if f.sha256 in listed]
    if not here:
        raise UserProblem(f"None of the frames in {name} is in this shoot. Is it the {LIST} of another shoot?")
    upright = [f.id for f in here if f.turn == listed[f.sha256].original.turn]
    if not upright:
        raise UserProblem(f"The frames of {name} stand another way up by now. Turn them as they were, and try again.")
    own = []
    for frame in here:
        lacks = next(_lacking(library, shoot_id, listed[frame.sha256]), "")
        if frame.id in upright and lacks:
            refused.append((frame.file_name, lacks))
        elif frame.id in upright:
            own.append(frame.id)
    count = "1 frame" if len(own) == 1 else f"{len(own):,} frames"
    words = f"taking what {name} keeps of {count}"
    deeds.change_repaired(library, shoot_id, own, words, lambda frame: listed[frame.sha256].own)
    turned, lost = len(here) - len(upright), len(listed) - len(here)
    told = f"{count} changed as the list has it. Undo takes it back."
    told += f" {turned} stand another way up and stay as they are." if turned else ""
    told += f" {lost} of the list are not in this shoot." if lost else ""
    few = "; ".join(f"{file}: {why}" for file, why in refused[:3])
    return told + (f" {len(refused)} could not be used: {few}{' …' if len(refused) > 3 else ''}." if refused else "")


def _lacking(library: Library, shoot_id: int, one: Listed) -> Iterator[str]:
    """What a frame's changes need and this library does not have, in words."""
    for steps in one.own.own:
        for key in steps.recipe.assets():
            if not library.has_asset(key):
                yield f"a picture or table of “{steps.recipe.name}” is not in this library"
    for mark in one.own.clean.done:
        if isinstance(mark, Cloned) and mark.frame and frames.with_content(library.db, shoot_id, mark.frame) is None:
            yield "a mark takes from a frame that is not in this shoot"
