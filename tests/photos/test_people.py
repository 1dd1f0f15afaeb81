"""Posing the base mesh: a made-up one of a trunk and an arm stands in for the files that are not in the repository."""

import gzip
import json

import numpy as np
import pytest

from tools.photos import people
from tools.photos.clothes import veil_sheet
from tools.photos.mesh import box

BUILD = "averagemuscle-averageweight"


def lines_of(mesh, group, start):
    text = [f"v {x} {y} {z}" for x, y, z in mesh.vertices]
    faces = [f"f {a + 1 + start} {b + 1 + start} {c + 1 + start}" for a, b, c in mesh.faces]
    return text, [f"g {group}", *faces]


@pytest.fixture
def figure(tmp_path, monkeypatch):
    """A trunk 1 high, an arm that sticks out to the left, and the shoulder's joint; y up, as the base mesh has it."""
    solids = [
        (box((0, 0.5, 0), (0.3, 1, 0.2)), "body"),
        (box((0.35, 0.8, 0), (0.4, 0.1, 0.1)), "body"),
        (box((0.15, 0.8, 0), (0.02, 0.02, 0.02)), "joint-shoulder"),
    ]
    vertices, faces, start = [], [], 0
    for mesh, group in solids:
        own, below = lines_of(mesh, group, start)
        vertices += own
        faces += below
        start += len(mesh.vertices)
    for folder in ("3dobjs", "rigs/standard", "targets/macrodetails"):
        (tmp_path / folder).mkdir(parents=True)
    (tmp_path / "3dobjs/base.obj").write_text("\n".join(vertices + faces))
    bones = {
        "root": {"parent": "", "head": {"strategy": "VERTEX", "vertex_index": 0}},
        "upperarm01.L": {"parent": "root", "head": {"strategy": "CUBE", "cube_name": "joint-shoulder"}},
    }
    (tmp_path / "rigs/standard/rig.default.json").write_text(json.dumps({"bones": bones}))
    weights = {"root": [[i, 1.0] for i in range(24)], "upperarm01.L": [[i, 1.0] for i in range(24, 48)]}
    (tmp_path / "rigs/standard/weights.default.json").write_text(json.dumps({"weights": weights}))
    for name, move in (("caucasian-female-young", "0 0 0.01 0"), (f"universal-female-young-{BUILD}", "# none")):
        with gzip.open(tmp_path / f"targets/macrodetails/{name}.target.gz", "wt") as out:
            out.write(f"# shape\n{move}\n")
    monkeypatch.setenv("LENSKEEP_BASE_MESH", str(tmp_path))
    people.base.cache_clear()
    yield
    people.base.cache_clear()


def test_a_person_stands_on_the_ground_at_the_height_that_was_asked_for(figure):
    who = people.person("female", 1.7, [])
    body = who.part("body").vertices
    assert body[:, 2].min() == pytest.approx(0) and body[:, 2].max() == pytest.approx(1.7)
    assert len(who.part("joint-shoulder").vertices) == 24


def test_turning_a_bone_moves_what_hangs_on_it_and_nothing_else(figure):
    straight, down = people.person("female", 1.0, []), people.person("female", 1.0, [("upperarm01.L", (0, 0, 1), -90)])
    trunk, arm = slice(0, 24), slice(24, 48)
    assert np.allclose(straight.vertices[trunk], down.vertices[trunk], atol=1e-9)
    assert straight.vertices[arm, 0].max() > 0.5 and down.vertices[arm, 0].max() < 0.25
    assert down.vertices[arm, 2].min() == pytest.approx(straight.vertices[arm, 2].mean() - 0.4, abs=0.03)
    lengths = [np.linalg.norm(w.vertices[arm][0] - w.vertices[arm][-1]) for w in (straight, down)]
    assert lengths[0] == pytest.approx(lengths[1])


def test_parts_are_chosen_by_height_and_arms_can_be_left_out(figure):
    who = people.person("female", 2.0, [])
    upper = who.part("body", lambda centre: centre[:, 2] > 0.9)
    assert upper.vertices[:, 2].min() > 1.7
    assert who.without_arms("body").vertices[:, 0].max() < 0.31


def test_without_the_base_mesh_it_says_what_to_do(monkeypatch):
    monkeypatch.setenv("LENSKEEP_BASE_MESH", "/nowhere")
    people.base.cache_clear()
    with pytest.raises(FileNotFoundError, match="LENSKEEP_BASE_MESH"):
        people.base()
    people.base.cache_clear()


def test_a_veil_hangs_behind_and_wind_carries_it_aside(figure):
    who = people.person("female", 1.7, [])
    still, blown = (veil_sheet(who, 1.2, wind, 1).vertices for wind in (0.0, 0.8))
    top = still[:, 2].max()
    assert still[:, 2].min() < top - 0.9 and abs(still[:, 0].mean()) < 0.1
    assert blown[:, 0].mean() > 0.3 and blown[:, 2].min() > still[:, 2].min() + 0.1
    assert min(still[:, 2].min(), blown[:, 2].min()) >= 0.02
