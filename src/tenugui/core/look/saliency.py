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

from ..compiled import both_cores, njit, stretches
from ..mesh import Mesh, surface_samples

F8 = NDArray[np.float64]
I8 = NDArray[np.int64]
FINEST = 0.003
"""The finest scale, as a share of the figure's diagonal."""
SCALES = 4
"""Means at FINEST and its doubles, to 2.4 % of the diagonal."""
SAMPLES = 20_000
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
    widths = [finest * 2**k for k in range(SCALES)]
    grids = [_Cells(points, REACH * width) for width in widths]
    bent = grids[0].mean(normal, np.zeros(len(points)), finest, curvature=True)
    bent = np.clip(bent, -1 / finest, 1 / finest)
    means = [grid.mean(normal, bent, width, curvature=False) for grid, width in zip(grids, widths, strict=True)]
    told = np.zeros(len(points))
    for fine, wide in itertools.pairwise(means):
        told += _promoted(np.abs(fine - wide), EVEN / diagonal)
    told = np.clip(told / max(float(np.quantile(told, STRONG)), 1.0), 0, 1)
    near, at = cKDTree(points).query(mesh.middles(), k=3, workers=-1)
    weight = 1 / np.maximum(near, 1e-9 * diagonal)
    return np.asarray((told[at] * weight).sum(axis=1) / weight.sum(axis=1))


def _promoted(difference: F8, even: float) -> F8:
    """A scale's map, scaled to its own strongest and weighed by how few places are so strong (Itti, Koch, Niebur
    1998).
    """
    scaled = np.clip((difference - even) / max(float(np.quantile(difference, STRONG)), 2 * even), 0, 1)
    return np.asarray(scaled * (1 - float(scaled.mean())) ** 2)


class _Cells:
    """Points (n, 3) in cells of a side, so that neighbours are found among 27 of them."""

    def __init__(self, points: F8, side: float) -> None:
        lower = points.min(axis=0)
        dims = np.maximum(1, np.ceil((points.max(axis=0) - lower) / side + 1e-9).astype(np.int64))
        cell = np.minimum(((points - lower) / side).astype(np.int64), dims - 1)
        key = (cell[:, 0] * dims[1] + cell[:, 1]) * dims[2] + cell[:, 2]
        self.order = np.argsort(key, kind="stable")
        self.start = np.searchsorted(key[self.order], np.arange(int(dims.prod()) + 1))
        self.points, self.cell, self.dims = np.ascontiguousarray(points[self.order]), cell[self.order], dims

    def mean(self, normal: F8, values: F8, width: float, *, curvature: bool) -> F8:
        """Gaussian means (n,) of `values`, or of the curvature along the ways to the neighbours."""
        n, v = np.ascontiguousarray(normal[self.order]), np.ascontiguousarray(values[self.order])
        told = np.empty(len(v))
        both_cores(
            lambda a, b: _mean(self.points, n, v, self.cell, self.dims, self.start, width, curvature, a, b, told),
            stretches(len(v)),
        )
        out = np.empty(len(v))
        out[self.order] = told
        return out


@njit()
def _mean(
    points: F8,
    normal: F8,
    values: F8,
    cell: I8,
    dims: I8,
    start: I8,
    width: float,
    curvature: bool,
    first: int,
    last: int,
    out: F8,
) -> None:
    reach = (REACH * width) ** 2
    for i in range(first, last):
        total, weight = 0.0, 0.0
        for x in range(max(0, cell[i, 0] - 1), min(dims[0], cell[i, 0] + 2)):
            for y in range(max(0, cell[i, 1] - 1), min(dims[1], cell[i, 1] + 2)):
                for z in range(max(0, cell[i, 2] - 1), min(dims[2], cell[i, 2] + 2)):
                    key = (x * dims[1] + y) * dims[2] + z
                    for j in range(start[key], start[key + 1]):
                        dx, dy, dz = (
                            points[j, 0] - points[i, 0],
                            points[j, 1] - points[i, 1],
                            points[j, 2] - points[i, 2],
                        )
                        d = dx * dx + dy * dy + dz * dz
                        # The far side of a thin part is near in space, and no neighbour on the surface.
                        along = normal[i, 0] * normal[j, 0] + normal[i, 1] * normal[j, 1] + normal[i, 2] * normal[j, 2]
                        if d > reach or along < -0.2:
                            continue
                        w = np.exp(-d / (2 * width * width))
                        value = values[j]
                        if curvature:
                            if d < 1e-18:
                                continue
                            turn = (
                                (normal[j, 0] - normal[i, 0]) * dx
                                + (normal[j, 1] - normal[i, 1]) * dy
                                + (normal[j, 2] - normal[i, 2]) * dz
                            )
                            value = turn / d
                        total += w * value
                        weight += w
        out[i] = total / weight if weight > 0 else 0.0
