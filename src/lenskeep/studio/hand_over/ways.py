"""Named ways of delivery: "web", "print", "album"; several in one go, each into a folder of its own."""

from collections.abc import Sequence
from pathlib import Path

from pydantic import ValidationError

from lenskeep.core.names import file_stem, shown_name
from lenskeep.core.problems import UserProblem
from lenskeep.store import ways as kept
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.hand_over.options import DeliveryOptions
from lenskeep.studio.library import Library

MOST = 24
OF_ONE = {"folder", "frames", "scenes", "rating", "trusted", "rejected", "said"}
"""What belongs to one hand-over, and is no part of a way."""


def ways(library: Library) -> dict[str, DeliveryOptions]:
    """All that can be read, by their names."""
    out = {}
    for name, text in kept.ways(library.db).items():
        try:
            out[name] = DeliveryOptions.model_validate_json(text)
        except ValidationError:
            continue  # of a later version; it stays
    return out


def keep(library: Library, name: str, options: DeliveryOptions) -> str:
    """Keep the options of a hand-over as a way; returns its name. Raises UserProblem."""
    shown = shown_name(name)[:40]
    if not shown:
        raise UserProblem("Give the way of delivery a name, such as web or print.")
    known = kept.ways(library.db)
    if shown not in known and len(known) >= MOST:
        raise UserProblem(f"{MOST} ways of delivery are kept at most. Forget one first.")
    kept.keep(library.db, shown, options.model_dump_json(exclude=OF_ONE))
    return shown


def queue(library: Library, shoot_id: int, names: Sequence[str], options: DeliveryOptions) -> list[int]:
    """Queue a hand-over by each of these ways: the frames that ``options`` choose, into a folder of the way's name
    within its folder, or each as a ZIP; returns the jobs. Raises UserProblem, and then none is queued.
    """
    known = ways(library)
    if gone := [name for name in names if name not in known]:
        raise UserProblem(f"There is no way of delivery “{gone[0]}” any more. Reload the page.")
    own = options.model_dump(include=OF_ONE - {"folder"})
    out = []
    with library.db.writing():
        for name in names:
            folder = str(Path(options.folder) / file_stem(name, "way")) if options.folder else None
            way = known[name].model_copy(update={**own, "folder": folder, "said": options.said})
            out.append(
                deliver.queue_delivery(library, shoot_id, DeliveryOptions.model_validate(way.model_dump()), name)
            )
    return out


def words(options: DeliveryOptions) -> str:
    """What a way does, in a few words."""
    size = f"{options.long_side} px" if options.long_side else "full size"
    more = [f"for {'screens' if options.sharpen == 'screen' else 'paper'}"] if options.sharpen else []
    more += ["logo"] if options.logo else []
    more += ["gallery"] if options.gallery else []
    more += ["contact sheets"] if options.contact else []
    return ", ".join([options.form, size, *more])
