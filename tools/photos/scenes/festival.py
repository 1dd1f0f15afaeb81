"""A fourth shoot, as somebody takes one: three places, each in one light from first to last, walked through.

For the benchmark of evening alone: nothing is tuned on it.
"""

from dataclasses import replace

import numpy as np

from tools.photos import dog, grounds
from tools.photos.clothes import Look, add_person
from tools.photos.dressed import add_dog
from tools.photos.mesh import box, standing_at
from tools.photos.people import standing
from tools.photos.scenes.unseen import stand, view
from tools.photos.skies import Sky
from tools.photos.smallpets import add_pet, guinea_pig, rabbit

MORNING = Sky(
    -70,
    33,
    (0.14, 0.28, 0.62),
    (0.66, 0.80, 1.00),
    (1.0, 0.92, 0.80),
    4000,
    glow=0.4,
    cloud=0.38,
    cloud_lit=1.5,
    seed=211,
)
AFTERNOON = Sky(
    115,
    24,
    (0.20, 0.30, 0.58),
    (0.84, 0.82, 0.84),
    (1.0, 0.84, 0.62),
    4600,
    glow=0.6,
    cloud=0.42,
    cloud_lit=1.4,
    seed=223,
)
CLOTH = (0.46, 0.36, 0.29), (0.34, 0.26, 0.21)

BRIDE = Look("female", 1.70, "gown", (0.78, 0.77, 0.74), "olive", "brown", "bun", 0.0, 0.30)
GROOM = Look("male", 1.84, "suit", (0.06, 0.07, 0.10), "fair", "brown")
VISITORS = [
    Look("male", 1.79, "shirt", (0.52, 0.50, 0.46), "brown", "black"),
    Look("female", 1.68, "gown", (0.40, 0.16, 0.22), "fair", "fair", "long", 0.20),
    Look("male", 1.74, "suit", (0.16, 0.18, 0.20), "olive", "grey"),
    Look("female", 1.73, "gown", (0.20, 0.26, 0.40), "dark", "black", "bun", 0.12),
    Look("male", 1.86, "shirt", (0.24, 0.34, 0.30), "fair", "red"),
    Look("female", 1.62, "gown", (0.62, 0.52, 0.34), "brown", "black", "long", 0.26),
    Look("male", 1.70, "suit", (0.30, 0.26, 0.22), "dark", "black", build="averagemuscle-maxweight"),
]
GIRL = Look("female", 1.08, "gown", (0.62, 0.40, 0.30), "fair", "red", "long", 0.30, age="child")
SETTER = dog.Breed(height=0.58, ears="drop", tail="long", muzzle=0.21, skull=0.115)
TERRIER = dog.Breed(height=0.36, ears="folded", muzzle=0.16)


def build(shot):
    return SHOTS[shot]()


def on_the_square(eye, target, fov, aperture=0.011, **more):
    return grounds.square(view(eye, target, fov, aperture, **more), 221, MORNING)


def in_the_park(eye, target, fov, aperture=0.011, **more):
    return grounds.park(view(eye, target, fov, aperture, **more), 231, AFTERNOON)


def before_the_cloth(eye, target, fov, aperture=0.010, **more):
    return grounds.backdrop(view(eye, target, fov, aperture, **more), CLOTH, 0.010, "left", True)


def line(scene, count, y, gap, turned=0.0, first=0):
    """``count`` visitors side by side seen from behind, each turned a little otherwise."""
    for number in range(count):
        x = (number - (count - 1) / 2) * gap + 0.05 * np.cos(number * 2.1)
        yaw = 180 + turned * (1 if number % 2 else 0.7) + 8 * np.sin(number * 1.7)
        pose = standing(20 * np.sin(number * 1.5), 10 + 5 * (number % 3), 9 + 6 * (number % 2), 3 * np.cos(number))
        look = VISITORS[(number + first) % len(VISITORS)]
        stand(scene, f"person {number + 1}", look, x, y + 0.15 * (number % 2), yaw, pose=pose)
    return scene


def pair(scene, y, veil=None):
    stand(scene, "person 1", GROOM, 0.38, y + 0.05, 186, pose=standing(18, 10, 12, reach_left=6))
    stand(scene, "person 2", BRIDE, -0.22, y, 175, pose=standing(-22, 14, 20), veil=veil)
    return scene


def alone(scene, look, x, y, yaw):
    stand(scene, "person 1", look, x, y, yaw, pose=standing(-20, 16, 14))
    return scene


def on_a_bench(scene):
    for plank in range(4):
        tone = np.array([0.30, 0.22, 0.13]) * (0.85 + 0.1 * (plank % 2))
        scene.add(box((0, 1.28, 0.50 + 0.12 * plank), (1.9, 0.03, 0.09), 0, tone), smooth=False)
    scene.add(box((0, 1.52, 0.22), (1.9, 0.44, 0.44), 0, (0.26, 0.19, 0.11)), smooth=False)
    stand(scene, "person 1", VISITORS[4], -0.28, 1.56, 172, sunk=0.34, pose=standing(-24, 18, 14))
    stand(scene, "person 2", replace(VISITORS[1], hem=0.4), 0.28, 1.56, 192, sunk=0.28, pose=standing(26, 16, 18))
    return scene


def with_dog(scene, breed, pose, coat, x, y, yaw, seed, height=grounds.level):
    add_dog(scene, "animal 1", standing_at(height, x, y), yaw, breed, pose, coat, 260000, seed)
    return scene


def one_in_the_studio():
    scene = before_the_cloth((0.1, -3.4, 1.3), (0, 0, 1.1), 36, upright=True)
    add_person(scene, "person 1", VISITORS[3], np.zeros(3), 198, standing(-16, 18, 14), seed=231)
    return scene


def two_in_the_studio():
    scene = before_the_cloth((-0.1, -3.8, 1.35), (0, 0, 1.15), 35)
    add_person(scene, "person 1", VISITORS[0], np.array([-0.28, 0, 0]), 172, standing(20, 14, 18), seed=233)
    add_person(scene, "person 2", VISITORS[5], np.array([0.30, 0.05, 0]), 190, standing(-22, 18, 12), seed=235)
    return scene


def dogs_in_the_studio():
    scene = before_the_cloth((0, -3.2, 0.6), (0, 0.1, 0.34), 29)
    pose = replace(dog.STAND, head_turn=-16)
    add_dog(scene, "animal 1", np.array([-0.14, 0.3, 0]), -40, SETTER, pose, "red", 260000, 443)
    pose = replace(dog.SIT, head_turn=12, jaw=10)
    add_dog(scene, "animal 2", np.array([0.2, -0.05, 0]), -104, TERRIER, pose, "grey", 240000, 445)
    return scene


def dog_in_the_studio(eye, target, fov, yaw, pose, seed):
    return with_dog(before_the_cloth(eye, target, fov), SETTER, pose, "red", 0.0, 0.0, yaw, seed, lambda x, y: 0.0 * x)


def pet_in_the_studio(eye, build_of, yaw, coat, seed):
    scene = before_the_cloth(eye, (0, 0, 0.13), 22)
    add_pet(scene, "animal 1", build_of, np.zeros(3), yaw, coat, 280000, seed)
    return scene


TURNED = replace(dog.STAND, head_turn=20)
SAT = replace(dog.SIT, head_turn=-14, jaw=12)
SHOTS = {
    "square-row": lambda: line(on_the_square((0.2, -6.6, 1.5), (0, 2, 1.1), 38), 6, 2.0, 0.74),
    "square-turned": lambda: line(on_the_square((-1.4, -5.4, 1.6), (0.2, 2, 1.0), 36), 4, 2.0, 0.80, 34, 2),
    "square-pair": lambda: pair(on_the_square((0.1, -4.2, 1.4), (0.4, 2, 1.15), 34), 2.0),
    "square-veil": lambda: pair(on_the_square((-0.9, -3.6, 1.5), (-0.2, 2, 1.1), 35), 2.0, veil=(1.7, -0.6)),
    "square-bench": lambda: on_a_bench(on_the_square((0.5, -3.2, 1.3), (0.1, 1.5, 0.9), 34)),
    "square-alone": lambda: alone(
        on_the_square((0, -2.0, 1.5), (0.1, 2, 1.05), 36, upright=True), VISITORS[5], 0.0, 2.0, 186
    ),
    "square-dog": lambda: with_dog(
        on_the_square((0.6, -2.8, 0.7), (0, 0.5, 0.4), 30), SETTER, TURNED, "red", 0.0, 0.5, -130, 431
    ),
    "park-row": lambda: line(in_the_park((-0.2, -6.4, 1.6), (0, 2, 1.0), 38), 6, 2.0, 0.74, first=1),
    "park-turned": lambda: line(in_the_park((1.5, -5.2, 1.5), (0.1, 2, 1.0), 36), 4, 2.0, 0.80, -36, 3),
    "park-pair": lambda: pair(in_the_park((-0.3, -4.0, 1.4), (0.2, 2, 1.15), 34), 2.0),
    "park-veil": lambda: pair(in_the_park((0.8, -3.8, 1.5), (0, 2, 1.05), 35), 2.0, veil=(1.8, 0.6)),
    "park-bench": lambda: on_a_bench(in_the_park((-0.4, -3.1, 1.25), (0, 1.5, 0.85), 34)),
    "park-girl": lambda: alone(in_the_park((0.2, -2.6, 0.95), (0, 0.6, 0.75), 36, 0.02), GIRL, 0.0, 0.6, 164),
    "park-dog": lambda: with_dog(
        in_the_park((-0.4, -3.0, 0.62), (0, 0.4, 0.38), 29), TERRIER, SAT, "grey", 0.0, 0.4, -74, 433
    ),
    "cloth-one": one_in_the_studio,
    "cloth-two": two_in_the_studio,
    "cloth-dogs": dogs_in_the_studio,
    "cloth-sitting": lambda: dog_in_the_studio((0.2, -3.0, 0.62), (0, 0, 0.36), 28, -118, SAT, 447),
    "cloth-standing": lambda: dog_in_the_studio((-0.3, -2.9, 0.55), (0, 0, 0.32), 29, -50, TURNED, 449),
    "cloth-rabbit": lambda: pet_in_the_studio((0.05, -1.7, 0.36), rabbit(turn=-10), -100, "agouti", 451),
    "cloth-cavy": lambda: pet_in_the_studio((-0.1, -1.6, 0.32), guinea_pig(turn=8), -70, "tricolour", 453),
}
