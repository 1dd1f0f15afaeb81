"""The scenes of a shoot as a whole: their frames, bursts and key frames, as the command line tells them."""

from dataclasses import dataclass

from lenskeep.core.problems import UserProblem
from lenskeep.store import frames, scenes
from lenskeep.store.frames import FrameSummary
from lenskeep.store.scenes import Scene
from lenskeep.studio.library import Library

NO_FRAMES = "No frame of this shoot has masks yet. Find them first: lenskeep find SHOOT."


@dataclass(frozen=True)
class FoundScene:
    """A scene and its frames with masks, in order; ``bursts`` holds those of a burst by their ids, two or more each."""

    scene: Scene
    frames: tuple[FrameSummary, ...]
    bursts: tuple[tuple[int, ...], ...]

    @property
    def key(self) -> FrameSummary | None:
        return next((f for f in self.frames if f.id == self.scene.key_frame_id), None)


def found_scenes(library: Library, shoot_id: int) -> list[FoundScene]:
    """The scenes that have frames, in order, with those that have masks. Raises UserProblem without any."""
    rows = [f for f in frames.summaries(library.db, shoot_id) if f.found]
    if not rows:
        raise UserProblem(NO_FRAMES)
    out = []
    for scene in scenes.shown(library.db, shoot_id):
        own = tuple(f for f in rows if f.scene_id == scene.id)
        numbers = dict.fromkeys(f.burst for f in own if f.burst)
        out.append(FoundScene(scene, own, tuple(tuple(f.id for f in own if f.burst == n) for n in numbers)))
    return out
