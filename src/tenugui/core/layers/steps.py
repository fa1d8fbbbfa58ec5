"""Steps on sloped surfaces: cusp height c = h |n_z| (Dolenc and Mäkelä 1994); exactly flat faces have none."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from ..mesh import Mesh

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
FLAT = 0.9999


GRAINS = 8192
"""Leans are told apart to one part in so many."""


@njit()
def lean_of(vertices: F8, faces: I4, f: int) -> tuple[float, float]:
    """n_z and area of a face; 0 and 0 where it has none."""
    p, q, r = faces[f, 0], faces[f, 1], faces[f, 2]
    ux, uy, uz = vertices[q, 0] - vertices[p, 0], vertices[q, 1] - vertices[p, 1], vertices[q, 2] - vertices[p, 2]
    vx, vy, vz = vertices[r, 0] - vertices[p, 0], vertices[r, 1] - vertices[p, 1], vertices[r, 2] - vertices[p, 2]
    x, y, z = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
    twice = np.sqrt(x * x + y * y + z * z)
    return (z / twice, 0.5 * twice) if twice > 0.0 else (0.0, 0.0)


@njit()
def _leans(vertices: F8, faces: I4, weights: F8, mass: F8, sums: F8) -> float:
    """Area by weight, and lean by it, of the sloped faces in each grain; the largest lean that weighs anything."""
    most = 0.0
    for f in range(len(faces)):
        z, area = lean_of(vertices, faces, f)
        lean, much = abs(z), area * (weights[f] if len(weights) else 1.0)
        if lean >= FLAT or much <= 0.0:
            continue
        grain = int(lean * GRAINS)
        mass[grain] += much
        sums[grain] += much * lean
        most = max(most, lean)
    return most


def cusp_quantiles(mesh: Mesh, weights: F8 | None = None) -> tuple[float, float, float]:
    """(median, 95th percentile, max) of |n_z| over sloped surface, by area and weight; times a layer height they are
    cusps in mm.
    """
    mass, sums = np.zeros(GRAINS), np.zeros(GRAINS)
    light = np.empty(0) if weights is None else np.asarray(weights, float)
    most = float(_leans(mesh.vertices, mesh.faces, light, mass, sums))
    total = mass.sum()
    if total <= 0:
        return 0.0, 0.0, 0.0
    at = np.searchsorted(np.cumsum(mass) / total, (0.5, 0.95)).clip(0, int(most * GRAINS))
    median, high = (float(sums[i] / mass[i]) for i in at)
    return median, high, most
