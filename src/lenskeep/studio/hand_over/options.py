"""What leaves at a hand-over, in which form and under which names; and which frames these are."""

from collections.abc import Sequence
from typing import Literal

from pydantic import BaseModel, Field, field_validator

from lenskeep.core.adjust.finish.text_mark import Place, TextMark
from lenskeep.core.assets import AssetKey
from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.problems import UserProblem
from lenskeep.files.writing import FORMS
from lenskeep.files.writing.fields import NOTHING_SAID, Said
from lenskeep.files.writing.jpeg import JPEG
from lenskeep.store.frames import FrameSummary
from lenskeep.studio.hand_over.names import PLAIN, check_pattern

MARK_OPACITY = 75.0
Sharpening = Literal["", "screen", "paper"]


class DeliveryOptions(BaseModel):
    """What leaves, in which form. ``folder`` None means a ZIP to be downloaded; ``rejected`` frames leave only where
    that is asked for. Without ``frames`` and ``scenes`` all leave; ``rating`` is the least that one must have,
    ``trusted`` leaves those with doubtful masks behind. ``gallery`` adds pages that a client opens, ``contact`` a PDF
    of contact sheets, ``masks`` every mask of each frame and the recipes of the look, for going on elsewhere. ``mark``
    is a text laid over every picture, ``logo`` the asset of a picture that is, ``logo_size`` its height in per cent of
    the long side.
    """

    quality: int = Field(default=92, ge=40, le=100)
    long_side: int | None = Field(default=None, ge=200, le=20000)
    space: OutputSpace = "srgb"
    form: str = JPEG.name
    folder: str | None = None
    rejected: bool = False
    frames: list[int] | None = Field(default=None, max_length=20_000)
    scenes: list[int] | None = Field(default=None, max_length=2_000)
    rating: int = Field(default=0, ge=0, le=5)
    trusted: bool = False
    names: str = PLAIN
    sharpen: Sharpening = ""
    said: Said = NOTHING_SAID
    gallery: bool = False
    contact: bool = False
    masks: bool = False
    mark: str = Field(default="", max_length=80)
    mark_place: Place = "bottom right"
    logo: AssetKey = ""
    logo_name: str = Field(default="", max_length=120)
    logo_place: Place = "bottom left"
    logo_size: float = Field(default=6.0, ge=0.5, le=30.0)

    @field_validator("form")
    @classmethod
    def _is_known(cls, form: str) -> str:
        if form not in FORMS:
            raise ValueError("choose one of the forms that are offered")
        return form

    @field_validator("names")
    @classmethod
    def _is_pattern(cls, names: str) -> str:
        try:
            return check_pattern(names)
        except UserProblem as problem:
            raise ValueError(str(problem)) from problem


def marks_of(options: DeliveryOptions) -> tuple[TextMark, ...]:
    """Text and logo to be laid over every picture, as the adjustments that do it."""
    out = []
    if options.mark.strip():
        out.append(TextMark(id="mark", opacity=MARK_OPACITY, text=options.mark, place=options.mark_place))
    if options.logo:
        held, place, size = options.logo, options.logo_place, options.logo_size
        out.append(TextMark(id="logo", opacity=100.0, picture=held, place=place, size=size))
    return tuple(out)


def leaving(options: DeliveryOptions, rows: Sequence[FrameSummary]) -> list[FrameSummary]:
    """Those of a shoot's frames with masks that leave. Raises UserProblem, which says why, when none do."""
    if not rows:
        raise UserProblem("No frame of this shoot is ready yet. Let the finding end first.")
    some = None if options.frames is None else set(options.frames)
    chosen = [f for f in rows if some is None or f.id in some]
    chosen = [f for f in chosen if options.scenes is None or f.scene_id in options.scenes]
    if not chosen:
        raise UserProblem("None of the chosen frames is ready. Choose others, or let the finding end first.")
    kept = [f for f in chosen if options.rejected or not f.rejected]
    if not kept:
        which = "of this shoot is" if options.frames is None and options.scenes is None else "that was chosen is"
        raise UserProblem(f"Every frame {which} rejected. Tick that rejected ones leave, too.")
    rated = [f for f in kept if f.rating >= options.rating]
    if not rated:
        raise UserProblem(f"No frame is rated {options.rating} or better. Rate some on the wall, or ask for less.")
    sure = [f for f in rated if not options.trusted or f.accepted or not f.doubtful]
    if not sure:
        raise UserProblem("Every one of these frames has doubtful masks. Check them first, or let them leave too.")
    return sure
