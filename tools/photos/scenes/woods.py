"""Trees before an even light, for the sky decoder to learn from: edges and insides of woods, avenues, crowns overhead.

Each scene is drawn from its number, from a sharp wood to one far out of focus; nobody is in it, and none is a shot of
the demo or of the benchmark.
"""

from dataclasses import dataclass

import numpy as np

from tools.photos.mesh import ground, merged, standing_at
from tools.photos.noise import noise2
from tools.photos.plants import lawn, tree
from tools.photos.scene import Camera, Scene
from tools.photos.skies import Sky

SIZE = (960, 640)
KINDS = ("edge", "edge", "avenue", "overhead", "inside", "edge", "edge", "bare")
GREENS = ((0.085, 0.13, 0.025), (0.05, 0.085, 0.03), (0.13, 0.14, 0.03), (0.20, 0.13, 0.03), (0.22, 0.09, 0.03))


@dataclass(frozen=True)
class Plate(Camera):
    """Smaller than a photograph of the demo: it is cut and made smaller still."""

    def size(self):
        return SIZE[::-1] if self.upright else SIZE


def even_sky(random):
    """Light of one colour from everywhere, with a sun on most days; the sky itself is put in later."""
    tone = np.array([1.0, 1.0, 1.0]) * random.uniform(0.9, 1.1, 3)
    sun = random.choice([0.0, 900.0, 2500.0, 4500.0])
    return Sky(random.uniform(-180, 180), random.uniform(8, 60), tuple(tone), tuple(tone), (1.0, 0.9, 0.75), sun,
               glow=0.0, cloud=0.0, ground=(0.08, 0.1, 0.06))  # fmt: skip


def soil(x, y):
    return 0.05 * noise2(x, y, 3.0, 301) + 0.3 * noise2(x, y, 16.0, 302) * np.clip(y / 12, 0, 1)


def build(shot):
    number = int(shot.split("-")[1])
    random = np.random.default_rng([77, number])
    kind = KINDS[number % len(KINDS)]
    eye = (0.0, 0.0, random.uniform(0.25, 1.7) + float(standing_at(soil, 0, 0)[2]))
    up = random.uniform(0.04, 0.3) if kind in ("overhead", "inside") else random.uniform(-0.06, 0.1)
    camera = Plate(eye, (random.uniform(-0.1, 0.1), 1.0, eye[2] + up), random.uniform(16, 48),
                   float(np.exp(random.uniform(np.log(0.004), np.log(0.03)))), random.uniform(1.6, 6.0),
                   random.random() < 0.25)  # fmt: skip
    scene = Scene(camera, even_sky(random))
    _earth(scene, camera, random)
    trunks, leaves = _wood(kind, camera, random)
    scene.add(merged(trunks))
    scene.add(merged(leaves), "leaf")
    return scene


def _earth(scene, camera, random):
    x = np.linspace(-90, 90, 300)
    y = np.concatenate([np.linspace(-8, 12, 160), np.linspace(12.4, 180, 160)])
    tone = np.array([(0.075, 0.10, 0.025), (0.16, 0.12, 0.06), (0.10, 0.13, 0.03)][random.integers(3)])
    scene.add(ground(soil, x, y, lambda p: tone * (1 + 0.3 * noise2(p[:, 0], p[:, 1], 2.0, 303))[:, None]))
    half = np.tan(np.radians(camera.view / 2)) * 1.1
    if random.random() < 0.7:
        tall = random.choice([0.5, 1.0, 1.0, 4.0])
        bands = ((50000, 0.5, 8.0, 0.004, 0.07), (50000, 7.0, 24.0, 0.012, 0.09), (40000, 20, 60, 0.04, 0.13))
        grass = [lawn(random, n, near, far, w, h * tall, soil, camera.eye, (), half) for n, near, far, w, h in bands]
        scene.add(merged(grass), "leaf")
    if random.random() < 0.25:  # stems before the lens
        stems = lawn(random, 500, 0.6, 8, 0.003, random.uniform(0.5, 1.4), soil, camera.eye, (), half)
        scene.add(stems, "leaf")


def _wood(kind, camera, random):
    """(trunks, crowns) of where they stand, and bushes beneath."""
    sparse = random.choice([6000, 12000, 20000, 30000])
    kinds = []
    for seed in random.integers(100, 9000, 3):
        leaf_count = 300 if kind == "bare" else int(sparse * random.uniform(0.6, 1.4))
        kinds.append(tree(random.uniform(6, 13), leaf_count, random.uniform(0.10, 0.2),
                          GREENS[random.integers(len(GREENS))], int(seed), random.uniform(0.12, 0.35)))  # fmt: skip
    trunks, leaves = [], []

    def stand(across, depth, size):
        trunk, crown = kinds[random.integers(3)]
        place = ((across, depth, -0.2), random.uniform(0, 6.3), size)
        trunks.append(trunk.moved(*place))
        leaves.append(crown.moved(*place))

    half = np.tan(np.radians(camera.view / 2)) * 1.3
    near = random.uniform(8, 45)
    if kind == "avenue":
        aside = random.uniform(1.5, 4)
        for depth in np.arange(5, 90, random.uniform(4, 8)):
            for side in (-1, 1):
                stand(side * aside * random.uniform(0.9, 1.2), depth, random.uniform(0.7, 1.1))
    elif kind == "overhead":
        for _ in range(random.integers(3, 8)):
            stand(random.uniform(-5, 5), random.uniform(3, 14), random.uniform(0.7, 1.3))
        near = max(near, 20)
    if kind != "avenue":
        deep, count = near * random.uniform(1.2, 2.2), int(random.uniform(14, 60))
        if kind == "inside":
            near, deep, count = 4.0, 60.0, int(random.uniform(60, 110))
        for _ in range(count):
            depth = near + (deep - near) * np.sqrt(random.random())
            stand(random.uniform(-half, half) * depth, depth, random.uniform(0.45, 1.25))
    for _ in range(random.integers(0, 50)):  # what grows beneath
        crown = kinds[random.integers(3)][1]
        depth = random.uniform(near * 0.85, near * 1.4)
        place = ((random.uniform(-half, half) * depth, depth, -0.9), random.uniform(0, 6.3), random.uniform(0.15, 0.4))
        leaves.append(crown.moved(*place))
    return trunks, leaves
