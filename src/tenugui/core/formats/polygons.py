"""Polygons to triangles: what OBJ and PLY share.

A triangle stays, a quadrilateral is split along the diagonal that keeps both halves on one side, a larger polygon loses
its ears (Meisters 1975) in the plane of its Newell normal. Triangles come in the order of the polygons.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit

I8 = NDArray[np.int64]
MOST_CORNERS = 4096
"""A polygon with more corners is refused: ear clipping is quadratic, and no figure has one."""
LARGE_CORNERS, MOST_LARGE = 256, 40_000_000
"""Corners of a large polygon, and the most that the squares of such may sum to in a file: some seconds of clipping
where they cross themselves.
"""


@njit()
def _cross(p: NDArray[np.float64], a: int, b: int, c: int) -> float:
    """Twice the signed area of the flattened triangle a, b, c."""
    return (p[b, 0] - p[a, 0]) * (p[c, 1] - p[a, 1]) - (p[b, 1] - p[a, 1]) * (p[c, 0] - p[a, 0])


@njit()
def _flatten(points: NDArray[np.float32], ring: I8, flat: NDArray[np.float64]) -> None:
    """The ring's corners in the plane across which its Newell normal is largest, counter-clockwise."""
    n = len(ring)
    nx, ny, nz = 0.0, 0.0, 0.0
    for i in range(n):
        p, q = points[ring[i]], points[ring[(i + 1) % n]]
        nx += (float(p[1]) - q[1]) * (float(p[2]) + q[2])
        ny += (float(p[2]) - q[2]) * (float(p[0]) + q[0])
        nz += (float(p[0]) - q[0]) * (float(p[1]) + q[1])
    ax, ay, az = abs(nx), abs(ny), abs(nz)
    u, v, way = 0, 1, nz
    if ax >= ay and ax >= az:
        u, v, way = 1, 2, nx
    elif ay >= az:
        u, v, way = 2, 0, ny
    for i in range(n):
        flat[i, 0] = points[ring[i], u]
        flat[i, 1] = points[ring[i], v] if way >= 0 else -points[ring[i], v]


@njit()
def _is_ear(flat: NDArray[np.float64], left: I8, count: int, i: int) -> bool:
    a, b, c = left[(i - 1) % count], left[i], left[(i + 1) % count]
    if _cross(flat, a, b, c) <= 0:
        return False
    for k in range(count):
        p = left[k]
        if p in (a, b, c):
            continue
        if _cross(flat, a, b, p) >= 0 and _cross(flat, b, c, p) >= 0 and _cross(flat, c, a, p) >= 0:
            return False
    return True


@njit()
def _clip(points: NDArray[np.float32], ring: I8, out: NDArray[np.int32], at: int) -> int:
    """Write the ring's triangles from out[at]; a ring that has no ears left (it crosses itself) is fanned."""
    n = len(ring)
    flat = np.empty((n, 2), np.float64)
    _flatten(points, ring, flat)
    left = np.arange(n)
    count = n
    i = 0
    misses = 0
    while count > 3:
        if misses > count or _is_ear(flat, left, count, i % count):
            j = i % count
            a, b, c = left[(j - 1) % count], left[j], left[(j + 1) % count]
            out[at, 0], out[at, 1], out[at, 2] = ring[a], ring[b], ring[c]
            at += 1
            for k in range(j, count - 1):
                left[k] = left[k + 1]
            count -= 1
            i, misses = max(j - 1, 0), 0
        else:
            i += 1
            misses += 1
    out[at, 0], out[at, 1], out[at, 2] = ring[left[0]], ring[left[1]], ring[left[2]]
    return at + 1


@njit()
def _triangles(points: NDArray[np.float32], starts: I8, corners: I8, out: NDArray[np.int32], first: I8) -> None:
    at = 0
    flat = np.empty((4, 2), np.float64)
    for f in range(len(starts) - 1):
        first[f] = at
        ring = corners[starts[f] : starts[f + 1]]
        if len(ring) == 3:
            out[at, 0], out[at, 1], out[at, 2] = ring[0], ring[1], ring[2]
            at += 1
        elif len(ring) == 4:
            _flatten(points, ring, flat)
            # Split from corner 0 unless that leaves a half turned over: then from corner 1.
            k = 0 if _cross(flat, 0, 1, 2) > 0 and _cross(flat, 0, 2, 3) > 0 else 1
            out[at, 0], out[at, 1], out[at, 2] = ring[k], ring[k + 1], ring[k + 2]
            out[at + 1, 0], out[at + 1, 1], out[at + 1, 2] = ring[k], ring[k + 2], ring[(k + 3) % 4]
            at += 2
        else:
            at = _clip(points, ring, out, at)
    first[len(starts) - 1] = at


def triangulate(points: NDArray[np.float32], starts: I8, corners: I8) -> tuple[NDArray[np.int32], I8]:
    """Polygons `corners[starts[f]:starts[f + 1]]`, each of three or more, to faces (m, 3) and each polygon's first face
    (f + 1,).
    """
    faces = np.empty((len(corners) - 2 * (len(starts) - 1), 3), np.int32)
    first = np.empty(len(starts), np.int64)
    _triangles(points, starts, corners, faces, first)
    return faces, first
