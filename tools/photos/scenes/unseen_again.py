"""A second set that nothing was tuned on, made after the first had been looked at: other people, dogs and places."""

from dataclasses import replace

import numpy as np

from tools.photos import dog, grounds
from tools.photos.clothes import Look, add_person
from tools.photos.dressed import add_dog
from tools.photos.mesh import box, lathe, standing_at
from tools.photos.people import standing
from tools.photos.scenes.unseen import stand, view
from tools.photos.skies import Sky
from tools.photos.smallpets import add_pet, rabbit

NOON = Sky(
    150,
    58,
    (0.10, 0.24, 0.60),
    (0.62, 0.80, 1.04),
    (1.0, 0.96, 0.88),
    4600,
    glow=0.3,
    cloud=0.22,
    cloud_lit=1.6,
    seed=143,
)
EVENING = Sky(
    60,
    7,
    (0.30, 0.30, 0.50),
    (1.02, 0.62, 0.42),
    (1.0, 0.56, 0.28),
    4400,
    glow=1.0,
    cloud=0.55,
    cloud_lit=1.2,
    seed=149,
)
VEILED = Sky(
    -20,
    36,
    (0.62, 0.68, 0.78),
    (0.98, 1.00, 1.04),
    (1.0, 0.96, 0.9),
    2200,
    glow=0.6,
    cloud=0.65,
    cloud_lit=1.2,
    seed=151,
)

BRIDE = Look("female", 1.72, "gown", (0.76, 0.75, 0.74), "brown", "black", "long", 0.0, 0.35)
GROOM = Look("male", 1.78, "suit", (0.20, 0.20, 0.19), "fair", "fair")
GUESTS = [
    Look("female", 1.74, "gown", (0.10, 0.28, 0.24), "fair", "fair", "bun", 0.12),
    Look("male", 1.83, "suit", (0.04, 0.05, 0.09), "brown", "black"),
    Look("female", 1.60, "gown", (0.66, 0.62, 0.56), "fair", "grey", "bun", 0.30),
    Look("male", 1.76, "shirt", (0.30, 0.36, 0.20), "olive", "black"),
    Look("male", 1.88, "suit", (0.34, 0.31, 0.27), "fair", "red"),
    Look("female", 1.68, "gown", (0.62, 0.18, 0.10), "dark", "black", "long", 0.22),
    Look("male", 1.70, "shirt", (0.55, 0.60, 0.68), "dark", "black"),
    Look("female", 1.66, "gown", (0.35, 0.30, 0.48), "olive", "brown", "long", 0.10),
    Look("male", 1.81, "shirt", (0.10, 0.10, 0.11), "fair", "fair", build="averagemuscle-maxweight"),
]
GIRL = Look("female", 1.05, "gown", (0.30, 0.42, 0.55), "olive", "brown", "bun", 0.34, age="child")
LAD = Look("male", 1.24, "suit", (0.12, 0.12, 0.16), "fair", "red", age="child")
POINTER = dog.Breed(height=0.60, ears="drop", tail="long", muzzle=0.21, skull=0.112)
SPITZ = dog.Breed(height=0.38, ears="prick", tail="long", muzzle=0.15)
BASSET = dog.Breed(height=0.36, length=1.25, ears="drop", tail="long", muzzle=0.20, skull=0.12)


def build(shot):
    return SHOTS[shot]()


def line(scene, count, y, gap, turned=0.0, height=grounds.level, first=0, stagger=0.22):
    """``count`` guests seen from behind, every third a step nearer, some with a bent arm."""
    for number in range(count):
        x = (number - (count - 1) / 2) * gap + 0.06 * np.cos(number * 2.9)
        yaw = 180 - turned * (1 if number % 3 else 0.6) + 9 * np.cos(number * 1.4)
        pose = standing(22 * np.cos(number * 1.7), 10 + 6 * (number % 2), 8 + 7 * (number % 3), 4 * np.sin(number))
        look = GUESTS[(number * 2 + first) % len(GUESTS)]
        stand(scene, f"person {number + 1}", look, x, y - stagger * (number % 3 == 1), yaw, height, pose=pose)
    return scene


def four_by_the_sea():
    return line(grounds.beach(view((0.3, -5.0, 1.35), (0, 1.8, 1.05), 33), NOON, 183), 4, 1.8, 0.82, 0, grounds.shore)


def five_in_the_snow():
    scene, height = grounds.snow(view((-0.4, -6.2, 1.5), (0.1, 1.8, 1.05), 35), 191, NOON)
    return line(scene, 5, 1.8, 0.78, 40, height, first=1)


def six_in_the_park():
    return line(grounds.park(view((0.2, -6.8, 1.7), (0, 2, 0.9), 37), 161), 6, 2.0, 0.74, 0, first=2)


def seven_on_the_square():
    return line(grounds.square(view((-0.4, -7.2, 1.45), (0, 2, 1.15), 38), 171, NOON), 7, 2.0, 0.72, -36, first=3)


def eight_on_the_beach():
    return line(grounds.beach(view((0, -8.6, 1.9), (0, 1.4, 0.95), 38), VEILED, 185), 8, 1.4, 0.70, 0, grounds.shore, 4)


def nine_turned_in_the_park():
    return line(grounds.park(view((0.5, -8.4, 1.5), (0, 2, 1.15), 41), 163, VEILED), 9, 2.0, 0.68, 44, first=5)


def nine_far_in_the_snow():
    scene, height = grounds.snow(view((0, -12.0, 1.6), (0.2, 1.6, 1.4), 44, 0.008), 193)
    return line(scene, 9, 1.6, 0.66, 0, height, first=6)


def pair_on_a_log():
    scene = grounds.beach(view((-0.2, -3.4, 1.2), (0, 1.1, 0.72), 34), EVENING, 187)
    log = lathe([(0, 0), (0.20, 0), (0.22, 0.6), (0.19, 1.8), (0.17, 2.5), (0, 2.5)], (0, 0, 0), 40, (0.30, 0.25, 0.20))
    turned = log.vertices[:, [2, 1, 0]] * [1, 1, 1] + [-1.25, 0.9, 0.12]
    scene.add(log.with_vertices(turned))
    stand(scene, "person 1", GUESTS[3], -0.3, 1.02, 184, grounds.shore, 0.44, pose=standing(26, 24, 18))
    stand(scene, "person 2", GUESTS[0], 0.24, 1.02, 172, grounds.shore, 0.40, pose=standing(-22, 22, 22, -4))
    return scene


def pair_on_steps():
    scene = grounds.square(view((0.1, -3.2, 1.2), (0, 1.6, 0.85), 35), 173)
    for step in range(3):
        tone = np.array([0.38, 0.37, 0.35]) * (1 - 0.08 * step)
        scene.add(
            box((0, 1.75 + 0.34 * step, 0.09 + 0.17 * step), (5.2, 0.34, 0.18 + 0.34 * step), 0, tone), smooth=False
        )
    stand(scene, "person 1", GUESTS[4], -0.30, 1.72, 190, sunk=0.42, pose=standing(-30, 24, 16))
    stand(scene, "person 2", GUESTS[5], 0.26, 1.72, 176, sunk=0.36, pose=standing(24, 18, 26, 5))
    return scene


def pair_on_a_crate():
    scene, height = grounds.snow(view((-0.3, -3.5, 1.25), (0.05, 1.5, 0.8), 34), 195)
    for plank in range(5):
        tone = np.array([0.34, 0.24, 0.13]) * (0.8 + 0.1 * (plank * 3 % 4))
        scene.add(box((0, 1.4, 0.08 + 0.11 * plank), (1.5, 0.5, 0.10), 0, tone), smooth=False)
    stand(scene, "person 1", GUESTS[8], -0.30, 1.5, 176, height, 0.34, pose=standing(-18, 22, 24))
    stand(scene, "person 2", replace(GUESTS[7], hem=0.4), 0.28, 1.5, 188, height, 0.28, pose=standing(28, 26, 14))
    return scene


def veil_at_the_sea():
    scene = grounds.beach(view((-0.2, -2.9, 1.3), (-0.25, 1.8, 1.2), 34), NOON, 189)
    stand(scene, "person 1", BRIDE, 0.1, 1.8, 188, grounds.shore, pose=standing(-18, 16, 18), veil=(1.8, -0.8))
    return scene


def veil_at_evening():
    scene = grounds.beach(view((0.1, -1.9, 1.45), (0.1, 1.9, 1.0), 37, upright=True), EVENING, 283)
    bride = replace(BRIDE, skin="fair", hair="red", style="bun")
    stand(scene, "person 1", bride, -0.1, 1.9, 172, grounds.shore, pose=standing(22, 18, 12), veil=(1.6, 0.55))
    return scene


def veil_beside_him():
    scene = grounds.park(view((-0.1, -4.0, 1.4), (0.1, 2.1, 1.1), 34), 165)
    stand(scene, "person 1", GROOM, 0.46, 2.1, 186, pose=standing(20, 8, 10, reach_left=5))
    stand(
        scene,
        "person 2",
        replace(BRIDE, hair="fair", style="bun"),
        -0.18,
        2.05,
        176,
        pose=standing(-26, 10, 22),
        veil=(1.8, -0.6),
    )
    return scene


def crowd(scene, y, height=grounds.level):
    for number in range(9):
        look, x = GUESTS[(number * 4) % 9], (number - 4) * 0.66 + 0.14 * np.cos(number * 2.7)
        stand(scene, f"crowd {number + 1}", look, x, y + 0.6 * (number % 2), 180 + 24 * np.cos(number * 1.7), height)


def girl_by_the_sea():
    scene = grounds.beach(view((-0.2, -2.8, 0.85), (-0.1, 0.6, 0.72), 36, 0.03), VEILED, 285)
    stand(scene, "person 1", GIRL, 0.05, 0.6, 196, grounds.shore, pose=standing(28, 18, 22, reach_right=10))
    crowd(scene, 5.5, grounds.shore)
    return scene


def lad_in_the_park():
    scene = grounds.park(view((0.25, -2.9, 1.05), (-0.1, 0.7, 0.9), 36, 0.03), 167, EVENING)
    stand(scene, "person 1", LAD, 0.12, 0.7, 162, pose=standing(-26, 26, 12))
    crowd(scene, 6.8)
    return scene


def arm_in_arm(scene, y, height, first):
    for number in range(4):
        pose = standing((18, -16, 12, -20)[number], 38, 42, (-3, 3, -2, 4)[number], 9, 9)
        look, yaw = GUESTS[(number * 2 + first) % 9], 180 - 5 * (number - 1.5)
        place = (number - 1.5) * 0.44, y + 0.06 * ((number + 1) % 2)
        stand(scene, f"person {number + 1}", look, *place, yaw, height, pose=pose)
    return scene


def four_on_the_square():
    return arm_in_arm(grounds.square(view((0.3, -4.0, 1.4), (0, 1.9, 1.05), 34), 175, VEILED), 1.9, grounds.level, 3)


def four_in_the_snow():
    scene, height = grounds.snow(view((-0.1, -4.2, 1.6), (0, 1.8, 1.0), 33), 197, VEILED)
    return arm_in_arm(scene, 1.8, height, 0)


def two_dogs(scene, height, near, far, seed):
    add_dog(scene, "animal 1", standing_at(height, -0.18, 0.72), *far, 260000, seed)
    add_dog(scene, "animal 2", standing_at(height, 0.14, 0.28), *near, 280000, seed + 2)
    return scene


def dogs_at_the_sea():
    scene = grounds.beach(view((-0.1, -3.2, 0.62), (0.0, 0.4, 0.36), 29, 0.016), VEILED, 287)
    far = (-40, POINTER, replace(dog.STAND, head_turn=-26), "grey")
    return two_dogs(scene, grounds.shore, (-118, SPITZ, replace(dog.SIT, head_turn=14, jaw=12), "tan"), far, 401)


def dogs_in_the_snow():
    scene, height = grounds.snow(view((0.1, -3.1, 0.58), (0.0, 0.4, 0.34), 28, 0.016), 199)
    far = (-145, SPITZ, replace(dog.SIT, head_turn=18), "red")
    return two_dogs(scene, height, (-62, BASSET, replace(dog.STAND, head_turn=-14), "saddle"), far, 411)


def grey_canvas():
    colours = ((0.26, 0.26, 0.27), (0.10, 0.10, 0.11))
    scene = grounds.backdrop(view((-0.1, -3.3, 1.3), (0, 0, 1.1), 36, upright=True), colours, 0.008, "right", True)
    add_person(scene, "person 1", GUESTS[0], np.zeros(3), 192, standing(-18, 20, 14), seed=131)
    return scene


def sky_paper():
    colours = ((0.34, 0.50, 0.72), (0.46, 0.62, 0.84))
    scene = grounds.backdrop(view((0.1, -3.6, 1.3), (0, 0, 1.12), 34), colours, 0.001)
    add_person(scene, "person 1", GUESTS[4], np.zeros(3), 150, standing(16, 22, 16), seed=133)
    return scene


def green_paper():
    colours = ((0.16, 0.34, 0.20), (0.10, 0.25, 0.15))
    scene = grounds.backdrop(view((0, -3.0, 0.6), (0, 0, 0.34), 28), colours, 0.0015, "right")
    add_dog(scene, "animal 1", np.zeros(3), -122, POINTER, replace(dog.SIT, head_turn=12), "liver", 280000, 421)
    return scene


def cream_cloth():
    colours = ((0.74, 0.68, 0.58), (0.62, 0.56, 0.47))
    scene = grounds.backdrop(view((-0.05, -2.5, 0.5), (0, 0, 0.22), 26), colours, 0.013, "left", True)
    add_dog(scene, "animal 1", np.zeros(3), -64, BASSET, replace(dog.STAND, head_turn=-24), "cream", 280000, 423)
    return scene


def pale_blue_paper():
    colours = ((0.60, 0.70, 0.80), (0.70, 0.80, 0.90))
    scene = grounds.backdrop(view((0, -1.7, 0.36), (0, 0, 0.13), 21), colours, 0.001, "right", width=1.6)
    add_pet(scene, "animal 1", rabbit(lop=True, turn=-12), np.array([-0.02, 0, 0]), -110, "orange", 300000, 425)
    return scene


SHOTS = {
    "row-four": four_by_the_sea,
    "row-five-turned": five_in_the_snow,
    "row-six": six_in_the_park,
    "row-seven-turned": seven_on_the_square,
    "row-eight": eight_on_the_beach,
    "row-nine-turned": nine_turned_in_the_park,
    "row-nine-far": nine_far_in_the_snow,
    "seated-log": pair_on_a_log,
    "seated-steps": pair_on_steps,
    "seated-crate": pair_on_a_crate,
    "veil-sea": veil_at_the_sea,
    "veil-evening": veil_at_evening,
    "veil-park": veil_beside_him,
    "child-sea": girl_by_the_sea,
    "child-park": lad_in_the_park,
    "arms-square": four_on_the_square,
    "arms-snow": four_in_the_snow,
    "dogs-sea": dogs_at_the_sea,
    "dogs-snow": dogs_in_the_snow,
    "paper-canvas": grey_canvas,
    "paper-sky": sky_paper,
    "paper-green": green_paper,
    "paper-cream": cream_cloth,
    "paper-pale": pale_blue_paper,
}
