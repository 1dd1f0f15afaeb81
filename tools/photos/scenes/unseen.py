"""Renders that nothing was tuned on: rows, pairs seated, veils in wind, a child before a crowd, dogs, backdrops."""

from dataclasses import replace

import numpy as np

from tools.photos import dog, grounds
from tools.photos.clothes import Look, add_person
from tools.photos.dressed import add_dog
from tools.photos.mesh import box, lathe, standing_at
from tools.photos.people import standing
from tools.photos.scene import Camera
from tools.photos.smallpets import add_pet, rabbit

BRIDE = Look("female", 1.69, "gown", (0.80, 0.78, 0.74), "fair", "fair", "bun", 0.0, 0.30)
GROOM = Look("male", 1.82, "suit", (0.075, 0.085, 0.10), "olive", "brown")
WARDROBE = [
    Look("male", 1.80, "shirt", (0.20, 0.30, 0.42), "fair", "brown"),
    Look("female", 1.67, "gown", (0.55, 0.30, 0.32), "olive", "brown", "long", 0.20),
    Look("male", 1.75, "suit", (0.22, 0.19, 0.15), "dark", "black"),
    Look("female", 1.71, "gown", (0.14, 0.16, 0.30), "fair", "red", "bun", 0.15),
    Look("male", 1.85, "suit", (0.05, 0.05, 0.055), "brown", "black"),
    Look("female", 1.63, "gown", (0.60, 0.58, 0.30), "brown", "black", "long", 0.24),
    Look("male", 1.72, "shirt", (0.72, 0.70, 0.66), "fair", "grey", build="averagemuscle-maxweight"),
    Look("female", 1.65, "gown", (0.30, 0.10, 0.20), "dark", "black", "bun", 0.10),
    Look("male", 1.78, "shirt", (0.42, 0.12, 0.10), "olive", "fair"),
]
CHILD = Look("female", 1.12, "gown", (0.70, 0.55, 0.60), "fair", "fair", "long", 0.30, age="child")
BOY = Look("male", 1.18, "shirt", (0.75, 0.72, 0.66), "olive", "brown", age="child")
HOUND = dog.Breed(height=0.55, ears="drop", tail="long", muzzle=0.22, skull=0.118)
COLLIE = dog.Breed(height=0.50, length=1.05, ears="folded", tail="long", muzzle=0.19)
CUR = dog.Breed(height=0.34, ears="prick", muzzle=0.17)


def build(shot):
    return SHOTS[shot]()


def view(eye, target, fov, aperture=0.011, **more):
    return Camera.focused(eye, target, fov, aperture, **more)


def stand(scene, subject, look, x, y, yaw, height=grounds.level, sunk=0.0, **more):
    place = standing_at(height, x, y) - [0, 0, 0.01 + sunk]
    return add_person(scene, subject, look, place, yaw, seed=sum(map(ord, subject)) + int(100 * x) % 97, **more)


def row(scene, count, y, gap, turned=0.0, height=grounds.level, middle=0.0, first=0):
    """``count`` people side by side seen from behind, each turned a little otherwise; ``turned`` all of them."""
    for number in range(count):
        x = middle + (number - (count - 1) / 2) * gap + 0.05 * np.sin(number * 2.3)
        yaw = 180 + turned * (1 if number % 2 else 0.7) + 7 * np.sin(number * 1.9)
        pose = standing(18 * np.sin(number * 1.3), 8 + 5 * (number % 3), 10 + 4 * (number % 2), 3 * np.cos(number))
        look = WARDROBE[(number + first) % len(WARDROBE)]
        stand(scene, f"person {number + 1}", look, x, y + 0.16 * (number % 2), yaw, height, pose=pose)
    return scene


def four_behind():
    return row(grounds.park(view((0.2, -5.2, 1.5), (0, 2, 1.0), 34)), 4, 2.0, 0.78)


def five_turned():
    return row(grounds.park(view((-0.3, -6.0, 1.6), (0, 2, 0.95), 36), 63), 5, 2.0, 0.74, 42, first=3)


def six_on_the_square():
    return row(grounds.square(view((0, -6.4, 1.55), (0, 2, 1.1), 38)), 6, 2.0, 0.72, first=2)


def seven_on_the_beach():
    camera = view((0.3, -7.5, 1.5), (0, 1.4, 1.0), 37)
    return row(grounds.beach(camera), 7, 1.4, 0.70, -38, grounds.shore, first=5)


def eight_in_the_snow():
    scene, height = grounds.snow(view((0, -8.2, 1.7), (0, 2, 1.1), 38))
    return row(scene, 8, 2.0, 0.68, 0, height, first=4)


def nine_far():
    scene = grounds.beach(view((0, -10.5, 1.7), (0, 1.2, 1.5), 42, 0.008), grounds.FAIR, 83)
    return row(scene, 9, 1.2, 0.66, 0, grounds.shore, first=1)


def nine_on_the_square():
    return row(grounds.square(view((0.4, -8.2, 1.6), (0, 2, 1.2), 41), 73), 9, 2.2, 0.64, 30, first=7)


def pair_on_a_wall():
    camera = view((0.1, -3.6, 1.15), (0, 1.0, 0.75), 34)
    scene = grounds.beach(camera, grounds.FAIR, 85)
    for number in range(12):
        x = -4.4 + number * 0.8 + 0.02 * np.sin(number * 5)
        tone = np.array([0.36, 0.33, 0.30]) * (0.85 + 0.05 * (number * 7 % 6))
        scene.add(box((x, 0.75, 0.2), (0.785, 0.42, 0.62), 0, tone), smooth=False)
    stand(scene, "person 1", WARDROBE[0], -0.27, 0.98, 172, grounds.shore, 0.36, pose=standing(-24, 20, 20))
    stand(scene, "person 2", WARDROBE[1], 0.25, 0.98, 187, grounds.shore, 0.30, pose=standing(20, 20, 20, 4))
    return scene


def pair_on_a_bale():
    scene = grounds.park(view((0, -3.6, 1.1), (0.1, 1.6, 0.78), 34), 65)
    line = [(0, 0), (0.36, 0), (0.38, 0.2), (0.38, 1.4), (0.36, 1.6), (0, 1.6)]
    bale = lathe(line, (0, 0, 0), 64, (0.40, 0.30, 0.13))
    turned = bale.vertices[:, [2, 1, 0]] * [1, 1, 1] + [-0.8, 1.3, 0.26]
    scene.add(bale.with_vertices(turned))
    stand(scene, "person 1", GROOM, -0.24, 1.62, 174, sunk=0.30, pose=standing(-30, 30, 12))
    stand(scene, "person 2", replace(BRIDE, train=0.0), 0.26, 1.62, 190, sunk=0.24, pose=standing(26, 14, 28))
    return scene


def pair_on_a_bench():
    scene = grounds.square(view((0.5, -3.0, 1.3), (0.05, 1.5, 0.95), 34), 75)
    for plank in range(4):
        scene.add(box((0, 1.28, 0.50 + 0.12 * plank), (1.9, 0.03, 0.09), 0, (0.10, 0.05, 0.025)), "satin", smooth=False)
    scene.add(box((0, 1.52, 0.22), (1.9, 0.44, 0.44), 0, (0.10, 0.05, 0.025)), smooth=False)
    stand(scene, "person 1", WARDROBE[4], -0.28, 1.56, 168, sunk=0.34, pose=standing(-20, 16, 16))
    stand(scene, "person 2", replace(WARDROBE[5], hem=0.4), 0.28, 1.56, 196, sunk=0.28, pose=standing(30, 16, 16, -6))
    return scene


def veil_in_the_park():
    scene = grounds.park(view((0.2, -2.8, 1.4), (0.35, 2.0, 1.25), 33), 67)
    stand(scene, "person 1", replace(BRIDE, hair="brown"), 0.0, 2.0, 176, pose=standing(16, 20, 8), veil=(1.7, 0.75))
    return scene


def veil_on_the_square():
    scene = grounds.square(view((0, -1.6, 1.5), (-0.1, 2.0, 1.0), 36, upright=True), 77)
    stand(scene, "person 1", BRIDE, 0.1, 2.0, 186, pose=standing(-20, 14, 18), veil=(1.5, -0.5))
    return scene


def veil_in_the_snow():
    scene, height = grounds.snow(view((0, -4.2, 1.5), (0.1, 2.0, 1.15), 33), 93)
    stand(scene, "person 1", GROOM, -0.42, 2.05, 176, height, pose=standing(-26, 8, 8, reach_right=5))
    stand(scene, "person 2", BRIDE, 0.22, 2.0, 184, height, pose=standing(24, 24, 10), veil=(1.9, 0.62))
    return scene


def crowd(scene, y, height=grounds.level):
    for number, look in enumerate(WARDROBE):
        x = (number - 4) * 0.62 + 0.12 * np.sin(number * 3.7)
        stand(scene, f"crowd {number + 1}", look, x, y + 0.5 * (number % 2), 180 + 20 * np.sin(number * 2.2), height)


def girl_before_a_crowd():
    scene = grounds.park(view((0.15, -2.7, 0.95), (0.1, 0.6, 0.80), 36, 0.03), 69)
    stand(scene, "person 1", CHILD, 0.0, 0.6, 158, pose=standing(-24, 20, 14, reach_left=10))
    crowd(scene, 6.5)
    return scene


def boy_before_a_crowd():
    scene = grounds.square(view((-0.2, -2.9, 1.0), (0.15, 0.8, 0.85), 36, 0.03), 79)
    stand(scene, "person 1", BOY, -0.1, 0.8, 200, pose=standing(30, 12, 30, reach_right=12))
    crowd(scene, 7.0)
    return scene


def arm_in_arm(scene, y, height, first):
    for number in range(4):
        x = (number - 1.5) * 0.43
        look = WARDROBE[(number * 2 + first) % len(WARDROBE)]
        pose = standing((-14, 20, -18, 10)[number], 40, 40, (2, -4, 4, -2)[number], 9, 9)
        yaw = 180 + 4 * (number - 1.5)
        stand(scene, f"person {number + 1}", look, x, y + 0.05 * (number % 2), yaw, height, pose=pose)
    return scene


def four_in_the_park():
    return arm_in_arm(grounds.park(view((0.1, -3.9, 1.5), (0, 2.0, 1.0), 33), 59), 2.0, grounds.level, 0)


def four_at_the_sea():
    return arm_in_arm(grounds.beach(view((-0.2, -4.1, 1.4), (0, 1.6, 1.1), 34), seed=87), 1.6, grounds.shore, 1)


def dogs_in_the_park():
    scene = grounds.park(view((0.1, -3.1, 0.6), (0.0, 0.4, 0.36), 28, 0.016), 57)
    pose = replace(dog.STAND, head_turn=24)
    add_dog(scene, "animal 1", standing_at(grounds.level, 0.12, 0.75), -150, HOUND, pose, "liver", 240000, 301)
    pose = replace(dog.SIT, head_turn=-10, jaw=16)
    add_dog(scene, "animal 2", standing_at(grounds.level, -0.16, 0.25), -70, COLLIE, pose, "cream", 300000, 303)
    return scene


def dogs_on_the_beach():
    scene = grounds.beach(view((0.0, -3.2, 0.55), (0.0, 0.4, 0.38), 28, 0.016), grounds.FAIR, 89)
    pose = replace(dog.STAND, head_turn=-18)
    add_dog(scene, "animal 1", standing_at(grounds.shore, -0.12, 0.7), -35, COLLIE, pose, "red", 280000, 305)
    pose = replace(dog.SIT, head_turn=12)
    add_dog(scene, "animal 2", standing_at(grounds.shore, 0.2, 0.3), -105, CUR, pose, "grey", 240000, 307)
    return scene


def canvas_back():
    """A painted canvas, olive, darker above; a man seen from behind."""
    camera = view((0.1, -3.2, 1.35), (0, 0, 1.1), 36, upright=True)
    scene = grounds.backdrop(camera, ((0.20, 0.20, 0.12), (0.07, 0.075, 0.05)), 0.006, hung=True)
    return one_on_paper(scene, "person 1", WARDROBE[4], 168)


def pink_paper():
    camera = view((0.0, -3.6, 1.3), (0, 0, 1.15), 34)
    scene = grounds.backdrop(camera, ((0.70, 0.42, 0.44), (0.66, 0.36, 0.40)), 0.001, "right")
    return one_on_paper(scene, "person 1", WARDROBE[3], 215)


def one_on_paper(scene, subject, look, yaw):
    add_person(scene, subject, look, np.zeros(3), yaw, standing(18, 14, 22), seed=31)
    return scene


def white_paper():
    scene = grounds.backdrop(view((0, -2.9, 0.62), (0, 0, 0.34), 28), ((0.82, 0.82, 0.82), (0.80, 0.80, 0.82)), 0.0015)
    add_dog(scene, "animal 1", np.zeros(3), -58, COLLIE, replace(dog.SIT, head_turn=-12, jaw=14), "saddle", 300000, 309)
    return scene


def blue_cloth():
    camera = view((0.05, -2.6, 0.5), (0, 0, 0.24), 26)
    scene = grounds.backdrop(camera, ((0.12, 0.24, 0.50), (0.20, 0.36, 0.66)), 0.014, "right", True)
    add_dog(scene, "animal 1", np.zeros(3), -115, CUR, replace(dog.STAND, head_turn=30), "tan", 280000, 311)
    return scene


def yellow_paper():
    camera = view((0, -1.7, 0.34), (0, 0, 0.13), 21)
    scene = grounds.backdrop(camera, ((0.66, 0.46, 0.10), (0.52, 0.33, 0.06)), 0.001, "left", width=1.6)
    add_pet(scene, "animal 1", rabbit(upright=True, turn=10), np.array([0.02, 0, 0]), -70, "dutch", 300000, 313)
    return scene


SHOTS = {
    "row-four": four_behind,
    "row-five-turned": five_turned,
    "row-six": six_on_the_square,
    "row-seven-turned": seven_on_the_beach,
    "row-eight": eight_in_the_snow,
    "row-nine-far": nine_far,
    "row-nine-turned": nine_on_the_square,
    "seated-wall": pair_on_a_wall,
    "seated-bale": pair_on_a_bale,
    "seated-bench": pair_on_a_bench,
    "veil-park": veil_in_the_park,
    "veil-square": veil_on_the_square,
    "veil-snow": veil_in_the_snow,
    "child-park": girl_before_a_crowd,
    "child-square": boy_before_a_crowd,
    "arms-park": four_in_the_park,
    "arms-sea": four_at_the_sea,
    "dogs-park": dogs_in_the_park,
    "dogs-beach": dogs_on_the_beach,
    "paper-canvas": canvas_back,
    "paper-pink": pink_paper,
    "paper-white": white_paper,
    "paper-blue": blue_cloth,
    "paper-yellow": yellow_paper,
}
