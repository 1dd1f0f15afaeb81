"""The generator's geometry: meshes are closed and look outwards, distances are distances, hair stands in its skin."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.photos.meshes import edges_once_each_way
from tools.photos.blobs import Limb, field_of, shares, smooth_min, surface
from tools.photos.fur import ribbons, scattered, strands
from tools.photos.mesh import ball, box, ground, lathe, merged, tube, turn_x, turn_y, turn_z
from tools.photos.noise import noise3, spectral

coordinate = st.floats(-2, 2)
point = st.tuples(coordinate, coordinate, coordinate).map(np.array)


def volume(mesh):
    a, b, c = (mesh.vertices[mesh.faces[:, k]] for k in range(3))
    return np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6


@given(point, point, st.floats(0.05, 0.5), st.floats(0.05, 0.5), point)
def test_a_limb_is_as_far_as_its_nearest_ball(a, b, at_a, at_b, p):
    limb = Limb(a, b, at_a, at_b, "leg")
    t = np.linspace(0, 1, 400)[:, None]
    share = np.clip(((p - a) @ (b - a)) / ((b - a) @ (b - a) + 1e-9), 0, 1)
    nearest = np.linalg.norm(p - (a + t * (b - a)), axis=1)
    assert limb.distance(p) == pytest.approx(nearest.min() - (at_a + (at_b - at_a) * share), abs=0.03)


@given(st.floats(-1, 1), st.floats(-1, 1), st.floats(0.01, 0.5))
def test_blending_adds_at_most_a_quarter_of_its_width(a, b, width):
    out = smooth_min(np.array(a), np.array(b), width)
    assert min(a, b) - width / 4 - 1e-9 <= out <= min(a, b) + 1e-9


def test_a_surface_is_closed_looks_outwards_and_has_the_right_volume():
    at = np.array([0.1, 0.2, 0.3])
    round_ = surface([Limb(at, at + 1e-6, 0.2, 0.2, "a")], 0.01)
    assert edges_once_each_way(round_)
    assert volume(round_) == pytest.approx(4 / 3 * np.pi * 0.2**3, rel=0.02)
    hollowed = surface(
        [Limb(at, at + 1e-6, 0.2, 0.2, "a")], 0.01, [Limb(at + [0.2, 0, 0], at + [0.2001, 0, 0], 0.08, 0.08, "", 0.01)]
    )
    assert volume(hollowed) < volume(round_) - 0.4 * (4 / 3 * np.pi * 0.08**3)


def test_limbs_share_the_skin_between_them_softly():
    limbs = [
        Limb(np.zeros(3), np.array([1.0, 0, 0]), 0.1, 0.1, "left"),
        Limb(np.array([1.0, 0, 0]), np.array([2.0, 0, 0]), 0.1, 0.1, "right"),
    ]
    line = np.stack([np.linspace(0, 2, 41), np.full(41, 0.1), np.zeros(41)], 1)
    parts = shares(limbs, line, 0.05)
    assert np.allclose(parts["left"] + parts["right"], 1)
    assert parts["left"][0] > 0.99 and parts["right"][-1] > 0.99 and parts["left"][20] == pytest.approx(0.5, abs=0.01)
    assert (field_of(limbs, line) < 0.001).all()


def test_balls_tubes_boxes_and_lathes_look_outwards():
    for mesh in (
        ball((0, 0, 0), 0.5),
        tube([[0, 0, -0.05], [0, 0, 0], [0, 0, 0.05]], 0.2, 12),
        box((0, 0, 0), (1, 1, 1)),
    ):
        out = mesh.vertices - mesh.vertices.mean(0)
        facing = (out * mesh.normals()).sum(1)
        assert abs((facing > 0).mean() - 0.5) > 0.4, "all to one side"
    assert volume(box((1, 2, 3), (1, 2, 3), 0.4)) == pytest.approx(6)
    assert np.ptp(lathe([(1, 0), (0.5, 2)]).vertices[:, 2]) == 2


@given(st.floats(-3, 3), point)
def test_turns_keep_lengths_and_go_the_way_they_say(angle, p):
    for turn in (turn_x, turn_y, turn_z):
        assert np.linalg.norm(turn(angle) @ p) == pytest.approx(np.linalg.norm(p), abs=1e-9)
    assert np.allclose(turn_z(np.pi / 2) @ [1, 0, 0], [0, 1, 0])
    assert (turn_y(0.3) @ [1, 0, 0])[2] < 0, "a positive nod lowers what looks ahead"


def test_merged_meshes_keep_their_faces_and_files_hold_everything(tmp_path):
    one, two = ball((0, 0, 0), 1, (1, 0, 0)), box((3, 0, 0), (1, 1, 1), 0, (0, 1, 0))
    both = merged([one, two])
    assert both.faces[len(one.faces) :].min() == len(one.vertices)
    assert volume(both) == pytest.approx(volume(one) + volume(two))
    both.write_ply(tmp_path / "a.ply")
    head, body = (tmp_path / "a.ply").read_bytes().split(b"end_header\n", 1)
    assert f"element vertex {len(both.vertices)}".encode() in head
    assert len(body) == len(both.vertices) * 9 * 4 + len(both.faces) * 13


def test_ground_follows_its_height():
    mesh = ground(lambda x, y: 0.1 * x + y**2, np.linspace(0, 1, 5), np.linspace(0, 2, 7), (0.2, 0.2, 0.2))
    x, y, z = mesh.vertices.T
    assert np.allclose(z, 0.1 * x + y**2) and (mesh.normals()[:, 2] > 0).all()


def test_noise_is_the_same_again_smooth_and_about_normal():
    points = np.random.default_rng(0).uniform(-5, 5, (4000, 3))
    values = noise3(points, 0.3, 7)
    assert np.array_equal(values, noise3(points, 0.3, 7)) and abs(values.mean()) < 0.1 and 0.3 < values.std() < 1
    assert np.abs(noise3(points + 0.001, 0.3, 7) - values).max() < 0.05
    field = spectral(64, 64, 2.2, 3)
    assert field.mean() == pytest.approx(0, abs=1e-9) and field.std() == pytest.approx(1)
    assert np.abs(field[:, 0] - field[:, -1]).mean() < 0.5, "periodic"


def test_hair_starts_in_the_skin_has_its_length_and_faces_the_eye():
    random = np.random.default_rng(1)
    skin = ball((0, 0, 0), 0.3)
    roots, normals = scattered(skin, 3000, random)
    assert np.allclose(np.linalg.norm(roots, axis=1), 0.3, atol=0.01)
    assert abs(roots.mean(0)).max() < 0.02, "even over the skin"
    length = random.uniform(0.01, 0.03, 3000)
    knots = strands(roots, normals, length, np.tile([0, 0, -1.0], (3000, 1)), random)
    grown = np.linalg.norm(np.diff(knots, axis=1), axis=2).sum(1)
    assert np.allclose(grown, length, rtol=0.01)
    assert (np.linalg.norm(knots[:, -1], axis=1) > 0.295).mean() > 0.97, "hair stands outside the skin"
    eye = np.array([0, -3.0, 0])
    hair = ribbons(knots, np.full((3000, 3), 0.4), eye)
    quads = hair.vertices.reshape(3000, -1, 2, 3)
    side = quads[:, 0, 1] - quads[:, 0, 0]
    view = eye - knots[:, 0]
    cosine = (side * view).sum(1) / np.linalg.norm(side, axis=1) / np.linalg.norm(view, axis=1)
    assert np.abs(cosine).max() < 0.01
