"""Putting a shoot's frames into scenes and bursts: found by time and place, mended by hand.

What was placed by hand is never moved by finding. A scene that has lost its frames stays, unseen, with its look and its
Bench, so that undoing brings it back whole.
"""

from collections import Counter
from collections.abc import Collection, Iterable
from dataclasses import replace
from itertools import groupby

import cv2
import numpy as np

from lenskeep.core.measure.sharpness import sharpness
from lenskeep.core.problems import UserProblem
from lenskeep.core.scenes.cutting import Seen, bursts_of, scene_name, scenes_of
from lenskeep.core.scenes.signature import packed, signature, unpacked
from lenskeep.core.types import Float
from lenskeep.files.masks import read_mask
from lenskeep.files.reading.photo import read_photo
from lenskeep.store import findings, frames, looks, scenes
from lenskeep.store.frames import FrameSummary
from lenskeep.store.scenes import Scene
from lenskeep.studio import deeds
from lenskeep.studio.applying import queue_stale
from lenskeep.studio.following import follow
from lenskeep.studio.library import Library
from lenskeep.studio.times import seconds_of
from lenskeep.studio.wanting import settle_scene

FOUND, BY_HAND = 1, 2
LONGEST_NAME = 80
Sights = dict[int, tuple[Float, float]]


def place(library: Library, shoot_id: int, again: bool = False) -> None:
    """Put every frame with masks that is not placed yet into a scene: into one that others of its time and place are
    in, or into a new one. ``again`` places those anew, too, that were found to belong where they are. Bursts are told
    anew.
    """
    rows = [f for f in frames.summaries(library.db, shoot_id) if f.found]
    if not rows:
        return
    sights = _sights(library, shoot_id, rows)
    seen = [Seen(seconds_of(row.taken_at), sights[row.id][0]) for row in rows]
    numbers, bursts = scenes_of(seen), bursts_of(seen)
    with library.db.writing():
        # where frames are was read a while ago: what was placed by hand meanwhile stays there
        now = scenes.placed(library.db, shoot_id)
        there = [i for i, f in enumerate(rows) if f.id in now]
        numbers, bursts = [numbers[i] for i in there], [bursts[i] for i in there]
        rows = [replace(rows[i], scene_id=now[rows[i].id][0], placed=now[rows[i].id][1]) for i in there]
        if not rows:
            return
        free = {f.id for f in rows if f.placed == 0 or (again and f.placed == FOUND)}
        chosen = [s.key_frame_id for s in scenes.scenes(library.db, shoot_id) if s.key_frame_id]
        _place_groups(library, shoot_id, rows, numbers, free)
        for frame in frames.some(library.db, chosen):  # a key frame that went to a new scene is that one's
            scenes.set_key_frame(library.db, frame.scene_id, frame.id, only_first=True)
        scenes.set_bursts(library.db, _bursts(rows, bursts, sights))
        for scene in scenes.scenes(library.db, shoot_id):
            scenes.mend_key_frame(library.db, scene.id)
        scenes.put_in_order(library.db, shoot_id, scene_name)


def _place_groups(
    library: Library, shoot_id: int, rows: list[FrameSummary], numbers: list[int], free: set[int]
) -> None:
    first_time = all(f.placed == 0 for f in rows)
    own = scenes.scenes(library.db, shoot_id)
    taken = {f.scene_id for f in rows if f.id not in free}
    before = own[0].id
    touched: set[int] = set()
    for _, group in groupby(range(len(rows)), key=numbers.__getitem__):
        members = [rows[i] for i in group]
        settled = [f for f in members if f.id not in free]
        loose = [f for f in members if f.id in free]
        if settled:
            homes = {f.id: _nearest(f, settled).scene_id for f in loose}
        else:
            home = _home(library, shoot_id, members, taken, before, first_time)
            taken.add(home)
            homes = dict.fromkeys((f.id for f in loose), home)
        before = homes[members[-1].id] if members[-1].id in homes else members[-1].scene_id
        for scene_id in set(homes.values()):
            moving = [i for i, home in homes.items() if home == scene_id]
            scenes.move(library.db, moving, scene_id, FOUND)
            touched |= {scene_id} if any(f.scene_id != scene_id for f in loose if homes[f.id] == scene_id) else set()
    for scene_id in touched:
        settle_scene(library.db, scene_id)
        findings.doubt_again(library.db, scene_id)


def _home(
    library: Library, shoot_id: int, members: list[FrameSummary], taken: set[int], before: int, first_time: bool
) -> int:
    """The scene of frames that none is placed beside: that most of them are in, if no others are; else a new one, with
    the look of the scene before.
    """
    free = Counter(f.scene_id for f in members if f.scene_id not in taken)
    if free and (not first_time or not taken):
        return free.most_common(1)[0][0]
    made = scenes.add_scene(library.db, shoot_id, scene_name(len(taken) + 1, members[0].taken_at))
    _take_look(library, made, before)
    return made


def _take_look(library: Library, scene_id: int, like: int) -> None:
    look = looks.look(library.db, like)
    if look is not None:
        looks.give_look(library.db, scene_id, look.given)


def _nearest(frame: FrameSummary, others: Iterable[FrameSummary]) -> FrameSummary:
    own = seconds_of(frame.taken_at)
    if own is None:
        return min(others, key=lambda o: (o.place > frame.place, o.place))
    return min(others, key=lambda o: abs((seconds_of(o.taken_at) or 0.0) - own))


def _bursts(rows: list[FrameSummary], bursts: list[int], sights: Sights) -> dict[int, tuple[int, bool]]:
    """Frames alone have no burst; of the others the sharpest is the best."""
    out: dict[int, tuple[int, bool]] = {}
    for number, group in groupby(range(len(rows)), key=bursts.__getitem__):
        own = [rows[i] for i in group]
        best = max(own, key=lambda f: sights[f.id][1])
        out |= {f.id: (number + 1, f.id == best.id) if len(own) > 1 else (0, False) for f in own}
    return out


def _sights(library: Library, shoot_id: int, rows: list[FrameSummary]) -> Sights:
    """(signature, sharpness) by frame, measured for those that an earlier version found."""
    out: Sights = {}
    known = findings.sights(library.db, shoot_id)
    for row in rows:
        try:
            body, sharp = known[row.id]
            out[row.id] = (unpacked(body), sharp)
        except (KeyError, ValueError):
            out[row.id] = _measured(library, row)
    return out


def _measured(library: Library, row: FrameSummary) -> tuple[Float, float]:
    computed = library.computed(row.content, row.found_by)
    thumb = read_photo(computed.thumb)
    picture = thumb.rows(0, thumb.height)
    subject = np.asarray(read_mask(computed.mask("subject")), np.float32) / np.float32(255.0)
    found = signature(picture, subject)
    small = cv2.resize(subject, picture.shape[1::-1], interpolation=cv2.INTER_AREA)
    sharp = sharpness(picture, np.asarray(small, np.float32))
    findings.keep_sight(library.db, row.content, row.found_by, packed(found), sharp)
    return found, sharp


def scene_there(library: Library, scene_id: int) -> Scene:
    """Raises UserProblem when it is gone."""
    scene = scenes.scene(library.db, scene_id)
    if scene is None:
        raise UserProblem("This scene is no longer in the library. Reload the page.")
    return scene


def rename(library: Library, scene_id: int, name: str) -> None:
    """Raises UserProblem for a name that is none."""
    clean = " ".join(name.split())
    if not 1 <= len(clean) <= LONGEST_NAME:
        raise UserProblem(f"The name of a scene has 1 to {LONGEST_NAME} characters.")
    scenes.rename(library.db, scene_there(library, scene_id).id, clean)


def move(library: Library, frame_ids: Collection[int], scene_id: int) -> int | None:
    """Move frames into a scene of their shoot, as one deed; their pictures follow its look. Returns the job that makes
    them, None when there is nothing to make. Raises UserProblem.
    """
    scene = scene_there(library, scene_id)
    own = frames.some(library.db, frame_ids)
    if any(f.shoot_id != scene.shoot_id for f in own):
        raise UserProblem("A frame can’t be moved into a scene of another shoot.")
    count = "1 frame" if len(own) == 1 else f"{len(own)} frames"
    return _moved(library, scene, own, f"moving {count} into {scene.name}")


def cut(library: Library, frame_id: int) -> int | None:
    """Begin a new scene with a frame: what follows it in its scene goes along. Raises UserProblem at the first one."""
    with library.db.writing():
        frame = frames.summary(library.db, frame_id)
        if frame is None:
            raise UserProblem("This frame is no longer in the library.")
        ids = scenes.frame_ids(library.db, [frame.scene_id])
        after = ids[ids.index(frame_id) :]
        if len(after) == len(ids):
            raise UserProblem("The scene begins with this frame already.")
        made = scenes.add_scene(library.db, frame.shoot_id, "new scene")
        _take_look(library, made, frame.scene_id)
        own = frames.some(library.db, after)
        job = _moved(library, scene_there(library, made), own, f"cutting a scene before {frame.file_name}")
        scenes.set_placed(library.db, frame.scene_id, BY_HAND)
        scenes.set_key_frame(library.db, made, next((f.id for f in own if f.found), after[0]), only_first=True)
        return job


def new_scene(library: Library, shoot_id: int, frame_ids: Collection[int]) -> int:
    """Put frames into a scene of their own, with the look of the one that the first of them comes from; returns it."""
    with library.db.writing():
        own = frames.some(library.db, frame_ids)
        made = scenes.add_scene(library.db, shoot_id, "new scene")
        _take_look(library, made, own[0].scene_id)
        count = "1 frame" if len(own) == 1 else f"{len(own)} frames"
        _moved(library, scene_there(library, made), own, f"a new scene of {count}")
        return made


def join(library: Library, scene_id: int) -> int | None:
    """Join a scene to the one before it. Raises UserProblem for the first."""
    with library.db.writing():
        scene = scene_there(library, scene_id)
        order = scenes.shown(library.db, scene.shoot_id)
        at = next((i for i, s in enumerate(order) if s.id == scene_id), 0)
        if at == 0:
            raise UserProblem("This is the first scene; there is none before it to join.")
        own = frames.some(library.db, scenes.frame_ids(library.db, [scene_id]))
        scenes.set_placed(library.db, order[at - 1].id, BY_HAND)
        return _moved(library, order[at - 1], own, f"joining {scene.name} to {order[at - 1].name}")


def _moved(library: Library, scene: Scene, own: list[FrameSummary], words: str) -> int | None:
    ids = [f.id for f in own]
    left = {f.scene_id for f in own} - {scene.id}
    with library.db.writing():
        with deeds.doing(library, scene.shoot_id, words, ids):
            scenes.move(library.db, ids, scene.id, BY_HAND)
        follow(library, scene.shoot_id, {scene.id}, left)
        return queue_stale(library, scene.shoot_id, ids)
