"""How well masks fit known ones, and whether trust tells where they do not: ``make bench``, or by itself.

Usage: python -m benchmarks.masks [FOLDER] [--spoilt | --unseen]
FOLDER holds NAME.jpg with NAME.subject.png and NAME.sky.png (255 in, 0 out, 128 not counted); by default it is the
demo's three shoots, scored by shoot and by kind of subject. IoU is intersection over union of masks cut at one half;
F is the boundary F-score within 2 px at a long side of 1024. ``--spoilt`` adds pictures made hard to read, for the
calibration of trust; ``--unseen`` scores only the renders that nothing was tuned on, which come after the demo's
otherwise.
"""

import sys
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

import cv2
import numpy as np

from lenskeep.core.detect.find import find
from lenskeep.core.facts import Facts
from lenskeep.studio.tasks.find import detectors
from tools.known import KINDS, kept_apart, known_frames, picture, unseen_frames
from tools.overlap import boundary_score, counted, intersection_over_union
from tools.spoilt import spoilt

MAIN = ("subject", "sky")
BAD = 0.8
FALSE_SKY = 0.01
"""Share of a frame without sky that is taken for it by a mask that counts as bad."""


@dataclass(frozen=True)
class Score:
    """One mask against the known one."""

    shoot: str
    name: str
    kind: str
    iou: float
    boundary: float
    trust: float
    apart: bool = False


@dataclass(frozen=True)
class Photograph:
    """A picture (h, w, 3) uint8 with its known masks; the skyline's ends as shares of the height.

    Those made from one render, and every traced one by itself, are a ``scene``. Nothing was fitted to those
    kept ``apart``.
    """

    shoot: str
    scene: str
    name: str
    image: np.ndarray
    masks: dict[str, np.ndarray]
    skyline: list[float] | None = None
    apart: bool = False
    without_sky: bool = False
    """Whether it is known to have none; of traced ones it is not."""


def worth_scoring(truth: np.ndarray) -> bool:
    """Whether the true mask covers more than next to nothing of the picture."""
    return bool(((truth >= 129) & counted(truth)).mean() > 0.003)


def beside(folder: Path) -> Iterator[Photograph]:
    """Photographs of a folder with the masks beside them."""
    for path in sorted(folder.glob("*.jpg")):
        files = {kind: folder / f"{path.stem}.{kind}.png" for kind in MAIN}
        masks = {kind: cv2.imread(str(f), cv2.IMREAD_GRAYSCALE) for kind, f in files.items() if f.exists()}
        if masks:
            yield Photograph(folder.name, path.stem, path.stem, picture(path), masks)


def demo() -> Iterator[Photograph]:
    for one in known_frames():
        scene = f"{one.shoot} {one.facts['shot']}"
        apart = one.facts["shot"] in kept_apart(one.shoot)
        masks = one.masks()
        yield Photograph(
            one.shoot, scene, one.name, one.image(), masks, one.facts["skyline"], apart, "sky" not in masks
        )


def unseen() -> Iterator[Photograph]:
    for one in unseen_frames():
        yield Photograph(
            one.shoot, one.facts["shot"], one.facts["shot"], one.image(), one.masks(), one.facts["skyline"]
        )


def is_false_sky(photo: Photograph, facts: Facts) -> bool:
    """Whether sky was found on a picture that is known to have none."""
    return photo.without_sky and facts.sky.area > FALSE_SKY


def scored(photo: Photograph) -> tuple[list[Score], Facts]:
    """Find on a picture and compare; masks that cover next to nothing of it are left out."""
    found = find(photo.image, detectors(2))
    out = []
    for kind, truth in photo.masks.items():
        if worth_scoring(truth):
            # a kind that was taken for another one is not there at all
            mask = found.masks.get(kind, np.zeros_like(found.subject))
            finding = found.facts.finding(kind)
            trust = finding.trust if finding else 0.0  # what was not found at all is nothing to trust
            own = intersection_over_union(mask, truth), boundary_score(mask, truth), trust
            out.append(Score(photo.shoot, photo.name, kind, *own, photo.apart))
    if is_false_sky(photo, found.facts):
        out.append(Score(photo.shoot, photo.name, "false sky", 0.0, 0.0, found.facts.sky.trust, photo.apart))
    return out, found.facts


def spoilt_ones(photo: Photograph, seed: int) -> Iterator[Photograph]:
    side = max(photo.image.shape[:2])
    small = cv2.resize(photo.image, None, fx=800 / side, fy=800 / side, interpolation=cv2.INTER_AREA)
    size = small.shape[1::-1]
    known = {k: cv2.resize(m, size, interpolation=cv2.INTER_NEAREST) for k, m in photo.masks.items() if k in MAIN}
    for what, image, masks in spoilt(small, known, seed):
        yield replace(photo, name=f"{photo.name}, {what}", image=image, masks=masks, skyline=None)


@dataclass
class Scores:
    """What was measured: masks as they are and spoilt, skylines' errors and false skies by shoot."""

    plain: list[Score]
    hard: list[Score]
    skyline: dict[str, list[float]]
    false_sky: dict[str, list[float]]


def measured(photos: Iterator[Photograph], also_spoilt: bool) -> Scores:
    """Scores of every photograph, printing one row each."""
    out = Scores([], [], {}, {})
    for number, photo in enumerate(photos):
        own, facts = scored(photo)
        out.plain += own
        if photo.skyline is not None and facts.skyline is not None:
            ends = np.subtract([facts.skyline.left, facts.skyline.right], photo.skyline)
            out.skyline.setdefault(photo.shoot, []).append(float(np.abs(ends).mean()))
        if "sky" not in photo.masks:
            out.false_sky.setdefault(photo.shoot, []).append(facts.sky.area)
        row = "  ".join(f"{s.kind} IoU {s.iou:.3f} F {s.boundary:.2f} trust {s.trust:.2f}" for s in own)
        print(f"{photo.name:16s} {row}", flush=True)
        if also_spoilt:
            for hard in spoilt_ones(photo, number):
                out.hard += scored(hard)[0]
    return out


def area_under_curve(trust: np.ndarray, good: np.ndarray) -> float:
    """How often a bad mask is trusted less than a good one (``good``: True and False); nan without one of each."""
    if good.all() or not good.any():
        return float("nan")
    a, b = trust[good][:, None], trust[~good]
    return float(((a > b).mean() + (a >= b).mean()) / 2)


def calibration(scores: list[Score], words: str) -> None:
    """Print how trust tells bad masks from good ones."""
    trusted = [s for s in scores if s.trust >= BAD]
    wrong = sum(s.iou < BAD for s in trusted)
    good = np.array([s.iou >= BAD for s in scores])
    curve = area_under_curve(np.array([s.trust for s in scores]), good)
    print(
        f"trust, {words}: {len(scores)} masks, {(~good).sum()} with IoU under {BAD}; area under the curve "
        f"{curve:.3f} (at least .9); of {len(trusted)} trusted over {BAD}, {wrong} are bad "
        f"({wrong / max(len(trusted), 1):.1%}, at most 2 %)"
    )


def summary(scores: list[Score], words: str) -> None:
    if scores:
        ious, edges = [s.iou for s in scores], [s.boundary for s in scores]
        print(
            f"{words}: mean IoU {np.mean(ious):.3f}, least {min(ious):.3f}, {sum(i < BAD for i in ious)} under {BAD}, "
            f"mean boundary F {np.nanmean(edges):.3f} ({np.isfinite(edges).sum()} with a known border), "
            f"{len(ious)} photographs"
        )


def by_shoot(out: Scores) -> None:
    """Print what was measured, shoot by shoot and kind by kind."""
    for shoot in dict.fromkeys(s.shoot for s in out.plain):
        print(f"\n{shoot}")
        for kind in (*MAIN, *KINDS):
            summary([s for s in out.plain if s.shoot == shoot and s.kind == kind], f"  {kind}")
        if shoot in out.skyline:
            errors = out.skyline[shoot]
            print(
                f"  skyline: {np.mean(errors):.2%} of the height off in the mean, {max(errors):.2%} at most, "
                f"{len(errors)} frames"
            )
        if shoot in out.false_sky:
            areas = out.false_sky[shoot]
            print(
                f"  sky found where there is none: {np.mean(areas):.2%} of the frame in the mean, "
                f"{max(areas):.2%} at most"
            )


def main(words: list[str]) -> None:
    also_spoilt = "--spoilt" in words
    folders = [Path(w) for w in words if not w.startswith("--")]
    if "--unseen" in words:
        by_shoot(measured(unseen(), False))
        return
    out = measured(beside(folders[0]) if folders else demo(), also_spoilt)
    by_shoot(out)
    apart = [s for s in out.plain if s.apart]
    for shoot in dict.fromkeys(s.shoot for s in apart):
        print(f"\n{shoot}, renders kept apart")
        for kind in (*MAIN, *KINDS):
            summary([s for s in apart if s.shoot == shoot and s.kind == kind], f"  {kind}")
    print("\nAll")
    for kind in (*MAIN, *KINDS):
        summary([s for s in out.plain if s.kind == kind], f"  {kind}")
    every = out.plain + out.hard
    for words, among in (("", every), (", renders kept apart", [s for s in every if s.apart])):
        for names in (("subject",), ("sky", "false sky"), KINDS):
            chosen = [s for s in among if s.kind in names]
            if chosen:
                calibration(chosen, ", ".join(names) + words)
    if not folders:
        print("\nRenders that nothing was tuned on")
        by_shoot(measured(unseen(), False))


if __name__ == "__main__":
    main(sys.argv[1:])
