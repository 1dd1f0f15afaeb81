"""What was found under a point of a frame: this person, the sky, this patch; and everything that was found."""

from collections.abc import Iterator
from dataclasses import asdict, dataclass
from typing import Any

import cv2
import numpy as np

from lenskeep.core.facts import COVERS, SUBJECT_KINDS, Piece, pixel_at
from lenskeep.core.regions import Part
from lenskeep.core.regions.base import Found
from lenskeep.core.regions.contours import contour_paths
from lenskeep.core.regions.kinds.covers import Covers
from lenskeep.core.regions.kinds.picked import Pick, Picked
from lenskeep.core.regions.kinds.sky import Sky
from lenskeep.core.regions.kinds.subject import Subject
from lenskeep.core.regions.pieces import piece_alpha, piece_at
from lenskeep.core.types import Alpha
from lenskeep.store import scenes
from lenskeep.studio.bench.stage import KEY_SIDE, Stage
from lenskeep.studio.library import Library

PLURAL: dict[str, str] = {one: many for many, one in SUBJECT_KINDS.items()}
NAMES = {"rock": "rock and hills", "people": "all people", "animals": "all animals", "things": "all things"}
LEAST_SHARE = 0.002
"""Less of the frame than this is not offered in the list of what was found."""
MOST_OBJECTS = 12


@dataclass(frozen=True)
class Under:
    """What a point means. ``one`` says that it is this one and not its whole kind; ``other`` whether the same point can
    mean the other of the two. ``share`` is of the frame, 0…1; ``path`` its outline as SVG path data in a box 1000 wide.
    ``mask`` is the kind's name, "" for a single patch.
    """

    id: str
    name: str
    share: float
    path: str
    one: bool
    other: bool
    mask: str
    x: float
    y: float


def under(stage: Stage, frame_id: int, x: float, y: float, one: bool | None = None) -> dict[str, Any] | None:
    """What lies under (x, y), 0…1; None where nothing was told apart. An object is meant by itself, all else as its
    kind, unless ``one`` says which.
    """
    with stage.at_work(frame_id, KEY_SIDE) as staged:
        found = _under(staged.frame.found, x, y, one)
        return None if found is None else asdict(found)


def everything(stage: Stage, frame_id: int) -> list[dict[str, Any]]:
    """The objects of a frame, the largest first, then the kinds that were found on it."""
    with stage.at_work(frame_id, KEY_SIDE) as staged:
        found = staged.frame.found
        out = [_of_piece(found, p, *_inside(piece_alpha(found, p))) for p in found.facts.objects[:MOST_OBJECTS]]
        for mask in _kinds(found):
            alpha = found.mask(mask)
            if float(alpha.mean()) >= LEAST_SHARE:
                out.append(_of_kind(found, mask, *_inside(alpha), False))
        return [asdict(each) for each in out]


def frames_with(library: Library, scene_id: int) -> dict[str, Any]:
    """{"of": frames with masks in the Bench's scene, "with": {mask: on how many of them it was found}}."""
    return scenes.frames_with_masks(library.db, scene_id)


def parts_of(stage: Stage, frame_id: int, points: list[tuple[float, float, bool, bool]]) -> list[Part]:
    """Points (x, y, one, away) as parts of a region, in order; single things that follow each other become one part.

    Kinds are found anew on each frame; single things are found again by their likeness.
    """
    with stage.at_work(frame_id, KEY_SIDE) as staged:
        found = staged.frame.found
        parts: list[Part] = []
        for x, y, one, away in points:
            each = _under(found, x, y, one)
            piece = piece_at(found, x, y)
            if each is None or (each.one and piece is None):
                continue
            if each.one and piece is not None:
                pick = Pick(frame=found.key, x=x, y=y, away=away and bool(parts), piece=piece)
                if parts and isinstance(parts[-1], Picked):
                    parts[-1] = parts[-1].model_copy(update={"picks": [*parts[-1].picks, pick]})
                elif not away or not parts:
                    parts.append(Picked.fresh(picks=[pick], invert=away))
                else:
                    alone = pick.model_copy(update={"away": False})
                    parts.append(Picked.fresh(picks=[alone], combine="take away"))
                continue
            part = _part(each.mask)
            if away:
                part = part.model_copy(update={"combine": "take away"} if parts else {"invert": True})
            parts.append(part)
        return parts


def _part(mask: str) -> Part:
    if mask == "sky":
        return Sky()
    if mask in SUBJECT_KINDS:
        return Subject.model_validate({"which": mask})
    return Covers.model_validate({name: name == mask for name in COVERS})


def _kinds(found: Found) -> Iterator[str]:
    """The kinds that can be meant and are on the frame, by the names of their masks."""
    areas = found.facts.areas
    yield from (mask for mask in SUBJECT_KINDS if areas.get(mask, 0.0) > 0.0)
    if found.facts.sky.area > 0.0:
        yield "sky"
    yield from (mask for mask in COVERS if areas.get(mask, 0.0) > 0.0)


def _under(found: Found, x: float, y: float, one: bool | None) -> Under | None:
    piece = piece_at(found, x, y)
    mask = _kind_at(found, x, y, piece)
    if piece is None and not mask:
        return None
    single = piece is not None and (piece.is_object or not mask) if one is None else one
    if piece is not None and (single or not mask):
        return _of_piece(found, piece, x, y, bool(mask))
    return _of_kind(found, mask, x, y, piece is not None)


def _kind_at(found: Found, x: float, y: float, piece: Piece | None) -> str:
    """The mask of the kind under a point: an object's own kind, else the strongest of those over one half; or ""."""
    if piece is not None and piece.is_object:
        return PLURAL[piece.kind] if found.facts.areas.get(PLURAL[piece.kind], 0.0) > 0.0 else ""
    at = pixel_at(x, y, found.shape)
    best = max(_kinds(found), key=lambda mask: float(found.mask(mask)[at]), default="")
    return best if best and float(found.mask(best)[at]) >= 0.5 else ""


def _of_piece(found: Found, piece: Piece, x: float, y: float, other: bool = True) -> Under:
    known = NAMES.get(piece.kind, piece.kind)
    patch = "this patch" if piece.kind == "area" else f"this patch of {known}"
    name = f"this {piece.kind}" if piece.is_object else patch
    path = contour_paths(piece_alpha(found, piece))["50"]
    mask = PLURAL.get(piece.kind, "") if piece.is_object else ""
    return Under(f"piece-{piece.label}", name, piece.area, path, True, other, mask, x, y)


def _of_kind(found: Found, mask: str, x: float, y: float, other: bool) -> Under:
    alpha = found.mask(mask)
    path = contour_paths(alpha)["50"]
    return Under(f"kind-{mask}", NAMES.get(mask, mask), float(alpha.mean()), path, False, other, mask, x, y)


def _inside(alpha: Alpha) -> tuple[float, float]:
    """A point well inside a mask, 0…1."""
    h, w = alpha.shape
    deep = cv2.distanceTransform((alpha >= 0.5).astype(np.uint8), cv2.DIST_L2, 3)
    row, column = np.unravel_index(int(np.argmax(deep)), deep.shape)
    return (int(column) + 0.5) / w, (int(row) + 0.5) / h
