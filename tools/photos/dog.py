"""Dogs: a skeleton posed by where the paws stand, a body of rounded cones around it, and a coat of single hairs.

A dog faces +x and stands on z = 0 at its middle; lengths are shares of its height at the withers.
"""

from dataclasses import dataclass, field

import numpy as np

from tools.photos.blobs import Limb, surface
from tools.photos.dog_kinds import BOW, LIE, SIT, STAND, TROT, Breed, Pose
from tools.photos.mesh import turn_x, turn_y, turn_z

__all__ = ["BOW", "LIE", "SIT", "STAND", "TROT", "Breed", "Pose", "Skeleton", "body", "eye_place", "skeleton"]
DOWN = np.array([0, 0, -1.0])
ELBOW, STIFLE = np.array([-1.0, 0, -0.2]), np.array([1.0, 0, 0.9])


@dataclass
class Skeleton:
    """Everything the coat and the face need, in metres."""

    limbs: list[Limb]
    head_at: np.ndarray
    head_turn: np.ndarray
    size: float
    sockets: list[Limb] = field(default_factory=list)

    def on_head(self, point):
        """A point given in shares of the withers' height from the skull's middle, +x to the nose."""
        return self.head_at + self.head_turn @ (np.asarray(point, float) * self.size)


def bent(root, tip, upper, lower, towards):
    """The middle joint of a two-bone limb from ``root`` to ``tip``, bent to the side that ``towards`` points to.

    Bones too short to reach are stretched.
    """
    root, tip = np.asarray(root, float), np.asarray(tip, float)
    way = tip - root
    far = np.linalg.norm(way)
    stretch = max(1.0, far / (0.999 * (upper + lower)))
    upper, lower = upper * stretch, lower * stretch
    along = (far**2 + upper**2 - lower**2) / (2 * far)
    off = np.sqrt(max(upper**2 - along**2, 0))
    out = np.cross(way / far, [0, 1.0, 0]) * -1
    out = out / np.linalg.norm(out)
    if out @ towards < 0:
        out = -out
    return root + way / far * along + out * off


def above(point, least):
    """The point, raised to stand ``least`` metres over the ground; a joint that lies down cannot sink into it."""
    return np.array([point[0], point[1], max(point[2], least)])


def skeleton(breed, pose):
    """Limbs of the posed body and where the head is."""
    s = breed.height
    trunk = turn_y(-np.radians(pose.tilt))
    hip = np.array([pose.hip[0], 0, pose.hip[1]])

    def on_trunk(x, z, y=0.0):
        """Point on the trunk: x along it from the hip (shares), z across, in metres."""
        return (hip + trunk @ np.array([x, y, z])) * s

    reach = breed.length * 0.80
    # a chest hangs below the spine of a dog that stands, and lies along it in one that sits up
    hang = 1 - 0.75 * np.sin(np.radians(max(pose.tilt, 0)))
    limbs = []

    def add(a, b, at_a, at_b, part, blend=0.06, squash=1.0, flow=None):
        way = np.asarray(b, float) - np.asarray(a, float)
        way = way / (np.linalg.norm(way) + 1e-9)
        limbs.append(Limb(np.asarray(a, float), np.asarray(b, float), at_a * s, at_b * s, part, blend * s, squash,
                          way + 0.3 * DOWN if flow is None else np.asarray(flow, float)))  # fmt: skip

    back = trunk @ np.array([-1.0, 0, 0]) + np.array([0, 0, -0.45])
    chest, waist = breed.chest, breed.waist
    add(
        on_trunk(reach * 0.97, -0.10 * hang),
        on_trunk(reach * 0.62, -0.11 * hang),
        chest * 0.80,
        chest,
        "trunk",
        0.08,
        1.25,
        back,
    )
    add(
        on_trunk(reach * 0.62, -0.11 * hang),
        on_trunk(reach * 0.22, -0.02),
        chest * 0.96,
        waist,
        "trunk",
        0.10,
        1.15,
        back,
    )
    add(on_trunk(reach * 0.22, -0.02), on_trunk(0.02, -0.03), waist, waist * 1.02, "rump", 0.10, 1.12, back)
    add(
        on_trunk(reach * 1.02, -0.13 * hang),
        on_trunk(reach * 0.86, 0.02),
        chest * 0.50,
        chest * 0.52,
        "front",
        0.09,
        1.1,
        DOWN - back,
    )
    neck = np.radians(pose.neck)
    base = on_trunk(reach * 0.94, 0.02)
    skull = base + np.array([np.cos(neck), 0, np.sin(neck)]) * 0.38 * s
    turn = turn_z(np.radians(pose.head_turn)) @ turn_y(-np.radians(pose.head_nod)) @ turn_x(np.radians(pose.head_tilt))
    add(
        base,
        skull - turn @ np.array([0.05, 0, 0.05]) * s,
        0.155,
        0.102,
        "neck",
        0.09,
        1.05,
        (base - skull) * 1.4 / s + DOWN * 0.4,
    )
    for side in (1, -1):
        _front_leg(add, on_trunk, reach, breed, pose, s, side)
        _hind_leg(add, on_trunk, breed, pose, s, side)
    _tail(add, on_trunk, breed, s, pose)
    out = Skeleton(limbs, skull, turn, s)
    _head(out, breed, pose)
    return out


def _front_leg(add, on_trunk, reach, breed, pose, s, side):
    x, z = pose.fore[0 if side > 0 else 1]
    y = 0.125 * side * pose.spread**0.5
    shoulder = on_trunk(reach * 0.96, -0.14, y * 0.8)
    carpus = np.array([(x - 0.015) * s, y * s, (z + 0.155) * s])
    paw = np.array([x * s, y * s, (z + 0.038) * s])
    if pose.tilt > 5 and x > 0.7:
        carpus = np.array([(x - 0.16) * s, y * s, 0.05 * s])
    elbow = above(bent(shoulder, carpus, 0.30 * s, 0.33 * s, ELBOW), 0.062 * s)
    k = breed.limb
    add(shoulder, elbow, 0.105, 0.062 * k, "shoulder", 0.07, 1.0)
    add(elbow, carpus, 0.058 * k, 0.042 * k, "leg", 0.03)
    add(carpus, paw, 0.042 * k, 0.036 * k, "foot", 0.02)
    add(paw, paw + np.array([0.055, 0, -0.012]) * s, 0.044 * k, 0.034 * k, "foot", 0.02, 1.15)


def _hind_leg(add, on_trunk, breed, pose, s, side):
    x, z = pose.hind[0 if side > 0 else 1]
    y = 0.115 * side * pose.spread
    hip = on_trunk(0.04, -0.06, 0.085 * side)
    paw = np.array([x * s, y * s, (z + 0.036) * s])
    rise = 0.245 if pose.hock_back < 0.3 else 0.055
    hock = paw + np.array([-pose.hock_back, 0, rise]) * s
    stifle = above(bent(hip, hock, 0.37 * s, 0.36 * s, STIFLE), 0.09 * s)
    k = breed.limb
    add(hip, stifle, 0.135, 0.074, "thigh", 0.08, 0.95)
    add(stifle, hock, 0.062, 0.038 * k, "leg", 0.04)
    add(hock, paw, 0.040 * k, 0.034 * k, "foot", 0.03)
    add(paw, paw + np.array([0.06, 0, -0.010]) * s, 0.042 * k, 0.034 * k, "foot", 0.02, 1.15)


def _tail(add, on_trunk, breed, s, pose):
    root = on_trunk(-0.10, 0.05)
    low = pose.hip[1] < 0.5
    ways = {
        "up": [(-0.05, 0.10), (-0.01, 0.14)],
        "curl": [(-0.12, 0.12), (-0.02, 0.17), (0.12, 0.08)],
        "long": [(-0.16, -0.06), (-0.18, -0.16), (-0.12, -0.10)],
    }[breed.tail]
    if low:
        ways = [(-0.15, -0.02), (-0.14, 0.0)]
        root = np.array([root[0], 0, max(root[2] - 0.08 * s, 0.09 * s)])
    add(on_trunk(0.0, 0.02), root, 0.07, 0.045, "rump", 0.06)
    for number, (dx, dz) in enumerate(ways):
        tip = root + np.array([dx, 0.02 * (number + 1) * low, dz]) * s
        tip[2] = max(tip[2], 0.04 * s)
        add(root, tip, 0.042 - 0.010 * number, 0.034 - 0.010 * number, "tail", 0.02)
        root = tip


def _head(out, breed, pose):
    s, skull, at = out.size, breed.skull, out.on_head
    long, snout = breed.muzzle, breed.snout

    def add(a, b, at_a, at_b, part, blend=0.03, squash=1.0, flow=(-0.7, 0, -0.3)):
        out.limbs.append(
            Limb(at(a), at(b), at_a * s, at_b * s, part, blend * s, squash, out.head_turn @ np.asarray(flow, float))
        )

    add((-0.03, 0, 0.0), (0.05, 0, 0.005), skull * 0.96, skull * 0.86, "head", 0.04, 1.0, (-1, 0, 0.15))
    front = breed.front
    for side in (1, -1):
        add(
            (0.03, 0.060 * side, -0.045),
            (0.085, 0.036 * side, -0.048),
            0.060,
            0.05,
            "cheek",
            0.03,
            1.0,
            (-0.9, 0.5 * side, -0.7),
        )
        add(
            (front - 0.020, 0.050 * side, 0.060),
            (front + 0.004, 0.030 * side, 0.062),
            0.026,
            0.018,
            "brow",
            0.022,
            1.0,
            (-0.3, 0.75 * side, 0.6),
        )
    tip = front + long
    add(
        (front - 0.02, 0, -0.012),
        (tip - 0.02, 0, -0.038),
        snout * 1.12,
        snout * 0.82,
        "muzzle",
        0.035,
        1.02,
        (-0.15, 0, -1.0),
    )
    for side in (1, -1):
        add(
            (front + 0.03, 0.026 * side, -0.052),
            (tip - 0.03, 0.020 * side, -0.062),
            0.040,
            0.031,
            "muzzle",
            0.02,
            1.0,
            (-0.1, 0.5 * side, -1.0),
        )
    drop = np.radians(pose.jaw)
    hinge = np.array([front - 0.03, 0, -0.075])
    chin = hinge + np.array([np.cos(drop), 0, -np.sin(drop)]) * (long * 0.86)
    add(hinge, chin, 0.040, 0.027, "chin", 0.012, 1.15, (-0.2, 0, -1.0))
    _ears(add, breed.ears, skull)
    for side in (1, -1):
        eye = at(eye_place(breed, side))
        out.sockets.append(Limb(eye, eye + 1e-4, 0.027 * s, 0.027 * s, "", 0.012 * s))


def _ears(add, kind, skull):
    for side in (1, -1):
        root = np.array([-0.02, skull * 0.62 * side, skull * 0.72])
        if kind == "prick":
            tip = root + np.array([0.0, 0.045 * side, 0.17])
            add(root, tip, 0.050, 0.010, "ear", 0.03, 0.8, (0, 0.2 * side, 1))
        elif kind == "drop":
            low = root + np.array([0.01, 0.075 * side, -0.05])
            add(root, low, 0.045, 0.048, "ear", 0.03, 0.6, (0, 0.6 * side, -1))
            add(low, low + np.array([0.02, 0.012 * side, -0.15]), 0.050, 0.026, "ear", 0.02, 0.45, (0, 0, -1))
        else:
            fold = root + np.array([0.015, 0.045 * side, 0.045])
            add(root, fold, 0.046, 0.034, "ear", 0.025, 0.8, (0.3, 0.5 * side, 0.6))
            add(
                fold,
                fold + np.array([0.085, 0.018 * side, -0.085]),
                0.036,
                0.013,
                "ear",
                0.012,
                0.8,
                (0.6, 0.1 * side, -0.8),
            )


def eye_place(breed, side):
    """Middle of an eye, in shares from the skull's middle."""
    return np.array([breed.front + 0.014, 0.054 * side, 0.040])


def body(bones, cell):
    """The skin of the whole dog without eyes, nose and tongue; eyes have sockets."""
    return surface(bones.limbs, cell, bones.sockets)
