"""Which finished picture every frame wants: worked out whenever its look or its own changes change, and kept."""

from functools import lru_cache

from pydantic import ValidationError

from lenskeep.core.facts import MAIN_MASKS
from lenskeep.core.plan import Plan, plan_of
from lenskeep.core.recipes.keys import content_key
from lenskeep.core.recipes.layers import masks_used
from lenskeep.core.recipes.overrides import UNCHANGED, FrameOverride
from lenskeep.core.versions import ALIKE, DETECTOR, PLANS
from lenskeep.store import findings, finished, looks
from lenskeep.store.bodies import UnreadableRecipe
from lenskeep.store.database import Database
from lenskeep.store.frames import FrameSummary, content_of
from lenskeep.store.looks import NO_LOOK, Look


class Wanting:
    """What frames should look like under one look: its recipes are read once for all of them, and frames that change
    the same of it share their plan.
    """

    def __init__(self, look: Look) -> None:
        """Raises UnreadableRecipe."""
        layers = look.stack()

        @lru_cache(maxsize=64)
        def planned(override: str) -> tuple[Plan, str]:
            plan = plan_of(layers, read_override(override))
            return plan, plan.key()

        self._planned = planned

    def _plan(self, override: FrameOverride) -> tuple[Plan, str]:
        """The plan and its key; repairs and base, which may be each frame's own, are none of its matter."""
        return self._planned("{}" if override.keeps_look else override.of_look().model_dump_json())

    def plan(self, override: FrameOverride) -> Plan:
        return self._plan(override)[0]

    def key(self, content: str, override: FrameOverride, found_by: str) -> str:
        """The key of the finished picture of a frame with this content and override, whose masks these detectors found
        ("": those of today will find them).
        """
        plan, own = self._plan(override)[1], override.key()
        return content_key(ALIKE, found_by or DETECTOR, content, content_key(plan, own) if own else plan)

    def key_by_text(self, content: str, override: str, found_by: str) -> str:
        return self.key(content, UNCHANGED if override == "{}" else read_override(override), found_by)


class Wants:
    """Which pictures frames want, with the look of each scene read once for all of its frames."""

    def __init__(self, db: Database) -> None:
        self._db = db
        self._by_scene: dict[int, tuple[Look | None, Wanting | None]] = {}

    def key(self, frame: FrameSummary, override: FrameOverride) -> str:
        """The key of the picture that a frame wants with this override; "" without a look and a base, "?" where the
        look can't be read.
        """
        if frame.scene_id not in self._by_scene:
            look = looks.look(self._db, frame.scene_id)
            unread = look is not None and look.unreadable
            self._by_scene[frame.scene_id] = (look, None if unread else Wanting(look or NO_LOOK))
        look, want = self._by_scene[frame.scene_id]
        if want is None:
            return "?"
        return "" if look is None and not override.draws else want.key(frame.content, override, frame.found_by)


def wanted_by(db: Database, frame: FrameSummary, override: FrameOverride) -> str:
    """The same of one frame (``Wants.key``)."""
    return Wants(db).key(frame, override)


def draws(override: str) -> bool:
    """Whether what a frame changes (JSON) makes a picture where there is no look."""
    return override != "{}" and read_override(override).draws


def read_override(text: str) -> FrameOverride:
    """What can't be read changes nothing."""
    try:
        return FrameOverride.model_validate_json(text)
    except ValidationError:
        return FrameOverride()


def settle_scene(db: Database, scene_id: int, only_unsettled: bool = False) -> None:
    """Work out which picture every frame of a scene wants. Where the look can't be read it is left open."""
    with db.writing():
        rows = finished.overrides_of_scene(db, scene_id, only_unsettled)
        look = looks.look(db, scene_id)
        if not only_unsettled or rows:
            _settle_uses(db, scene_id, look)
        try:
            want = Wanting(look or NO_LOOK)
        except UnreadableRecipe:
            return
        keys = {
            i: "" if look is None and not draws(own) else want.key_by_text(content_of(sha, base, turn), own, by)
            for i, sha, base, turn, own, by in rows
        }
        finished.set_wanted(db, keys)


def _settle_uses(db: Database, scene_id: int, look: Look | None) -> None:
    """Which masks a scene's frames are doubtful for. Where the look can't be read it is left as it was."""
    try:
        used = MAIN_MASKS if look is None else masks_used(look.stack())
    except UnreadableRecipe:
        return
    findings.use_masks(db, scene_id, used)


def _means_other_steps(look: Look | None) -> bool:
    """Whether a look has steps that blend the picture with itself, which once did nothing where a neutral adjustment
    was in them.
    """
    if look is None or look.unreadable:
        return False
    steps = [step for layer in look.stack() for step in layer.recipe.steps if step.blend != "normal"]
    return any(on and all(a.is_neutral() for a in on) for s in steps if (on := [a for a in s.adjustments if a.enabled]))


def settle_library(db: Database) -> None:
    """After another version of the engine: which pictures are wanted now. Masks that other detectors found stay what
    they are until they are found anew: nothing that was checked changes by an update.
    """
    known = (finished.settled(db, "engine"), finished.settled(db, "plans"))
    if known == (ALIKE, PLANS) and not finished.scenes_to_settle(db):
        return  # opening a library writes nothing where nothing is to be written
    with db.writing():
        finished.unsettle(db, ALIKE)
        if finished.settled(db, "plans") != PLANS:
            for scene_id in finished.scenes_with_looks(db):
                if _means_other_steps(looks.look(db, scene_id)):
                    settle_scene(db, scene_id)
            finished.note_settled(db, "plans", PLANS)
        for scene_id in finished.scenes_to_settle(db):
            settle_scene(db, scene_id, only_unsettled=True)
