"""Points moved onto the surface that lies exactly one wall below another."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..compiled import CORES, both_cores, njit
from ..mesh import Mesh, surface_samples
from ..mesh.distance import nearest_on
from ..mesh.edges import neighbours
from .field import parts_of

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
I8 = NDArray[np.int64]
SPACING_MM, MOST_SAMPLES = 0.22, 800_000
"""Distance s between the samples by which the nearest faces are found: at a distance d the nearest of them is at most s² / 4d too far."""
TRIED = 3
"""Samples from which the way downhill is tried, so that of two walls the nearer is found."""


@njit()
def _nearest(
    points: F8, starts: I8, across: I8, vertices: F8, faces: I4, first: int, last: int, out: F8, far: F8
) -> None:
    """From a face that is near each point downhill over the edges to the nearest one."""
    for i in range(first, last):
        px, py, pz = points[i, 0], points[i, 1], points[i, 2]
        far[i] = np.inf
        for start in range(starts.shape[1]):
            here = starts[i, start]
            x, y, z = nearest_on(px, py, pz, vertices, faces[here, 0], faces[here, 1], faces[here, 2])
            best = (px - x) ** 2 + (py - y) ** 2 + (pz - z) ** 2
            for _ in range(MOST_STEPS):
                onward = -1
                for k in range(3):
                    f = across[here, k]
                    if f < 0:
                        continue
                    u, v, w = nearest_on(px, py, pz, vertices, faces[f, 0], faces[f, 1], faces[f, 2])
                    d = (px - u) ** 2 + (py - v) ** 2 + (pz - w) ** 2
                    if d < best - 1e-15:
                        best, x, y, z, onward = d, u, v, w, f
                if onward < 0:
                    break
                here = onward
            if best < far[i]:
                far[i] = best
                out[i, 0], out[i, 1], out[i, 2] = x, y, z
        far[i] = np.sqrt(far[i])


MOST_STEPS = 64


class Outside:
    """A surface that is asked for its nearest points: samples of it in a tree, the faces they lie on, and from there downhill."""

    def __init__(self, mesh: Mesh) -> None:
        self.mesh = mesh
        points, face = surface_samples(mesh, SPACING_MM, most=MOST_SAMPLES)
        middles = mesh.middles()
        self._tree = cKDTree(np.concatenate([points, middles]))
        self._face = np.concatenate([face, np.arange(len(middles))]).astype(np.int64)
        self._across, _ = neighbours(mesh.faces)

    def nearest(self, points: F8) -> tuple[F8, F8]:
        """The nearest point (n, 3) of the surface and its distance (n,): from the nearest sample's face downhill over the edges."""
        if not len(points):
            return np.empty((0, 3)), np.empty(0)
        near = np.ascontiguousarray(self._face[np.asarray(self._tree.query(points, k=TRIED, workers=CORES)[1])])
        out, far = np.empty((len(points), 3)), np.empty(len(points))
        given, mesh = np.ascontiguousarray(points, float), self.mesh
        both_cores(
            lambda a, b: _nearest(given, near, self._across, mesh.vertices, mesh.faces, a, b, out, far),
            parts_of(len(points)),
        )
        return out, far


ROUNDS = 12
SETTLED_MM = 1e-3


def settle(points: F8, outside: Outside, wall: float, slack: float, fixed: NDArray[np.bool_] | None = None) -> F8:
    """Points (n, 3) that lie deeper than a wall moved out onto the surface `wall` mm below another, as far as they lie within `slack` of it and are
    not `fixed` (n,).

    Between two walls that are too close a point is pushed to and fro; one that finds no place goes back to where it was.
    """
    moved, left = points.copy(), np.arange(len(points)) if fixed is None else np.flatnonzero(~fixed)
    for _ in range(ROUNDS):
        at, far = outside.nearest(moved[left])
        astray = (np.abs(far - wall) > SETTLED_MM) & ((far < wall) | (far - wall < slack)) & (far > 1e-9)
        if not astray.any():
            return moved
        left, at, far = left[astray], at[astray], far[astray]
        moved[left] = at + (moved[left] - at) * (wall / far)[:, None]
    near = left[outside.nearest(moved[left])[1] < wall - SETTLED_MM]
    moved[near] = points[near]
    return moved
