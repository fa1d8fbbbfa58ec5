"""Square columns that fuse to blocks, with short necks to the figure."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .around import Around
from .heads import CLEARANCE_MM, SHORTEST_MM, free_down, free_head
from .route import Route, route

F8 = NDArray[np.float64]
B1 = NDArray[np.bool_]
RAYS_MM = 0.8
"""Distance between the rays that search a column for what stands in it."""
BLOCK_NECK_MM = 1.2
"""Prior: height between the top of a block and the figure, bridged by necks."""


def ring(radius: float) -> F8:
    """The axis and rings around it out to `radius`, (n, 3): no thicker gap than about RAYS_MM."""
    points = [np.zeros((1, 3))]
    rings = max(1, round(radius / RAYS_MM))
    for k in range(1, rings + 1):
        r = radius * k / rings
        sides = 8 * max(1, round(2 * np.pi * r / RAYS_MM / 8))
        angle = np.arange(sides) * 2 * np.pi / sides
        points.append(np.stack([r * np.cos(angle), r * np.sin(angle), np.zeros(sides)], axis=1))
    return np.concatenate(points)


def _flat_tops_free(rays: Around, tops: F8, radius: float, floor: float) -> B1:
    """Whether nothing stands below a flat top (n, 3) out to its corners: a rod is proved only from its own radius below
    its end on.
    """
    if not len(tops):
        return np.zeros(0, np.bool_)
    around = ring(radius)
    origins = (tops[:, None, :] + around).reshape(-1, 3)
    distance, _ = rays.first(origins, np.array([0.0, 0.0, -1.0]))
    clear = distance > np.repeat(tops[:, 2] - floor, len(around)) + 1e-3
    return np.asarray(clear.reshape(len(tops), -1).all(axis=1))


def columns(
    rays: Around, tips: F8, radii: F8, *, floor: float, side: float, neck: float = BLOCK_NECK_MM
) -> list[Route]:
    """Tips (n, 3) on square columns of the given side that fuse to blocks where they overlap, up to a `neck` below
    each; pillars where a column has no room.
    """
    half = side / 2
    corner = half * np.sqrt(2)
    tops = tips - np.array([0, 0, neck])
    free = free_down(rays, tops, corner + CLEARANCE_MM, floor) & (tops[:, 2] > floor + SHORTEST_MM)
    free &= _flat_tops_free(rays, tops, corner + CLEARANCE_MM, floor)
    necks = np.minimum(radii, neck / 3)
    free &= free_head(rays, tips, tops, necks + CLEARANCE_MM)
    slim = np.flatnonzero(~free)
    others = dict(zip(slim.tolist(), route(rays, tips[slim], radii[slim], floor, []), strict=True))
    routes = []
    for i, tip in enumerate(tips):
        foot = np.array([tip[0], tip[1], floor])
        above = tops[i] + np.array([0, 0, 0.05])
        block = Route(
            np.array([foot, tops[i], above, tip]), "plate", radii=np.array([corner, corner, necks[i]]), square=True
        )
        routes.append(block if free[i] else others[i])
    return routes
