"""A look through a whole library, whether all is well."""

from dataclasses import dataclass, field

import numpy as np

from lenskeep.core.facts import Facts
from lenskeep.files.masks import read_mask
from lenskeep.files.problems import PhotoProblem
from lenskeep.files.written import DRAFTS, holds
from lenskeep.store import deliveries, frames, health, jobs, recipes, references, shoots
from lenskeep.store.frames import FrameRow
from lenskeep.store.moves import asset_file
from lenskeep.store.recipes import KINDS
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.keeping.copies import Say
from lenskeep.studio.library import Computed, Library, mask_names

EMPTY = 0.002
"""A mask whose facts say at least this share of the frame is not black."""


@dataclass
class Report:
    """What ``verify`` has found: how much was looked at, and what is wrong, in words."""

    originals: int = 0
    assets: int = 0
    frames: int = 0
    wrong: list[str] = field(default_factory=list)
    left_over: int = 0


def verify(library: Library, say: Say = lambda _: None) -> Report:
    """Look through the whole library: database, originals and assets by their sums, recipes, masks, hand-overs,
    leftovers.
    """
    report = Report()
    report.wrong += health.faults(library.db)
    known = references.originals(library.db)
    for sha256, suffix, name in known:
        path = library.original(sha256, suffix)
        if not path.is_file():
            report.wrong.append(f"The original of {name} is gone. Bring it in again.")
        elif not holds(path, sha256):
            report.wrong.append(f"The original of {name} was altered. Bring it in again.")
        report.originals += 1
        if report.originals % 100 == 0:
            say(f"{report.originals} of {len(known)} originals looked at")
    for key in references.assets_in(library.db.path):
        path = asset_file(library.home, key)
        report.assets += 1
        if not holds(path, key):
            how = "was altered" if path.is_file() else "is gone"
            report.wrong.append(f"A picture or table of a recipe {how} ({path}). Bring it back from a backup.")
    for version in recipes.versions(library.db, None, *KINDS):
        if version.unreadable:
            report.wrong.append(f"{version.name}, version {version.version}: {version.unreadable}")
    for shoot in shoots.shoots(library.db):
        for frame in frames.frames(library.db, shoot.id):
            report.frames += 1
            if frame.spoilt:
                report.wrong.append(f"{shoot.name}, {frame.file_name}: what was changed by hand on it can't be read.")
            if words := _masks_wrong(library, frame):
                report.wrong.append(f"{shoot.name}, {frame.file_name}: {words}. Find them again on the wall.")
    report.wrong += _broken_deliveries(library)
    names = {sha256 for sha256, _, _ in known}
    originals = [p for p in (library.home / "originals").glob("*/*") if p.name[:64] not in names]
    report.left_over = len(originals) + len(list(library.home.rglob(DRAFTS)))
    return report


def _masks_wrong(library: Library, frame: FrameRow) -> str:
    """What is wrong with the masks that a frame has, in words; "" when all is well."""
    if frame.found_facts is None:
        return ""
    computed = library.computed(frame.content, frame.found_by)
    if not computed.holds(frame.found_facts):
        return "masks are gone"
    faults = {_mask_wrong(computed, name, frame.found_facts) for name in mask_names(frame.found_facts.areas)} - {""}
    return ", ".join(sorted(faults))


def _mask_wrong(computed: Computed, name: str, facts: Facts) -> str:
    try:
        mask = read_mask(computed.mask(name))
    except PhotoProblem:
        return "masks are damaged"
    height, width = mask.shape
    if abs(width * facts.height - height * facts.width) > max(facts.height, facts.width):
        return "masks are of another picture’s shape"
    said = {"subject": facts.subject.area, "sky": facts.sky.area, "pieces": 0.0, **facts.areas}[name]
    return "masks are black" if said >= EMPTY and not np.any(mask) else ""


def _broken_deliveries(library: Library) -> list[str]:
    out = []
    for job in jobs.jobs(library.db, limit=1000):
        if job.kind == deliver.KIND and job.state == "done" and not job.options.get("folder"):
            folder, made = deliver.folder_of(library, job), deliveries.delivered(library.db, job.id)
            broken = sum(not holds(folder / m.name, m.sha256) for m in made)
            if broken:
                out.append(f"The hand-over of {job.created_at[:10]} lacks {broken} of its files. Hand over once more.")
    return out
