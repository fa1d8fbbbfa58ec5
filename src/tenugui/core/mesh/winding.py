"""The generalised winding number: how often a surface, closed or not, wraps around a point (Jacobson, Kavan,
Sorkine-Hornung 2013).
"""

from __future__ import annotations

import numpy as np

from ..compiled import njit
from .mesh import F8, I4


@njit()
def solid_angles(points: F8, vertices: F8, faces: I4) -> F8:
    """Sum of the faces' signed solid angles over 4π (n,): 1 inside a closed surface that faces outwards, 0 outside.

    Each angle by Van Oosterom and Strackee 1983. O(points x faces).
    """
    out = np.zeros(len(points))
    for i in range(len(points)):
        total = 0.0
        px, py, pz = points[i, 0], points[i, 1], points[i, 2]
        for f in range(len(faces)):
            a, b, c = vertices[faces[f, 0]], vertices[faces[f, 1]], vertices[faces[f, 2]]
            ax, ay, az = a[0] - px, a[1] - py, a[2] - pz
            bx, by, bz = b[0] - px, b[1] - py, b[2] - pz
            cx, cy, cz = c[0] - px, c[1] - py, c[2] - pz
            la, lb, lc = (
                np.sqrt(ax * ax + ay * ay + az * az),
                np.sqrt(bx * bx + by * by + bz * bz),
                np.sqrt(cx * cx + cy * cy + cz * cz),
            )
            top = ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)
            low = (
                la * lb * lc
                + (ax * bx + ay * by + az * bz) * lc
                + (bx * cx + by * cy + bz * cz) * la
                + (cx * ax + cy * ay + cz * az) * lb
            )
            total += np.arctan2(top, low)
        out[i] = total / (2 * np.pi)
    return out
