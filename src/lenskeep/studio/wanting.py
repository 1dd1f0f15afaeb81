"""Which finished picture every frame wants: worked out whenever its look or its own changes change, and kept."""

from functools import lru_cache

from pydantic import ValidationError

from lenskeep.core.facts import MAIN_MASKS
from lenskeep.core.plan import Plan, plan_of
from lenskeep.core.recipes.keys import content_key
from lenskeep.core.recipes.layers import masks_used
from lenskeep.core.recipes.overrides import FrameOverride
from lenskeep.core.versions import DETECTOR, ENGINE
from lenskeep.store import findings, finished, looks
from lenskeep.store.bodies import UnreadableRecipe
from lenskeep.store.database import Database
from lenskeep.store.frames import FrameSummary, content_of
from lenskeep.store.looks import Look


class Wanting:
    """What frames should look like under one look: its recipes are read once for all of them, and frames that change
    the same of it share their plan.
    """

    def __init__(self, look: Look) -> None:
        """Raises UnreadableRecipe."""
        layers = look.stack()

        @lru_cache(maxsize=64)
        def planned(override: str) -> tuple[Plan, str]:
            own = read_override(override)
            plan, repairs = plan_of(layers, own), own.repairs.key()
            return plan, content_key(plan.key(), repairs) if repairs else plan.key()

        self._planned = planned

    def plan(self, override: FrameOverride) -> Plan:
        return self._planned(override.model_dump_json())[0]

    def key(self, content: str, override: FrameOverride, found_by: str) -> str:
        """The key of the finished picture of a frame with this content and override, whose masks these detectors found
        ("": those of today will find them).
        """
        return self.key_by_text(content, override.model_dump_json(), found_by)

    def key_by_text(self, content: str, override: str, found_by: str) -> str:
        return content_key(ENGINE, found_by or DETECTOR, content, self._planned(override)[1])


def wanted_by(db: Database, frame: FrameSummary, override: FrameOverride) -> str:
    """The key of the picture that one frame wants with this override; "" without a look, "?" where that can't be
    read.
    """
    look = looks.look(db, frame.scene_id)
    if look is None:
        return ""
    return "?" if look.unreadable else Wanting(look).key(frame.content, override, frame.found_by)


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
        if look is None:
            finished.set_wanted(db, {frame_id: "" for frame_id, *_ in rows})
            return
        try:
            want = Wanting(look)
        except UnreadableRecipe:
            return
        keys = {i: want.key_by_text(content_of(sha, base), own, by) for i, sha, base, own, by in rows}
        finished.set_wanted(db, keys)


def _settle_uses(db: Database, scene_id: int, look: Look | None) -> None:
    """Which masks a scene's frames are doubtful for. Where the look can't be read it is left as it was."""
    try:
        used = MAIN_MASKS if look is None else masks_used(look.stack())
    except UnreadableRecipe:
        return
    findings.use_masks(db, scene_id, used)


def settle_library(db: Database) -> None:
    """After another version of the engine: which pictures are wanted now. Masks that other detectors found stay what
    they are until they are found anew: nothing that was checked changes by an update.
    """
    with db.writing():
        finished.unsettle(db, ENGINE)
        for scene_id in finished.scenes_to_settle(db):
            settle_scene(db, scene_id, only_unsettled=True)
