"""Terriers and their friends: the ferry pier at dusk, and a meadow by a treeline in flat light."""

from dataclasses import replace

import numpy as np

from tools.photos import coast, dog, harbour
from tools.photos.dressed import add_dog
from tools.photos.mesh import ground, merged, standing_at
from tools.photos.noise import noise2
from tools.photos.plants import flowers, lawn, tree
from tools.photos.scene import Camera, Lamp, Scene
from tools.photos.skies import Sky

DUSK = Sky(
    -14,
    4.5,
    (0.10, 0.16, 0.36),
    (0.85, 0.50, 0.33),
    (1.0, 0.46, 0.16),
    5200,
    glow=1.3,
    cloud=0.56,
    cloud_lit=1.25,
    cloud_dark=0.38,
    ground=(0.05, 0.05, 0.06),
    haze=4.5,
    seed=21,
)
FLAT = Sky(
    48,
    38,
    (0.42, 0.55, 0.80),
    (0.95, 0.98, 1.02),
    (1.0, 0.92, 0.80),
    2600,
    glow=0.5,
    cloud=0.60,
    cloud_lit=1.3,
    cloud_dark=0.80,
    seed=3,
)

TERRIER = dog.Breed(height=0.39)
SMALL = dog.Breed(height=0.30, length=1.05, ears="prick", muzzle=0.16, limb=0.95)
BLACK_TAN = dog.Breed(height=0.42, ears="folded")
SPANIEL = dog.Breed(height=0.43, length=1.05, ears="drop", tail="long", muzzle=0.18)
POINTER = dog.Breed(height=0.56, ears="drop", tail="long", muzzle=0.22, skull=0.118, limb=0.95)


def build(shot):
    return SHOTS[shot]()


def pier(view):
    """The pier, looking out; the harbour front behind the photographer lights the dogs warmly."""
    scene, random = Scene(view, DUSK), np.random.default_rng(9)
    scene.add(harbour.planks(random), "satin")
    scene.add(harbour.rails(random))
    scene.add(harbour.boathouse(), smooth=False)
    scene.add(harbour.hills())
    scene.add(coast.sea(random, -3.0, -1.5, (0.02, 0.035, 0.045), 0.9, 0.0075), "water")
    spans = [(-1.7, 4.6, 1.7, 6.4, 2.15), (-1.7, 8.2, 1.7, 6.4, 2.25), (-1.7, 1.0, 1.7, 2.2, 2.25)]
    scene.add(harbour.bunting(random, spans), "leaf")
    scene.lamps += harbour.bulbs(1.62, 8.3, -1.62, 8.3) + harbour.bulbs(-1.62, 10.5, 1.62, 9.6)
    scene.lamps.append(Lamp((0.9, -7.5, 2.8), 1.5, (2.5, 2.05, 1.7), (0, 0, 0.3)))
    return scene


def soil(x, y):
    return 0.06 * noise2(x, y, 3.0, 1) + 0.25 * noise2(x, y, 14.0, 2) * np.clip(y / 10, 0, 1)


def soil_at(x, y):
    return standing_at(soil, x, y)


def meadow(view, seed=4, tall=1.0, keep_out=(), nearest=0.4, wood=34):
    """Grass, flowers and a line of trees that begins ``wood`` metres away."""
    scene, random = Scene(view, FLAT), np.random.default_rng(seed)
    x = np.linspace(-60, 60, 400)
    y = np.concatenate([np.linspace(-6, 12, 220), np.linspace(12.3, 120, 200)])

    def earth(points):
        return np.array([0.075, 0.10, 0.025]) * (1 + 0.3 * noise2(points[:, 0], points[:, 1], 2.0, 3))[:, None]

    scene.add(ground(soil, x, y, earth))
    eye = view.eye
    half = np.tan(np.radians(view.view / 2)) * 1.1
    bands = [(230000, nearest, 6.5, 0.0035, 0.085), (160000, 6.0, 16.5, 0.008, 0.11), (120000, 15, 53, 0.03, 0.16)]
    grass = [
        lawn(random, count, near, far, wide, high * tall, soil, eye, keep_out, half)
        for count, near, far, wide, high in bands
    ]
    scene.add(merged(grass), "leaf")
    scene.add(lawn(random, int(2500 * tall), nearest + 0.5, 14, 0.0028, 0.28 * tall, soil, eye, keep_out, half), "leaf")
    scene.add(flowers(random, 900, soil, eye, half_angle=half), "petal")
    trunks, leaves = [], []
    kinds = [
        tree(9, 26000, 0.16, green, s)
        for s, green in (
            (1, (0.085, 0.13, 0.025)),
            (2, (0.11, 0.15, 0.03)),
            (5, (0.06, 0.10, 0.03)),
            (8, (0.13, 0.13, 0.03)),
        )
    ]
    for _ in range(52):
        trunk, crown = kinds[random.integers(4)]
        depth = random.uniform(wood, wood * 1.75)
        across = random.uniform(-0.5, 0.5) * depth
        if abs(across / depth - 0.10) < 0.05 and random.random() < 0.7:
            continue
        place = ((across, depth, -0.2), random.uniform(0, 6.3), random.uniform(0.65, 1.2))
        trunks.append(trunk.moved(*place))
        leaves.append(crown.moved(*place))
    for _ in range(60):
        crown = kinds[random.integers(4)][1]
        low = type(crown)(crown.vertices[:28000], crown.faces[(crown.faces < 28000).all(1)], crown.colours[:28000])
        depth = random.uniform(wood * 0.92, wood * 1.18)
        leaves.append(
            low.moved(
                (random.uniform(-0.5, 0.5) * depth, depth, -0.9), random.uniform(0, 6.3), random.uniform(0.22, 0.38)
            )
        )
    scene.add(merged(trunks))
    scene.add(merged(leaves), "leaf")
    return scene


def two_at_the_rail():
    scene = pier(Camera.focused((0.10, -2.9, 0.58), (0.03, 0.35, 0.43), 27, 0.015, (0.0, 0.12, 0.5)))
    add_dog(
        scene, "animal 1", np.array([-0.36, 0.25, 0]), -62, TERRIER, replace(dog.SIT, head_turn=14), "tan", 240000, 3
    )
    add_dog(
        scene,
        "animal 2",
        np.array([0.38, 0.42, 0]),
        -128,
        BLACK_TAN,
        replace(dog.STAND, head_turn=24),
        "saddle",
        240000,
        6,
    )
    return scene


def portrait():
    scene = pier(Camera.focused((0.16, -1.75, 0.52), (0.02, 0.2, 0.33), 24, 0.010, (0.05, -0.01, 0.48), upright=True))
    add_dog(
        scene,
        "animal 1",
        np.array([0.02, 0.2, 0]),
        -80,
        TERRIER,
        replace(dog.SIT, head_turn=-10, head_tilt=7),
        "tan",
        700000,
        11,
        0.62,
    )
    return scene


def four_in_a_row():
    scene = pier(Camera.focused((0.0, -3.5, 0.64), (0.0, 0.45, 0.40), 29.5, 0.014, (0.0, 0.22, 0.45)))
    rows = [
        (-0.74, 0.30, -62, SMALL, replace(dog.SIT, head_turn=8), "grey"),
        (-0.27, 0.52, -80, SPANIEL, replace(dog.SIT, head_turn=-6), "cream"),
        (0.24, 0.40, -98, TERRIER, replace(dog.SIT, head_turn=10, jaw=9), "tan"),
        (0.74, 0.26, -122, BLACK_TAN, replace(dog.LIE, head_turn=14), "saddle"),
    ]
    for number, (x, y, yaw, breed, pose, coat) in enumerate(rows):
        add_dog(scene, f"animal {number + 1}", np.array([x, y, 0]), yaw, breed, pose, coat, 190000, 20 + number)
    return scene


def far_on_the_pier():
    scene = pier(Camera.focused((-0.25, -4.0, 0.55), (0.1, 6.0, 0.75), 30, 0.014))
    add_dog(scene, "animal 1", np.array([0.35, 5.4, 0]), -102, POINTER, dog.TROT, "liver", 150000, 31)
    return scene


def facing_each_other():
    scene = pier(Camera.focused((0.0, -3.3, 0.50), (0.0, 0.3, 0.36), 28))
    add_dog(
        scene, "animal 1", np.array([-0.52, 0.3, 0]), -14, TERRIER, replace(dog.BOW, head_turn=-8), "tan", 240000, 41
    )
    add_dog(
        scene,
        "animal 2",
        np.array([0.55, 0.35, 0]),
        -166,
        SMALL,
        replace(dog.STAND, head_turn=6, jaw=10),
        "grey",
        240000,
        43,
    )
    return scene


def standing_in_the_meadow():
    scene = meadow(Camera.focused((0.15, -2.9, 0.52), (0.02, 0.2, 0.36), 26, 0.020), keep_out=((0.0, 0.2, 0.35),))
    add_dog(scene, "animal 1", soil_at(0.02, 0.2), -155, TERRIER, replace(dog.STAND, head_turn=40), "tan", 300000, 51)
    return scene


def running():
    scene = meadow(Camera.focused((0.0, -5.0, 0.55), (0.0, 0.4, 0.52), 27, 0.018), seed=6, wood=75)
    add_dog(scene, "animal 1", soil_at(-0.55, 0.6), -24, POINTER, replace(dog.TROT, head_turn=-14), "liver", 220000, 61)
    add_dog(
        scene,
        "animal 2",
        soil_at(0.62, 0.2),
        -38,
        SPANIEL,
        replace(dog.TROT, head_turn=-16, head_nod=2),
        "red",
        260000,
        63,
    )
    return scene


def hidden_by_grass():
    scene = meadow(
        Camera.focused((0.1, -2.9, 0.42), (0.0, 0.3, 0.30), 26, 0.016, (0.05, 0.08, 0.36)),
        seed=8,
        tall=1.9,
        nearest=1.25,
    )
    add_dog(scene, "animal 1", soil_at(0.0, 0.3), -66, SPANIEL, replace(dog.LIE, head_turn=-8), "cream", 300000, 71)
    return scene


def filling_the_frame():
    scene = meadow(
        Camera.focused((0.12, -1.55, 0.52), (0.02, 0.2, 0.40), 27, 0.010, (0.06, -0.02, 0.47)),
        seed=10,
        wood=70,
        keep_out=((0.0, 0.2, 0.5),),
    )
    add_dog(
        scene,
        "animal 1",
        soil_at(0.0, 0.25),
        -72,
        BLACK_TAN,
        replace(dog.STAND, head_turn=-6, head_tilt=-6),
        "saddle",
        800000,
        81,
        0.6,
    )
    return scene


def far_in_the_meadow():
    scene = meadow(Camera.focused((0.0, -6.5, 0.62), (0.0, 3.0, 0.95), 31, 0.016), seed=12, wood=80)
    add_dog(scene, "animal 1", soil_at(0.8, 3.2), -160, TERRIER, replace(dog.STAND, head_turn=30), "tan", 120000, 91)
    return scene


SHOTS = {
    "pier-two": two_at_the_rail,
    "pier-portrait": portrait,
    "pier-four": four_in_a_row,
    "pier-far": far_on_the_pier,
    "pier-play": facing_each_other,
    "meadow-stand": standing_in_the_meadow,
    "meadow-run": running,
    "meadow-hidden": hidden_by_grass,
    "meadow-close": filling_the_frame,
    "meadow-far": far_in_the_meadow,
}
