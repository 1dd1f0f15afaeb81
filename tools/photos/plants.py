"""Grass and trees as merged meshes of thin two-sided leaves."""

import numpy as np

from tools.photos.mesh import Mesh, merged, tube
from tools.photos.noise import noise2, noise3

BARK = (0.07, 0.05, 0.035)
TWIG_LEVEL = 2
LAST_LEVEL = 4


def blades(base, height, width, bend, heading, lean, tip_colour, segments=4, root_shade=0.55):
    """Curved, tapering blades from ``base`` (n, 3); the other arguments are (n,), lean and colour (n, 3)."""
    t = np.linspace(0, 1, segments + 1)[None, :, None]
    out = np.stack([np.cos(heading), np.sin(heading), 0 * heading], -1)[:, None]
    side = np.stack([-np.sin(heading), np.cos(heading), 0 * heading], -1)[:, None]
    h, bent = height[:, None, None], bend[:, None, None]
    spine = base[:, None] + h * t * np.array([0, 0, 1.0]) * (1 - 0.25 * bent * t) + h * bent * out * t**2
    spine = spine + h * lean[:, None] * t
    half = width[:, None, None] * (1 - t**1.6) * 0.5 + 1e-4
    count = len(base)
    vertices = np.concatenate([spine - side * half, spine + side * half], 2).reshape(count, segments + 1, 2, 3)
    index = np.arange(count * (segments + 1) * 2).reshape(count, segments + 1, 2)
    a, b, c, d = index[:, :-1, 0], index[:, :-1, 1], index[:, 1:, 1], index[:, 1:, 0]
    faces = np.concatenate([np.stack(q, -1).reshape(-1, 3) for q in ((a, b, c), (a, c, d))])
    colour = tip_colour[:, None] * (root_shade * (1 - t) + t)
    return Mesh(vertices.reshape(-1, 3), faces, np.repeat(colour[:, :, None], 2, 2).reshape(-1, 3))


def lawn(random, count, near, far, width, height, ground, camera, keep_out=(), half_angle=0.30):
    """Meadow grass in the wedge the camera sees, from ``near`` to ``far`` metres before it, patchy and leaning.

    ``ground(x, y)`` gives the height of the soil; ``keep_out`` holds (x, y, radius) that stay short.
    """
    ahead = near + (far - near) * random.random(count) ** 1.3
    x = camera[0] + (random.random(count) - 0.5) * 2 * (0.6 + half_angle * ahead)
    y = camera[1] + ahead
    patch = noise2(x, y, 0.5, 5) + 0.6 * noise2(x, y, 0.12, 6)
    kept = random.random(count) < np.clip(0.75 + 0.3 * patch, 0.15, 1)
    x, y, patch = x[kept], y[kept], patch[kept]
    n = len(x)
    tall = np.abs(height * (1 + 0.3 * patch) * random.uniform(0.5, 1.35, n))
    for cx, cy, radius in keep_out:
        tall *= np.clip(np.hypot(x - cx, y - cy) / radius, 0.35, 1)
    lean = np.stack(
        [0.2 * noise2(x, y, 0.8, 7) + 0.15 * random.normal(size=n), 0.12 * random.normal(size=n), 0 * x], -1
    )
    colour = (
        np.array([0.13, 0.20, 0.04]) * (1 + 0.25 * noise2(x, y, 1.3, 8)[:, None]) * random.uniform(0.7, 1.3, (n, 1))
    )
    dry = random.random(n) < 0.16
    colour[dry] = np.array([0.38, 0.31, 0.14]) * random.uniform(0.7, 1.2, (dry.sum(), 1))
    base = np.stack([x, y, ground(x, y) - 0.01], -1)
    return blades(base, tall, width * random.uniform(0.6, 1.4, n), random.uniform(0.1, 1.1, n),
                  random.uniform(0, 2 * np.pi, n), lean, colour.clip(0.01, 0.8))  # fmt: skip


def marram(random, count, centre, spread, ground, height=0.75, thickness=1.0):
    """Dune grass in tufts, blown to one side."""
    tufts = max(1, count // 70)
    tx = centre[0] + (random.random(tufts) - 0.5) * 2 * spread[0]
    ty = centre[1] + (random.random(tufts) - 0.5) * 2 * spread[1]
    kept = noise2(tx, ty, 2.2, 31) > -0.15
    tx, ty = tx[kept], ty[kept]
    own = random.integers(0, len(tx), count)
    x, y = tx[own] + 0.10 * random.normal(size=count), ty[own] + 0.10 * random.normal(size=count)
    heading = np.arctan2(y - ty[own], x - tx[own]) + random.normal(size=count) * 0.5
    colour = np.array([0.23, 0.25, 0.10]) * random.uniform(0.6, 1.3, (count, 1))
    dry = random.random(count) < 0.35
    colour[dry] = np.array([0.50, 0.41, 0.22]) * random.uniform(0.7, 1.2, (dry.sum(), 1))
    lean = np.tile([0.22, 0.05, 0], (count, 1)) + random.normal(size=(count, 3)) * [0.1, 0.1, 0]
    base = np.stack([x, y, ground(x, y) - 0.03], -1)
    return blades(base, height * random.uniform(0.5, 1.2, count), 0.005 * thickness * random.uniform(0.7, 1.4, count),
                  random.uniform(0.2, 1.0, count), heading, lean, colour.clip(0, 0.9), 6, 0.6)  # fmt: skip


def flowers(random, count, ground, camera, far=14.0, half_angle=0.30):
    """Small open flowers, white and yellow, just over the grass."""
    ahead = random.uniform(1.2, far, count)
    x = camera[0] + (random.random(count) - 0.5) * 2 * (0.6 + half_angle * ahead)
    y = camera[1] + ahead
    z = ground(x, y) + random.uniform(0.06, 0.14, count)
    angle = np.linspace(0, 2 * np.pi, 8)[:-1]
    faces = np.array([[0, k + 1, (k + 1) % 7 + 1] for k in range(7)])
    out = []
    for centre in np.stack([x, y, z], -1):
        tilt = 0.35 * np.sin(angle + random.uniform(0, 6))
        petals = random.uniform(0.006, 0.011) * np.stack([np.cos(angle), np.sin(angle), tilt], -1)
        colour = (0.85, 0.82, 0.75) if random.random() < 0.6 else (0.85, 0.62, 0.04)
        out.append(Mesh.of(np.concatenate([[centre], centre + petals]), faces, colour))
    return merged(out)


def tree(height=10.0, leaf_count=16000, leaf=0.12, green=(0.09, 0.15, 0.03), seed=0, trunk=0.25):
    """(wood, leaves): branches that fork at random, and leaves around the twigs."""
    random = np.random.default_rng(seed)
    wood, twigs = [], []

    def grow(start, way, length, radius, level):
        points = [start]
        for _ in range(5):
            way = way + random.normal(size=3) * 0.13 + np.array([0, 0, 0.05])
            way = way / np.linalg.norm(way)
            points.append(points[-1] + way * length / 5)
        wood.append(tube(points, np.linspace(radius, radius * 0.6, 6), 6, BARK))
        if level >= TWIG_LEVEL:
            twigs.extend((point, length) for point in points[1:])
        if level == LAST_LEVEL:
            return
        for _ in range(random.integers(3, 5) if level else 6):
            at = points[random.integers(2 if level else 1, 6)]
            turn, open_ = random.uniform(0, 2 * np.pi), random.uniform(0.35, 1.1)
            side = np.array([np.cos(turn) * open_, np.sin(turn) * open_, 0.6 + 0.3 * random.normal()])
            side = side / np.linalg.norm(side) * 0.8 + way * 0.5
            grow(at, side / np.linalg.norm(side), length * random.uniform(0.5, 0.75), radius * 0.5, level + 1)

    grow(np.zeros(3), np.array([0, 0, 1.0]), height * 0.5, trunk, 0)
    at, reach = np.array([t[0] for t in twigs]), np.array([t[1] for t in twigs])
    own = random.integers(0, len(at), leaf_count)
    centre = at[own] + random.normal(size=(leaf_count, 3)) * (0.18 * reach[own] + 0.12)[:, None]
    way = random.normal(size=(leaf_count, 3)) - np.array([0, 0, 0.5])
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    across = np.cross(way, random.normal(size=(leaf_count, 3)))
    across /= np.linalg.norm(across, axis=1, keepdims=True)
    size = leaf * random.uniform(0.6, 1.3, (leaf_count, 1))
    corners = [
        centre - way * size * 0.5,
        centre + across * size * 0.28,
        centre + way * size * 0.5,
        centre - across * size * 0.28,
    ]
    index = np.arange(leaf_count)[:, None] * 4
    shade = (1 + 0.2 * noise3(centre, height / 9, seed)[:, None]) * random.uniform(0.7, 1.3, (leaf_count, 1))
    colour = np.array(green) * shade + random.uniform(0, 0.03, (leaf_count, 1)) * [1, 0.5, 0]
    leaves = Mesh(np.stack(corners, 1).reshape(-1, 3), np.concatenate([index + [0, 1, 2], index + [0, 2, 3]]),
                  np.repeat(colour.clip(0.01, 0.9), 4, 0))  # fmt: skip
    return merged(wood), leaves
