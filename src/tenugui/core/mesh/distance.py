"""How far points are from a surface."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..compiled import njit
from .mesh import F8, Mesh

NEEDLE = 1e-14
"""A triangle is taken for its edges where the sine of its corner, squared, is less."""


@njit()
def point_segment(p: F8, a: F8, b: F8) -> float:
    """Squared distance of a point from a segment, which may be a point."""
    ab, ap = b - a, p - a
    long = np.dot(ab, ab)
    share = min(max(np.dot(ab, ap) / long, 0.0), 1.0) if long > 0 else 0.0
    q = ap - ab * share
    return np.dot(q, q)


@njit()
def point_triangle(p: F8, a: F8, b: F8, c: F8) -> float:
    """Squared distance of a point from a triangle (Ericson, Real-Time Collision Detection, 5.1.5)."""
    ab, ac, ap = b - a, c - a, p - a
    long, wide, across = np.dot(ab, ab), np.dot(ac, ac), np.dot(ab, ac)
    if long * wide - across * across <= NEEDLE * long * wide:
        # Without an area its three edges are all of it, and the regions below divide by nothing.
        return min(point_segment(p, a, b), point_segment(p, a, c), point_segment(p, b, c))
    d1, d2 = np.dot(ab, ap), np.dot(ac, ap)
    if d1 <= 0 and d2 <= 0:
        return np.dot(ap, ap)
    bp = p - b
    d3, d4 = np.dot(ab, bp), np.dot(ac, bp)
    if d3 >= 0 and d4 <= d3:
        return np.dot(bp, bp)
    vc = d1 * d4 - d3 * d2
    if vc <= 0 and d1 >= 0 and d3 <= 0:
        q = ap - ab * (d1 / (d1 - d3))
        return np.dot(q, q)
    cp = p - c
    d5, d6 = np.dot(ab, cp), np.dot(ac, cp)
    if d6 >= 0 and d5 <= d6:
        return np.dot(cp, cp)
    vb = d5 * d2 - d1 * d6
    if vb <= 0 and d2 >= 0 and d6 <= 0:
        q = ap - ac * (d2 / (d2 - d6))
        return np.dot(q, q)
    va = d3 * d6 - d5 * d4
    if va <= 0 and d4 - d3 >= 0 and d5 - d6 >= 0:
        q = bp - (c - b) * ((d4 - d3) / ((d4 - d3) + (d5 - d6)))
        return np.dot(q, q)
    total = va + vb + vc
    q = ap - ab * (vb / total) - ac * (vc / total)
    return np.dot(q, q)


@njit()
def _nearest(points: F8, vertices: F8, faces: NDArray[np.int32], near: NDArray[np.int64], start: NDArray[np.int64],
             incident: NDArray[np.int32]) -> F8:  # fmt: skip
    out = np.empty(len(points))
    for i in range(len(points)):
        best = np.inf
        for k in range(near.shape[1]):
            v = near[i, k]
            if v >= len(vertices):
                continue
            for e in range(start[v], start[v + 1]):
                f = incident[e]
                d = point_triangle(points[i], vertices[faces[f, 0]], vertices[faces[f, 1]], vertices[faces[f, 2]])
                best = min(best, d)
        out[i] = np.sqrt(best)
    return out


def surface_distance(points: F8, mesh: Mesh, near: int = 8) -> F8:
    """Distance (n,) in mm from points (n, 3) to a mesh: exact to the faces at the `near` nearest vertices, so never too small."""
    if not len(points):
        return np.empty(0)
    used = np.unique(mesh.faces)
    _, found = cKDTree(mesh.vertices[used]).query(points, k=min(near, len(used)))
    order = np.argsort(mesh.faces.ravel(), kind="stable")
    start = np.searchsorted(mesh.faces.ravel()[order], np.arange(len(mesh.vertices) + 1))
    incident = (order // 3).astype(np.int32)
    return np.asarray(
        _nearest(
            np.ascontiguousarray(points, float),
            mesh.vertices,
            mesh.faces,
            used[np.asarray(found).reshape(len(points), -1)],
            start,
            incident,
        )
    )
