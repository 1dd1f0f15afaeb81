"""A ferry pier: planks, posts and ropes, a boathouse, hills across the water, bunting and bulbs."""

import numpy as np

from tools.photos.mesh import Mesh, box, ground, lathe, merged, sheet, tube, turn_z
from tools.photos.noise import noise2
from tools.photos.scene import Lamp

FLAGS = [(0.55, 0.07, 0.06), (0.75, 0.70, 0.60), (0.08, 0.16, 0.32), (0.75, 0.5, 0.09), (0.10, 0.30, 0.22)]
IRON = (0.04, 0.045, 0.05)
HALF_WIDTH, NEAR, FAR = 1.7, -4.2, 13.0


def planks(random):
    """Boards across the pier, cupped, grained and nailed."""
    parts = []
    for number, y in enumerate(np.arange(NEAR, FAR, 0.152)):
        x, along = np.meshgrid(
            np.linspace(-HALF_WIDTH, HALF_WIDTH, 70) + random.normal() * 0.01, np.linspace(0, 0.144, 7)
        )
        edge = (np.abs(along - 0.072) / 0.072) ** 6
        z = -0.006 * edge + 0.0025 * noise2(x * 0.3, along * 4 + number, 0.12, 3) + random.normal() * 0.002
        z = z + 0.004 * noise2(x, along * 0 + number * 3.0, 0.8, 8)
        tone = (
            1
            + 0.22 * noise2(x * 0.25 + number * 7, along * 6, 0.1, 4)
            + 0.12 * noise2(x * 0.1 + number * 3, along * 20, 0.1, 6)
        )
        wood = np.array((0.23, 0.19, 0.155)) * random.uniform(0.65, 1.25)
        colour = np.clip(wood * (tone * (1 - 0.5 * edge))[..., None], 0.01, 0.9)
        parts.append(sheet(np.stack([x, along + y, z], -1), colour))
        for side in (-1.45, 1.45):
            for off in (0.04, 0.105):
                nail = (side + random.normal() * 0.006, y + off, 0)
                parts.append(lathe([(0, 0.0035), (0.005, 0.003), (0.006, -0.004)], nail, 8, (0.09, 0.07, 0.06)))
    return merged(parts)


def rails(random):
    """Posts on both sides with two ropes, the beam below, and a lamp post."""
    parts = [box((0, 4.4, -0.4), (3.2, 18.4, 0.5), 0, (0.05, 0.045, 0.04))]
    posts = np.arange(-3.1, FAR, 1.9)
    for side in (-1.62, 1.62):
        for y in posts:
            tall = 0.98 + random.normal() * 0.015
            foot = np.array([side + random.normal() * 0.01, y, 0])
            line = [
                foot + [0, 0, -2],
                foot + [0, 0, tall * 0.5],
                foot + [0.003, 0, tall - 0.02],
                foot + [0.003, 0, tall],
            ]
            parts.append(
                tube(line, [0.085, 0.083, 0.082, 0.06], 18, np.array((0.17, 0.14, 0.115)) * random.uniform(0.8, 1.2))
            )
            parts.append(
                lathe([(0, tall + 0.005), (0.05, tall + 0.003), (0.062, tall - 0.004)], foot, 16, (0.13, 0.11, 0.09))
            )
        for z in (0.62, 0.30):
            sag = [
                [side + 0.03 * np.sin(y * 1.65), y, z - 0.07 * abs(np.sin((y + 3.1) * np.pi / 1.9))]
                for y in np.arange(-3.1, 12.3, 0.1)
            ]
            parts.append(tube(sag, 0.016, 8, (0.34, 0.28, 0.19)))
    parts.append(tube([[1.62, 8.3, 0], [1.62, 8.3, 3.0], [1.5, 8.3, 3.25], [1.15, 8.3, 3.3]], 0.035, 10, IRON))
    parts.append(lathe([(0.0, 0.12), (0.05, 0.10), (0.16, 0), (0.15, 0), (0, 0.03)], (1.15, 8.3, 3.18), 20, IRON))
    for x, y in ((-1.62, 4.5), (1.62, 6.4), (-1.62, 8.3), (-1.62, 1.0), (1.62, 2.2)):
        parts.append(tube([[x, y, 0], [x, y, 2.3]], 0.028, 10, (0.12, 0.10, 0.08)))
    return merged(parts)


def boathouse(at=(-9.5, 34.0), yaw=0.12):
    """A red shed on stilts with a dark roof."""
    x, y = at
    parts = [
        box((x, y, 1.3), (7, 6, 3.6), yaw, (0.20, 0.055, 0.04)),
        box((x, y - 3.05, 0.9), (2.4, 0.15, 2.4), yaw, (0.10, 0.095, 0.085)),
    ]
    for k in range(24):
        parts.append(box((x - 3.4 + k * 0.295, y - 3.03, 1.3), (0.03, 0.06, 3.6), yaw, (0.15, 0.04, 0.03)))
    roof = np.array([[-4, -3.4, 0], [4, -3.4, 0], [4, 3.4, 0], [-4, 3.4, 0], [-4, 0, 2.4], [4, 0, 2.4]]) @ turn_z(
        yaw
    ).T + [x, y, 3.0]
    parts.append(
        Mesh.of(roof, [[0, 1, 5], [0, 5, 4], [2, 3, 4], [2, 4, 5], [0, 4, 3], [1, 2, 5]], (0.07, 0.065, 0.065))
    )
    parts += [box((x - 2.5 + k * 1.6, y - 3.1, -1.3), (0.25, 0.25, 3), 0, (0.06, 0.05, 0.04)) for k in range(4)]
    return merged(parts)


def hills():
    """Wooded hills on the far shore."""

    def height(x, y):
        ridge = 26 * np.clip(1 - ((x + 70) / 150.0) ** 2, 0, 1) ** 0.8 + 15 * np.clip(1 - ((x - 150) / 95.0) ** 2, 0, 1)
        rough = 1 + 0.13 * noise2(x, y, 26.0, 4) + 0.10 * noise2(x, y, 7.0, 5) + 0.05 * noise2(x, y, 2.4, 7)
        return ridge * np.clip(1 - ((y - 270) / 60.0) ** 2, 0, 1) ** 0.6 * rough - 3.2

    def colour(points):
        return np.array([0.035, 0.045, 0.03]) * (1 + 0.35 * noise2(points[:, 0], points[:, 1], 9.0, 9))[:, None]

    return ground(height, np.linspace(-260, 260, 420), np.linspace(210, 330, 70), colour)


def bunting(random, spans):
    """Small flags on sagging lines; spans of (x0, y0, x1, y1, height)."""
    parts = []
    for row, (x0, y0, x1, y1, z) in enumerate(spans):
        t = np.linspace(0, 1, 60)
        line = np.stack([x0 + (x1 - x0) * t, y0 + (y1 - y0) * t, z - 0.42 * 4 * t * (1 - t)], -1)
        parts.append(tube(line, 0.004, 5, (0.6, 0.57, 0.5)))
        for k in range(2, 58, 4):
            way = (line[k + 2] - line[k]) / np.linalg.norm(line[k + 2] - line[k])
            swing = random.normal() * 0.25
            flag = []
            for w in np.linspace(0, 1, 6):
                across = np.linspace(-1, 1, 5)[:, None]
                hang = np.stack(
                    [0.03 * np.sin(3 * w + across * 2) * w, 0 * across + swing * 0.2 * w, 0 * across - 0.2 * w], -1
                )
                flag.append(line[k] + way * (0.07 * across * (1 - w)) + hang[:, 0])
            parts.append(sheet(flag, FLAGS[(k // 4 + row) % len(FLAGS)]))
    return merged(parts)


def bulbs(x0, y0, x1, y1, count=11, radiance=(16.0, 8.2, 2.9)):
    """A sagging row of warm bulbs as lamps."""
    return [
        Lamp((x0 + (x1 - x0) * t, y0 + (y1 - y0) * t, 2.35 - 0.30 * 4 * t * (1 - t)), 0.03, radiance)
        for t in np.linspace(0.03, 0.97, count)
    ]
