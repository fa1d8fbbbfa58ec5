"""How far points are from a triangle."""

from __future__ import annotations

import numpy as np

from ..compiled import njit
from .mesh import F8

NEEDLE = 1e-14
"""A triangle is taken for its edges where the sine of its corner, squared, is less."""
Point = tuple[float, float, float]


@njit()
def _on_segment(px: float, py: float, pz: float, v: F8, a: int, b: int) -> Point:
    """The point of a segment, which may be a point, nearest to p."""
    x, y, z = v[b, 0] - v[a, 0], v[b, 1] - v[a, 1], v[b, 2] - v[a, 2]
    long = x * x + y * y + z * z
    share = 0.0
    if long > 0:
        share = ((px - v[a, 0]) * x + (py - v[a, 1]) * y + (pz - v[a, 2]) * z) / long
        share = min(max(share, 0.0), 1.0)
    return v[a, 0] + share * x, v[a, 1] + share * y, v[a, 2] + share * z


@njit()
def nearest_on(px: float, py: float, pz: float, v: F8, a: int, b: int, c: int) -> Point:
    """The point of the triangle of vertices a, b, c nearest to p (Ericson, Real-Time Collision Detection, 5.1.5)."""
    ux, uy, uz = v[b, 0] - v[a, 0], v[b, 1] - v[a, 1], v[b, 2] - v[a, 2]
    wx, wy, wz = v[c, 0] - v[a, 0], v[c, 1] - v[a, 1], v[c, 2] - v[a, 2]
    qx, qy, qz = px - v[a, 0], py - v[a, 1], pz - v[a, 2]
    uu, ww, uw = ux * ux + uy * uy + uz * uz, wx * wx + wy * wy + wz * wz, ux * wx + uy * wy + uz * wz
    d1, d2 = ux * qx + uy * qy + uz * qz, wx * qx + wy * qy + wz * qz
    # From b and from c the same products follow without another point.
    d3, d4, d5, d6 = d1 - uu, d2 - uw, d1 - uw, d2 - ww
    area = uu * ww - uw * uw
    vc, vb, va = d1 * d4 - d3 * d2, d5 * d2 - d1 * d6, d3 * d6 - d5 * d4
    if area <= NEEDLE * uu * ww:
        # Without an area its three edges are all of it, and the regions below divide by nothing.
        best, far = _on_segment(px, py, pz, v, a, b), np.inf
        for k in range(3):
            one = best if k == 0 else _on_segment(px, py, pz, v, a if k == 1 else b, c)
            d = (px - one[0]) ** 2 + (py - one[1]) ** 2 + (pz - one[2]) ** 2
            if d < far:
                best, far = one, d
        return best
    if d1 <= 0 and d2 <= 0:
        return v[a, 0], v[a, 1], v[a, 2]
    if d3 >= 0 and d4 <= d3:
        return v[b, 0], v[b, 1], v[b, 2]
    if vc <= 0 and d1 >= 0 and d3 <= 0:
        s = d1 / (d1 - d3)
        return v[a, 0] + s * ux, v[a, 1] + s * uy, v[a, 2] + s * uz
    if d6 >= 0 and d5 <= d6:
        return v[c, 0], v[c, 1], v[c, 2]
    if vb <= 0 and d2 >= 0 and d6 <= 0:
        s = d2 / (d2 - d6)
        return v[a, 0] + s * wx, v[a, 1] + s * wy, v[a, 2] + s * wz
    if va <= 0 and d4 - d3 >= 0 and d5 - d6 >= 0:
        s = (d4 - d3) / ((d4 - d3) + (d5 - d6))
        return v[b, 0] + s * (wx - ux), v[b, 1] + s * (wy - uy), v[b, 2] + s * (wz - uz)
    total = va + vb + vc
    s, t = vb / total, vc / total
    return v[a, 0] + s * ux + t * wx, v[a, 1] + s * uy + t * wy, v[a, 2] + s * uz + t * wz


@njit()
def point_triangle(p: F8, v: F8, a: int, b: int, c: int) -> float:
    """Squared distance of a point from the triangle of vertices a, b, c."""
    x, y, z = nearest_on(p[0], p[1], p[2], v, a, b, c)
    return (p[0] - x) ** 2 + (p[1] - y) ** 2 + (p[2] - z) ** 2
