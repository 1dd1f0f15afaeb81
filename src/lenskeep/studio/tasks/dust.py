"""Looking for dust through a shoot, and healing a frame of it: plain functions from a task to its result."""

from collections import Counter
from dataclasses import dataclass, field, replace

from lenskeep.core.clean.applied import DUST_REACH, cleaned
from lenskeep.core.clean.dust import SIDE, Speck, log_light, seen_at, specks
from lenskeep.core.clean.models import MOST_MARKS, CleanUp, Healed
from lenskeep.core.clean.sensor import stored
from lenskeep.core.engine.planes import smaller
from lenskeep.files.patches import cleaned_bytes, cleaned_of, read_cleaned
from lenskeep.files.reading.photo import Base
from lenskeep.files.working import read_working
from lenskeep.studio.tasks.find import BASE_SIDE
from lenskeep.studio.tasks.originals import checked_original
from lenskeep.work.engines.carried import InFile, OutFolder

SOFT = 0.35
NEAR = 0.004


@dataclass(frozen=True)
class SearchTask:
    """Working copies of one camera's frames, with the EXIF orientation and the quarter turns by hand of each."""

    frames: tuple[InFile, ...]
    orientations: tuple[int, ...]
    turns: tuple[int, ...]


def search(task: SearchTask) -> list[Speck]:
    """Dust, whose ``shows`` are places in the task's list. Frames of another shape than most were cropped, and count
    for nothing.
    """
    pictures = []
    for file, orientation, turn in zip(task.frames, task.orientations, task.turns, strict=True):
        with file.on_disk() as path:
            picture = smaller(read_working(path), SIDE)
        pictures.append(log_light(stored(picture, orientation, turn)))
    if not pictures:
        return []
    shape = Counter(p.shape for p in pictures).most_common(1)[0][0]
    used = [n for n, p in enumerate(pictures) if p.shape == shape]
    found = specks([pictures[n] for n in used])
    return [replace(one, shows=tuple(used[n] for n in one.shows)) for one in found]


@dataclass(frozen=True)
class HealTask:
    """An original, the places of dust on its upright frame with their radii, its marks so far and what they made of it;
    what the new ones make is put into ``out`` by their key.
    """

    original: InFile
    name: str
    sha256: str
    raw_base: Base
    turn: int
    dust: tuple[tuple[float, float, float], ...]
    clean: CleanUp
    before: InFile
    out: OutFolder
    pattern: str


@dataclass(frozen=True)
class HealResult:
    """The marks where dust is seen on this frame."""

    marks: tuple[Healed, ...]
    made: dict[str, bytes] = field(default_factory=dict, repr=False)


def heal_dust(task: HealTask) -> HealResult:
    """Marks for the dust that is seen on a frame, and what they make of it. Raises PhotoProblem."""
    photo = checked_original(task.original, task.name, task.sha256, task.raw_base, task.turn)
    light = log_light(photo.reduced(SIDE))
    marks = tuple(
        Healed(points=((x, y),), size=2.0 * DUST_REACH * radius, soft=SOFT, dust=True)
        for x, y, radius in task.dust
        if seen_at(light, (x, y), radius, known=True)[2] and not _marked(task.clean, x, y)
    )[: MOST_MARKS - len(task.clean.done)]
    if not marks:
        return HealResult(())
    data = task.before.read() if task.clean.done else None
    start = read_cleaned(data).patches if data else ()
    todo = marks if data else (*task.clean.done, *marks)
    whole = task.clean.with_marks(marks)
    made = cleaned_of(photo, cleaned(photo.pixels, todo, bool(photo.base), before=start), BASE_SIDE)
    task.out.put(task.pattern.format(whole.key()), cleaned_bytes(made))
    return HealResult(marks, task.out.made)


def _marked(clean: CleanUp, x: float, y: float) -> bool:
    """Whether a mark lies there already."""
    return any(abs(px - x) < NEAR and abs(py - y) < NEAR for mark in clean.done for px, py in mark.points)
