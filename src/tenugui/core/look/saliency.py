"""Saliency: where a surface bends otherwise than around it, at several scales (Lee, Varshney, Jacobs 2005, Mesh
Saliency, ACM TOG 24).

Read on points spread evenly by area, so that a scan and its thinned copy say the same: mean curvature from how normals
turn along the way to a point's neighbours, its Gaussian means at doubling scales, and their differences. What is finer
than the finest scale is noise of a scan.
"""

from __future__ import annotations

import itertools

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..compiled import CORES, both_cores, njit, stretches
from ..mesh import Mesh, surface_samples

F8 = NDArray[np.float64]
I8 = NDArray[np.int64]
FINEST = 0.003
"""The finest scale, as a share of the figure's diagonal."""
SCALES = 4
"""Means at FINEST and its doubles, to 2.4 % of the diagonal."""
SAMPLES = 60_000
SOURCES = 2.0
"""A wide mean is taken of fewer points: so many of them lie along its width."""
REACH = 2.0
"""A Gaussian is cut off at so many of its widths."""
STRONG = 0.98
"""The quantile that counts as most salient: single spikes do not dim all others."""
EVEN = 0.8
"""Prior: over the figure's diagonal, a difference of curvature that no eye sees: facets and a scan's grain have it."""


def saliency(mesh: Mesh) -> F8:
    """Saliency (faces,) of a mesh, 0 for what is as flat or as evenly bent as all around it, to 1."""
    normals, area = mesh.normals_and_areas()
    if float(area.sum()) <= 0:
        return np.zeros(len(mesh.faces))
    diagonal = float(np.linalg.norm(mesh.size))
    spacing = float(np.sqrt(area.sum() / SAMPLES))
    points, face = surface_samples(mesh, spacing, SAMPLES)
    normal = normals[face]
    finest = max(FINEST * diagonal, spacing)
    sources = [_Sources(points, normal, finest * 2**k, spacing) for k in range(SCALES)]
    # Points that are asked one after another lie beside each other, and their neighbours are at hand.
    turn = np.argsort(sources[0].keys(points), kind="stable")
    bent = np.clip(sources[0].curvature(points, normal, turn), -1 / finest, 1 / finest)
    means = [of.mean(points, normal, turn, bent) for of in sources]
    salient = np.zeros(len(points))
    for fine, wide in itertools.pairwise(means):
        salient += _promoted(np.abs(fine - wide), EVEN / diagonal)
    salient = np.clip(salient / max(float(np.quantile(salient, STRONG)), 1.0), 0, 1)
    near, at = cKDTree(points).query(mesh.middles(), k=3, workers=CORES)
    weight = 1 / np.maximum(near, 1e-9 * diagonal)
    return np.asarray((salient[at] * weight).sum(axis=1) / weight.sum(axis=1))


def _promoted(difference: F8, even: float) -> F8:
    """A scale's map, scaled to its own strongest and weighed by how few places are so strong (Itti, Koch, Niebur
    1998).
    """
    scaled = np.clip((difference - even) / max(float(np.quantile(difference, STRONG)), 2 * even), 0, 1)
    return np.asarray(scaled * (1 - float(scaled.mean())) ** 2)


class _Sources:
    """Points (n, 3) thinned out evenly, in cells as wide as a Gaussian of `width` reaches: neighbours are among 27."""

    def __init__(self, points: F8, normal: F8, width: float, spacing: float) -> None:
        self.width, self.stride = width, max(1, int((width / (SOURCES * spacing)) ** 2))
        few = points[:: self.stride]
        self.lower, self.side = points.min(axis=0), REACH * width
        self.dims = (np.ceil(np.ptp(points, axis=0) / self.side) + 1).astype(np.int64)
        key = self.keys(few)
        self.order = np.argsort(key, kind="stable")
        self.start = np.searchsorted(key[self.order], np.arange(int(self.dims.prod()) + 1))
        self.points = np.ascontiguousarray(few[self.order])
        self.normal = np.ascontiguousarray(normal[:: self.stride][self.order])

    def _cells(self, points: F8) -> I8:
        return np.asarray((points - self.lower) / self.side, np.int64)

    def keys(self, points: F8) -> I8:
        """The cell of each point (n, 3)."""
        return np.asarray(self._cells(points) @ np.array([self.dims[1] * self.dims[2], self.dims[2], 1]))

    def mean(self, points: F8, normal: F8, turn: I8, values: F8) -> F8:
        """Gaussian means at points (n, 3), asked in their `turn`, of values (n,) of all of them."""
        return self._over(points, normal, turn, np.ascontiguousarray(values[:: self.stride][self.order]), False)

    def curvature(self, points: F8, normal: F8, turn: I8) -> F8:
        """Mean curvature at points (n, 3), asked in their `turn`: how normals turn along the ways to the neighbours."""
        return self._over(points, normal, turn, np.zeros(len(self.points)), True)

    def _over(self, points: F8, normal: F8, turn: I8, values: F8, curvature: bool) -> F8:
        out, cell = np.empty(len(points)), self._cells(points)
        sources = (self.points, self.normal, values, self.dims, self.start)
        both_cores(
            lambda a, b: _mean(points, normal, cell, turn[a:b], *sources, self.width, curvature, out),
            stretches(len(points)),
        )
        return out


@njit()
def _mean(
    at: F8,
    facing: F8,
    cell: I8,
    turn: I8,
    points: F8,
    normal: F8,
    values: F8,
    dims: I8,
    start: I8,
    width: float,
    curvature: bool,
    out: F8,
) -> None:
    reach = (REACH * width) ** 2
    for i in turn:
        total, weight = 0.0, 0.0
        for x in range(max(0, cell[i, 0] - 1), min(dims[0], cell[i, 0] + 2)):
            for y in range(max(0, cell[i, 1] - 1), min(dims[1], cell[i, 1] + 2)):
                key = (x * dims[1] + y) * dims[2]
                first, last = max(0, cell[i, 2] - 1), min(dims[2], cell[i, 2] + 2)
                # Cells along z follow each other: one stretch of the sorted points.
                for j in range(start[key + first], start[key + last]):
                    dx, dy, dz = points[j, 0] - at[i, 0], points[j, 1] - at[i, 1], points[j, 2] - at[i, 2]
                    d = dx * dx + dy * dy + dz * dz
                    if d > reach:
                        continue
                    nx, ny, nz = normal[j, 0], normal[j, 1], normal[j, 2]
                    # The far side of a thin part is near in space, and no neighbour on the surface.
                    if facing[i, 0] * nx + facing[i, 1] * ny + facing[i, 2] * nz < -0.2:
                        continue
                    value = values[j]
                    if curvature:
                        if d < 1e-18:
                            continue
                        value = ((nx - facing[i, 0]) * dx + (ny - facing[i, 1]) * dy + (nz - facing[i, 2]) * dz) / d
                    w = np.exp(-d / (2 * width * width))
                    total += w * value
                    weight += w
        out[i] = total / weight if weight > 0 else 0.0
