"""What a scene holds: meshes with a material and the subject they belong to, lights, a sky, and a camera."""

from dataclasses import dataclass, field

import numpy as np

from tools.photos.mesh import Mesh
from tools.photos.skies import Sky

LONG_SIDE, SHORT_SIDE = 1600, 1067


@dataclass(frozen=True)
class Camera:
    """A thin lens: field of view across the long side in degrees, radius of the aperture and distances in metres."""

    eye: tuple[float, float, float]
    target: tuple[float, float, float]
    view: float
    aperture: float
    focus: float
    upright: bool = False
    roll: float = 0.0

    @classmethod
    def focused(cls, eye, target, view, aperture, sharp_at=None, **more):
        """Focused on ``sharp_at``, a face that comes forward, or on the middle of the frame."""
        return cls(eye, target, view, aperture, float(np.linalg.norm(np.subtract(sharp_at or target, eye))), **more)

    def size(self):
        return (SHORT_SIDE, LONG_SIDE) if self.upright else (LONG_SIDE, SHORT_SIDE)

    def horizon(self):
        """Row of the horizon at the frame's left and right edge, as shares of its height (0 top, may lie outside)."""
        width, height = self.size()
        ahead = np.subtract(self.target, self.eye)
        ahead = ahead / np.linalg.norm(ahead)
        focal = 0.5 * max(width, height) / np.tan(np.radians(self.view) / 2)
        middle = 0.5 + ahead[2] / np.hypot(ahead[0], ahead[1]) * focal / height
        slope = np.tan(np.radians(self.roll)) * width / height / 2
        return float(middle - slope), float(middle + slope)


@dataclass(frozen=True)
class Thing:
    """One mesh; ``subject`` is "" for surroundings, else a kind and a number as in "animal 1"."""

    mesh: Mesh
    material: str
    subject: str
    smooth: bool


@dataclass(frozen=True)
class Lamp:
    """A ball (``size`` its radius) or, where it looks ``towards`` somewhere, a square of half-width ``size``."""

    position: tuple[float, float, float]
    size: float
    radiance: tuple[float, float, float]
    towards: tuple[float, float, float] | None = None


@dataclass
class Scene:
    camera: Camera
    sky: Sky | tuple[float, float, float]
    things: list[Thing] = field(default_factory=list)
    lamps: list[Lamp] = field(default_factory=list)

    def add(self, mesh, material="matte", subject="", smooth=True):
        self.things.append(Thing(mesh, material, subject, smooth))

    def subjects(self):
        """Names of the subjects in the order they were added."""
        return list(dict.fromkeys(thing.subject for thing in self.things if thing.subject))
