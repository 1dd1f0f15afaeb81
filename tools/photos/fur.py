"""Strands of hair on a skin, drawn as thin ribbons that face the camera."""

import numpy as np

from tools.photos.mesh import Mesh
from tools.photos.noise import noise3

KNOTS = 4


def scattered(mesh, count, random):
    """``count`` points even over the skin: positions, normals (count, 3)."""
    corners = mesh.vertices[mesh.faces]
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    chosen = random.choice(len(mesh.faces), count, p=area / area.sum())
    weights = random.dirichlet([1, 1, 1], count)[..., None]
    positions = (corners[chosen] * weights).sum(1)
    normals = (mesh.normals()[mesh.faces[chosen]] * weights).sum(1)
    return positions, normals / (np.linalg.norm(normals, axis=1, keepdims=True) + 1e-9)


def strands(roots, normals, length, flow, random, lift=0.35, droop=0.2, clump=0.03, unruly=0.3):
    """Strands (n, KNOTS, 3) that leave the skin along its normal and bend into the flow.

    ``lift`` is how far they stand off (0 flat, 1 upright), ``droop`` how gravity bends the tips, ``clump`` the size of
    tufts in metres, ``unruly`` how much tufts and single hairs differ.
    """
    flow = flow - normals * (flow * normals).sum(1, keepdims=True)
    flow /= np.linalg.norm(flow, axis=1, keepdims=True) + 1e-6
    tufts = np.stack([noise3(roots, clump, 11 + axis) for axis in range(3)], -1)
    stray = unruly * (tufts + 0.35 * random.normal(size=roots.shape))
    first = _unit(normals * (0.45 + lift) + flow * 0.6 + stray * 0.4)
    last = _unit(normals * lift * 0.7 + flow + stray + np.array([0, 0, -droop]))
    knots = [roots - normals * 0.002]
    for share in np.linspace(0, 1, KNOTS)[1:]:
        way = _unit(first * (1 - share) + last * share)
        knots.append(knots[-1] + way * (length / (KNOTS - 1))[:, None])
    return np.stack(knots, 1)


def ribbons(knots, colours, eye, thick=0.0008, thin=0.0002):
    """Strands (n, k, 3) as ribbons turned to ``eye``, with one colour a strand (n, 3), darker at the root."""
    count, k = knots.shape[:2]
    side = np.cross(np.gradient(knots, axis=1), np.asarray(eye) - knots)
    side /= np.linalg.norm(side, axis=2, keepdims=True) + 1e-9
    width = np.linspace(thick, thin, k)[None, :, None]
    vertices = np.stack([knots - side * width, knots + side * width], 2)
    index = np.arange(count * k * 2).reshape(count, k, 2)
    a, b, c, d = index[:, :-1, 0], index[:, :-1, 1], index[:, 1:, 1], index[:, 1:, 0]
    faces = np.concatenate([np.stack(t, -1).reshape(-1, 3) for t in ((a, b, c), (a, c, d))])
    shade = np.clip(colours[:, None] * np.linspace(0.7, 1.05, k)[None, :, None], 0.003, 0.92)
    return Mesh(vertices.reshape(-1, 3), faces, np.repeat(shade[:, :, None], 2, 2).reshape(-1, 3))


def _unit(vectors):
    return vectors / (np.linalg.norm(vectors, axis=-1, keepdims=True) + 1e-9)
