"""Breeds of dogs and poses they stand, sit, lie or run in; lengths are shares of the height at the withers."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Breed:
    """Measures as shares of the height at the withers, ``height`` in metres."""

    height: float = 0.40
    length: float = 0.98
    chest: float = 0.195
    waist: float = 0.145
    limb: float = 1.0
    skull: float = 0.128
    muzzle: float = 0.19
    snout: float = 0.062
    ears: str = "folded"
    tail: str = "up"

    @property
    def front(self):
        """How far before the skull's middle the muzzle begins."""
        return self.skull * 0.86 + 0.03


@dataclass(frozen=True)
class Pose:
    """``hip`` and ``tilt`` (degrees, chest up) place the trunk; paws are (x, z) from the middle, front and hind."""

    hip: tuple[float, float] = (-0.40, 0.80)
    tilt: float = 2.0
    fore: tuple[tuple[float, float], tuple[float, float]] = ((0.40, 0.0), (0.34, 0.0))
    hind: tuple[tuple[float, float], tuple[float, float]] = ((-0.52, 0.0), (-0.62, 0.0))
    neck: float = 52.0
    head_turn: float = 0.0
    head_nod: float = -8.0
    head_tilt: float = 0.0
    jaw: float = 16.0
    hock_back: float = 0.10
    spread: float = 1.0


STAND = Pose()
SIT = Pose(
    hip=(-0.24, 0.25),
    tilt=43,
    fore=((0.34, 0), (0.30, 0)),
    hind=((-0.05, 0), (-0.02, 0)),
    neck=54,
    hock_back=0.34,
    spread=1.25,
)
LIE = Pose(
    hip=(-0.42, 0.25),
    tilt=6,
    fore=((0.86, 0), (0.80, 0)),
    hind=((-0.12, 0), (-0.10, 0)),
    neck=62,
    hock_back=0.33,
    spread=1.2,
)
TROT = Pose(
    hip=(-0.40, 0.82),
    tilt=1,
    fore=((0.74, 0.10), (0.20, 0.0)),
    hind=((-0.26, 0.02), (-0.84, 0.04)),
    neck=40,
    head_nod=-2,
    jaw=20,
    hock_back=0.13,
)
BOW = Pose(
    hip=(-0.36, 0.82),
    tilt=-28,
    fore=((0.66, 0), (0.60, 0)),
    hind=((-0.46, 0), (-0.54, 0)),
    neck=58,
    head_nod=-4,
    jaw=20,
)
