"""A layer's lines in the order that they are drawn, with the ways between them, in one compiled walk.

Kinds follow each other by their rank; within one, each line is the nearest to where the nozzle is. A way to a line of
the figure stays inside where it can.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from .inside import MOST_MM, NOWHERE, Inside, way_inside
from .lines import BRIM, INNER, INTERFACE, IRON, OUTER, RAFT, SOLID, SPARSE, SUPPORT, Line
from .seams import BACK, seam

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
I8 = NDArray[np.int64]
B1 = NDArray[np.bool_]
NEXT_MM = 1.5
"""Prior: a travel no longer than this oozes nothing, and the filament is not drawn back."""
APART = (SUPPORT, INTERFACE, BRIM, RAFT)
"""What stands apart from the figure: no way to it stays inside."""
ORDER = ((RAFT,), (BRIM,), (SUPPORT, INTERFACE), (INNER,), (OUTER,), (SOLID,), (SPARSE,), (IRON,))
"""Supports first, then what is inside, the outer wall after it: what is seen rests on what is not. Roofs are ironed
when they lie.
"""
RANK = {kind: rank for rank, kinds in enumerate(ORDER) for kind in kinds}


@dataclass(frozen=True)
class Laid:
    """Moves of a layer: the `points` (n, 2) that each goes to, the `line` (n,) it belongs to by its number, whether it
    only leads there (`travel`, n), and whether that way was kept `within` the figure (n,).
    """

    points: F8
    line: I4
    travel: B1
    within: B1


@njit()
def _nearest(points: F8, starts: I8, closed: B1, begin: I8, left: B1, low: int, high: int, x: float, y: float) -> int:
    """The line of low to high, of those left, one of whose ends is nearest; an open one from its end is told as -1 -
    line.
    """
    best, least = 0, np.inf
    for k in range(low, high):
        if not left[k]:
            continue
        a = starts[k] + (begin[k] if closed[k] else 0)
        far = (points[a, 0] - x) ** 2 + (points[a, 1] - y) ** 2
        if far < least:
            best, least = k, far
        if not closed[k]:
            b = starts[k + 1] - 1
            far = (points[b, 0] - x) ** 2 + (points[b, 1] - y) ** 2
            if far < least:
                best, least = -1 - k, far
    return best


@njit()
def _laid(
    points: F8,
    starts: I8,
    closed: B1,
    begin: I8,
    apart: B1,
    ranks: I8,
    at: F8,
    kept: bool,
    outline: F8,
    outline_starts: I8,
    loops: F8,
    loop_starts: I8,
    xy: F8,
    line: I4,
    travel: B1,
    within: B1,
) -> int:
    """Fill the rows of `Laid`; how many, or -1 where there is no room for them. `ranks`: where each rank's
    lines begin.
    """
    left = np.ones(len(closed), np.bool_)
    along, of = np.empty(len(outline)), np.empty(len(outline), np.int64)
    around = np.empty((2 * len(loops) + 8, 2))
    here, there = at.copy(), np.empty(2)
    n = 0
    for rank in range(len(ranks) - 1):
        low, high = ranks[rank], ranks[rank + 1]
        for _ in range(low, high):
            nearest = _nearest(points, starts, closed, begin, left, low, high, here[0], here[1])
            k, back = (nearest, False) if nearest >= 0 else (-1 - nearest, True)
            left[k] = False
            first, many = starts[k], starts[k + 1] - starts[k]
            steps = many + 1 if closed[k] else many
            j = first + (begin[k] if closed[k] else many - 1 if back else 0)
            there[0], there[1] = points[j, 0], points[j, 1]
            ways = NOWHERE
            far = np.hypot(there[0] - here[0], there[1] - here[1])
            if kept and not apart[k] and NEXT_MM < far <= MOST_MM:
                ways = way_inside(here, there, outline, outline_starts, loops, loop_starts, along, of, around)
            if n + max(ways, 0) + steps > len(xy):
                return -1
            for i in range(ways):
                xy[n], line[n], travel[n], within[n] = around[i], k, True, True
                n += 1
            for i in range(steps):
                if closed[k]:
                    j = first + (begin[k] + i) % many
                else:
                    j = first + (many - 1 - i if back else i)
                xy[n, 0], xy[n, 1] = points[j, 0], points[j, 1]
                line[n], travel[n], within[n] = k, i == 0, ways != NOWHERE
                n += 1
            here[0], here[1] = xy[n - 1, 0], xy[n - 1, 1]
    return n


def laid(
    lines: Sequence[Line],
    at: F8,
    *,
    seam_at: int = BACK,
    costs: Callable[[F8], F8] | None = None,
    inside: Inside | None = None,
) -> Laid:
    """Order lines from `at` (2,), the numbers being those of the given lines; closed ones begin at the back, outermost
    ones at their seam, where by `costs` of points (n, 2) it costs least; ways are kept `inside`.
    """
    if not lines:
        return Laid(np.zeros((0, 2)), np.zeros(0, np.int32), np.zeros(0, np.bool_), np.zeros(0, np.bool_))
    rank = np.array([RANK[line.kind] for line in lines])
    order = np.argsort(rank, kind="stable")
    mine = [lines[k] for k in order.tolist()]
    starts = np.concatenate([[0], np.cumsum([len(line.points) for line in mine])]).astype(np.int64)
    within = inside or Inside.nothing()
    given = (
        np.concatenate([line.points for line in mine]),
        starts,
        np.array([line.closed for line in mine]),
        _begins(mine, seam_at, costs),
        np.array([line.kind in APART for line in mine]),
        np.concatenate([[0], np.flatnonzero(np.diff(rank[order])) + 1, [len(mine)]]).astype(np.int64),
        np.asarray(at, float),
        inside is not None,
        within.outline,
        within.starts,
        within.loops,
        within.loop_starts,
    )
    room = int(starts[-1]) + len(mine) + len(within.loops)
    while True:
        xy, line = np.empty((room, 2)), np.empty(room, np.int32)
        travel, kept = np.empty(room, np.bool_), np.empty(room, np.bool_)
        many = int(_laid(*given, xy, line, travel, kept))
        if many >= 0:
            return Laid(xy[:many], order[line[:many]].astype(np.int32), travel[:many], kept[:many])
        room *= 2


def _begins(lines: Sequence[Line], seam_at: int, costs: Callable[[F8], F8] | None) -> I8:
    """At which of its points each line begins."""
    begins = np.zeros(len(lines), np.int64)
    outer = [k for k, line in enumerate(lines) if line.closed and line.kind == OUTER]
    cost: list[F8 | None] = [None] * len(outer)
    if costs is not None and outer:
        many = np.cumsum([len(lines[k].points) for k in outer])
        cost = [*np.split(costs(np.concatenate([lines[k].points for k in outer])), many[:-1])]
    for k, mine in zip(outer, cost, strict=True):
        begins[k] = seam(lines[k].points, seam_at, mine)
    for k, line in enumerate(lines):
        if line.closed and line.kind != OUTER:
            begins[k] = seam(line.points, BACK)
    return begins
