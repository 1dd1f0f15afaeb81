"""Lists that come back to a shoot: what a client chose, as ratings; what a hand-over's frames changed, onto them."""

from lenskeep.core.problems import UserProblem
from lenskeep.files.gallery import is_favourites
from lenskeep.store import frames
from lenskeep.studio import deeds
from lenskeep.studio.hand_over import favourites
from lenskeep.studio.hand_over.proof import FORMAT, LIST, parsed_list
from lenskeep.studio.library import Library


def take(library: Library, shoot_id: int, data: bytes, name: str) -> str:
    """Take in a gallery's favourites or a hand-over's list, as one deed; says in words what it did. Raises
    UserProblem.
    """
    if is_favourites(data):
        return favourites.take(library, shoot_id, data, name)
    if FORMAT.encode() not in data:
        raise UserProblem(
            f"{name} is neither a gallery’s favourites nor the list of a hand-over. Choose the file that the gallery "
            f"saved, or the {LIST} that lay beside the files."
        )
    return take_changes(library, shoot_id, data, name)


def take_changes(library: Library, shoot_id: int, data: bytes, name: str) -> str:
    """Frames get base, clean-up, repairs and changes of the look as a list keeps them, known by their originals.

    What stands another way up by now is passed over, since repairs and marks would lie elsewhere. The looks themselves
    stay the scenes' own.
    """
    listed = {f.original.sha256: f for f in parsed_list(data, name).files}
    here = [f for f in frames.summaries(library.db, shoot_id) if f.sha256 in listed]
    if not here:
        raise UserProblem(f"None of the frames in {name} is in this shoot. Is it the {LIST} of another shoot?")
    own = [f.id for f in here if f.turn == listed[f.sha256].original.turn]
    if not own:
        raise UserProblem(f"The frames of {name} stand another way up by now. Turn them as they were, and try again.")
    count = "1 frame" if len(own) == 1 else f"{len(own):,} frames"
    words = f"taking what {name} keeps of {count}"
    deeds.change_repaired(library, shoot_id, own, words, lambda frame: listed[frame.sha256].own)
    turned, lost = len(here) - len(own), len(listed) - len(here)
    told = f"{count} changed as the list has it. Undo takes it back."
    told += f" {turned} stand another way up and stay as they are." if turned else ""
    return told + (f" {lost} of the list are not in this shoot." if lost else "")
