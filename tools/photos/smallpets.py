"""Rabbits and guinea pigs: egg-shaped bodies of rounded cones under dense soft fur. They face +x and stand on z = 0."""

from dataclasses import dataclass

import numpy as np

from tools.photos.blobs import Limb, flows, shares, surface
from tools.photos.coats import BLACK, CREAM, GREY, PINK, RUST, SILVER, TAN, WHITE, Coat, Patch
from tools.photos.fur import ribbons, scattered, strands
from tools.photos.mesh import ball, merged, tube, turn_z
from tools.photos.noise import noise3

CELL = 0.0035
SOFT = {
    "": 0.018,
    "head": 0.010,
    "cheek": 0.012,
    "ear": 0.007,
    "inner": 0.003,
    "foot": 0.008,
    "tail": 0.024,
    "nose": 0.005,
}
SMOOTH = {"": 0.020, "head": 0.013, "cheek": 0.016, "ear": 0.003, "inner": 0.002, "foot": 0.005, "nose": 0.005}
AGOUTI = (0.33, 0.235, 0.14)

COATS = {
    "white": Coat({"": (0.80, 0.77, 0.71), "inner": PINK}, SOFT, lift=0.4, clump=0.02, iris=(0.05, 0.03, 0.02)),
    "agouti": Coat({"": AGOUTI, "inner": (0.30, 0.19, 0.14), "tail": WHITE, "foot": CREAM, "nose": CREAM, "belly": SILVER}, SOFT,
                   speckle=0.12, lift=0.4, clump=0.02),
    "dutch": Coat({"": WHITE, "rump": BLACK, "thigh": BLACK, "ear": BLACK, "inner": (0.12, 0.08, 0.07), "cheek": BLACK, "tail": BLACK,
                   "nose": WHITE}, SOFT, lift=0.4, clump=0.02, blend=0.012),
    "blue": Coat({"": (0.21, 0.22, 0.235), "inner": (0.2, 0.15, 0.14), "tail": GREY}, SOFT, lift=0.4, clump=0.02),
    "orange": Coat({"": TAN, "inner": PINK, "belly": CREAM, "tail": CREAM, "foot": CREAM, "nose": CREAM}, SOFT, lift=0.4, clump=0.02),
    "tricolour": Coat({"": WHITE, "rump": RUST, "head": TAN, "cheek": BLACK, "ear": BLACK, "inner": BLACK, "foot": PINK, "nose": WHITE}, SMOOTH,
                      (Patch(BLACK, ("body", "rump"), 0.55, 0.09, 71),), lift=0.3, clump=0.015, unruly=0.35, blend=0.010),
    "red cavy": Coat({"": RUST, "ear": (0.16, 0.08, 0.06), "inner": PINK, "foot": PINK, "nose": WHITE}, SMOOTH,
                     (Patch(WHITE, ("body",), 0.5, 0.08, 73),), lift=0.3, clump=0.015, unruly=0.35, blend=0.010),
    "cream cavy": Coat({"": CREAM, "ear": PINK, "inner": PINK, "foot": PINK, "rump": WHITE}, SMOOTH, lift=0.3, clump=0.015, unruly=0.35),
}  # fmt: skip


@dataclass(frozen=True)
class Build:
    """A body's limbs and where its face is; metres."""

    limbs: list[Limb]
    eyes: list[np.ndarray]
    eye_size: float
    nose: np.ndarray
    whiskers: float


def limb(a, b, at_a, at_b, part, blend=0.02, squash=1.0, flow=(-1, 0, -0.3)):
    return Limb(np.asarray(a, float), np.asarray(b, float), at_a, at_b, part, blend, squash, np.asarray(flow, float))


def rabbit(upright=False, lop=False, turn=0.0):
    """About 30 cm long, crouched, or sitting ``upright``; ``lop`` lets the ears hang, ``turn`` the head (degrees)."""
    rise = 0.075 if upright else 0.0
    head = np.array([0.115 - 0.05 * upright, 0, 0.150 + rise * 1.35])
    spin = turn_z(np.radians(turn))

    def on_head(point):
        return head + spin @ np.asarray(point, float)

    out = [
        limb((-0.075, 0, 0.085), (0.005, 0, 0.082 + rise * 0.4), 0.084, 0.080, "rump", 0.04, 1.05),
        limb((0.005, 0, 0.082 + rise * 0.4), (0.07 - 0.03 * upright, 0, 0.085 + rise), 0.078, 0.058, "body", 0.04),
        limb((0.07 - 0.03 * upright, 0, 0.095 + rise), head + (-0.02, 0, -0.01), 0.050, 0.044, "body", 0.03),
        limb((0.03, 0, 0.045), (0.075 - 0.02 * upright, 0, 0.06 + rise), 0.045, 0.046, "belly", 0.04),
        limb((-0.155, 0, 0.075), (-0.165, 0, 0.085), 0.026, 0.024, "tail", 0.015),
    ]
    for side in (1, -1):
        out += [
            limb((-0.065, 0.050 * side, 0.075), (-0.025, 0.062 * side, 0.055), 0.062, 0.048, "thigh", 0.03, 1.2),
            limb((-0.05, 0.060 * side, 0.016), (0.045, 0.064 * side, 0.013), 0.017, 0.013, "foot", 0.012),
            limb((0.075, 0.030 * side, 0.06 + rise), (0.100, 0.030 * side, 0.02 + rise * 0.35), 0.024, 0.014, "foot", 0.02),
            limb((0.100, 0.030 * side, 0.018 + rise * 0.3), (0.122, 0.030 * side, 0.012), 0.014, 0.011, "foot", 0.012),
            limb(on_head((0.012, 0.022 * side, -0.016)), on_head((0.035, 0.014 * side, -0.022)), 0.030, 0.019, "cheek", 0.02, 1, spin @ (-1, 0.4 * side, -0.4)),
        ]  # fmt: skip
        root = on_head((-0.030, 0.020 * side, 0.030))
        if lop:
            fold = on_head((-0.020, 0.052 * side, 0.036))
            tip = on_head((0.012, 0.078 * side, -0.070))
            out += [
                limb(root, fold, 0.018, 0.017, "ear", 0.012),
                limb(fold, tip, 0.020, 0.022, "ear", 0.01, 1.6, (0, 0, -1)),
            ]
        else:
            middle, tip = on_head((-0.062, 0.030 * side, 0.085)), on_head((-0.082, 0.040 * side, 0.150))
            out += [
                limb(root, middle, 0.012, 0.022, "ear", 0.010, 0.9, (0, 0, 1)),
                limb(middle, tip, 0.022, 0.008, "ear", 0.01, 0.9, (0, 0, 1)),
            ]
            front = spin @ np.array([0.0145, 0.004 * side, 0.004])
            out += [
                limb(
                    root * 0.3 + middle * 0.7 + front,
                    middle * 0.35 + tip * 0.65 + front,
                    0.011,
                    0.006,
                    "inner",
                    0.006,
                    0.8,
                    (0, 0, 1),
                )
            ]
    out += [
        limb(
            on_head((-0.012, 0, 0.004)),
            on_head((0.030, 0, -0.004)),
            0.047,
            0.034,
            "head",
            0.02,
            1.08,
            spin @ (-1, 0, 0.2),
        ),
        limb(
            on_head((0.030, 0, -0.006)),
            on_head((0.056, 0, -0.014)),
            0.030,
            0.019,
            "nose",
            0.02,
            1.0,
            spin @ (-1, 0, -0.3),
        ),
    ]
    eyes = [on_head((0.018, 0.0375 * side, 0.012)) for side in (1, -1)]
    return Build(out, eyes, 0.0098, on_head((0.0755, 0, -0.010)), 0.07)


def guinea_pig(turn=0.0):
    """About 24 cm long: one blunt roll with a heavy head and petal ears."""
    head = np.array([0.078, 0, 0.066])
    spin = turn_z(np.radians(turn))

    def on_head(point):
        return head + spin @ np.asarray(point, float)

    out = [
        limb((-0.080, 0, 0.062), (-0.02, 0, 0.066), 0.054, 0.060, "rump", 0.03, 1.0),
        limb((-0.02, 0, 0.066), (0.045, 0, 0.064), 0.059, 0.052, "body", 0.03, 1.0),
        limb((0.045, 0, 0.066), head, 0.052, 0.044, "body", 0.03),
        limb(head, on_head((0.030, 0, -0.004)), 0.043, 0.034, "head", 0.02, 1.05, spin @ (-1, 0, 0.2)),
        limb(
            on_head((0.030, 0, -0.006)),
            on_head((0.055, 0, -0.013)),
            0.031,
            0.021,
            "nose",
            0.02,
            1.0,
            spin @ (-1, 0, -0.2),
        ),
    ]
    for side in (1, -1):
        out += [
            limb(on_head((0.0, 0.018 * side, -0.016)), on_head((0.03, 0.012 * side, -0.02)), 0.033, 0.022, "cheek", 0.02, 1, spin @ (-1, 0.3 * side, -0.3)),
            limb((-0.06, 0.040 * side, 0.014), (-0.025, 0.044 * side, 0.008), 0.012, 0.009, "foot", 0.01),
            limb((0.055, 0.032 * side, 0.016), (0.078, 0.034 * side, 0.008), 0.011, 0.008, "foot", 0.01),
            limb(on_head((-0.016, 0.036 * side, 0.022)), on_head((-0.012, 0.058 * side, 0.006)), 0.012, 0.014, "ear", 0.006, 1.0, (0, side, -0.6)),
        ]  # fmt: skip
    eyes = [on_head((0.024, 0.0405 * side, 0.011)) for side in (1, -1)]
    return Build(out, eyes, 0.0084, on_head((0.077, 0, -0.006)), 0.045)


def add_pet(scene, subject, build, position, yaw, coat, hairs=240000, seed=1, scale=1.0):
    """Put a small pet into the scene at ``position``, facing ``yaw`` degrees."""
    random, turn, wear = np.random.default_rng(seed), np.radians(yaw), COATS[coat]
    camera = turn_z(-turn) @ (np.asarray(scene.camera.eye) - position) / scale

    def put(mesh, material):
        scene.add(mesh.moved(position, turn, scale), material, subject)

    skin = surface(build.limbs, CELL)
    skin = skin.with_vertices(np.maximum(skin.vertices, [-9, -9, 0.001]))
    colour, _ = wear.worn(shares(build.limbs, skin.vertices, wear.blend * 0.4), skin.vertices, random)
    put(type(skin)(skin.vertices, skin.faces, colour * 0.55), "matte")
    roots, normals = scattered(skin, hairs, random)
    colour, length = wear.worn(shares(build.limbs, roots, wear.blend * 0.4), roots, random)
    length = length * random.uniform(0.7, 1.2, hairs) * (1 + 0.2 * noise3(roots, 0.03, 3))
    for eye in build.eyes:
        away = np.linalg.norm(roots - eye, axis=1) / build.eye_size
        length *= np.clip((away - 1.12) / 1.6, 0, 1)
    length *= np.clip((np.linalg.norm(roots - build.nose, axis=1) - 0.006) / 0.010, 0, 1)
    kept = length > 0.0004
    knots = strands(roots[kept], normals[kept], length[kept], flows(build.limbs, roots[kept], 0.012), random,
                    wear.lift, wear.droop, wear.clump, wear.unruly)  # fmt: skip
    knots[..., 2] = np.maximum(knots[..., 2], 0.001)
    put(ribbons(knots, colour[kept], camera, 0.00042, 0.00010), "fur")
    put(merged(ball(eye, build.eye_size, (0.006, 0.004, 0.003)) for eye in build.eyes), "wet")
    put(merged(rims(build)), "satin")
    put(merged(snout(build)), "nose")
    put(whiskers(build, random), "fur")


def rims(build):
    """A dark ring of skin around each eye."""
    middle = np.mean(build.eyes, 0)
    for eye in build.eyes:
        out = eye - middle
        out = out / np.linalg.norm(out)
        side = np.cross(out, [0, 0, 1.0])
        side /= np.linalg.norm(side)
        up = np.cross(side, out)
        turn = np.linspace(0, 2 * np.pi, 28)[:, None]
        yield tube(eye + out * build.eye_size * 0.42 + build.eye_size * 0.98 * (side * np.cos(turn) + up * np.sin(turn)),
                   build.eye_size * 0.15, 8, (0.03, 0.022, 0.018))  # fmt: skip


def ahead(build):
    """Level unit vectors: the way the face looks, and to its left."""
    way = build.nose - np.mean(build.eyes, 0)
    way[2] = 0
    way /= np.linalg.norm(way)
    return way, np.array([-way[1], way[0], 0])


def snout(build):
    """Two nostrils' wings and the cleft below, pink-brown and small."""
    way, side = ahead(build)
    front = build.nose + way * 0.0015
    for s in (1, -1):
        line = [
            front + side * s * y - way * abs(y) * 0.9 + np.array([0, 0, z])
            for y, z in ((0.0005, -0.004), (0.004, 0.0), (0.0075, 0.003))
        ]
        yield tube(line, [0.0016, 0.0022, 0.0014], 8, (0.34, 0.20, 0.17))
    yield tube(
        [front + np.array([0, 0, -0.003]), front - way * 0.003 + np.array([0, 0, -0.011])],
        0.0011,
        6,
        (0.25, 0.14, 0.12),
    )


def whiskers(build, random):
    """Thin curved hairs to both sides."""
    way, side = ahead(build)
    out = []
    for number in range(16):
        s = 1 if number % 2 else -1
        start = (
            build.nose
            - way * random.uniform(0.010, 0.018)
            + side * s * random.uniform(0.013, 0.016)
            + np.array([0, 0, random.uniform(-0.008, 0.0)])
        )
        heading = side * s + way * random.uniform(-0.5, 0.3) + np.array([0, 0, random.uniform(-0.35, 0.35)])
        t = np.linspace(0, 1, 8)[:, None]
        line = (
            start
            + heading / np.linalg.norm(heading) * t * build.whiskers * random.uniform(0.7, 1.1)
            + np.array([0, 0, -0.015]) * t**2
        )
        out.append(tube(line, np.linspace(0.00022, 0.00006, 8), 4, (0.75, 0.73, 0.70)))
    return merged(out)
