"""What follows when frames go from one scene to another."""

from collections.abc import Collection

from lenskeep.core.scenes.cutting import scene_name
from lenskeep.store import findings, scenes
from lenskeep.studio.library import Library
from lenskeep.studio.wanting import settle_scene


def follow(library: Library, shoot_id: int, entered: Collection[int], left: Collection[int]) -> None:
    """After frames went from some scenes to others: which pictures they want, what they are doubted for, the scenes'
    order, and key frames, which are frames of their own scene.
    """
    with library.db.writing():
        for scene_id in entered:
            settle_scene(library.db, scene_id)
            findings.doubt_again(library.db, scene_id)
        for scene_id in {*entered, *left}:
            scenes.mend_key_frame(library.db, scene_id)
        scenes.put_in_order(library.db, shoot_id, scene_name)
