"""Saliency: where a surface bends otherwise than around it, at several scales (Lee, Varshney, Jacobs 2005, Mesh
Saliency, ACM TOG 24).

Read on points spread evenly by area, so that a scan and its thinned copy say the same: mean curvature from how normals
turn along the way to a point's neighbours, its local means at doubling scales, and their differences. What is finer
than the finest scale is noise of a scan.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..compiled import CORES, both_cores, loose, stretches
from ..mesh import Mesh, surface_samples

F4 = NDArray[np.float32]
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
"""A mean's weights, 1 - d²/r² (Epanechnikov), end at so many widths: it is as wide as a Gaussian that is cut off there,
and asks for no exponential.
"""
FAR_SIDE = np.float32(-0.2)
"""Cosine between two normals, below which one is of the other side of a thin part."""
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
    asked = _Points(_rows(points - points.min(axis=0)), _rows(normal))
    sources = [_Sources(asked, finest * 2**k, spacing) for k in range(SCALES)]
    bent = np.clip(sources[0].curvature(), -1 / finest, 1 / finest)
    means = [of.mean(bent) for of in sources]
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


def _rows(points: F8) -> F4:
    """Points (n, 3) as (3, n): a loop reads several of them at once."""
    return np.ascontiguousarray(points.T, np.float32)


@dataclass(frozen=True)
class _Points:
    """Points (3, n) from their lowest corner, and the normals (3, n) of their surface."""

    place: F4
    facing: F4


class _Sources:
    """Points thinned out evenly, in cells as wide as a mean of `width` reaches: neighbours are among 27."""

    def __init__(self, points: _Points, width: float, spacing: float) -> None:
        self.all, self.stride = points, max(1, int((width / (SOURCES * spacing)) ** 2))
        reach = REACH * width
        self.inverse = np.float32(1 / reach**2)
        self.cells = (points.place * np.float32(1 / reach)).astype(np.int64)
        self.dims = self.cells.max(axis=1) + 1
        self.keys = (self.cells[0] * self.dims[1] + self.cells[1]) * self.dims[2] + self.cells[2]
        key = self.keys[:: self.stride]
        self.order = np.argsort(key, kind="stable")
        self.start = np.concatenate([[0], np.cumsum(np.bincount(key, minlength=int(self.dims.prod())))])
        self.place = np.ascontiguousarray(points.place[:, :: self.stride][:, self.order])
        self.facing = np.ascontiguousarray(points.facing[:, :: self.stride][:, self.order])

    def mean(self, values: F8) -> F8:
        """Means (n,) of values (n,) of all points, at each of them."""
        return self._over(np.ascontiguousarray(values[:: self.stride][self.order], np.float32), bends=False)

    def curvature(self) -> F8:
        """Mean curvature (n,) at all points: how normals turn along the ways to the neighbours."""
        return self._over(np.zeros(len(self.order), np.float32), bends=True)

    def _over(self, values: F4, *, bends: bool) -> F8:
        out = np.empty(len(self.keys))
        turn = self.order if self.stride == 1 else np.argsort(self.keys, kind="stable")
        first = np.flatnonzero(np.diff(self.keys[turn], prepend=-1, append=-1))
        each = self.cells[:, turn[first[:-1]]]
        asked, sources = (self.all.place, self.all.facing), (self.place, self.facing, values, self.dims, self.start)
        both_cores(
            lambda a, b: _mean(*asked, turn, first[a : b + 1], each[:, a:b], *sources, self.inverse, bends, out),
            stretches(each.shape[1]),
        )
        return out


@loose()
def _mean(
    at: F4,
    facing: F4,
    turn: I8,
    first: I8,
    cell: I8,
    place: F4,
    normal: F4,
    values: F4,
    dims: I8,
    start: I8,
    inverse: np.float32,
    bends: bool,
    out: F8,
) -> None:
    """Cell by cell: what lies around a cell is gathered once, and read by each of its points in one long stretch."""
    zero, one = np.float32(0.0), np.float32(1.0)
    around = np.empty((7, 1024), np.float32)
    for c in range(cell.shape[1]):
        many = 0
        for x in range(max(0, cell[0, c] - 1), min(dims[0], cell[0, c] + 2)):
            for y in range(max(0, cell[1, c] - 1), min(dims[1], cell[1, c] + 2)):
                key = (x * dims[1] + y) * dims[2]
                # Cells along z follow each other.
                low, high = start[key + max(0, cell[2, c] - 1)], start[key + min(dims[2], cell[2, c] + 2)]
                if many + high - low > around.shape[1]:
                    wider = np.empty((7, 2 * (many + high - low)), np.float32)
                    wider[:, :many] = around[:, :many]
                    around = wider
                for j in range(low, high):
                    for axis in range(3):
                        around[axis, many] = place[axis, j]
                        around[3 + axis, many] = normal[axis, j]
                    around[6, many] = values[j]
                    many += 1
        for k in range(first[c], first[c + 1]):
            i = turn[k]
            ax, ay, az = at[0, i], at[1, i], at[2, i]
            fx, fy, fz = facing[0, i], facing[1, i], facing[2, i]
            total, weight = zero, zero
            if bends:
                for j in range(many):
                    dx, dy, dz = around[0, j] - ax, around[1, j] - ay, around[2, j] - az
                    nx, ny, nz = around[3, j], around[4, j], around[5, j]
                    d = dx * dx + dy * dy + dz * dz
                    # The far side of a thin part is near in space, and no neighbour on the surface; nor is one its own.
                    same = (fx * nx + fy * ny + fz * nz >= FAR_SIDE) & (d > zero)
                    w = max(zero, one - d * inverse) if same else zero
                    total += w * ((nx - fx) * dx + (ny - fy) * dy + (nz - fz) * dz) / (d if same else one)
                    weight += w
            else:
                for j in range(many):
                    dx, dy, dz = around[0, j] - ax, around[1, j] - ay, around[2, j] - az
                    same = fx * around[3, j] + fy * around[4, j] + fz * around[5, j] >= FAR_SIDE
                    w = max(zero, one - (dx * dx + dy * dy + dz * dz) * inverse) if same else zero
                    total += w * around[6, j]
                    weight += w
            out[i] = total / weight if weight > 0 else 0.0
