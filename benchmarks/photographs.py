"""How well masks fit traced photographs, beside the figures of the last landed finder: judged before any render.

Usage: python -m benchmarks masks --photographs FOLDER [--write]
FOLDER holds NAME.jpg with NAME.subject.png and NAME.sky.png (255 in, 0 out, 128 not counted), and ``index.tsv``, whose
tags say what the subject is and which photographs have no sky. ``--write`` keeps the figures in ``standing.json``.
"""

import csv
import json
import re
import sys
from pathlib import Path
from typing import NamedTuple

import cv2
import numpy as np

from benchmarks.masks import BAD, MAIN
from lenskeep.core.detect.find import DETECTOR, find
from lenskeep.studio.tasks.find import detectors
from tools.known import picture
from tools.overlap import intersection_over_union, outline_distance

STANDING = Path(__file__).parent / "standing.json"
PEOPLE = re.compile(r"\b(persons?|people)\b")
ANIMALS = re.compile(r"\b(cat|dogs?|bird|squirrel|animal|butterfly|insect)\b")
MEAN_FALL, ONE_FALL = 0.003, 0.03
"""By how much the mean, or one photograph, may fall beside the last landed finder before it has to be explained."""
WELL = 0.93
"""Intersection over union of a mask that ought to be trusted."""


class Row(NamedTuple):
    """One traced photograph: what its subject is, IoU and trust of subject and sky, the outline's distance in pixels at
    1024 for each; ``nan`` where it was not traced. ``false`` is the share of a frame without sky taken for it.
    """

    kind: str
    subject: float
    sky: float
    outline: float
    skyline: float
    trust: float
    sky_trust: float
    false: float


def kind_of(tags: str) -> str:
    """people, animals or things, by the words of an index."""
    subject = tags.split("subject", 1)[-1]
    if PEOPLE.search(tags):
        return "people"
    return "animals" if ANIMALS.search(subject) else "things"


def rows(folder: Path) -> dict[str, Row]:
    """What is found on every photograph of a folder's index beside what was traced."""
    out = {}
    with (folder / "index.tsv").open() as index:
        entries = list(csv.DictReader(index, delimiter="\t"))
    for entry in entries:
        name, tags = Path(entry["file"]).stem, entry["tags"]
        files = {kind: folder / f"{name}.{kind}.png" for kind in MAIN}
        truth = {kind: cv2.imread(str(f), cv2.IMREAD_GRAYSCALE) for kind, f in files.items() if f.exists()}
        if not truth and "no-sky" not in tags:
            continue
        found = find(picture(folder / entry["file"]), detectors(2))
        told = {
            by: [by(found.masks[kind], truth[kind]) if kind in truth else float("nan") for kind in MAIN]
            for by in (intersection_over_union, outline_distance)
        }
        out[name] = Row(
            kind_of(tags),
            *told[intersection_over_union],
            *told[outline_distance],
            found.facts.subject.trust,
            found.facts.sky.trust,
            found.facts.sky.area if "no-sky" in tags else float("nan"),
        )
    return out


def _line(words: str, now: list[float], before: list[float], digits: int = 3) -> None:
    mean = float(np.nanmean(now)) if np.isfinite(now).any() else float("nan")
    last = f"{np.nanmean(before):.{digits}f}" if np.isfinite(before).any() else "–"
    print(f"  {words:46s} {mean:.{digits}f}  (last landed {last})")


def main(folder: Path, write: bool = False) -> int:
    """Prints every photograph and the means; returns how many fell by more than may pass unexplained."""
    now = rows(folder)
    kept = json.loads(STANDING.read_text("utf-8")) if STANDING.is_file() else {"detector": "none", "rows": {}}
    before = {
        name: Row(*(float("nan") if v is None else v for v in kept["rows"][name]))
        for name in now
        if name in kept["rows"]
    }
    fell = []
    print(f"Photographs, {DETECTOR}, beside {kept['detector']}")
    for name, row in now.items():
        last = before.get(name)
        parts = []
        for what in ("subject", "sky", "false"):
            value, old = getattr(row, what), getattr(last, what) if last else float("nan")
            if np.isfinite(value) and (what != "false" or value > 0.001 or old > 0.001):
                parts.append(f"{what} {value:.3f} ({value - old:+.3f})")
                if what != "false" and value < old - ONE_FALL:
                    fell.append(f"{name}: {what} {old:.3f} to {value:.3f}")
        if np.isfinite(row.outline):
            parts.append(f"outline {row.outline:.2f} px, trust {row.trust:.2f}")
        if np.isfinite(row.sky):
            parts.append(f"skyline {row.skyline:.2f} px, trust {row.sky_trust:.2f}")
        if parts:
            print(f"  {name:12s} {row.kind:8s} {', '.join(parts)}")
    for kind in ("people", "animals", "things"):
        names = [n for n, r in now.items() if r.kind == kind]
        _line(f"subject, {kind}", [now[n].subject for n in names], [before[n].subject for n in names if n in before])
    for what, words, digits in (
        ("subject", "subject, all", 3), ("sky", "sky", 3), ("false", "sky where there is none", 4),
        ("outline", "outline of subjects, px at 1024", 2), ("skyline", "outline of skies, px at 1024", 2),
    ):  # fmt: skip
        values, last = [getattr(r, what) for r in now.values()], [getattr(r, what) for r in before.values()]
        _line(words, values, last, digits)
        if what in ("subject", "sky") and last and np.nanmean(values) < np.nanmean(last) - MEAN_FALL:
            fell.append(f"mean of {what}")
    good = [r for r in now.values() if r.subject >= WELL]
    print(f"  of {len(good)} subjects over {WELL}, {sum(r.trust < BAD for r in good)} are doubted")
    for words in fell:
        print(f"  FELL  {words}")
    if write:
        held = {n: [None if v != v else round(v, 4) if isinstance(v, float) else v for v in r] for n, r in now.items()}
        lines = ",\n".join(f"  {json.dumps(n)}: {json.dumps(v)}" for n, v in held.items())
        STANDING.write_text(f'{{"detector": "{DETECTOR}", "rows": {{\n{lines}\n}}}}\n', "utf-8")
    return len(fell)


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1]), "--write" in sys.argv) > 0)
