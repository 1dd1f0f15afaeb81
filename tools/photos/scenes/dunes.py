"""A wedding on the dunes, seen from behind: nearly white overcast, and a low warm sun."""

from dataclasses import replace

import numpy as np

from tools.photos import coast
from tools.photos.clothes import Look, add_person
from tools.photos.mesh import standing_at
from tools.photos.people import standing
from tools.photos.plants import marram
from tools.photos.scene import Camera, Scene
from tools.photos.skies import Sky

OVERCAST = Sky(
    -62,
    34,
    (0.80, 0.86, 0.97),
    (1.22, 1.23, 1.22),
    (1.0, 0.93, 0.82),
    2200,
    glow=0.7,
    cloud=0.72,
    cloud_lit=1.3,
    cloud_dark=0.92,
    seed=12,
)
WARM = Sky(
    38,
    9,
    (0.20, 0.32, 0.60),
    (1.05, 0.74, 0.50),
    (1.0, 0.56, 0.24),
    5600,
    glow=1.1,
    cloud=0.40,
    cloud_lit=1.2,
    cloud_dark=0.55,
    ground=(0.12, 0.09, 0.07),
    haze=5.0,
    seed=27,
)

GROOM = Look("male", 1.83, "suit", (0.030, 0.042, 0.085), "fair", "brown")
GROOM_DARK = Look("male", 1.86, "suit", (0.10, 0.095, 0.09), "dark", "black")
BRIDE = Look("female", 1.70, "gown", (0.78, 0.75, 0.70), "olive", "brown", "bun", 0.0, 0.55)
BRIDE_FAIR = replace(BRIDE, skin="fair", hair="red", style="long", train=0.35)
GUESTS = [
    Look("female", 1.66, "gown", (0.10, 0.21, 0.17), "brown", "black", "long", 0.22),
    Look("male", 1.78, "suit", (0.16, 0.15, 0.145), "olive", "black"),
    Look("female", 1.62, "gown", (0.42, 0.13, 0.16), "fair", "fair", "bun", 0.26),
    Look("male", 1.74, "shirt", (0.62, 0.66, 0.72), "fair", "grey", build="averagemuscle-maxweight"),
    Look("female", 1.72, "gown", (0.52, 0.40, 0.16), "dark", "black", "bun", 0.12),
    Look("male", 1.88, "suit", (0.035, 0.032, 0.03), "fair", "fair"),
]


def build(shot):
    return SHOTS[shot]()


def coastline(camera, sky, background):
    """Dunes, sea and grass; ``background`` adds to the far side: "lighthouse", "windmill" or "boats"."""
    scene, random = Scene(camera, sky), np.random.default_rng(5)
    scene.add(coast.dunes())
    tufts = (
        (26000, (4.6, 3.0), (2.6, 5.0), 0.8),
        (16000, (-4.6, 4.0), (2.0, 4.0), 0.7),
        (5000, (1.9, -3.2), (1.1, 1.2), 0.6),
        (14000, (0, 11), (9, 2.5), 0.7),
    )
    for count, centre, spread, tall in tufts:
        scene.add(marram(random, count, centre, spread, coast.dune_height, tall), "leaf")
    scene.add(coast.sea(random), "water")
    if background == "lighthouse":
        scene.add(coast.headland(110.0, 125.0, 16.0))
        scene.add(coast.lighthouse((62.0, 372, 8.5)))
    elif background == "windmill":
        scene.add(coast.headland(-95.0, 150.0, 12.0))
        scene.add(coast.windmill((-52.0, 360, 8.0), 1.7))
    boats = {
        "boats": ((-34, 210, 9.5, 20), (26, 260, 10.5, -12), (70, 420, 11, 8)),
        "windmill": ((60, 330, 10, 10),),
        "lighthouse": ((-70, 300, 9, -15),),
    }
    for x, y, length, yaw in boats[background]:
        scene.add(coast.sailing_boat((x, y, coast.SEA_LEVEL + 0.2), length, yaw), "leaf")
    return scene


def stand(scene, number, look, x, y, yaw, **more):
    return add_person(
        scene, f"person {number}", look, standing_at(coast.dune_height, x, y) - [0, 0, 0.01], yaw, seed=number, **more
    )


def couple(scene, x=0.28, y=3.3, groom=GROOM, bride=BRIDE, apart=0.31, veil=None, turn=0.0, look=28.0, number=1):
    """Side by side, hands nearly touching, heads turned to each other."""
    stand(scene, number, groom, x - apart, y, 176 + turn, pose=standing(-look, reach_right=6, reach_left=4))
    stand(
        scene, number + 1, bride, x + apart, y - 0.05, 186 + turn, pose=standing(look, 30, 10, reach_right=3), veil=veil
    )


def casual(number, x):
    """Nobody in a row stands quite like the next."""
    return standing(
        -22 * np.sign(x) * (number % 3) / 2, 10 + 14 * (number % 2), 24 - 9 * (number % 3), 4 * (number % 3 - 1)
    )


def view(eye, target, fov, aperture=0.012, **more):
    return Camera.focused(eye, target, fov, aperture, **more)


def couple_overcast():
    scene = coastline(view((0.1, -4.8, 1.55), (0.75, 3.3, 1.10), 33), OVERCAST, "lighthouse")
    couple(scene)
    return scene


def couple_overcast_closer_heads():
    scene = coastline(view((0.1, -4.8, 1.55), (0.75, 3.3, 1.10), 33), OVERCAST, "lighthouse")
    couple(scene, apart=0.285, look=40, turn=3)
    return scene


def back_of_dress():
    scene = coastline(view((0.0, -0.9, 1.50), (0.35, 3.3, 1.02), 36, upright=True), OVERCAST, "boats")
    stand(scene, 1, BRIDE_FAIR, 0.32, 2.6, 172, pose=standing(18, 22, 10), veil=(1.25, 0.15))
    return scene


def guests_overcast():
    scene = coastline(view((0.0, -7.2, 1.7), (0.2, 3.3, 1.0), 38), OVERCAST, "boats")
    couple(scene, 0.2, 3.5)
    for number, (x, look) in enumerate(zip((-2.6, -1.85, -1.1, 1.5, 2.2, 2.95), GUESTS, strict=True)):
        stand(scene, number + 3, look, x, 3.9 + 0.15 * (number % 2), 180 + (0.2 - x) * 5, pose=casual(number, x))
    return scene


def far_off_overcast():
    scene = coastline(view((0.0, -9.0, 1.9), (0.4, 3.3, 3.4), 52, upright=True, aperture=0.008), OVERCAST, "lighthouse")
    couple(scene, 0.9, 8.2, GROOM_DARK, BRIDE)
    return scene


def couple_warm():
    scene = coastline(view((0.4, -4.4, 1.35), (0.0, 3.3, 1.12), 32), WARM, "boats")
    couple(scene, -0.1, 3.3, GROOM_DARK, BRIDE)
    return scene


def veil_in_wind():
    scene = coastline(view((-0.3, -2.6, 1.35), (0.35, 3.3, 1.28), 34), WARM, "boats")
    stand(scene, 1, BRIDE_FAIR, 0.0, 3.1, 182, pose=standing(20, 24, 8), veil=(2.0, 0.82))
    return scene


def guests_warm():
    scene = coastline(view((0.0, -7.4, 1.6), (-0.2, 3.3, 1.05), 38), WARM, "windmill")
    couple(scene, 0.0, 3.5, GROOM_DARK, BRIDE_FAIR)
    for number, (x, look) in enumerate(zip((-2.7, -1.95, -1.2, 1.25, 1.95, 2.7), reversed(GUESTS), strict=True)):
        stand(scene, number + 3, look, x, 3.8 + 0.15 * (number % 2), 180 - x * 5, pose=casual(number, x))
    return scene


def far_off_warm():
    scene = coastline(view((0.6, -8.0, 1.5), (0.3, 8, 2.0), 40, aperture=0.008), WARM, "windmill")
    couple(scene, 1.7, 8.4, GROOM, BRIDE, veil=(1.5, -0.5))
    return scene


SHOTS = {
    "couple": couple_overcast,
    "couple-closer": couple_overcast_closer_heads,
    "dress": back_of_dress,
    "guests": guests_overcast,
    "far": far_off_overcast,
    "warm-couple": couple_warm,
    "warm-veil": veil_in_wind,
    "warm-guests": guests_warm,
    "warm-far": far_off_warm,
}
