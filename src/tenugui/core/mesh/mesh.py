"""The triangle mesh every room works on.

Terms: a *face* is an oriented triangle, counter-clockwise seen from outside; a *shell* is a set of faces connected
through shared vertices; *build coordinates* have the plate at z = 0 and the part growing to +z.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]


@njit()
def _normals(vertices: F8, faces: I4, normals: F8, areas: F8) -> None:
    for f in range(len(faces)):
        p, q, r = faces[f, 0], faces[f, 1], faces[f, 2]
        ux, uy, uz = vertices[q, 0] - vertices[p, 0], vertices[q, 1] - vertices[p, 1], vertices[q, 2] - vertices[p, 2]
        vx, vy, vz = vertices[r, 0] - vertices[p, 0], vertices[r, 1] - vertices[p, 1], vertices[r, 2] - vertices[p, 2]
        x, y, z = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        length = np.sqrt(x * x + y * y + z * z)
        areas[f] = length / 2
        scale = 1.0 / length if length > 0 else 0.0
        normals[f, 0], normals[f, 1], normals[f, 2] = x * scale, y * scale, z * scale


@njit()
def _middles(vertices: F8, faces: I4, middles: F8) -> None:
    for f in range(len(faces)):
        for k in range(3):
            total = vertices[faces[f, 0], k] + vertices[faces[f, 1], k] + vertices[faces[f, 2], k]
            middles[f, k] = total / 3.0


@njit()
def _bounds(vertices: F8, low: F8, high: F8) -> None:
    low[:], high[:] = np.inf, -np.inf
    for v in range(len(vertices)):
        for k in range(3):
            at = vertices[v, k]
            if at < low[k]:
                low[k] = at
            if at > high[k]:
                high[k] = at


@dataclass(frozen=True)
class Mesh:
    """`vertices` (n, 3) float64 in mm; `faces` (m, 3) int32 indices into them."""

    vertices: F8
    faces: I4

    @property
    def lower(self) -> F8:
        """Smallest x, y, z in mm."""
        return self._extents()[0]

    @property
    def upper(self) -> F8:
        """Largest x, y, z in mm."""
        return self._extents()[1]

    @property
    def size(self) -> F8:
        """Extents along x, y, z in mm."""
        low, high = self._extents()
        return high - low

    def _extents(self) -> tuple[F8, F8]:
        low, high = np.empty(3), np.empty(3)
        _bounds(self.vertices, low, high)
        return low, high

    def corners(self) -> F8:
        """(m, 3, 3) positions of every face's corners."""
        return np.asarray(self.vertices[self.faces])

    def middles(self) -> F8:
        """(m, 3) centroids of the faces."""
        middles = np.empty((len(self.faces), 3))
        _middles(self.vertices, self.faces, middles)
        return middles

    def normals_and_areas(self) -> tuple[F8, F8]:
        """Unit normals (m, 3), zero for degenerate faces, and areas (m,) in mm²."""
        normals, areas = np.empty((len(self.faces), 3)), np.empty(len(self.faces))
        _normals(self.vertices, self.faces, normals, areas)
        return normals, areas

    def transformed(self, matrix: F8, shift: F8 | None = None) -> Mesh:
        """Vertices times a 3x3 matrix (applied to columns), then shifted; mirrored faces are turned back outside."""
        moved = self.vertices @ np.asarray(matrix, float).T
        if shift is not None:
            moved = moved + np.asarray(shift, float)
        faces = self.faces if np.linalg.det(matrix) > 0 else self.faces[:, ::-1]
        return Mesh(np.ascontiguousarray(moved), np.ascontiguousarray(faces))

    def scaled(self, factor: float) -> Mesh:
        """Every length times `factor`."""
        return Mesh(self.vertices * factor, self.faces)

    def dropped(self) -> Mesh:
        """The same figure with its lowest point on the plate and its footprint centred on x = y = 0."""
        lower, upper = self.lower, self.upper
        return Mesh(
            self.vertices - np.array([(lower[0] + upper[0]) / 2, (lower[1] + upper[1]) / 2, lower[2]]), self.faces
        )

    @staticmethod
    def joined(parts: list[Mesh]) -> Mesh:
        """All parts in one mesh, each keeping its own shells."""
        offsets = np.cumsum([0] + [len(part.vertices) for part in parts[:-1]])
        return Mesh(
            np.concatenate([part.vertices for part in parts]),
            np.concatenate([part.faces + np.int32(offset) for part, offset in zip(parts, offsets, strict=True)]),
        )

    def digest(self) -> str:
        """SHA-256 over the arrays: the name under which results computed from this mesh are kept."""
        h = hashlib.sha256(np.ascontiguousarray(self.vertices).tobytes())
        h.update(np.ascontiguousarray(self.faces).tobytes())
        return h.hexdigest()
