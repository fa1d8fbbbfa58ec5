"""Sparse fill in three forms: lines, a grid, and the waves of a gyroid.

A gyroid, sin x cos y + sin y cos z + sin z cos x = 0 (Schoen 1970), has 3.09 of surface in a unit cell; a level section
of an isotropic surface has π/4 of that as length on its area (Underwood 1970), from which the cell follows that a share
of solid asks for.
"""

from __future__ import annotations

import math

import numpy as np
from manifold3d import CrossSection
from numpy.typing import NDArray
from skimage.measure import find_contours

from ..compiled import njit
from .lines import SHORTEST_MM, SPARSE, Line, fill

F8 = NDArray[np.float64]
I8 = NDArray[np.int64]
B1 = NDArray[np.bool_]
LINES, GRID, WAVES = range(3)
LENGTH = 3.0915 * math.pi / 4
"""Of a gyroid's section in a cell of 1, on its area."""
FINE = 16
"""Samples of a wave."""
STEP_MM = 0.1
"""Waves end within so much of where they leave the region."""


def sparse(region: CrossSection, pitch: float, share: float, *, layer: int, z: float, form: int) -> list[Line]:
    """Lines that fill a `share` of a region of layer `layer`, whose middle lies at z, the same length in every form."""
    turn = 45.0 if layer % 2 else -45.0
    if form == GRID:
        spacing = 2 * pitch / share
        return fill(region, spacing, 45.0, SPARSE) + fill(region, spacing, -45.0, SPARSE)
    if form == WAVES:
        return waves(region, LENGTH * pitch / share, z)
    return fill(region, pitch / share, turn, SPARSE)


def waves(region: CrossSection, cell: float, z: float) -> list[Line]:
    """The gyroid of a cell in mm where it is met at height z, inside a region."""
    loops = [np.asarray(loop, float) for loop in region.to_polygons()]
    if not loops:
        return []
    points = np.concatenate(loops)
    starts = np.concatenate([[0], np.cumsum([len(loop) for loop in loops])]).astype(np.int64)
    low, high = points.min(axis=0), points.max(axis=0)
    step = cell / FINE
    # From whole steps of the plate, so that neighbouring layers meet.
    low = np.floor(low / step) * step
    x, y = (low[k] + step * np.arange(int((high[k] - low[k]) / step) + 2) for k in (0, 1))
    a, b, c = (2 * np.pi / cell * v for v in (x[:, None], y[None, :], z))
    field = np.sin(a) * np.cos(b) + np.sin(b) * np.cos(c) + np.sin(c) * np.cos(a)
    lines: list[Line] = []
    for contour in find_contours(field, 0.0):
        way = _dense(low + contour * step)
        inside = np.empty(len(way), np.bool_)
        _inside(way, points, starts, inside)
        edges = np.flatnonzero(np.diff(np.concatenate([[False], inside, [False]]).astype(np.int8)))
        for begin, end in edges.reshape(-1, 2):
            part = way[begin:end]
            if len(part) > 1 and float(np.linalg.norm(np.diff(part, axis=0), axis=1).sum()) > SHORTEST_MM:
                lines.append(Line(part, SPARSE, False))
    return lines


def _dense(way: F8) -> F8:
    """A polyline with a point at least every STEP_MM."""
    long = np.linalg.norm(np.diff(way, axis=0), axis=1)
    along = np.concatenate([[0.0], np.cumsum(long)])
    at = np.linspace(0, along[-1], max(2, math.ceil(along[-1] / STEP_MM) + 1))
    return np.column_stack([np.interp(at, along, way[:, k]) for k in (0, 1)])


@njit()
def _inside(way: F8, points: F8, starts: I8, inside: B1) -> None:
    for i in range(len(way)):
        x, y = way[i, 0], way[i, 1]
        odd = False
        for loop in range(len(starts) - 1):
            begin, end = starts[loop], starts[loop + 1]
            for a in range(begin, end):
                b = a + 1 if a + 1 < end else begin
                ya, yb = points[a, 1], points[b, 1]
                if (ya <= y) != (yb <= y) and x < points[a, 0] + (y - ya) / (yb - ya) * (points[b, 0] - points[a, 0]):
                    odd = not odd
        inside[i] = odd
