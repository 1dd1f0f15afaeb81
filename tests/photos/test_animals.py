"""Dogs and small pets: every pose stands on its paws, faces are where the head is, coats cover what they should."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.effort import examples
from tests.photos.meshes import edges_once_each_way
from tools.photos import dog, dressed
from tools.photos.blobs import shares, surface
from tools.photos.coats import DOGS, Coat, Patch
from tools.photos.dressed import add_dog
from tools.photos.mesh import merged
from tools.photos.scene import Camera, Scene
from tools.photos.smallpets import COATS, add_pet, guinea_pig, rabbit

POSES = {"stand": dog.STAND, "sit": dog.SIT, "lie": dog.LIE, "trot": dog.TROT, "bow": dog.BOW}
BREEDS = [
    dog.Breed(),
    dog.Breed(height=0.56, ears="drop", tail="long", muzzle=0.22),
    dog.Breed(height=0.28, ears="prick", length=1.05),
]


def empty_scene():
    return Scene(Camera((0, -3, 0.5), (0, 0, 0.3), 30, 0.01, 3.0), (0.1, 0.1, 0.1))


@pytest.mark.parametrize("breed", BREEDS)
@pytest.mark.parametrize("pose", POSES.values(), ids=POSES)
def test_every_dog_stands_on_its_paws_in_every_pose(breed, pose):
    bones = dog.skeleton(breed, pose)
    feet = [min(limb.a[2] - limb.at_a, limb.b[2] - limb.at_b) for limb in bones.limbs if limb.part == "foot"]
    assert min(feet) == pytest.approx(0, abs=0.03 * breed.height)
    skin = dressed.on_ground(dog.body(bones, 0.03 * breed.height), bones)
    assert edges_once_each_way(skin) and skin.vertices[:, 2].min() >= 0
    top = skin.vertices[:, 2].max() / breed.height
    assert (0.6 if pose in (dog.LIE, dog.BOW) else 1.0) < top < 1.75


def test_a_pose_that_floats_is_refused():
    bones = dog.skeleton(dog.Breed(), dog.STAND)
    high = dog.body(bones, 0.015)
    with pytest.raises(ValueError, match="from the ground"):
        dressed.on_ground(high.with_vertices(high.vertices + [0, 0, 0.1]), bones)


@given(st.floats(-0.5, 0.5), st.floats(0.05, 0.6), st.floats(0.15, 0.5), st.floats(0.15, 0.5))
def test_a_bent_joint_keeps_its_bones_or_stretches_to_reach(x, z, upper, lower):
    root, tip = np.array([0, 0.1, 0.7]), np.array([x, 0.1, 0.7 - z])
    joint = dog.bent(root, tip, upper, lower, dog.ELBOW)
    first, second = np.linalg.norm(joint - root), np.linalg.norm(joint - tip)
    far = np.linalg.norm(tip - root)
    if abs(upper - lower) < far < 0.999 * (upper + lower):
        assert first == pytest.approx(upper, abs=1e-6) and second == pytest.approx(lower, abs=1e-6)
    assert joint[1] == pytest.approx(0.1)
    assert first + second >= far - 1e-6


@settings(max_examples=examples(15))
@given(st.floats(-60, 60), st.floats(-20, 20), st.floats(-15, 15))
def test_eyes_and_nose_go_with_the_head(turn, nod, tilt):
    breed = dog.Breed()
    pose = replace(dog.STAND, head_turn=turn, head_nod=nod, head_tilt=tilt)
    bones = dog.skeleton(breed, pose)
    left, right = (bones.on_head(dog.eye_place(breed, side)) for side in (1, -1))
    nose = bones.on_head(dressed.nose_place(breed))
    ahead = nose - (left + right) / 2
    assert np.degrees(np.arctan2(ahead[1], ahead[0])) == pytest.approx(turn, abs=12)
    assert np.linalg.norm(left - right) == pytest.approx(0.108 * breed.height)
    for side in (1, -1):
        frame = dressed.eye_frame(bones, side)
        assert np.allclose(frame.T @ frame, np.eye(3), atol=1e-9)
        assert frame[:, 0] @ ahead > 0, "eyes look ahead"


def test_lids_leave_the_eye_open_and_the_tongue_hangs_before_the_teeth():
    breed, pose = dog.Breed(), dog.STAND
    bones = dog.skeleton(breed, pose)
    for side, lid in zip((1, 1, -1, -1), dressed.lids(bones, breed), strict=True):
        frame, middle = dressed.eye_frame(bones, side), bones.on_head(dog.eye_place(breed, side))
        way = (lid.vertices - middle) @ frame
        way /= np.linalg.norm(way, axis=1, keepdims=True)
        straight = np.degrees(np.arccos(np.clip(way[:, 0], -1, 1)))
        assert straight.min() > 15, "the pupil is free"
    tongue = dressed.tongue(bones, breed, pose).vertices
    nose = bones.on_head(dressed.nose_place(breed))
    assert edges_once_each_way(surface(bones.limbs[:3], 0.02))
    assert tongue[:, 2].max() < nose[2] and np.ptp(tongue[:, 1]) < 0.08 * breed.height


def test_no_hair_grows_on_eyes_and_nose():
    breed = dog.Breed()
    bones = dog.skeleton(breed, dog.STAND)
    on_face = np.array([bones.on_head(dog.eye_place(breed, 1)), bones.on_head(dressed.nose_place(breed))])
    on_back = np.array([[-0.1, 0, 0.4]])
    assert (dressed.near_face(bones, breed, on_face) == 0).all() and dressed.near_face(bones, breed, on_back) == 1


@pytest.mark.parametrize("name", DOGS)
def test_coats_colour_hair_by_hair_within_range(name):
    bones = dog.skeleton(dog.Breed(), dog.STAND)
    skin = dog.body(bones, 0.02)
    colour, length = DOGS[name].worn(shares(bones.limbs, skin.vertices), skin.vertices, np.random.default_rng(1))
    assert colour.shape == skin.vertices.shape and colour.min() > 0 and colour.max() <= 0.92
    assert length.min() > 0 and length.max() < 0.25


def test_patches_keep_to_their_parts():
    coat = Coat({"": (0.5, 0.5, 0.5)}, {"": 0.05}, (Patch((0.0, 0.0, 0.0), ("trunk",), -9),))
    points = np.random.default_rng(2).uniform(0, 1, (400, 3))
    half = (points[:, 0] < 0.5).astype(float)
    colour, _ = coat.worn({"trunk": half, "leg": 1 - half}, points, np.random.default_rng(3))
    assert (colour[half == 1] < 0.01).all() and (colour[half == 0] > 0.2).all()


@pytest.mark.parametrize("build", [rabbit(), rabbit(True), rabbit(True, True, 20), guinea_pig(), guinea_pig(-12)])
def test_small_pets_sit_on_the_floor_with_their_eyes_at_the_surface(build):
    skin = surface(build.limbs, 0.008)
    assert edges_once_each_way(skin) and abs(skin.vertices[:, 2].min()) < 0.02
    for eye in build.eyes:
        gap = np.linalg.norm(skin.vertices - eye, axis=1).min()
        assert gap < 0.8 * build.eye_size, "an eye sits in the head, not before it and not inside"
    left, right = build.eyes
    assert np.linalg.norm(left - right) > 0.06


def test_animals_are_one_subject_each_and_stand_where_they_are_put():
    scene = empty_scene()
    add_dog(scene, "animal 1", np.array([1.0, 2.0, 0.5]), 90, hairs=2000)
    add_pet(scene, "animal 2", rabbit(), np.array([-1.0, 0, 0]), 0, "dutch", 2000)
    assert scene.subjects() == ["animal 1", "animal 2"]
    body = merged(thing.mesh for thing in scene.things if thing.subject == "animal 1").vertices
    assert abs(body[:, :2].mean(0) - [1.0, 2.0]).max() < 0.25 and body[:, 2].min() == pytest.approx(0.5, abs=0.02)
    head = next(t for t in scene.things if t.material == "nose").mesh.vertices.mean(0)
    assert head[1] > 2.1, "it faces the way it was turned"
    assert set(COATS) >= {"white", "dutch"}
