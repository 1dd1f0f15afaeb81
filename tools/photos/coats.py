"""What dogs and small pets wear: a length of hair and a colour for each part of the body, and patches across it."""

from dataclasses import dataclass, field

import numpy as np

from tools.photos.noise import noise3

WHITE, CREAM, TAN, RUST = (0.70, 0.66, 0.58), (0.58, 0.45, 0.29), (0.38, 0.205, 0.085), (0.26, 0.115, 0.04)
BLACK, GREY, SILVER, LIVER = (0.020, 0.018, 0.017), (0.20, 0.20, 0.20), (0.42, 0.42, 0.41), (0.10, 0.048, 0.025)
PINK = (0.50, 0.27, 0.23)


@dataclass(frozen=True)
class Patch:
    """Where a field of noise passes ``above`` on the named parts, hair is of another colour."""

    colour: tuple[float, float, float]
    parts: tuple[str, ...]
    above: float = 0.4
    scale: float = 0.16
    seed: int = 20


@dataclass(frozen=True)
class Coat:
    """``colours`` and ``lengths`` (shares of the height) by part, with "" for all others."""

    colours: dict[str, tuple[float, float, float]]
    lengths: dict[str, float]
    patches: tuple[Patch, ...] = ()
    speckle: float = 0.0
    lift: float = 0.35
    droop: float = 0.2
    clump: float = 0.03
    unruly: float = 0.3
    blend: float = 0.025
    nose: tuple[float, float, float] = field(default=(0.014, 0.012, 0.012))
    iris: tuple[float, float, float] = field(default=(0.06, 0.025, 0.008))

    def worn(self, shares, points, random):
        """(colour (n, 3), length (n,) in shares) of hairs at points (n, 3), by the parts' shares there.

        Each hair picks one part, so that colours meet hair by hair and not along a line.
        """
        names = list(shares)
        total = np.cumsum(np.stack([shares[name] for name in names]), 0)
        chosen = (random.random(len(points)) > total / total[-1]).sum(0).clip(0, len(names) - 1)
        colour = np.array([self.colours.get(name, self.colours[""]) for name in names])[chosen]
        each = np.array([self.lengths.get(name, self.lengths[""]) for name in names])
        length = sum(shares[name] * own for name, own in zip(names, each, strict=True))
        for patch in self.patches:
            field_ = noise3(points, patch.scale, patch.seed) + 0.25 * noise3(points, patch.scale * 0.2, patch.seed + 1)
            inside = np.isin(chosen, [names.index(part) for part in patch.parts if part in names])
            inside &= field_ + 0.12 * random.normal(size=len(points)) > patch.above
            colour[inside] = patch.colour
        if self.speckle:
            pale = random.random(len(points)) < self.speckle
            colour[pale] = colour[pale] * 0.4 + np.array(SILVER) * 0.6
        shade = random.uniform(0.72, 1.15, (len(points), 1)) * (1 + 0.10 * noise3(points, 0.02, 41)[:, None])
        return np.clip(colour * shade, 0.004, 0.92), length


WIRE = {"": 0.062, "head": 0.026, "brow": 0.036, "muzzle": 0.050, "chin": 0.070, "cheek": 0.055, "ear": 0.024, "foot": 0.045,
        "leg": 0.070, "tail": 0.060, "rump": 0.080, "lip": 0.004}  # fmt: skip
SHORT = {"": 0.032, "head": 0.022, "brow": 0.022, "muzzle": 0.014, "chin": 0.014, "cheek": 0.026, "ear": 0.020, "foot": 0.018,
         "leg": 0.022, "tail": 0.040, "front": 0.040, "neck": 0.045, "thigh": 0.036, "lip": 0.003}  # fmt: skip
LONG = {"": 0.15, "head": 0.06, "brow": 0.05, "muzzle": 0.026, "chin": 0.035, "cheek": 0.10, "ear": 0.11, "foot": 0.045,
        "leg": 0.09, "tail": 0.18, "front": 0.19, "neck": 0.17, "thigh": 0.16, "lip": 0.004}  # fmt: skip
HEAD = ("head", "ear", "brow", "cheek")
TRUNK = ("trunk", "rump", "shoulder", "thigh", "tail")


def _head(colour):
    return dict.fromkeys(HEAD, colour)


DOGS = {
    "tan": Coat({"": WHITE, **_head(TAN), "ear": RUST, "lip": BLACK}, WIRE,
                (Patch(TAN, TRUNK, 0.75, 0.17, 23), Patch(BLACK, ("trunk",), 1.0, 0.2, 29))),
    "saddle": Coat({"": TAN, "trunk": BLACK, "rump": BLACK, "neck": BLACK, "tail": BLACK, "ear": RUST, "lip": BLACK, "muzzle": (0.13, 0.075, 0.038), "chin": TAN},
                   WIRE, (Patch(RUST, ("shoulder", "thigh"), 0.2, 0.12, 31),)),
    "grey": Coat({"": GREY, "muzzle": SILVER, "chin": SILVER, "brow": SILVER, "foot": SILVER, "leg": SILVER, "lip": BLACK},
                 WIRE, speckle=0.3),
    "cream": Coat({"": CREAM, "ear": TAN, "front": WHITE, "muzzle": WHITE, "lip": BLACK}, LONG, lift=0.16, droop=0.45,
                  unruly=0.22, clump=0.02),
    "liver": Coat({"": LIVER, "muzzle": WHITE, "front": WHITE, "foot": WHITE, "chin": WHITE, "lip": LIVER}, SHORT,
                  (Patch(WHITE, ("trunk", "leg", "shoulder"), 0.9, 0.10, 37),), lift=0.12, droop=0.1, unruly=0.12, blend=0.012,
                  nose=(0.05, 0.022, 0.016), iris=(0.14, 0.065, 0.02)),
    "red": Coat({"": RUST, "front": CREAM, "muzzle": CREAM, "chin": WHITE, "tail": CREAM, "foot": CREAM, "lip": BLACK}, LONG,
                lift=0.2, droop=0.35, unruly=0.22, clump=0.02),
}  # fmt: skip
