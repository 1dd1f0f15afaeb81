"""What a mesh must be like."""

import numpy as np


def edges_once_each_way(mesh):
    """Whether every edge is met by two faces that run along it in opposite ways."""
    pairs = np.concatenate([mesh.faces[:, [0, 1]], mesh.faces[:, [1, 2]], mesh.faces[:, [2, 0]]])
    there = {tuple(p) for p in pairs.tolist()}
    return len(there) == len(pairs) and all((b, a) in there for a, b in there)
