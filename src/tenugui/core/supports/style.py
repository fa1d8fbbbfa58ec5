"""In which manner tips are led to the plate: pillars, trees, blocks, or each where it serves best. What
areas do not carry (`areas`) stands on pillars.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .around import Around
from .columns import columns
from .demand import Demand
from .route import Route, route
from .tip import Tip
from .trees import grow

F8 = NDArray[np.float64]
STYLES = ("pillars", "trees", "mixed", "blocks", "areas")
FIRST_MM, FIRST_WIDE_MM, BLOCK_FIRST_MM = 1.0, 2.0, 2.4
"""Priors: islands that begin so near above a figure's lowest point and are no wider stand on a block of this side."""
TALL_MM = 15.0
"""Prior: in a mixed set what is higher is held by trees."""
GRAZES_MM = 0.1
BLOCK_SHARE = 1.1
"""Prior: side of a block's column over the pitch of the tips, so that neighbours fuse."""


def routes_in(
    rays: Around,
    demand: Demand,
    radii: F8,
    *,
    tips: list[Tip],
    style: str,
    pitch: float,
    low: float,
    upright: bool,
) -> list[Route]:
    """Ways to the plate in a style, but for the figure's first islands, from its lowest point at `low` mm on, that
    stand on blocks: on them hangs all that follows while nothing else does. What a later pass finds leans on what
    stands.
    """
    points = demand.points
    if style == "blocks":
        return columns(rays, points, radii, floor=0.0, side=BLOCK_SHARE * pitch)
    first = (np.array(demand.reasons) == "island") & (points[:, 2] < low + FIRST_MM) & (demand.widths < FIRST_WIDE_MM)
    tall = style == "trees" or ((points[:, 2] > TALL_MM) & (style == "mixed"))
    tall = np.broadcast_to(tall, len(points)) & ~first
    routes: list[Route | None] = [None] * len(points)
    standing = [Route(np.array(t.joints), t.on, t.branch) for t in tips if not (t.square or t.cells)]

    def block(p: F8, r: F8) -> list[Route]:
        return columns(rays, p, r, floor=0.0, side=BLOCK_FIRST_MM, neck=BLOCK_FIRST_MM)

    def trees(p: F8, r: F8) -> list[Route]:
        return grow(rays, p, r, 0.0)

    def pillars(p: F8, r: F8) -> list[Route]:
        return route(rays, p, r, 0.0, standing, upright=upright)

    for mask, ways in ((first, block), (tall, trees), (~first & ~tall, pillars)):
        mine = np.flatnonzero(mask)
        if len(mine):
            for i, way in zip(mine.tolist(), ways(points[mine], radii[mine]), strict=True):
                routes[i] = _kept_off(rays, way, demand.reasons[i])
    return [way for way in routes if way is not None]


STUB_MM = 0.2


def _kept_off(rays: Around, way: Route, reason: str) -> Route:
    """A way, or none where it is a bare stub that grazes the figure and nothing starts in mid air for want of it."""
    if reason == "island" or way.on == "none" or (way.on == "plate" and len(way.joints) > 2) or way.branch:
        return way
    foot, tip = way.joints[0], way.joints[-1]
    low, high = foot + 0.3 * (tip - foot), foot + 0.6 * (tip - foot)
    wide = min(STUB_MM, 0.15 * float(tip[2] - foot[2])) + GRAZES_MM
    return way if rays.free(low[None], high[None], wide, wide)[0] else Route(np.empty((0, 3)), "none")
