"""Which finished picture every frame wants: worked out whenever its look or its own changes change, and kept."""

from functools import lru_cache

from pydantic import ValidationError

from lenskeep.core.plan import Plan, plan_of
from lenskeep.core.recipes.keys import content_key
from lenskeep.core.recipes.overrides import FrameOverride
from lenskeep.core.versions import DETECTOR, ENGINE
from lenskeep.store import findings, finished, looks
from lenskeep.store.bodies import UnreadableRecipe
from lenskeep.store.database import Database
from lenskeep.store.frames import content_of
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

    def key(self, content: str, override: FrameOverride) -> str:
        """The key of the finished picture of a frame with this content and override."""
        return self.key_by_text(content, override.model_dump_json())

    def key_by_text(self, content: str, override: str) -> str:
        return content_key(ENGINE, DETECTOR, content, self._planned(override)[1])


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
        if look is None:
            finished.set_wanted(db, {frame_id: "" for frame_id, *_ in rows})
            return
        try:
            want = Wanting(look)
        except UnreadableRecipe:
            return
        finished.set_wanted(db, {i: want.key_by_text(content_of(sha, base), own) for i, sha, base, own in rows})


def settle_library(db: Database) -> None:
    """After another version of detectors or engine: what is to be found again, and which pictures are wanted now."""
    with db.writing():
        finished.unsettle(db, ENGINE)
        findings.forget_other_finders(db, DETECTOR)
        for scene_id in finished.scenes_to_settle(db):
            settle_scene(db, scene_id, only_unsettled=True)
