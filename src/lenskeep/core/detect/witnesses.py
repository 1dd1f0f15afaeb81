"""What else is known of a box: how much saliency saw in it, a face, what the class head and the pose network say."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from lenskeep.core.detect.boxes import Detected, within
from lenskeep.core.detect.figures import posed
from lenskeep.core.detect.objects import Looked, animal_on
from lenskeep.core.facts import Face
from lenskeep.core.types import SRGB8, Alpha, GraphNetwork

FURRY = 0.8
"""A person's box without a face that the class head takes for an animal by this much is one."""
PAD = 0.08
"""What the class head sees around a box, in its longer sides."""
HEAD_HIGH, HEAD_LARGE, HEAD_OUT = 0.45, 0.08, 0.3
"""Somebody's own face lies in this upper share of their box, is this share of its height at least, and reaches out of
it by no more than this share of its own."""


@dataclass(frozen=True)
class Asked:
    """Whom to ask about boxes of a picture: its first ``guess`` at the subject, people's ``faces``, the networks."""

    image: SRGB8
    guess: Alpha
    faces: Sequence[Face]
    looked: Looked
    pose: GraphNetwork


class Witnessed:
    """A box with what its witnesses say. Networks are asked when their answer is wanted, and only once."""

    def __init__(self, one: Detected, asked: Asked) -> None:
        self.one, self._asked = one, asked

    @cached_property
    def salient(self) -> float:
        """Share of the box that saliency took."""
        return float((self._asked.guess[within(self.one.box, self._asked.guess.shape, 0)] > 0.5).mean())

    @cached_property
    def share(self) -> float:
        """Share of all that saliency took that lies in the box."""
        taken = self._asked.guess > 0.5
        return float(taken[within(self.one.box, taken.shape, 0)].sum() / max(int(taken.sum()), 1))

    @cached_property
    def face(self) -> bool:
        """Whether somebody's face lies in the box."""
        x0, y0, x1, y1 = self.one.box
        return any(x0 < x < x1 and y0 < y < y1 for x, y in map(self._middle, self._asked.faces))

    def _middle(self, face: Face) -> tuple[float, float]:
        """Of a face, in pixels."""
        h, w = self._asked.guess.shape
        return face.box.middle[0] * w, face.box.middle[1] * h

    @cached_property
    def _class(self) -> tuple[float, float]:
        cut = self._asked.image[within(self.one.box, self._asked.image.shape, PAD)]
        return animal_on(cut, self._asked.looked)

    @property
    def animal(self) -> float:
        """Probability that the box shows an animal, by the class head."""
        return self._class[0]

    @property
    def place(self) -> float:
        """The same at its surest place."""
        return self._class[1]

    @property
    def beast(self) -> bool:
        """Whether what was taken for a person is an animal."""
        return not self.face and self.animal > FURRY

    @cached_property
    def _pose(self) -> tuple[Alpha, float]:
        return posed(self._asked.image, self.one.box, self._asked.pose)

    @property
    def figure(self) -> Alpha:
        """The pose network's figure, (h, w) 0…1."""
        return self._pose[0]

    @property
    def presence(self) -> float:
        """Probability that there is a person, by the pose network."""
        return self._pose[1]

    def owns(self, face: Face) -> bool:
        """Whether a face may be that of the person in this box."""
        h = self._asked.guess.shape[0]
        x, y = self._middle(face)
        x0, y0, x1, y1 = (float(v) for v in self.one.box)
        tall, top = face.box.height * h, face.box.y0 * h
        high = y0 - HEAD_OUT * tall < top and y < y0 + HEAD_HIGH * (y1 - y0)
        return x0 < x < x1 and high and tall > HEAD_LARGE * (y1 - y0)

    def off(self, face: Face) -> float:
        """How far a face lies from the box's middle line, in widths of the box."""
        x0, _, x1, _ = (float(v) for v in self.one.box)
        return abs(self._middle(face)[0] - (x0 + x1) / 2) / (x1 - x0)


def without_owner(faces: Sequence[Face], people: Sequence[Witnessed]) -> list[Face]:
    """Faces that nobody has for their own, each having one: that which lies nearest to their box's middle."""
    free, left = list(people), []
    for face in faces:
        fitting = [p for p in free if p.owns(face)]
        if fitting:
            free.remove(min(fitting, key=lambda p: p.off(face)))
        else:
            left.append(face)
    return left
