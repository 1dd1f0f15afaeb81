"""A coast: dunes, a sea with waves, a headland, and what stands or floats there."""

import numpy as np

from tools.photos.mesh import Mesh, ball, box, grid_faces, ground, lathe, merged, sheet, tube
from tools.photos.noise import noise2

SAND, PALE, RED, DARK = np.array([0.50, 0.41, 0.29]), (0.78, 0.77, 0.74), (0.42, 0.05, 0.04), (0.05, 0.05, 0.06)
SEA_LEVEL = -4.1


def dune_height(x, y):
    """Soft dunes that fall to the beach from nine metres on, and rise to the right."""
    rough = (
        0.10 * noise2(x, y, 1.7, 1)
        + 0.45 * noise2(x, y, 6.0, 2)
        + 0.009 * np.sin(x * 9 + y * 4 + 3 * noise2(x, y, 1.2, 3))
    )
    return (
        rough
        - np.clip((y - 9) * 0.16, 0, 4.0)
        - 0.02 * np.clip(-x - 3, 0, 9)
        + 0.22 * np.clip((x - 2.2) * 0.45, 0, 2.0)
    )


def dunes():
    """Sand with ripples and footprints' unevenness, wet towards the sea."""
    x = np.concatenate([np.linspace(-90, -9, 100), np.linspace(-8.9, 8.9, 500), np.linspace(9, 90, 100)])
    y = np.concatenate([np.linspace(-8, 12, 500), np.linspace(12.2, 60, 160)])

    def colour(points):
        tone = (
            1 + 0.08 * noise2(points[:, 0], points[:, 1], 0.5, 4) + 0.04 * noise2(points[:, 0], points[:, 1], 0.05, 6)
        )
        wet = np.clip((points[:, 1] - 24) / 6, 0, 1)
        return SAND * (tone * (1 - 0.45 * wet))[:, None]

    def height(across, along):
        step = (
            np.exp(-((noise2(across, along, 0.22, 10) - 1.2) ** 2) / 0.18)
            * 0.03
            * np.exp(-(((across - 0.3) / 0.9) ** 2))
        )
        return dune_height(across, along) + 0.006 * noise2(across, along, 0.09, 9) - step

    return ground(height, x, y, colour)


def sea(random, near=30.0, level=SEA_LEVEL, colour=(0.035, 0.075, 0.085), half=0.55, swell=0.008):
    """Waves on a mesh that is fine near the camera; ``half`` is the wedge's width over its depth."""
    y = np.concatenate([np.linspace(near, near + 110, 420), np.geomspace(near + 111, 9000, 260)])
    along, across = np.meshgrid(y, np.linspace(-half, half, 520), indexing="ij")
    x = across * (along + 12)
    z = np.zeros_like(x)
    for _ in range(26):
        length, way = random.uniform(1.2, 9), random.normal() * 0.5 - 1.57
        calm = np.clip(1 - (along / (length * 90)), 0.02, 1)
        phase = (np.cos(way) * x + np.sin(way) * along) * 2 * np.pi / length + random.uniform(0, 6)
        z += swell * length**0.9 * calm * np.sin(phase)
    points = np.stack([x, along, z + level], -1)
    return Mesh.of(points.reshape(-1, 3), grid_faces(*x.shape), colour)


def headland(middle, width, tall, far=375.0):
    """A grassy headland with rocky flanks."""
    x = np.linspace(middle - width * 1.3, middle + width * 1.3, 200)

    def height(across, along):
        hump = (
            np.clip(1 - ((across - middle) / width) ** 2, 0, 1) ** 0.6
            * np.clip(1 - ((along - far) / 42.0) ** 2, 0, 1) ** 0.5
        )
        return tall * hump * (1 + 0.10 * noise2(across, along, 22.0, 41) + 0.05 * noise2(across, along, 6.0, 42)) - 5

    mesh = ground(height, x, np.linspace(far - 45, far + 45, 60), (0.12, 0.15, 0.06))
    rock = np.clip((0.75 - np.abs(mesh.normals()[:, 2:])) * 4, 0, 1)
    return Mesh(
        mesh.vertices, mesh.faces, np.array([0.12, 0.15, 0.06]) * (1 - rock) + np.array([0.20, 0.17, 0.14]) * rock
    )


def lighthouse(foot):
    """A banded tower of 31 m with a gallery, a lantern and a keeper's house."""
    foot = np.asarray(foot, float)

    def radius(z):
        return 3.6 - 1.5 * z / 24

    parts = []
    for band in range(5):
        low, high = 24 * band / 5, 24 * (band + 1) / 5
        profile = [(radius(z), z) for z in (low, (low + high) / 2, high)]
        parts.append(lathe(profile, foot, 48, PALE if band % 2 == 0 else RED))
    parts += [
        lathe([(0, 24), (3.1, 24), (3.1, 24.4), (0, 24.4)], foot, 48, (0.1, 0.1, 0.1)),
        lathe([(1.5, 24.4), (1.5, 27.4)], foot, 16, (0.16, 0.2, 0.22)),
        lathe([(1.9, 27.4), (1.6, 28.3), (0.7, 29.2), (0.15, 29.5), (0.1, 31), (0, 31)], foot, 32, RED),
    ]
    for a in np.linspace(0, 2 * np.pi, 17)[:-1]:
        rail = foot + [2.9 * np.cos(a), 2.9 * np.sin(a), 24.4]
        parts.append(tube([rail, rail + [0, 0, 1.1]], 0.05, 5, (0.1, 0.1, 0.1)))
    parts += [box(foot + [0, -radius(5 + 5 * k) + 0.05, 5 + 5 * k], (0.7, 0.3, 1.2), 0, DARK) for k in range(4)]
    parts += [box(foot + [9, 0, 2.2], (8, 6, 4.4), 0.1, PALE), box(foot + [9, -3.05, 2.2], (1.0, 0.2, 1.4), 0.1, DARK)]
    return merged(parts)


def windmill(foot, scale=1.0, turn=0.35):
    """A tower mill with a thatched body, a gallery and four lattice sails."""
    body = lathe([(4.2, 0), (4.0, 2), (3.0, 8), (2.5, 11)], around=10, colour=(0.13, 0.10, 0.075))
    base_ = lathe([(4.6, -3), (4.5, 0), (4.2, 0)], around=10, colour=(0.33, 0.15, 0.10))
    gallery = lathe([(4.2, 0.2), (6.0, 0.25), (6.0, 0.45), (4.1, 0.4)], around=24, colour=(0.45, 0.44, 0.42))
    cap = ball((0, 0, 11.3), 2.7, (0.10, 0.085, 0.07), (1.0, 1.25, 0.8))
    parts = [body, base_, gallery, cap, box((0, -3.5, 11.6), (0.5, 2.4, 0.5), 0, (0.3, 0.28, 0.25))]
    for k in range(4):
        a = turn + k * np.pi / 2
        along, side = np.array([np.sin(a), 0, np.cos(a)]), np.array([np.cos(a), 0, -np.sin(a)])
        hub = np.array([0, -4.7, 11.6])
        parts.append(tube([hub, hub + along * 9.5], [0.20, 0.10], 6, (0.35, 0.32, 0.28)))
        for t in np.linspace(1.6, 9.3, 16):
            parts.append(
                tube([hub + along * t - side * 0.25, hub + along * t + side * 1.7], 0.045, 4, (0.35, 0.32, 0.28))
            )
        for off in (0.7, 1.65):
            parts.append(
                tube([hub + along * 1.6 + side * off, hub + along * 9.3 + side * off], 0.05, 4, (0.35, 0.32, 0.28))
            )
        cloth = [[hub + along * t + side * w + [0, 0.06, 0] for w in (0.05, 1.6)] for t in np.linspace(4.5, 9.2, 6)]
        parts.append(sheet(cloth, (0.42, 0.26, 0.17)))
    for a in np.linspace(0, 2 * np.pi, 21)[:-1]:
        parts.append(
            tube([[6 * np.cos(a), 6 * np.sin(a), 0.4], [6 * np.cos(a), 6 * np.sin(a), 1.4]], 0.06, 5, (0.5, 0.49, 0.47))
        )
    return merged(part.moved(foot, 0.35, scale) for part in parts)


def sailing_boat(at, length, yaw, hull=(0.7, 0.69, 0.66), sail=(0.80, 0.78, 0.72)):
    """A small yacht under main and jib, heeling a little."""
    t = np.linspace(-1, 1, 24)[:, None]
    beam = np.clip(1 - np.abs(t) ** 2.4, 0, 1) * 0.16 * (1 - 0.25 * t)
    side = np.linspace(-1, 1, 13)[None]
    shell = np.stack(
        [
            t * 0.5 + 0 * side,
            beam * np.sin(side * np.pi / 2),
            0.11 + 0.02 * t**2 - 0.15 * np.sqrt(np.clip(1 - side**2, 0, 1)) * (beam > 0.01),
        ],
        -1,
    )
    parts = [sheet(shell * [1, 1, 1], hull), tube([[0.06, 0, 0.1], [0.06, 0, 1.42]], 0.008, 6, (0.5, 0.48, 0.45))]
    u, v = np.linspace(0, 1, 14)[:, None], np.linspace(0, 1, 10)[None]
    main = np.stack(
        [0.05 - (1 - u) * v * 0.52, 0.06 * np.sin(v * np.pi) * (1 - u) + 0 * u, 0.20 + u * 1.18 + 0 * v], -1
    )
    jib = np.stack(
        [0.50 - 0.43 * u - (1 - u) * v * 0.34, 0.05 * np.sin(v * np.pi) * (1 - u) + 0 * u, 0.15 + u * 1.05 + 0 * v], -1
    )
    parts += [sheet(main, sail), sheet(jib, sail)]
    return merged(part.moved(at, np.radians(yaw), length) for part in parts)
