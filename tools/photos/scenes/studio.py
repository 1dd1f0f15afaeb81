"""A backdrop studio: a paper sweep beside a window, small pets, no sky."""

from dataclasses import replace

import numpy as np

from tools.photos import dog
from tools.photos.dressed import add_dog
from tools.photos.mesh import box, sheet
from tools.photos.noise import noise2
from tools.photos.props import basket, carrot, crate, hand
from tools.photos.scene import Camera, Lamp, Scene
from tools.photos.smallpets import add_pet, guinea_pig, rabbit

SLATE, CLAY = (0.20, 0.255, 0.32), (0.47, 0.235, 0.15)
ROOM = (0.10, 0.10, 0.105)
DAYLIGHT = (11.0, 11.6, 12.6)
SMALL = dog.Breed(height=0.26, ears="folded", muzzle=0.17)


def build(shot):
    return SHOTS[shot]()


def studio(paper, eye, target, view, aperture=0.011, upright=False):
    """Paper, window of four panes to the left, weak fill from the right."""
    scene = Scene(Camera.focused(eye, target, view, aperture, upright=upright), ROOM)
    floor = [(y, 0.0) for y in np.linspace(-3.0, 0.75, 30)]
    curve = [(0.75 + 0.55 * np.sin(a), 0.55 - 0.55 * np.cos(a)) for a in np.linspace(0.05, np.pi / 2, 24)]
    wall = [(1.30, z) for z in np.linspace(0.62, 2.6, 20)]
    profile = np.array(floor + curve + wall)
    x = np.linspace(-1.36, 1.36, 60)
    across, y = np.meshgrid(x, profile[:, 0])
    z = np.repeat(profile[:, 1:2], len(x), 1) + 0.0015 * noise2(across, y + profile[:, 1:2], 0.35, 93)
    tone = 1 + 0.015 * noise2(across, y + z, 0.25, 95)[..., None]
    scene.add(sheet(np.stack([across, y, z], -1), np.array(paper) * tone), "matte")
    scene.add(box((0, 1.9, 1.3), (8, 0.1, 3.2), 0, (0.35, 0.34, 0.32)), "matte", smooth=False)
    scene.add(box((0, 0, -0.06), (9, 9, 0.1), 0, (0.16, 0.12, 0.09)), "matte", smooth=False)
    for column in (0, 1):
        for row in (0, 1):
            at = (-1.75, -0.95 + 0.66 * column, 0.75 + 0.66 * row)
            scene.lamps.append(Lamp(at, 0.29, DAYLIGHT, (0.0, at[1] + 0.5, at[2] - 0.55)))
    scene.lamps.append(Lamp((2.4, -1.6, 1.3), 0.8, (0.85, 0.80, 0.74), (0, 0, 0.2)))
    return scene


def sitting_rabbit():
    scene = studio(SLATE, (0.06, -1.75, 0.30), (0.01, 0, 0.125), 19)
    add_pet(scene, "animal 1", rabbit(turn=-14), np.array([0, 0, 0]), -42, "agouti", 330000, 3)
    return scene


def two_rabbits():
    scene = studio(SLATE, (0.0, -1.95, 0.34), (0.0, 0, 0.13), 25)
    add_pet(scene, "animal 1", rabbit(turn=16), np.array([-0.19, 0.04, 0]), -62, "white", 260000, 5)
    add_pet(scene, "animal 2", rabbit(upright=True, turn=-8), np.array([0.17, 0.08, 0]), -115, "dutch", 260000, 7)
    return scene


def three_guinea_pigs():
    scene = studio(SLATE, (0.02, -1.6, 0.24), (0.0, 0, 0.075), 22)
    for number, (x, y, yaw, coat, turn) in enumerate(
        ((-0.21, 0.03, -35, "tricolour", 8), (0.01, -0.02, -88, "red cavy", -10), (0.205, 0.05, -112, "cream cavy", -6))
    ):
        add_pet(scene, f"animal {number + 1}", guinea_pig(turn), np.array([x, y, 0]), yaw, coat, 190000, 11 + number)
    return scene


def lop_portrait():
    scene = studio(SLATE, (0.05, -1.45, 0.27), (0.0, 0, 0.150), 22, upright=True)
    add_pet(
        scene, "animal 1", rabbit(upright=True, lop=True, turn=18), np.array([0.0, 0, 0]), -88, "orange", 380000, 15
    )
    return scene


def small_dog():
    scene = studio(CLAY, (0.10, -1.75, 0.36), (0.02, 0, 0.18), 19)
    pose = replace(dog.SIT, head_turn=12, head_nod=-4, jaw=14)
    add_dog(scene, "animal 1", np.array([0.0, 0, 0]), -68, SMALL, pose, "tan", 380000, 17)
    return scene


def rabbit_in_crate():
    scene = studio(CLAY, (-0.04, -1.9, 0.40), (0.0, 0, 0.175), 22)
    scene.add(crate((0, 0.0, 0), (0.42, 0.30, 0.12), 8, np.random.default_rng(2)), "matte", smooth=False)
    add_pet(scene, "animal 1", rabbit(upright=True, turn=-12), np.array([-0.01, 0.02, 0.016]), -75, "white", 300000, 19)
    return scene


def carrot_in_hand():
    scene = studio(CLAY, (0.0, -1.9, 0.36), (0.06, 0, 0.16), 23)
    add_pet(
        scene, "animal 1", rabbit(upright=True, lop=True, turn=14), np.array([-0.06, 0, 0]), -50, "blue", 300000, 21
    )
    scene.add(carrot((0.155, -0.05, 0.20), (0.30, -0.05, 0.27)), "satin", "thing 1")
    arm, sleeve = hand((0.285, -0.05, 0.265), (0.85, -0.12, 0.42))
    scene.add(arm, "skin", "person 1")
    scene.add(sleeve, "cloth", "person 1")
    return scene


def basket_portrait():
    scene = studio(CLAY, (0.0, -1.3, 0.34), (0.0, 0, 0.085), 22, upright=True)
    scene.add(basket((0, 0, 0), 0.15, 0.10), "matte")
    add_pet(scene, "animal 1", guinea_pig(-6), np.array([-0.02, -0.02, 0.065]), -72, "tricolour", 300000, 23)
    return scene


def dog_on_slate():
    scene = studio(SLATE, (0.0, -2.4, 0.36), (0.0, 0, 0.15), 22)
    pose = replace(dog.LIE, head_turn=-28, jaw=10)
    add_dog(
        scene,
        "animal 1",
        np.array([-0.04, 0, 0]),
        -35,
        dog.Breed(height=0.28, ears="drop", muzzle=0.18),
        pose,
        "cream",
        380000,
        25,
    )
    return scene


SHOTS = {
    "rabbit": sitting_rabbit,
    "two-rabbits": two_rabbits,
    "guinea-pigs": three_guinea_pigs,
    "lop": lop_portrait,
    "cream-dog": dog_on_slate,
    "small-dog": small_dog,
    "crate": rabbit_in_crate,
    "carrot": carrot_in_hand,
    "basket": basket_portrait,
}
