"""Hands by themselves with what they hold, or with nothing: for the benchmark alone, but for those named ``try``."""

from dataclasses import replace

import numpy as np

from tools.photos import dog
from tools.photos.dressed import add_dog
from tools.photos.mesh import ball, box, lathe, merged, tube
from tools.photos.props import LEAF_GREEN, carrot, hand, pointed
from tools.photos.scenes.studio import CLAY, SLATE, SMALL, studio
from tools.photos.smallpets import add_pet, guinea_pig, rabbit

CREAM, ROSE = (0.62, 0.58, 0.50), (0.55, 0.34, 0.33)


def build(shot):
    return SHOTS[shot]()


def paper(colour, eye=(0.0, -1.9, 0.36), target=(0.06, 0, 0.16), view=23):
    return studio(colour, eye, target, view)


def given(scene, thing, material, grip, elbow, **more):
    """Put a hand, and what it holds, into the scene; the arm comes from ``elbow``."""
    if thing is not None:
        scene.add(thing, material, "thing 1")
    number = 1 + sum(name.startswith("person") for name in scene.subjects())
    arm, sleeve = hand(grip, elbow, **more)
    scene.add(arm, "skin", f"person {number}")
    scene.add(sleeve, "cloth", f"person {number}")


def bouquet(low, towards, petals, seed, count=11):
    """Stems from ``low`` on, with round flowers and leaves at their ends ``towards`` a place."""
    random = np.random.default_rng(seed)
    parts = []
    for _ in range(count):
        lean = random.normal(size=2) * 0.035
        line = [[lean[0] * s**2, lean[1] * s**2, 0.24 * s] for s in np.linspace(0, 1, 8)]
        parts.append(tube(line, 0.0028, 6, np.array(LEAF_GREEN) * random.uniform(0.7, 1.2)))
        head = np.array(line[-1]) + [0, 0, 0.006]
        tone = np.array(petals) * random.uniform(0.8, 1.15)
        for ring, many in ((0.010, 6), (0.020, 9)):
            for angle in np.linspace(0, 2 * np.pi, many, endpoint=False) + random.uniform(0, 1):
                at = head + [ring * np.cos(angle), ring * np.sin(angle), 0.012 - 0.5 * ring]
                parts.append(ball(at, 0.011, tone, (1, 1, 0.7), 8))
        for s in (0.45, 0.65):
            side = random.normal(size=3) * [1, 1, 0.3]
            at = np.array([lean[0] * s**2, lean[1] * s**2, 0.24 * s]) + side / np.linalg.norm(side) * 0.02
            parts.append(ball(at, 0.02, np.array(LEAF_GREEN) * random.uniform(0.8, 1.4), (1, 0.4, 0.25), 8))
    return pointed(merged(parts), low, towards)


def bowl(middle, radius, colour):
    t = np.linspace(0, np.pi / 2, 14)
    outer = np.stack([radius * np.sin(t) + 0.001, radius * 0.7 * (1 - np.cos(t))], 1)
    inner = outer[::-1] * [0.93, 1] + [0, 0.004]
    return lathe(np.concatenate([outer, inner]), middle, colour=colour)


def try_ball():
    scene = paper(SLATE)
    add_dog(scene, "animal 1", np.array([-0.13, 0, 0]), -48, SMALL, replace(dog.SIT, head_turn=8), "tan", 300000, 3)
    given(
        scene, ball((0.24, -0.06, 0.22), 0.034, (0.45, 0.06, 0.05)), "satin", (0.262, -0.055, 0.222), (0.84, -0.2, 0.3)
    )
    return scene


def try_bouquet():
    scene = paper(CREAM, target=(0.0, 0, 0.2), view=17)
    flowers = bouquet((0.02, -0.05, 0.10), (0.03, -0.05, 0.6), (0.66, 0.36, 0.40), 5)
    given(scene, flowers, "matte", (0.02, -0.05, 0.16), (-0.52, -0.2, 0.1), skin="brown")
    return scene


def try_bare():
    scene = paper(CLAY)
    add_pet(scene, "animal 1", rabbit(turn=-8), np.array([-0.06, 0.02, 0]), -40, "agouti", 260000, 9)
    given(scene, None, "", (0.28, -0.06, 0.15), (0.85, -0.2, 0.34), skin="olive", curl=12)
    return scene


def try_bowl():
    scene = paper(ROSE, target=(0.0, 0, 0.2), view=18)
    given(
        scene,
        bowl((-0.02, -0.05, 0.17), 0.075, (0.16, 0.22, 0.34)),
        "satin",
        (0.05, -0.06, 0.185),
        (0.6, -0.2, 0.28),
        skin="dark",
        curl=35,
    )
    return scene


def try_box():
    scene = paper(SLATE, target=(0.0, 0, 0.2), view=17)
    held = box((0.0, -0.05, 0.22), (0.12, 0.09, 0.07), 12, (0.60, 0.10, 0.13))
    given(scene, held, "satin", (0.055, -0.06, 0.20), (0.55, -0.22, 0.06), curl=40)
    given(scene, None, "", (-0.055, -0.06, 0.20), (-0.55, -0.22, 0.08), curl=40, skin="fair")
    return scene


def try_stick():
    scene = paper(CREAM, view=25)
    add_pet(scene, "animal 1", guinea_pig(6), np.array([-0.10, 0, 0]), -50, "tricolour", 240000, 7)
    stick = tube([(0.10, -0.05, 0.12), (0.34, -0.05, 0.25)], 0.011, 12, (0.30, 0.17, 0.08))
    given(scene, stick, "matte", (0.275, -0.05, 0.214), (0.62, -0.08, 0.42), sleeve=(0.36, 0.09, 0.10))
    return scene


def flower_and_cavy():
    scene = paper(SLATE)
    add_pet(scene, "animal 1", guinea_pig(-8), np.array([-0.08, 0, 0]), -45, "red cavy", 240000, 13)
    flower = bouquet((0.33, -0.05, 0.25), (0.06, -0.05, 0.10), (0.75, 0.70, 0.62), 17, 2)
    given(scene, flower, "matte", (0.29, -0.05, 0.228), (0.86, -0.15, 0.40), skin="olive")
    return scene


def bouquet_alone():
    scene = paper(CLAY, target=(0.02, 0, 0.2), view=18)
    flowers = bouquet((-0.01, -0.05, 0.09), (-0.05, -0.05, 0.6), (0.80, 0.76, 0.70), 29, 14)
    given(scene, flowers, "matte", (-0.015, -0.05, 0.15), (0.55, -0.22, 0.05), skin="fair")
    return scene


def bowl_and_dog():
    scene = paper(CREAM, view=25)
    add_dog(scene, "animal 1", np.array([0.16, 0, 0]), -125, SMALL, replace(dog.SIT, head_turn=-6), "cream", 300000, 31)
    given(
        scene,
        bowl((-0.17, -0.06, 0.10), 0.06, (0.10, 0.30, 0.26)),
        "satin",
        (-0.222, -0.065, 0.12),
        (-0.8, -0.2, 0.3),
        skin="dark",
        curl=38,
    )
    return scene


def bare_and_rabbit():
    scene = paper(ROSE)
    add_pet(scene, "animal 1", rabbit(upright=True, turn=-12), np.array([0.18, 0, 0]), -115, "dutch", 260000, 37)
    given(scene, None, "", (-0.13, -0.06, 0.16), (-0.72, -0.2, 0.36), skin="brown", curl=18)
    return scene


def box_in_two_hands():
    scene = paper(CLAY, target=(0.0, 0, 0.21), view=18)
    held = box((0.0, -0.05, 0.23), (0.13, 0.10, 0.05), -8, (0.10, 0.16, 0.30))
    given(scene, held, "satin", (0.06, -0.06, 0.215), (0.56, -0.2, 0.02), skin="brown", curl=42)
    given(scene, None, "", (-0.06, -0.06, 0.215), (-0.56, -0.2, 0.04), skin="brown", curl=42)
    return scene


def carrot_and_sleeve():
    scene = paper(SLATE, view=25)
    add_pet(scene, "animal 1", rabbit(turn=10), np.array([0.20, 0, 0]), -130, "white", 260000, 41)
    given(
        scene,
        carrot((-0.06, -0.05, 0.16), (-0.22, -0.05, 0.22)),
        "satin",
        (-0.20, -0.05, 0.214),
        (-0.66, -0.1, 0.40),
        sleeve=(0.13, 0.20, 0.15),
    )
    return scene


SHOTS = {
    "try-ball": try_ball,
    "try-bouquet": try_bouquet,
    "try-bare": try_bare,
    "try-bowl": try_bowl,
    "try-box": try_box,
    "try-stick": try_stick,
    "flower-cavy": flower_and_cavy,
    "bouquet": bouquet_alone,
    "bowl-dog": bowl_and_dog,
    "bare-rabbit": bare_and_rabbit,
    "box-two": box_in_two_hands,
    "carrot-sleeve": carrot_and_sleeve,
}


def try_posy():
    scene = paper(SLATE, target=(-0.02, 0, 0.2), view=18)
    flowers = bouquet((0.01, -0.05, 0.10), (0.08, -0.05, 0.6), (0.62, 0.20, 0.24), 61, 13)
    given(scene, flowers, "matte", (0.015, -0.05, 0.155), (-0.5, -0.22, 0.02), skin="fair")
    return scene


def try_tray():
    scene = paper(CREAM, target=(0.0, 0, 0.2), view=18)
    held = box((0.0, -0.05, 0.22), (0.17, 0.09, 0.03), 5, (0.28, 0.17, 0.09))
    given(scene, held, "satin", (0.08, -0.06, 0.21), (0.58, -0.2, 0.0), skin="olive", curl=42)
    given(scene, None, "", (-0.08, -0.06, 0.21), (-0.58, -0.2, 0.06), skin="olive", curl=42)
    return scene


def try_leaf():
    scene = paper(ROSE)
    add_pet(scene, "animal 1", guinea_pig(5), np.array([0.20, 0, 0]), -130, "cream cavy", 240000, 67)
    leaf = bouquet((-0.20, -0.05, 0.25), (0.04, -0.05, 0.10), (0.30, 0.42, 0.16), 71, 3)
    given(scene, leaf, "matte", (-0.17, -0.05, 0.235), (-0.74, -0.15, 0.42), skin="brown", sleeve=(0.5, 0.48, 0.4))
    return scene


def try_root():
    scene = paper(CLAY, view=25)
    add_pet(scene, "animal 1", rabbit(turn=-10), np.array([-0.17, 0, 0]), -50, "agouti", 260000, 73)
    root = carrot((0.05, -0.05, 0.15), (0.22, -0.05, 0.20))
    given(scene, root, "satin", (0.20, -0.05, 0.196), (0.68, -0.12, 0.36), skin="olive", sleeve=(0.30, 0.30, 0.33))
    return scene


SHOTS |= {"try-posy": try_posy, "try-tray": try_tray, "try-leaf": try_leaf, "try-root": try_root}
