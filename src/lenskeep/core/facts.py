"""What was found on a frame: boxes, skyline, trust. Plain data that every ring understands."""

from pydantic import BaseModel, ConfigDict, Field


class Box(BaseModel):
    """A rectangle in 0…1 of width and height."""

    model_config = ConfigDict(frozen=True)
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


class Skyline(BaseModel):
    """The sky's lower border as a straight line: its height at the left and right edges, 0…1 from the top."""

    model_config = ConfigDict(frozen=True)
    left: float
    right: float


class Finding(BaseModel):
    """Trust in one mask, 0…1, with the reasons for doubt in words and the share of the frame it covers."""

    trust: float = Field(ge=0, le=1)
    area: float = Field(ge=0, le=1)
    reasons: list[str] = []


class Facts(BaseModel):
    """Everything found on a frame besides the masks themselves. Boxes and skyline are None where nothing was found."""

    detector: str
    width: int
    height: int
    subject_box: Box | None = None
    skyline: Skyline | None = None
    subject: Finding
    sky: Finding

    @property
    def trust(self) -> float:
        """The lower of the two masks' trust."""
        return min(self.subject.trust, self.sky.trust)

    @property
    def reasons(self) -> list[str]:
        return [*self.subject.reasons, *self.sky.reasons]
