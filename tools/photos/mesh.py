"""Coloured triangle meshes, and the plain solids that scenes are built from. Metres, z up."""

from dataclasses import dataclass

import numpy as np

PLY_FLOATS = ["x", "y", "z", "nx", "ny", "nz", "r", "g", "b"]


@dataclass(frozen=True)
class Mesh:
    """Vertices (n, 3), faces (m, 3) counter-clockwise from outside, colours (n, 3) linear sRGB reflectance 0…1."""

    vertices: np.ndarray
    faces: np.ndarray
    colours: np.ndarray

    @classmethod
    def of(cls, vertices, faces, colour):
        vertices = np.asarray(vertices, float)
        return cls(vertices, np.asarray(faces, int), np.broadcast_to(np.asarray(colour, float), vertices.shape).copy())

    @classmethod
    def piece(cls, vertices, faces, colour):
        """Some faces of a larger mesh, with the vertices they use and no others."""
        used, index = np.unique(faces, return_inverse=True)
        return cls.of(vertices[used], index.reshape(-1, 3), colour)

    def normals(self):
        """Unit normals at the vertices (n, 3), weighted by the area of the faces around."""
        corners = self.vertices[self.faces]
        across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        out = np.zeros_like(self.vertices)
        for corner in range(3):
            for axis in range(3):
                out[:, axis] += np.bincount(self.faces[:, corner], across[:, axis], len(self.vertices))
        return out / (np.linalg.norm(out, axis=1, keepdims=True) + 1e-12)

    def moved(self, position=(0, 0, 0), yaw=0.0, scale=1.0):
        """Scaled, turned about z (radians, counter-clockwise from above) and shifted."""
        return Mesh(self.vertices * scale @ turn_z(yaw).T + np.asarray(position, float), self.faces, self.colours)

    def with_vertices(self, vertices):
        return Mesh(vertices, self.faces, self.colours)

    def write_ply(self, path, smooth=True):
        """Write as binary PLY with colours, and normals where ``smooth``."""
        names = PLY_FLOATS if smooth else [*PLY_FLOATS[:3], *PLY_FLOATS[6:]]
        columns = [self.vertices, self.normals(), self.colours] if smooth else [self.vertices, self.colours]
        corners = np.zeros(len(self.faces), [("n", "u1"), ("i", "<i4", 3)])
        corners["n"], corners["i"] = 3, self.faces
        head = ["ply", "format binary_little_endian 1.0", f"element vertex {len(self.vertices)}"]
        head += [f"property float {name}" for name in names]
        head += [f"element face {len(self.faces)}", "property list uchar int vertex_indices", "end_header", ""]
        with path.open("wb") as out:
            out.write("\n".join(head).encode())
            out.write(np.concatenate(columns, 1).astype("<f4").tobytes())
            out.write(corners.tobytes())


def turn_z(angle):
    c, s = np.cos(angle), np.sin(angle)
    return np.array([[c, -s, 0], [s, c, 0], [0, 0, 1.0]])


def turn_y(angle):
    """Turn about y; positive angles lower what looks along +x."""
    c, s = np.cos(angle), np.sin(angle)
    return np.array([[c, 0, s], [0, 1, 0], [-s, 0, c]])


def turn_x(angle):
    c, s = np.cos(angle), np.sin(angle)
    return np.array([[1.0, 0, 0], [0, c, -s], [0, s, c]])


def merged(meshes):
    """One mesh out of several."""
    meshes = list(meshes)
    starts = np.cumsum([0] + [len(m.vertices) for m in meshes[:-1]])
    return Mesh(
        np.concatenate([m.vertices for m in meshes]),
        np.concatenate([m.faces + start for m, start in zip(meshes, starts, strict=True)]),
        np.concatenate([m.colours for m in meshes]),
    )


def grid_faces(rows, columns, closed=False):
    """Faces of a (rows, columns) grid of vertices in row order; ``closed`` joins the last column to the first."""
    index = np.arange(rows * columns).reshape(rows, columns)
    if closed:
        index = np.concatenate([index, index[:, :1]], 1)
    a, b, c, d = (q.ravel() for q in (index[:-1, :-1], index[:-1, 1:], index[1:, 1:], index[1:, :-1]))
    return np.concatenate([np.stack([a, b, c], 1), np.stack([a, c, d], 1)])


def sheet(points, colour, closed=False):
    """A surface through a grid of points (rows, columns, 3); ``colour`` one or (rows, columns, 3)."""
    points = np.asarray(points, float)
    colour = np.asarray(colour, float).reshape(-1, 3)
    return Mesh.of(points.reshape(-1, 3), grid_faces(*points.shape[:2], closed), colour)


def box(centre, size, yaw=0.0, colour=(0.5, 0.5, 0.5)):
    """A box with sharp edges: every side has vertices of its own."""
    corners = np.array([[x, y, z] for x in (-0.5, 0.5) for y in (-0.5, 0.5) for z in (-0.5, 0.5)]) * size
    corners = corners @ turn_z(yaw).T + centre
    sides = [(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)]
    faces = [[4 * i + k for k in triangle] for i in range(6) for triangle in ((0, 1, 2), (0, 2, 3))]
    return Mesh.of(np.concatenate([corners[list(side)] for side in sides]), faces, colour)


def lathe(profile, centre=(0, 0, 0), around=48, colour=(0.8, 0.8, 0.8)):
    """A profile of (radius, height) turned about the z axis through ``centre``."""
    profile = np.asarray(profile, float)
    angle = np.linspace(0, 2 * np.pi, around, endpoint=False)
    height = np.repeat(profile[:, 1:2], around, 1)
    points = np.stack([profile[:, :1] * np.cos(angle), profile[:, :1] * np.sin(angle), height], -1)
    return sheet(points + centre, colour, closed=True)


def tube(line, radius, around=8, colour=(0.3, 0.3, 0.3)):
    """A round tube along points (n, 3); ``radius`` one or n."""
    line = np.asarray(line, float)
    radius = np.broadcast_to(radius, len(line)).astype(float)
    along = np.gradient(line, axis=0)
    along /= np.linalg.norm(along, axis=1, keepdims=True) + 1e-9
    up = np.where(np.abs(along[:, 2:3]) > 0.9, [[1.0, 0, 0]], [[0, 0, 1.0]])
    side = np.cross(along, up)
    side /= np.linalg.norm(side, axis=1, keepdims=True)
    other = np.cross(along, side)
    t = np.linspace(0, 2 * np.pi, around, endpoint=False)[None, :, None]
    return sheet(
        line[:, None] + radius[:, None, None] * (side[:, None] * np.cos(t) + other[:, None] * np.sin(t)),
        colour,
        closed=True,
    )


def ball(centre, radius, colour=(0.5, 0.5, 0.5), squash=(1, 1, 1), steps=20):
    """A sphere, stretched along the axes by ``squash``."""
    tilt = np.linspace(-np.pi / 2, np.pi / 2, steps)[:, None]
    round_ = np.linspace(0, 2 * np.pi, 2 * steps, endpoint=False)[None]
    points = np.stack([np.cos(tilt) * np.cos(round_), np.cos(tilt) * np.sin(round_), np.sin(tilt) + 0 * round_], -1)
    return sheet(points * radius * np.asarray(squash) + centre, colour, closed=True)


def standing_at(height, x, y):
    """The point (3,) of a height field ``height(X, Y)`` at one place."""
    return np.array([x, y, float(height(np.array([float(x)]), np.array([float(y)]))[0])])


def ground(height, x, y, colour):
    """A height field: ``height(X, Y)`` over the grid of ``x`` by ``y``, ``colour(points)`` or one for all."""
    across, along = np.meshgrid(x, y)
    points = np.stack([across, along, height(across, along)], -1)
    shade = np.clip(colour(points.reshape(-1, 3)), 0.01, 0.95) if callable(colour) else colour
    return sheet(points, shade)
