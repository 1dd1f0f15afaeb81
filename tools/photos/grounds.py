"""Places for renders that nothing is tuned on: a park, a town's square, a beach at low tide, snow, a studio."""

import numpy as np

from tools.photos import coast, harbour
from tools.photos.mesh import box, ground, lathe, merged, sheet
from tools.photos.noise import noise2
from tools.photos.plants import flowers, lawn, tree
from tools.photos.scene import Lamp, Scene
from tools.photos.skies import Sky

FAIR = Sky(130, 42, (0.16, 0.30, 0.66), (0.72, 0.84, 1.02), (1.0, 0.93, 0.82), 4200, glow=0.5, cloud=0.46,
           cloud_lit=1.5, cloud_dark=0.75, seed=41)  # fmt: skip
LOW_SUN = Sky(-40, 12, (0.22, 0.34, 0.62), (1.0, 0.80, 0.56), (1.0, 0.66, 0.36), 5200, glow=0.9, cloud=0.30, seed=47)
GREY = Sky(70, 30, (0.74, 0.78, 0.86), (1.05, 1.07, 1.10), (1.0, 0.95, 0.88), 1600, glow=0.4, cloud=0.80,
           cloud_lit=1.15, cloud_dark=0.85, ground=(0.4, 0.4, 0.42), seed=53)  # fmt: skip
STUDIO = (0.12, 0.12, 0.125)


def level(x, y):
    """Nearly flat soil."""
    return 0.03 * noise2(x, y, 4.0, 61) + 0.0 * y


def park(camera, seed=61, sky=FAIR):
    """Mown grass with daisies, single trees, a clipped hedge, and wooded hills far off."""
    scene, random = Scene(camera, sky), np.random.default_rng(seed)
    x = np.linspace(-70, 70, 300)
    y = np.concatenate([np.linspace(-12, 14, 200), np.linspace(14.4, 160, 160)])

    def earth(points):
        tone = 1 + 0.25 * noise2(points[:, 0], points[:, 1], 1.5, 62)
        return np.array([0.085, 0.125, 0.03]) * tone[:, None]

    scene.add(ground(level, x, y, earth))
    half = np.tan(np.radians(camera.view / 2)) * 1.1
    bands = ((150000, 0.5, 9.0, 0.004, 0.05), (110000, 8.0, 22.0, 0.01, 0.06), (60000, 20, 60, 0.04, 0.08))
    scene.add(merged([lawn(random, n, near, far, w, h, level, camera.eye, (), half) for n, near, far, w, h in bands]),
              "leaf")  # fmt: skip
    scene.add(flowers(random, 500, level, camera.eye, half_angle=half), "petal")
    kinds = [tree(8.5, 22000, 0.17, green, s) for s, green in ((4, (0.08, 0.13, 0.03)), (7, (0.12, 0.14, 0.03)))]
    places = ((-9, 24, 1.0), (8.5, 30, 1.15), (15, 40, 1.0), (-17, 38, 1.1), (-3.5, 52, 0.9), (24, 60, 1.2))
    for number, (across, depth, size) in enumerate(places):
        wood, leaves = kinds[number % 2]
        scene.add(wood.moved((across, depth, -0.1), number * 1.7, size))
        scene.add(leaves.moved((across, depth, -0.1), number * 1.7, size), "leaf")
    for left, right in ((-26, -5), (1, 30)):
        across, up = np.meshgrid(np.linspace(left, right, 400), np.linspace(0, 1, 40))
        rough = 0.16 * noise2(across * 3, up * 4, 0.5, 66)
        hedge = np.stack([across, 27 - 0.5 * np.sin(up * np.pi) + rough, 1.5 * up + 0.06 * rough], -1)
        tone = (1 + 0.4 * noise2(across * 2, up * 3, 0.2, 67))[..., None]
        scene.add(sheet(hedge, np.array([0.05, 0.085, 0.025]) * tone), "leaf")
    scene.add(harbour.hills())
    return scene


def square(camera, seed=71, sky=LOW_SUN):
    """Paving between plastered houses with windows and tiled roofs; sky above them, sun from the left."""
    scene, random = Scene(camera, sky), np.random.default_rng(seed)
    parts = []
    for row, y in enumerate(np.arange(-10, 22, 0.62)):
        for x in np.arange(-12 + 0.4 * (row % 2), 12, 0.81):
            tone = random.uniform(0.75, 1.15)
            lift = random.normal() * 0.003
            parts.append(box((x, y, -0.05 + lift), (0.79, 0.60, 0.1), 0, np.array([0.26, 0.245, 0.225]) * tone))
    scene.add(merged(parts), "satin", smooth=False)
    scene.add(box((0, 0, -0.2), (200, 200, 0.2), 0, (0.2, 0.19, 0.17)), smooth=False)
    walls, glass, roofs, left = [], [], [], -33.0
    for number in range(11):
        wide, tall = random.uniform(5, 8), random.uniform(5.0, 8.0)
        tint = np.array([(0.55, 0.42, 0.26), (0.60, 0.55, 0.46), (0.42, 0.22, 0.16), (0.34, 0.38, 0.36)][number % 4])
        middle = (left + wide / 2, 37.0 + random.uniform(0, 1.2))
        walls.append(box((*middle, tall / 2), (wide, 4, tall), 0, tint))
        for floor in np.arange(1.6, tall - 1.2, 2.7):
            for x in np.arange(left + 0.9, left + wide - 0.6, 1.7):
                glass.append(box((x, middle[1] - 2.02, floor), (0.85, 0.1, 1.35), 0, (0.03, 0.035, 0.045)))
                walls.append(box((x, middle[1] - 2.05, floor - 0.75), (1.05, 0.16, 0.1), 0, (0.6, 0.58, 0.54)))
        peak = [[(left - 0.2, middle[1] - 2.3, tall), (left - 0.2, middle[1], tall + 2.4)],
                [(left + wide + 0.2, middle[1] - 2.3, tall), (left + wide + 0.2, middle[1], tall + 2.4)]]  # fmt: skip
        roofs.append(sheet(peak, (0.24, 0.10, 0.065)))
        left += wide
    walls.append(box((8.5, 47, 9), (4.4, 4.4, 18), 0, (0.5, 0.46, 0.4)))
    roofs.append(lathe([(3.4, 18), (0.05, 26)], (8.5, 47, 0), 4, (0.10, 0.16, 0.14)))
    scene.add(merged(walls), smooth=False)
    scene.add(merged(glass), "gloss", smooth=False)
    scene.add(merged(roofs), smooth=False)
    for x in (-7.5, 9.0):
        scene.add(lathe([(0.16, 0), (0.10, 0.4), (0.05, 0.5), (0.045, 3.4), (0.2, 3.5), (0.22, 4.0), (0, 4.2)],
                        (x, 17, 0), 12, (0.03, 0.03, 0.035)))  # fmt: skip
    return scene


def shore(x, y):
    """Sand that falls gently into the water ten metres off, with ripples."""
    ripple = 0.007 * np.sin(y * 24 + 3 * noise2(x, y, 1.1, 81)) + 0.02 * noise2(x, y, 0.9, 82)
    return ripple - 0.035 * np.clip(y - 2, 0, 40)


def beach(camera, sky=LOW_SUN, seed=81):
    """A wide beach at low tide; the sea is the horizon, with a headland to one side."""
    scene, random = Scene(camera, sky), np.random.default_rng(seed)
    x = np.concatenate([np.linspace(-90, -10, 80), np.linspace(-9.9, 9.9, 500), np.linspace(10, 90, 80)])

    def colour(points):
        wet = np.clip((points[:, 1] - 4) / 5, 0, 1)
        tone = 1 + 0.06 * noise2(points[:, 0], points[:, 1], 0.4, 83)
        return np.array([0.42, 0.35, 0.26]) * (tone * (1 - 0.5 * wet))[:, None]

    scene.add(ground(shore, x, np.linspace(-12, 24, 700), colour), "satin")
    scene.add(coast.sea(random, 10.5, -0.31, (0.05, 0.085, 0.10), 1.6, 0.006), "water")
    scene.add(coast.headland(-190.0, 130.0, 22.0))
    scene.add(coast.sailing_boat((48, 300, -0.2), 11, 25), "leaf")
    return scene


def snow(camera, seed=91, sky=GREY):
    """A field under snow, bare trees, a dark wood at its end, and a sky nearly as bright as the ground."""
    scene = Scene(camera, sky)

    def height(x, y):
        return 0.05 * noise2(x, y, 1.6, 91) + 0.25 * noise2(x, y, 11.0, 92) * np.clip((y - 5) / 12, 0, 1)

    x, y = np.linspace(-80, 80, 420), np.concatenate([np.linspace(-12, 14, 300), np.linspace(14.3, 170, 160)])
    scene.add(ground(height, x, y, lambda p: np.full((len(p), 3), 0.80) * [0.97, 0.985, 1.0]))
    for number, (across, depth) in enumerate(((-8, 26), (11, 34), (-15, 45), (4.5, 60), (20, 70), (-27, 66))):
        wood = tree(8.0, 500, 0.1, seed=number + 11)[0]
        scene.add(wood.moved((across, depth, -0.2), number * 2.1, 1.0))
    across = np.linspace(-95, 95, 900)
    up = np.linspace(0, 1, 14)[:, None]
    tops = 6.5 + 2.2 * noise2(across, 0 * across, 9.0, 93) + 1.6 * np.abs(noise2(across, 0 * across, 1.1, 94))
    wood = np.stack([np.repeat(across[None], 14, 0), 150 + 0 * up * across, up * tops - 1], -1)
    tone = (1 + 0.35 * noise2(wood[..., 0], wood[..., 2] * 2, 0.8, 95))[..., None]
    scene.add(sheet(wood, np.array([0.06, 0.065, 0.062]) * tone))
    return scene, height


def backdrop(camera, colours, wrinkles=0.002, lit_from="left", hung=False, width=2.4):
    """A studio: paper rolled onto the floor, or cloth ``hung``; ``colours`` (low, high) grade it from foot to head."""
    scene = Scene(camera, STUDIO)
    x = np.linspace(-width, width, 160)
    bend = 0.05 if hung else 0.5
    line = [(y, 0.0) for y in np.linspace(-4.5, 1.0, 40)]
    line += [(1.0 + bend * np.sin(a), bend - bend * np.cos(a)) for a in np.linspace(0.05, np.pi / 2, 24)]
    line += [(1.0 + bend, z) for z in np.linspace(bend + 0.03, 3.4, 90)]
    way = np.array(line)
    across, y = np.meshgrid(x, way[:, 0])
    z = np.repeat(way[:, 1:2], len(x), 1)
    stretch = 0.35 if hung else 1
    fold = wrinkles * (noise2(across * 2.2, z * stretch + y, 0.22, 97) + 0.5 * noise2(across, z + y, 0.1, 98))
    share = np.clip(z / 2.6 + 0.06 * noise2(across, z, 0.7, 99), 0, 1)[..., None]
    tint = np.array(colours[0]) * (1 - share) + np.array(colours[1]) * share
    upright = (z > bend)[..., None] * [0, -1, 0] + (z <= bend)[..., None] * [0, 0, 1]
    scene.add(sheet(np.stack([across, y, z], -1) + upright * fold[..., None], tint), "cloth" if hung else "matte")
    scene.add(box((0, 3.0, 1.8), (14, 0.1, 5), 0, (0.3, 0.29, 0.28)), smooth=False)
    scene.add(box((0, 0, -0.12), (14, 14, 0.1), 0, (0.15, 0.12, 0.1)), smooth=False)
    side = -1 if lit_from == "left" else 1
    scene.lamps.append(Lamp((2.9 * side, -1.8, 2.3), 0.75, (13, 12.6, 12.0), (0, 0.1, 1.0)))
    scene.lamps.append(Lamp((-3.4 * side, -2.6, 1.8), 0.9, (1.7, 1.75, 1.9), (0, 0, 1.0)))
    return scene
