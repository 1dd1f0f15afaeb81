"""Where a shoot stands: how many frames are found, doubtful, failed and finished as the look wants them now."""

from dataclasses import dataclass

from lenskeep.store.looks import Look
from lenskeep.store.walls import Counts


@dataclass(frozen=True)
class Standing:
    """In numbers of frames: ``stale`` ones have masks, but are not finished as the look wants them. ``broken`` says why
    the look can't be read; then none counts as finished.
    """

    frames: int
    found: int
    failed: int
    finished: int
    stale: int
    doubtful: int
    changed: int
    broken: str = ""


NOTHING = Counts(0, 0, 0, 0, 0, 0, 0, 0, 0, None)


def standing_of(counts: Counts, look: Look | None) -> Standing:
    """Of a shoot by its counts and its look."""
    broken = look.unreadable if look else ""
    return Standing(
        frames=counts.frames,
        found=counts.found,
        failed=counts.failed,
        finished=0 if broken else counts.finished,
        stale=counts.found if broken else counts.stale,
        doubtful=counts.doubtful,
        changed=counts.changed,
        broken=broken,
    )


@dataclass(frozen=True)
class Stage:
    """One of the stages that a shoot goes through, in words: ``state`` is done, next or later."""

    words: str
    detail: str
    state: str


def stages_of(
    standing: Standing, look: Look | None, under_way: str, delivered: bool, in_question: int | None = None
) -> list[Stage]:
    """The five stages; the first that is not done is the next one. ``under_way`` is the kind of job that runs,
    ``in_question`` how many frames need an eye, by default those that are doubtful.
    """
    s = standing
    found = s.frames > 0 and s.found == s.frames
    applied = look is not None and s.found > 0 and s.finished >= s.found and under_way != "apply"
    left = s.doubtful if in_question is None else in_question
    checked = f"{left} to look at" if left else "nothing in question" if found else "what is in question"
    rows = [
        ("Masks found", f"{s.found} of {s.frames}", found or (not under_way and s.found > 0)),
        ("Look made", look.version.name if look else "on the Bench", look is not None),
        ("Applied", f"{s.finished} of {s.frames}" if look else "to every frame", applied),
        ("Checked", checked, found and not left),
        ("Handed over", "as files", delivered),
    ]
    first = next((i for i, (_, _, done) in enumerate(rows) if not done), len(rows))
    return [Stage(w, d, "done" if done else "next" if i == first else "later") for i, (w, d, done) in enumerate(rows)]
