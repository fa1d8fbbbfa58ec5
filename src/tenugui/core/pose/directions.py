"""Directions that may point down, and the turn that brings one to the plate."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import ConvexHull, QhullError

from ..compiled import njit
from ..errors import CoreError
from ..mesh import Mesh, hull_corners

F8 = NDArray[np.float64]
Direction = tuple[float, float, float]
DOWN = np.array([0.0, 0.0, -1.0])


class DirectionError(CoreError):
    """A direction that is none."""


def unit_vector(given: Sequence[float] | F8) -> F8:
    """A direction as a vector (3,) of length one.

    Raises:
        DirectionError: `bad-direction`.
    """
    vector = np.asarray(given, float)
    length = float(np.linalg.norm(vector)) if vector.shape == (3,) else 0.0
    if not np.isfinite(length) or length < 1e-9:
        numbers = tuple(np.asarray(given, float).ravel().tolist())
        raise DirectionError(
            "bad-direction", f"{numbers} is no direction.", remedy="Give three numbers that are not all zero."
        )
    return np.asarray(vector / length)


def unit(given: Sequence[float] | F8) -> Direction:
    """The same, rounded so that one direction is always written alike.

    >>> unit((0, 3, 0))
    (0.0, 1.0, 0.0)
    """
    x, y, z = (round(float(c), 6) + 0.0 for c in unit_vector(given))
    return x, y, z


def spread_directions(count: int) -> F8:
    """(count, 3) unit vectors spread evenly over the sphere: a Fibonacci spiral (Swinbank and Purser 2006) over one
    half, and its opposites.

    Opposite directions share most of their weighing. An odd count leaves the last opposite out.
    """
    half = -(-count // 2)
    i = np.arange(half) + 0.5
    z = 1 - i / half
    angle = np.pi * (1 + 5**0.5) * i
    r = np.sqrt(1 - z * z)
    upper = np.stack([r * np.cos(angle), r * np.sin(angle), z], axis=1)
    return np.concatenate([upper, -upper])[:count]


def resting_directions(mesh: Mesh, most: int = 60) -> tuple[F8, F8]:
    """Directions (n, 3) of the hull's faces on which the figure rests without tipping, and their areas in mm², largest
    first.

    Coplanar hull faces count as one; a face is stable where the hull's centre of volume projects into it.
    """
    try:
        points = hull_corners(mesh)
        hull = ConvexHull(points)
    except QhullError:
        return np.empty((0, 3)), np.empty(0)
    normals = hull.equations[:, :3]
    a, b, c = (points[hull.simplices[:, i]] for i in range(3))
    areas = np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2
    centre_inside = points[hull.vertices].mean(axis=0)
    volumes = np.abs(np.einsum("ij,ij->i", a - centre_inside, np.cross(b - centre_inside, c - centre_inside))) / 6
    centre = (volumes[:, None] * (a + b + c + centre_inside) / 4).sum(axis=0) / volumes.sum()
    keys, group = np.unique(np.round(normals, 2), axis=0, return_inverse=True)
    group = group.ravel()
    total = np.bincount(group, areas, len(keys))
    rests = []
    for g in np.argsort(-total)[: most * 4]:
        members = np.flatnonzero(group == g)
        normal = (normals[members] * areas[members, None]).sum(axis=0)
        normal /= np.linalg.norm(normal)
        if _over(centre, normal, a[members], b[members], c[members], normals[members]):
            rests.append((normal, total[g]))
    rests = rests[:most]
    return np.array([n for n, _ in rests]).reshape(-1, 3), np.array([t for _, t in rests])


@njit()
def _over(centre: F8, normal: F8, a: F8, b: F8, c: F8, outward: F8) -> bool:
    """Whether the ray from `centre` along `normal` leaves through one of the triangles a, b, c (n, 3)."""
    side = np.empty(3)
    for k in range(len(a)):
        o = outward[k]
        corners = (a[k], b[k], c[k])
        p = corners[0]
        away = ((p[0] - centre[0]) * o[0] + (p[1] - centre[1]) * o[1] + (p[2] - centre[2]) * o[2]) / (
            o[0] * normal[0] + o[1] * normal[1] + o[2] * normal[2]
        )
        x, y, z = centre[0] + normal[0] * away, centre[1] + normal[1] * away, centre[2] + normal[2] * away
        for e in range(3):
            u, v = corners[e], corners[(e + 1) % 3]
            dx, dy, dz = v[0] - u[0], v[1] - u[1], v[2] - u[2]
            hx, hy, hz = x - u[0], y - u[1], z - u[2]
            side[e] = (dy * hz - dz * hy) * o[0] + (dz * hx - dx * hz) * o[1] + (dx * hy - dy * hx) * o[2]
        if (side >= -1e-9).all() or (side <= 1e-9).all():
            return True
    return False


def quaternion_to_plate(down: F8) -> F8:
    """[w, x, y, z] of the shortest turn that brings the unit vector `down` to (0, 0, -1).

    >>> quaternion_to_plate(np.array([0.0, 0.0, -1.0])).tolist()
    [1.0, 0.0, 0.0, 0.0]
    """
    w = 1 + float(np.dot(down, DOWN))
    if w < 1e-9:
        return np.array([0.0, 1.0, 0.0, 0.0])
    q = np.array([w, -down[1], down[0], 0.0])
    return np.asarray(q / np.linalg.norm(q) + 0.0)


def rotation_of(q: F8) -> F8:
    """3x3 matrix of a unit quaternion [w, x, y, z]."""
    w, x, y, z = q
    return np.array(
        [
            [1 - 2 * (y * y + z * z), 2 * (x * y - w * z), 2 * (x * z + w * y)],
            [2 * (x * y + w * z), 1 - 2 * (x * x + z * z), 2 * (y * z - w * x)],
            [2 * (x * z - w * y), 2 * (y * z + w * x), 1 - 2 * (x * x + y * y)],
        ]
    )


def rotation_to_plate(down: F8) -> F8:
    """3x3 matrix of `quaternion_to_plate`."""
    return rotation_of(quaternion_to_plate(np.asarray(down, float)))
