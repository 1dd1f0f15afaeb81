"""Dressing people: suits, gowns with folds and a train, a veil in the wind, and hair."""

from dataclasses import dataclass

import numpy as np

from tools.photos.fur import ribbons, scattered
from tools.photos.mesh import Mesh, ball, sheet, turn_z
from tools.photos.noise import noise2, noise3
from tools.photos.people import SKINS, cut, person, smoother, standing

HAIRS = {
    "black": (0.018, 0.014, 0.012),
    "brown": (0.13, 0.075, 0.042),
    "fair": (0.42, 0.30, 0.155),
    "red": (0.28, 0.11, 0.04),
    "grey": (0.32, 0.31, 0.30),
}


@dataclass(frozen=True)
class Look:
    """Who somebody is: ``wear`` "suit", "shirt" or "gown"; ``hem`` is a gown's lower edge as a share of the height."""

    sex: str = "male"
    height: float = 1.80
    wear: str = "suit"
    colour: tuple[float, float, float] = (0.03, 0.045, 0.085)
    skin: str = "fair"
    hair: str = "brown"
    style: str = "short"
    hem: float = 0.0
    train: float = 0.0
    build: str = "averagemuscle-averageweight"
    age: str = "young"


def add_person(scene, subject, look, position, yaw, pose=None, seed=1, veil=None):
    """Put somebody into the scene at ``position``; ``yaw`` in degrees, 0 facing -y, 180 facing away along +y.

    ``veil`` is (length in metres, wind from -1 to 1) or None. Returns the point of the head's middle.
    """
    who = person(look.sex, look.height, pose or standing(), look.build, look.age)
    turn = np.radians(yaw)

    def put(mesh, material, colour=None):
        mesh = mesh if colour is None else Mesh.of(mesh.vertices, mesh.faces, colour)
        scene.add(mesh.moved(position, turn), material, subject)

    camera = turn_z(-turn) @ (np.asarray(scene.camera.eye) - position)
    put(_skin(who, look), "skin", SKINS[look.skin])
    for mesh, material in gown(who, look, seed) if look.wear == "gown" else suit(who, look, seed):
        put(mesh, material)
    for mesh, material in hair(who, look, camera, seed):
        put(mesh, material)
    if veil:
        put(veil_sheet(who, *veil, seed), "veil")
    return position + turn_z(turn) @ head_of(who)


def head_of(who):
    top = who.part("body", lambda c: c[:, 2] > 0.9).vertices
    return top.mean(0)


def _skin(who, look):
    if look.wear == "gown":
        return who.part("body", lambda c: (c[:, 2] > 0.45) | (c[:, 2] < look.hem + 0.02))
    return who.part("body", lambda c: (c[:, 2] > 0.815) | ((np.abs(c[:, 0]) > 0.13) & (c[:, 2] < 0.52)))


def wrinkled(mesh, depth, scale, seed):
    """Folds that run down more than across."""
    v = mesh.vertices
    fold = depth * noise3(v * [1, 1, 0.55], scale, seed) + depth * 0.5 * noise3(v, scale * 0.45, seed + 1)
    return mesh.with_vertices(v + mesh.normals() * fold[:, None])


def suit(who, look, seed):
    """Trousers, and a jacket with a collar or, as "shirt", a shirt with sleeves."""
    h = who.height
    body = smoother(who.part("helper-tights"), 1)
    normals, z = body.normals(), body.vertices[:, 2:] / h
    loose = 0.010 + 0.016 * np.clip((0.42 - z) / 0.4, 0, 1)
    trousers = wrinkled(body.with_vertices(body.vertices + normals * loose), 0.004, 0.07, seed)
    cloth = np.array(look.colour)
    legs = cut(trousers, 0.50 * h, "below")
    shoe = legs.vertices[:, 2:] < 0.05 * h
    leg_cloth = cloth * 0.9 if look.wear == "suit" else np.array((0.24, 0.20, 0.15))
    yield Mesh(legs.vertices, legs.faces, np.where(shoe, (0.03, 0.018, 0.012), leg_cloth)), "cloth"
    arm = np.abs(body.vertices[:, :1]) > 0.115 * h
    flare = 0.014 + 0.022 * np.clip((0.56 - z) / 0.1, 0, 1) if look.wear == "suit" else 0.011
    jacket = wrinkled(body.with_vertices(body.vertices + normals * np.where(arm, 0.015, flare)), 0.0045, 0.08, seed + 3)
    low = 0.455 if look.wear == "suit" else 0.50
    top = cut(jacket, low * h, "above")
    yield Mesh.of(top.vertices, top.faces, cloth), "cloth"
    neck = who.part("body", lambda c: np.abs(c[:, 2] - 0.878) < 0.005).vertices
    rx = np.abs(neck[:, 0]).max()
    ry = rx * 1.08
    middle = np.array([0.0, neck[:, 1].max() - ry, 0.868 * h])
    if look.wear == "suit":
        yield (
            _ring(
                middle - [0, 0, 0.030],
                rx,
                ry,
                [(0.030, -0.05), (0.024, -0.01), (0.018, 0.027), (0.017, 0.042), (0.012, 0.042)],
                cloth * 0.9,
            ),
            "cloth",
        )
    shirt = [(0.018, -0.05), (0.012, -0.01), (0.007, 0.027), (0.006, 0.043), (0.001, 0.043)]
    yield _ring(middle - [0, 0, 0.014], rx, ry, shirt, (0.75, 0.74, 0.72) if look.wear == "suit" else cloth), "cloth"


def _ring(middle, rx, ry, profile, colour):
    angle = np.linspace(0, 2 * np.pi, 64, endpoint=False)
    p = np.array(profile)
    x, y = middle[0] + (rx + p[:, :1]) * np.cos(angle), middle[1] + (ry + p[:, :1]) * np.sin(angle)
    return sheet(np.stack([x, y, middle[2] + p[:, 1:] + 0.012 * np.sin(angle)], -1), colour, closed=True)


def gown(who, look, seed):
    """A bodice without sleeves, and a skirt whose folds widen downwards; with a train behind where ``train`` is set."""
    import trimesh

    h = who.height
    body = who.without_arms("helper-tights")
    vertices, faces = body.vertices, body.faces
    for _ in range(2):
        vertices, faces = trimesh.remesh.subdivide(vertices, faces)
    fitted = Mesh.of(vertices, faces, look.colour)
    fitted = wrinkled(fitted.with_vertices(fitted.vertices + fitted.normals() * 0.009), 0.002, 0.05, seed)
    bodice = cut(cut(fitted, 0.745 * h, "below"), 0.60 * h, "above")
    yield Mesh.of(bodice.vertices, bodice.faces, look.colour), "cloth"
    waist = bodice.vertices[np.abs(bodice.vertices[:, 2] - 0.61 * h) < 0.015 * h]
    middle, rx, ry = waist.mean(0), np.ptp(waist[:, 0]) / 2 + 0.004, np.ptp(waist[:, 1]) / 2 + 0.004
    u, angle = np.linspace(0, 1, 70)[:, None], np.linspace(0, 2 * np.pi, 360, endpoint=False)[None]
    full = 1.0 if look.hem < 0.1 else 0.45
    flow = np.maximum(u**1.1, 0.22 * np.sin(np.minimum(u / 0.22, 1) * np.pi / 2)) * (0.25 + 0.75 * full)
    phase = noise2(np.cos(angle) * 2 + 5, np.sin(angle) * 2 + 5, 1.0, seed) * 2.2
    fold = (
        np.sin(angle * 13 + phase * 3 + u * 1.2) * 0.55
        + np.sin(angle * 23 + phase * 5) * 0.3
        + 0.4 * np.sin(angle * 7 + phase)
    )
    fold = fold * u**0.9 * 0.045 * (0.4 + 0.6 * full)
    back = np.clip(np.sin(angle), 0, 1) ** 2
    out = 1 + fold / rx * 0.9
    x = middle[0] + np.cos(angle) * (rx + flow * 0.33) * out
    y = middle[1] + np.sin(angle) * (ry + flow * (0.33 + look.train * back * u**1.5)) * out
    z = 0.615 * h * (1 - u) + look.hem * h * u + 0.012 * np.maximum(0, np.sin(angle * 13 + phase * 3)) * u + 0 * x
    yield sheet(np.stack([x, y, z], -1), look.colour, closed=True), "dress"


def veil_sheet(who, length, wind, seed):
    """Tulle from the back of the head, widening, rippled, carried sideways by the wind."""
    top = head_of(who) + [0, 0.085, 0.075]
    u, across = np.linspace(0, 1, 90)[:, None], np.linspace(-1, 1, 140)[None]
    width = 0.07 + 0.42 * u**0.8 * min(length, 1.6) / 1.2
    away = u * length
    fall = np.cos(np.radians(72 * abs(wind)))
    ripple = 0.05 * u * np.sin(across * 9 + 2.6 * noise2(u * 3 + 0 * across, across * 1.2 + 0 * u, 0.8, seed) + u * 4)
    ripple = (
        ripple
        + 0.03 * u * np.sin(across * 17 + u * 7)
        + 0.12 * u**1.4 * noise2(u * 2 + 0 * across, across + 0 * u, 0.7, seed + 2)
    )
    x = top[0] + across * width * (1 - 0.35 * abs(wind)) + wind * away * 0.93
    y = top[1] + 0.10 * np.sin(u * 2.0) + ripple + (0.16 + 0.34 * (1 - abs(wind))) * u + 0.05 * (1 - across**2)
    z = (
        top[2]
        - away * fall
        - 0.05 * np.abs(across) ** 2
        + abs(wind) * across * width * 0.75
        + 0.06 * u * np.sin(u * 6 + across * 3)
    )
    return sheet(np.stack([x + 0 * y, y, np.maximum(z, 0.02)], -1), (0.86, 0.84, 0.80))


def hair(who, look, camera, seed):
    """A cap of scalp and strands over it: short, a bun, or long down the back."""
    random, h = np.random.default_rng(seed), who.height
    line = 0.895 if look.style == "short" else 0.875
    cap = who.part("body", lambda c: (c[:, 2] > line) & ((c[:, 1] > -0.030) | (c[:, 2] > 0.962)))
    colour = np.array(HAIRS[look.hair])
    raised = Mesh.of(cap.vertices + cap.normals() * 0.006, cap.faces, colour * 0.4)
    yield raised, "matte"
    middle = cap.vertices.mean(0)
    count = 26000
    roots, normals = scattered(raised, count, random)
    tone = colour * random.uniform(0.6, 1.3, (count, 1)) * (1 + 0.25 * noise3(roots, 0.03, 81)[:, None])
    down = np.array([0, 0.30, -1.0])
    if look.style == "long":
        yield ribbons(_hanging(roots, normals, middle, h, random), tone, camera, 0.0011, 0.0003), "fur"
        return
    flow = np.tile(down, (count, 1)) + 0.35 * np.stack([noise3(roots, 0.05, 83 + i) for i in range(3)], -1)
    flow -= normals * (flow * normals).sum(1, keepdims=True)
    length = 0.030 if look.style == "short" else 0.045
    knots = [
        roots + normals * 0.012 * t + flow * length * t * (1 + 0.3 * random.normal(size=(count, 1)))
        for t in np.linspace(0, 1, 4)
    ]
    yield ribbons(np.stack(knots, 1), tone, camera, 0.0010, 0.0004), "fur"
    if look.style == "bun":
        centre = np.array([middle[0], cap.vertices[:, 1].max() + 0.030, 0.925 * h])
        knot = ball(centre, 0.052, colour * 0.4, (1.0, 0.85, 0.9))
        yield knot, "matte"
        roots, normals = scattered(knot, 9000, random)
        round_ = np.cross(roots - centre, [0.3, 1.0, 0.25])
        round_ /= np.linalg.norm(round_, axis=1, keepdims=True)
        far = np.linalg.norm(roots - centre, axis=1, keepdims=True)
        knots = []
        for t in np.linspace(0, 1, 5):
            way = roots - centre + round_ * 0.05 * t
            knots.append(
                centre + way / np.linalg.norm(way, axis=1, keepdims=True) * far * (1.02 + 0.03 * np.sin(9 * t))
            )
        yield ribbons(np.stack(knots, 1), colour * random.uniform(0.6, 1.35, (9000, 1)), camera, 0.0010, 0.0004), "fur"


def _hanging(roots, normals, middle, height, random):
    """Long hair: over the head's curve to the nape, then down the back with a wave."""
    count = len(roots)
    length = random.uniform(0.20, 0.34, count) * height / 1.7
    wave, lock = random.uniform(0, 6.3, count), noise3(roots, 0.025, 85)
    knots = []
    for t in np.linspace(0, 1, 12):
        drop = np.maximum(0, t * length * 1.25 - 0.02)
        x = roots[:, 0] * (1 - 0.25 * t) + 0.012 * np.sin(wave + 9 * t) * t + 0.018 * lock * t
        back = middle[1] + 0.085 + 0.012 * lock - 0.02 * t
        y = roots[:, 1] * (1 - min(1, 2.2 * t)) + np.maximum(back, roots[:, 1]) * min(1, 2.2 * t)
        z = roots[:, 2] - drop
        knots.append(np.stack([x, y, z], -1) + normals * (0.012 + 0.006 * t))
    return np.stack(knots, 1)
