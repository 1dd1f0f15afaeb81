"""What a client chose in a gallery, as ratings of the shoot's frames."""

from collections.abc import Iterable

from lenskeep.core.problems import UserProblem
from lenskeep.store import frames
from lenskeep.studio import many
from lenskeep.studio.library import Library

RATING = 5


def take(library: Library, shoot_id: int, ticked: Iterable[str], name: str) -> str:
    """Rate the frames that a client ticked, by the sums of their originals, as one deed; says in words how many. Raises
    UserProblem.
    """
    chosen = set(ticked)
    own = [f for f in frames.summaries(library.db, shoot_id) if f.sha256 in chosen]
    if not own:
        raise UserProblem(f"None of the favourites in {name} is in this shoot. Is it another shoot’s list?")
    many.do(library, shoot_id, [f.id for f in own], many.Rate(what="rate", rating=RATING))
    lost = len(chosen - {f.sha256 for f in own})
    words = f"{len(own)} {'frame is' if len(own) == 1 else 'frames are'} rated {RATING} now, as the client chose."
    return f"{words} {lost} of the list are not in this shoot." if lost else words
