"""What was found on a frame: boxes, skyline, objects, trust. Plain data that every ring understands."""

from collections.abc import Collection
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

Kind = Literal["person", "animal", "thing"]
SUBJECT_KINDS: dict[str, Kind] = {"people": "person", "animals": "animal", "things": "thing"}
"""Masks of one kind of subject, by name."""
MAIN_MASKS = ("subject", "sky")
"""What counts for a frame without a look."""
COVERS = ("greenery", "water", "ground", "rock", "buildings")
"""Ground covers, by the names of their masks."""
OUT_OF_LINE_TRUST = 0.6
DOUBTFUL_BELOW = 0.8
"""Frames and masks under this trust are shown as doubtful."""


def pixel_at(x: float, y: float, shape: tuple[int, ...]) -> tuple[int, int]:
    """(row, column) of a place, 0…1 of width and height, on an array of this shape, held to it."""
    h, w = shape[:2]
    return min(max(int(y * h), 0), h - 1), min(max(int(x * w), 0), w - 1)


class Box(BaseModel):
    """A rectangle in 0…1 of width and height."""

    model_config = ConfigDict(frozen=True, allow_inf_nan=False)
    x0: float
    y0: float
    x1: float
    y1: float

    @property
    def width(self) -> float:
        return self.x1 - self.x0

    @property
    def height(self) -> float:
        return self.y1 - self.y0

    @property
    def middle(self) -> tuple[float, float]:
        return (self.x0 + self.x1) / 2, (self.y0 + self.y1) / 2

    def middle_pixel(self, shape: tuple[int, ...]) -> tuple[int, int]:
        """(row, column) of the middle on an array of this shape, held to it."""
        return pixel_at(*self.middle, shape)


class Skyline(BaseModel):
    """The sky's lower border as a straight line: its height at the left and right edges, 0…1 from the top."""

    model_config = ConfigDict(frozen=True, allow_inf_nan=False)
    left: float
    right: float


class Finding(BaseModel):
    """Trust in one mask, 0…1, with the reasons for doubt in words and the share of the frame it covers. A mask that a
    photographer repaired is trusted, ``by_hand``.
    """

    trust: float = Field(ge=0, le=1)
    area: float = Field(ge=0, le=1)
    reasons: list[str] = []
    by_hand: bool = False

    @property
    def doubtful(self) -> bool:
        return self.trust < DOUBTFUL_BELOW


class Piece(BaseModel):
    """One thing on the frame that a click can take: an object of the subject, or an even piece of what is around it.

    ``label`` is its number on the map of pieces; ``colour`` its mean in OKLab; ``area`` its share of the frame.
    """

    label: int = Field(ge=1, le=255)
    kind: str
    box: Box
    area: float = Field(ge=0, le=1)
    colour: tuple[float, float, float]

    @property
    def is_object(self) -> bool:
        return self.kind in ("person", "animal", "thing")


class Face(BaseModel):
    """A face: the box around it, how sure the finder is, 0…1, and where its eyes and mouth are, x and y as shares of
    the frame; none with finders before the sixth.
    """

    box: Box
    score: float = Field(ge=0, le=1)
    eyes: tuple[tuple[float, float], ...] = ()
    mouth: tuple[float, float] | None = None


class Facts(BaseModel):
    """Everything found on a frame besides the masks themselves. Boxes and skyline are None where nothing was found."""

    detector: str
    width: int
    height: int
    subject_box: Box | None = None
    skyline: Skyline | None = None
    subject: Finding
    sky: Finding
    areas: dict[str, float] = {}
    """Share of the frame covered by each further mask: kinds of subject, ground covers, skin, face."""
    pieces: list[Piece] = []
    faces: list[Face] = []
    others: dict[str, Finding] = {}
    """Trust in each further mask, by name."""
    out_of_line: str = ""
    """How the subject differs from those of the frames taken just before and after, in words; "" where it does not."""

    def finding(self, mask: str) -> Finding | None:
        """Trust in one mask; None where it was not looked for. A subject out of line with those of the frames around it
        is doubtful, and so are its kinds.
        """
        own = {"subject": self.subject, "sky": self.sky}.get(mask) or self.others.get(mask)
        of_subject = mask == "subject" or mask in SUBJECT_KINDS
        if own is None or not self.out_of_line or not of_subject or own.by_hand:
            return own
        reasons = [self.out_of_line, *(own.reasons if own.doubtful else [])]
        return own.model_copy(update={"trust": min(own.trust, OUT_OF_LINE_TRUST), "reasons": reasons})

    def doubts(self) -> dict[str, Finding]:
        """The masks that are doubtful, whether or not a look uses them."""
        every = {name: self.finding(name) for name in (*MAIN_MASKS, *self.others)}
        return {name: one for name, one in every.items() if one is not None and one.doubtful}

    def trust_for(self, used: Collection[str]) -> float:
        """The lowest trust among the masks that are used; 1 without any."""
        found = [one.trust for name in used if (one := self.finding(name)) is not None]
        return min(found, default=1.0)

    def reasons_for(self, used: Collection[str]) -> list[str]:
        """Why a frame is doubtful: the reasons of the masks that are. Those of trusted masks would only confuse."""
        doubts = self.doubts()
        return list(dict.fromkeys(words for name in doubts if name in used for words in doubts[name].reasons))

    @property
    def trust(self) -> float:
        """The lower of subject's and sky's trust: what counts before a look says which masks it uses."""
        return self.trust_for(MAIN_MASKS)

    @property
    def doubtful(self) -> bool:
        return self.trust < DOUBTFUL_BELOW

    @property
    def reasons(self) -> list[str]:
        return self.reasons_for(MAIN_MASKS)

    @property
    def objects(self) -> list[Piece]:
        """The objects that make up the subject, the largest first."""
        return sorted((p for p in self.pieces if p.is_object), key=lambda p: -p.area)

    @property
    def largest_face(self) -> Box | None:
        """The box of the largest face of a person."""
        boxes = sorted((f.box for f in self.faces), key=lambda b: -b.width * b.height)
        return boxes[0] if boxes else None

    @property
    def middles(self) -> list[tuple[float, float]]:
        """Where one looks first: the middles of the faces, the largest first; without one, those of the subject's
        objects, or its own.
        """
        faces = sorted((f.box for f in self.faces), key=lambda b: -b.width * b.height)
        subject = [self.subject_box] if self.subject_box else []
        return [box.middle for box in faces or [p.box for p in self.objects] or subject]

    def area(self, mask: str) -> float:
        """Share of the frame that a mask covers; 0 where it was not found."""
        if mask == "subject":
            return self.subject.area if self.subject_box is not None else 0.0
        return self.sky.area if mask == "sky" else self.areas.get(mask, 0.0)
