"""The demo's photographs and what is known of them: masks by kind, boxes, skyline, scene, and places of dust."""

import json
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from importlib.resources import as_file, files
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from lenskeep.demo.seed import SHOOTS

_MEASURED = Path(__file__).parent.parent / "benchmarks"
TRUTH = _MEASURED / "truth"
UNSEEN = tuple(_MEASURED / name for name in ("unseen", "unseen_again", "festival", "hands"))
"""Each set had been looked at when the next was made. The third is a shoot: three places, each in one light; the
fourth shows hands by themselves."""
FOLDERS = tuple(one.folder for one in SHOOTS)
KINDS = ("people", "animals", "things")


def picture(path: Path) -> np.ndarray:
    """(h, w, 3) uint8 sRGB, upright."""
    return cv2.cvtColor(cv2.imread(str(path)), cv2.COLOR_BGR2RGB)


@dataclass(frozen=True)
class Known:
    """A photograph and the facts file's entry on it; its masks lie in the folder ``truth``."""

    shoot: str
    path: Path
    facts: dict[str, Any]
    truth: Path

    @property
    def name(self) -> str:
        return self.path.stem

    def image(self) -> np.ndarray:
        """(h, w, 3) uint8 sRGB, upright."""
        return picture(self.path)

    def kinds(self) -> list[str]:
        """What kinds of subject are in it."""
        present = {one["kind"] for one in self.facts["subjects"]}
        return [kind for kind in KINDS if kind in present]

    def masks(self) -> dict[str, np.ndarray]:
        """uint8 masks by name: "subject", "sky" where there is one, and every kind in it."""
        out = {}
        for name in ("subject", "sky", *self.kinds()):
            path = self.truth / f"{self.name}.{name}.png"
            if path.exists():
                out[name] = cv2.imread(str(path), cv2.IMREAD_GRAYSCALE)
        if len(self.kinds()) == 1:
            out.setdefault(self.kinds()[0], out["subject"])
        return out


@contextmanager
def demo_folder(shoot: str) -> Iterator[Path]:
    with as_file(files("lenskeep.demo") / shoot) as folder:
        yield folder


def facts(shoot: str) -> dict[str, Any]:
    data: dict[str, Any] = json.loads((TRUTH / shoot / "facts.json").read_text("utf-8"))
    return data


def kept_apart(shoot: str) -> set[str]:
    """Every third render of a shoot, in alphabetical order: nothing is fitted to these, and no threshold chosen by them
    (10 of 28 renders, 25 of 68 frames).
    """
    shots = sorted({entry["shot"] for entry in facts(shoot)["frames"].values()})
    return set(shots[::3])


def known_frames() -> Iterator[Known]:
    """Every photograph of the demo, shoot by shoot."""
    for shoot in FOLDERS:
        with demo_folder(shoot) as folder:
            for name, entry in facts(shoot)["frames"].items():
                yield Known(shoot, folder / f"{name}.jpg", entry, TRUTH / shoot)


def unseen_frames() -> Iterator[Known]:
    """The renders that nothing was ever tuned on, and nothing may be: they only tell how well it does elsewhere."""
    for folder in UNSEEN:
        data = json.loads((folder / "facts.json").read_text("utf-8"))
        for name, entry in data["frames"].items():
            yield Known(folder.name.replace("_", " "), folder / f"{name}.jpg", entry, folder)
