"""Every way to the plate at once, for what no straight or leaning head reaches: a table of the free space, read upwards
from the plate.

A cell is free for a pillar where the figure is farther off than its radius and clearance; it is on a way where it
stands on the plate, or on a cell below it or beside that, no farther aside than a head may lean. Of several it takes
the shortest (Bellman's recursion over the levels). What the table says is proved by exact distances, and straightened
where they allow.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from ..mesh import Mesh, nearest_of

F8 = NDArray[np.float64]
F4 = NDArray[np.float32]
I4 = NDArray[np.int32]
I1 = NDArray[np.int8]
ASIDE_MM, UP_MM = 0.8, 0.9
"""A cell's width and height: from one level to the next a way leans 41.6° at most."""
BEYOND_MM = 8.0
"""Ways may lead so far around the figure."""
STRAIGHT, LEANING, NONE = 5, 8, 2**30
"""What a stretch costs: straight is firmer. Of ways that cost the same the one that leans high up is taken, and stands
straight below.
"""
NEAR_MM, EXACT_MM = 0.6, 1.4
"""No rod with its clearance is slimmer, and hardly any wider: between these a table is exact."""
WIDER_MM = 0.05
"""Radii are taken up to the next of these steps: a table is read for each."""
MOST_CELLS = 6_000_000
"""A table of a larger figure has wider cells."""


@dataclass(frozen=True)
class Table:
    """How far the figure is from the middle of every cell (z, y, x), mm; the first cell's middle; width and height of a
    cell.
    """

    room: F4
    origin: F8
    aside: float
    up: float

    def cells(self, points: F8) -> NDArray[np.int64]:
        """The cells (n, 3: z, y, x) that points (n, 3) lie in; the nearest there is."""
        size = np.array(self.room.shape)
        steps = (points - self.origin) / np.array([self.aside, self.aside, self.up])
        return np.clip(np.rint(steps[:, ::-1]).astype(np.int64), 0, size - 1)

    def middle(self, z: int, y: int, x: int) -> F8:
        """The middle of a cell, mm."""
        return self.origin + np.array([x * self.aside, y * self.aside, z * self.up])


def table_of(figure: Mesh) -> Table:
    """The table of a figure above the plate at 0, made on first use and kept with it."""
    table: Table | None = figure.__dict__.get("_table")
    if table is None:
        low, high = figure.lower, figure.upper
        wide = np.array([*(high[:2] - low[:2] + 2 * BEYOND_MM), high[2]])
        cells = float(np.prod(wide / np.array([ASIDE_MM, ASIDE_MM, UP_MM])))
        coarse = max(1.0, (cells / MOST_CELLS) ** (1 / 3))
        aside, up = ASIDE_MM * coarse, UP_MM * coarse
        step = np.array([aside, aside, up])
        origin = np.array([low[0] - BEYOND_MM, low[1] - BEYOND_MM, up / 2])
        nx, ny, nz = (int(n) for n in np.ceil((wide + [aside, aside, up]) / step))
        table = Table(
            nearest_of(figure).table(origin, step, (nz, ny, nx), near=NEAR_MM, exact=EXACT_MM), origin, aside, up
        )
        figure.__dict__["_table"] = table
    return table


@njit()
def _rise(room: F4, wide: float, cost: I4, come: I1) -> None:
    """`cost` of the cheapest way from every cell to the plate, NONE where there is none, and where it comes from below:
    0 straight, 1 to 4 from beside.
    """
    levels, rows, columns = room.shape
    for k in range(levels):
        for j in range(rows):
            for i in range(columns):
                cost[k, j, i] = NONE
                if room[k, j, i] < wide:
                    continue
                if k == 0:
                    cost[k, j, i] = 0
                    continue
                best, way = cost[k - 1, j, i] + STRAIGHT, 0
                if i > 0 and cost[k - 1, j, i - 1] + LEANING <= best:
                    best, way = cost[k - 1, j, i - 1] + LEANING, 1
                if i + 1 < columns and cost[k - 1, j, i + 1] + LEANING <= best:
                    best, way = cost[k - 1, j, i + 1] + LEANING, 2
                if j > 0 and cost[k - 1, j - 1, i] + LEANING <= best:
                    best, way = cost[k - 1, j - 1, i] + LEANING, 3
                if j + 1 < rows and cost[k - 1, j + 1, i] + LEANING <= best:
                    best, way = cost[k - 1, j + 1, i] + LEANING, 4
                cost[k, j, i], come[k, j, i] = min(best, NONE), way


@dataclass(frozen=True)
class Ways:
    """A table read for pillars of one radius with their clearance."""

    table: Table
    cost: I4
    come: I1

    @classmethod
    def of(cls, figure: Mesh, wide: float) -> Ways:
        """Of a figure, for rods of radius `wide` with what they keep clear; kept with it, to WIDER_MM."""
        ways: dict[int, Ways] = figure.__dict__.setdefault("_ways", {})
        key = math.ceil(wide / WIDER_MM - 1e-9)
        if key not in ways:
            table = table_of(figure)
            cost, come = np.empty(table.room.shape, np.int32), np.zeros(table.room.shape, np.int8)
            _rise(table.room, key * WIDER_MM, cost, come)
            ways[key] = cls(table, cost, come)
        return ways[key]

    def costs(self, points: F8) -> F8:
        """What the way from each point (n, 3) costs, in mm of straight pillar; inf where there is none."""
        k, j, i = self.table.cells(points).T
        cost = self.cost[k, j, i]
        return np.where(cost < NONE, cost * (self.table.up / STRAIGHT), np.inf)

    def down(self, point: F8) -> list[F8]:
        """The middles of the cells of the way from a point that has one, from its own cell to the lowest."""
        k, j, i = (int(v) for v in self.table.cells(point[None])[0])
        middles = [self.table.middle(k, j, i)]
        while k > 0:
            way = int(self.come[k, j, i])
            k, i, j = k - 1, i + (0, -1, 1, 0, 0)[way], j + (0, 0, 0, -1, 1)[way]
            middles.append(self.table.middle(k, j, i))
        return middles
