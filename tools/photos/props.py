"""Things that animals sit in, or are shown by a hand."""

import numpy as np

from tools.photos.mesh import Mesh, box, lathe, merged, sheet, tube
from tools.photos.noise import noise3
from tools.photos.people import SKINS, base, person, standing

CARROT, LEAF_GREEN = (0.62, 0.20, 0.03), (0.10, 0.19, 0.03)


def crate(centre, size, yaw, random):
    """An open crate of slats."""
    parts, (width, depth, height) = [], size
    for number in range(3):
        z = height * (number + 0.5) / 3
        for x, y, along, across in (
            (0, -depth / 2, width, 0.012),
            (0, depth / 2, width, 0.012),
            (-width / 2, 0, 0.012, depth),
            (width / 2, 0, 0.012, depth),
        ):
            wood = np.array((0.30, 0.19, 0.10)) * random.uniform(0.75, 1.2)
            parts.append(box((x, y, z), (along, across, height / 3 * 0.86), 0, wood))
    for x in (-1, 1):
        for y in (-1, 1):
            parts.append(
                box(
                    (x * (width / 2 - 0.012), y * (depth / 2 - 0.012), height / 2),
                    (0.02, 0.02, height),
                    0,
                    (0.27, 0.17, 0.09),
                )
            )
    parts.append(box((0, 0, 0.008), (width, depth, 0.012), 0, (0.25, 0.16, 0.09)))
    return merged(part.moved(yaw=np.radians(yaw)).moved(centre) for part in parts)


def basket(centre, radius, height):
    """A round basket of woven rods, open above."""
    parts = []
    angle = np.linspace(0, 2 * np.pi, 241)
    for number in range(int(height / 0.011)):
        z = 0.008 + number * 0.011
        r = radius * (0.84 + 0.16 * z / height) + 0.005 * np.sin(angle * 15 + np.pi * (number % 2))
        line = np.stack([r * np.cos(angle), r * np.sin(angle), np.full_like(angle, z)], 1)
        parts.append(tube(line, 0.0058, 6, np.array((0.33, 0.20, 0.095)) * (0.85 + 0.3 * ((number * 7919) % 10) / 10)))
    for k in range(30):
        a = k / 30 * 2 * np.pi
        foot, top = np.array([np.cos(a), np.sin(a)]) * radius * 0.84, np.array([np.cos(a), np.sin(a)]) * radius
        parts.append(tube([[*foot, 0], [*top, height]], 0.004, 6, (0.26, 0.155, 0.075)))
    rim = np.stack([radius * np.cos(angle), radius * np.sin(angle), np.full_like(angle, height)], 1)
    parts.append(tube(rim, 0.011, 8, (0.36, 0.22, 0.11)))
    return merged(part.moved(centre) for part in parts)


def carrot(tip, towards, length=0.16):
    """A carrot with its leaves, from its thin end ``tip`` on ``towards`` the leaves."""
    t = np.linspace(0, 1, 40)
    radius = 0.015 * t**0.55 * (1 - 0.55 * np.clip((t - 0.93) / 0.07, 0, 1)) * (1 + 0.035 * np.sin(t * 60)) + 0.001
    root = lathe(np.stack([radius, t * length], 1), colour=CARROT)
    tint = 1 + 0.12 * noise3(root.vertices, 0.01, 91)[:, None]
    parts = [Mesh(root.vertices, root.faces, np.clip(root.colours * tint, 0, 1))]
    random = np.random.default_rng(5)
    for _ in range(60):
        lean = random.normal(size=2) * 0.03
        stem = [
            [lean[0] * s**2, lean[1] * s**2, length - 0.004 + 0.10 * s * (1 - 0.25 * s)] for s in np.linspace(0, 1, 6)
        ]
        parts.append(tube(stem, np.linspace(0.0015, 0.0006, 6), 5, np.array(LEAF_GREEN) * random.uniform(0.7, 1.4)))
        for s in stem[3:]:
            way = random.normal(size=3) * 0.006
            parts.append(
                sheet(
                    [[s, np.add(s, way)], [np.add(s, [0.002, 0.002, 0.004]), np.add(s, way * 1.6)]],
                    np.array(LEAF_GREEN) * random.uniform(0.8, 1.5),
                )
            )
    return pointed(merged(parts), tip, towards)


def pointed(mesh, start, towards):
    """Turn a mesh that stands along +z from the origin so that it runs from ``start`` ``towards``."""
    way = np.subtract(towards, start)
    way = way / np.linalg.norm(way)
    side = np.cross([0, 1.0, 0.1], way)
    side /= np.linalg.norm(side)
    frame = np.stack([side, np.cross(way, side), way], 1)
    return Mesh(mesh.vertices @ frame.T + np.asarray(start, float), mesh.faces, mesh.colours)


def hand(grip, elbow, skin="fair", sleeve=(0.10, 0.14, 0.22), curl=55, scale=1.0):
    """A forearm with a hand that closes around ``grip``, coming from ``elbow``: (skin mesh, sleeve mesh)."""
    pose = [
        (f"finger{f}-{k}.L", (0.35, 0, 1), -curl * (1.0 if k > 1 else 0.8)) for f in (2, 3, 4, 5) for k in (3, 2, 1)
    ]
    pose += [("finger1-2.L", (0, 1, 0.4), 25), ("finger1-1.L", (0, 1, 0.3), 18)]
    who = person("female", 1.70, [*pose, *standing()[:2]])
    mesh = base()
    follows = mesh.weight(mesh.below("lowerarm01.L"))
    faces = mesh.faces[(mesh.groups == "body")]
    faces = faces[follows[faces].min(1) > 0.5]
    used, index = np.unique(faces, return_inverse=True)
    arm = Mesh.of(who.vertices[used], index.reshape(-1, 3), SKINS[skin])
    fingers = mesh.weight([b for b in mesh.bones if b.startswith("finger") and b.endswith("-2.L")])[used] > 0.5
    palm = arm.vertices[fingers].mean(0)
    far = arm.vertices[np.argsort(np.linalg.norm(arm.vertices - palm, axis=1))[-60:]].mean(0)
    frame_from, frame_to = _frame(far - palm, [0, 0, 1.0]), _frame(np.subtract(elbow, grip), [0, 0.5, 1.0])
    vertices = (arm.vertices - palm) @ frame_from @ frame_to.T * scale + np.asarray(grip, float)
    arm = Mesh(vertices, arm.faces, arm.colours)
    way = np.subtract(elbow, grip) / np.linalg.norm(np.subtract(elbow, grip))
    cuff_at = np.asarray(grip, float) + way * 0.19 * scale
    line = [cuff_at + way * t for t in np.linspace(0, 0.35, 30)]
    radius = 0.043 * scale * (1 + 0.06 * np.sin(np.arange(30) * 1.9)) + np.linspace(0, 0.016, 30)
    return arm, tube(line, radius, 24, sleeve)


def _frame(way, up):
    way = np.asarray(way, float) / np.linalg.norm(way)
    side = np.cross(up, way)
    side /= np.linalg.norm(side)
    return np.stack([way, side, np.cross(way, side)], 1)
