"""Bodies out of rounded cones that flow into each other, as animals have them: a distance field, then its surface.

Distances follow the exact one of a sphere-swept segment with linear radius, blended by the polynomial smooth minimum
(Quilez, "Smooth minimum", 2013).
"""

from dataclasses import dataclass, field

import numpy as np
from skimage.measure import marching_cubes

from tools.photos.mesh import Mesh


@dataclass(frozen=True)
class Limb:
    """A rounded cone from ``a`` to ``b`` with radii there, blended into the rest within ``blend`` metres.

    ``part`` names what coat it wears; ``flow`` is the way its hair lies; ``squash`` is its width across y over its
    height (1 round).
    """

    a: np.ndarray
    b: np.ndarray
    at_a: float
    at_b: float
    part: str
    blend: float = 0.03
    squash: float = 1.0
    flow: np.ndarray = field(default_factory=lambda: np.array([-1.0, 0, -0.4]))

    def distance(self, points):
        """Signed distance (...) of points (..., 3), negative inside."""
        a, b = np.asarray(self.a, float), np.asarray(self.b, float)
        along = b - a
        share = np.clip(((points - a) @ along) / (along @ along + 1e-9), 0, 1)
        away = points - (a + share[..., None] * along)
        if self.squash != 1:
            away = away / np.array([1, self.squash, 1])
        return np.linalg.norm(away, axis=-1) - (self.at_a + (self.at_b - self.at_a) * share)


def smooth_min(a, b, width):
    share = np.clip(0.5 + 0.5 * (a - b) / width, 0, 1)
    return a * (1 - share) + b * share - width * share * (1 - share)


def smooth_max(a, b, width):
    return -smooth_min(-a, -b, width)


def field_of(limbs, points, hollows=()):
    """The blended distance at points (..., 3); ``hollows`` are taken out of it."""
    out = None
    for limb in limbs:
        own = limb.distance(points)
        out = own if out is None else smooth_min(out, own, limb.blend)
    for hollow in hollows:
        out = smooth_max(out, -hollow.distance(points), hollow.blend)
    return out


def surface(limbs, cell, hollows=(), colour=(0.5, 0.5, 0.5)):
    """The skin of the limbs as a mesh, sampled every ``cell`` metres (Lewiner's marching cubes)."""
    ends = np.array([[limb.a, limb.b] for limb in limbs]).reshape(-1, 3)
    reach = max(max(limb.at_a, limb.at_b) * max(limb.squash, 1) for limb in limbs) + 4 * cell
    low, high = ends.min(0) - reach, ends.max(0) + reach
    steps = np.ceil((high - low) / cell).astype(int)
    axes = [low[i] + np.arange(steps[i]) * cell for i in range(3)]
    values = field_of(limbs, np.stack(np.meshgrid(*axes, indexing="ij"), -1), hollows)
    vertices, faces, *_ = marching_cubes(values, 0.0)
    mesh = Mesh.of(vertices * cell + low, faces[:, ::-1], colour)
    # volume by the divergence theorem tells which way round the faces run
    corners = mesh.vertices[mesh.faces] - mesh.vertices.mean(0)
    if np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() < 0:
        mesh = Mesh(mesh.vertices, mesh.faces[:, ::-1], mesh.colours)
    return mesh


def _weights(limbs, points, softness):
    """How much each limb has a say at points (n, 3): (limbs, n), summing to 1 over the limbs."""
    distance = np.stack([limb.distance(points) for limb in limbs])
    weight = np.exp(-(distance - distance.min(0)) / softness)
    return weight / weight.sum(0)


def shares(limbs, points, softness=0.012):
    """How much each part has a say at points (n, 3): {part: (n,)}, summing to 1, soft over ``softness`` metres."""
    out = {}
    for limb, own in zip(limbs, _weights(limbs, points, softness), strict=True):
        out[limb.part] = out.get(limb.part, 0) + own
    return out


def flows(limbs, points, softness=0.02):
    """The way hair lies at points (n, 3), blended between limbs; (n, 3), not normalised."""
    return np.einsum(
        "ln,lc->nc", _weights(limbs, points, softness), np.stack([np.asarray(limb.flow, float) for limb in limbs])
    )
