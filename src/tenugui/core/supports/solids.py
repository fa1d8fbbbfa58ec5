"""Closed solids that supports are made of: tubes along a line with a radius at each point, and the raft."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import ConvexHull, QhullError

from ..mesh import Mesh

F8 = NDArray[np.float64]


def tube(points: F8, radii: F8, sides: int = 10, turn: float = 0.0) -> Mesh:
    """Closed tube through `points` (n, 3), one ring of `sides` at each with its radius, turned by `turn`; rings stay
    horizontal so that feet are flat.
    """
    rings = (points[:, None, :] + radii[:, None, None] * _ring(sides, turn)).reshape(-1, 3)
    return Mesh(np.concatenate([rings, points[:1], points[-1:]]), _walls(len(points), sides))


@lru_cache(64)
def _ring(sides: int, turn: float) -> F8:
    """Directions (sides, 3) from the middle of a ring."""
    angle = np.arange(sides) * 2 * np.pi / sides + turn
    return np.stack([np.cos(angle), np.sin(angle), np.zeros(sides)], axis=1)


@lru_cache(256)
def _walls(rings: int, sides: int) -> NDArray[np.int32]:
    """Faces (f, 3) of a closed tube: its rings in order, then the middles of both ends."""
    i = np.arange(sides)
    j = (i + 1) % sides
    faces = [np.stack([j, i, np.full(sides, rings * sides)], axis=1)]
    for k in range(rings - 1):
        a, b = k * sides, (k + 1) * sides
        faces += [np.stack([a + i, a + j, b + j], axis=1), np.stack([a + i, b + j, b + i], axis=1)]
    top = (rings - 1) * sides
    faces.append(np.stack([top + i, top + j, np.full(sides, rings * sides + 1)], axis=1))
    walls = np.concatenate(faces).astype(np.int32)
    walls.flags.writeable = False  # all tubes of a kind share them
    return walls


BOX = np.array(
    [
        [0, 2, 1], [1, 2, 3], [4, 5, 6], [5, 7, 6], [0, 1, 4], [1, 5, 4],
        [2, 6, 3], [3, 6, 7], [0, 4, 2], [2, 4, 6], [1, 3, 5], [3, 7, 5],
    ],
    np.int32,
)  # fmt: skip
FUSES = 1.02
"""Columns are so many times as wide as they lie apart, so that neighbours are one."""
LEAST_MM = 0.01


def columns_of(cells: F8, side: float) -> Mesh:
    """Square columns (n, 4: middle, begin, end), each a closed solid that ends level; where neighbours begin at other
    heights their undersides slope from one to the next.
    """
    half = FUSES * side / 2
    signs = np.array([[x, y] for y in (-1.0, 1.0) for x in (-1.0, 1.0)])
    corners = np.empty((len(cells), 8, 3))
    corners[:, :4, :2] = corners[:, 4:, :2] = cells[:, None, :2] + half * signs[None]
    corners[:, 4:, 2] = cells[:, 3, None]
    places = np.round((cells[:, None, :2] + side / 2 * signs[None]) / side * 2).astype(np.int64).reshape(-1, 2)
    _, at = np.unique(places - places.min(axis=0), axis=0, return_inverse=True)
    at = at.ravel()
    begins = np.bincount(at, np.repeat(cells[:, 2], 4)) / np.bincount(at)
    corners[:, :4, 2] = np.minimum(begins[at].reshape(-1, 4), cells[:, 3, None] - LEAST_MM)
    faces = (BOX[None] + 8 * np.arange(len(cells))[:, None, None]).reshape(-1, 3)
    return Mesh(corners.reshape(-1, 3), np.ascontiguousarray(faces, np.int32))


def hull_of(points: F8) -> tuple[float, float]:
    """Area and girth of the convex hull of points (n, 2); a line is gone along twice."""
    try:
        hull = ConvexHull(points)
    except (QhullError, ValueError):
        ends = points - points.mean(axis=0)
        return 0.0, 2 * float(np.ptp(ends @ _along(ends)))
    return float(hull.volume), float(hull.area)


def _along(points: F8) -> F8:
    """The direction in which points (n, 2) lie farthest apart."""
    return np.asarray(np.linalg.svd(points, full_matrices=False)[2][0])


def raft(feet: F8, margin: float, thickness: float) -> Mesh:
    """A plate under all feet (n, 2): their hull grown by `margin`, its edge sloped so that a scraper gets under it."""
    angle = np.arange(24) * 2 * np.pi / 24
    disc = np.stack([np.cos(angle), np.sin(angle)], axis=1)

    def outline(grow: float) -> F8:
        cloud = (feet[:, None, :] + grow * disc).reshape(-1, 2)
        return np.asarray(cloud[ConvexHull(cloud).vertices])  # counter-clockwise in two dimensions

    low = outline(margin)
    middle = low.mean(axis=0)
    high = middle + (low - middle) * (1 + thickness / max(1e-6, float(np.linalg.norm(low - middle, axis=1).max())))
    n = len(low)
    vertices = np.concatenate(
        [np.c_[low, np.zeros(n)], np.c_[high, np.full(n, thickness)], [[*middle, 0.0], [*middle, thickness]]]
    )
    i = np.arange(n)
    j = (i + 1) % n
    faces = np.concatenate(
        [
            np.stack([j, i, np.full(n, 2 * n)], axis=1),
            np.stack([i, j, n + j], axis=1),
            np.stack([i, n + j, n + i], axis=1),
            np.stack([n + i, n + j, np.full(n, 2 * n + 1)], axis=1),
        ]
    )
    return Mesh(vertices, faces.astype(np.int32))
