"""The corners of the convex hull, which have a mesh's extents in every direction."""

from __future__ import annotations

import numpy as np
from scipy.spatial import ConvexHull, QhullError

from .mesh import F8, Mesh


def hull_corners(mesh: Mesh) -> F8:
    """Corners (k, 3) of the convex hull, all vertices where there is none (a flat figure); made on first use and kept
    with the mesh.
    """
    corners: F8 | None = mesh.__dict__.get("_hull")
    if corners is None:
        corners = corners_of(mesh.vertices)
        mesh.__dict__["_hull"] = corners
    return corners


def corners_of(points: F8) -> F8:
    """Corners (k, 3) of the convex hull of points (n, 3); all of them where there is none.

    >>> len(corners_of(np.array([[0.0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1], [0.2, 0.2, 0.2]])))
    4
    """
    try:
        return np.ascontiguousarray(points[ConvexHull(points).vertices])
    except (QhullError, ValueError):
        return points
