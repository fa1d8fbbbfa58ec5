"""What an area carries: where many contacts stand close together under one underside, one body follows it from below
in place of a pillar each.

A body is made of square cells, each as high as the underside over it less the gap. It stands on the plate with its core
and widens upwards; where the figure is in the way there is no cell, and what is left there is carried by pillars.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage
from scipy.spatial import cKDTree

from ..layers import LANDS_MM
from .around import Around
from .demand import Demand
from .heads import CLEARANCE_MM, free_down
from .reach import BARRED
from .regions import regions
from .tip import Cell, Tip

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
B1 = NDArray[np.bool_]
COVERS = 0.8
"""Prior: a body reaches so many pitches around each of its contacts."""
FROM_TIPS, FROM_MM2 = 6, 12.0
"""Priors: fewer contacts than this, and smaller undersides, stay with pillars."""
CELL_LINES = 2.0
"""Prior: a cell is so many lines wide, a wall on both sides."""
DROP_MM, RISE = 1.5, 1.2
"""The underside is looked for from so far below the nearest contact, and no farther above it than so many times the
way to it.
"""
CORE_MM, CORE_SHARE, CORE_SLENDER = 3.0, 0.35, 12.0
"""Priors: a body's core on the plate reaches this far around its middle, this share of the radius of a disc as large as
its top, and its height over this.
"""
FLARE, SLAB_MM = 1.0, 1.6
"""Priors: rise over run of the underside of what a core carries, and how thick that is at its rim."""
CROSS = ndimage.generate_binary_structure(2, 1)
UP = np.array([0.0, 0.0, 1.0])


@dataclass(frozen=True)
class Areas:
    """Bodies as tips with cells, and which points (n,) of the demand they carry."""

    tips: list[Tip]
    carried: B1


def areas(
    around: Around,
    demand: Demand,
    *,
    pitch: float,
    line: float,
    gap: float,
    weights: F8 | None,
    least: tuple[int, float] = (FROM_TIPS, FROM_MM2),
) -> Areas:
    """Bodies under the undersides of a demand that are wide enough: `pitch` of contacts under a flat, width of a
    `line` and `gap` in mm, and what a scar costs on each face. None for fewer contacts or less mm² than `least`.
    """
    carried, tips = np.zeros(len(demand.points), np.bool_), list[Tip]()
    # What is marked to be held gets a tip of its own.
    asked = np.flatnonzero(np.array(demand.reasons) != "hold")
    region = regions(demand.points[asked], pitch)
    for k in np.flatnonzero(np.bincount(region, minlength=1) >= least[0]).tolist():
        mine = asked[region == k]
        grid = _grid_under(
            around, demand.points[mine], covers=COVERS * pitch, cell=CELL_LINES * line, gap=gap, weights=weights
        )
        for cells in _bodies(grid, least[1]):
            at = np.array(cells)
            away, nearest = cKDTree(at[:, :2]).query(demand.points[mine][:, :2])
            apart = np.abs(at[nearest, 3] + gap - demand.points[mine][:, 2])
            held = mine[(away <= COVERS * pitch) & (apart <= RISE * (away + grid.cell))]
            if len(held) >= least[0]:
                carried[held] = True
                reason = "island" if any(demand.reasons[i] == "island" for i in held) else "overhang"
                tips.append(_tip(cells, reason, line, gap, grid.cell))
    return Areas(tips, carried)


@dataclass(frozen=True)
class _Grid:
    """Which cells (y, x) of a plan carry something, how high their tops are, the first cell's middle, and their width,
    mm.
    """

    there: B1
    top: F8
    origin: F8
    cell: float


def _grid_under(around: Around, points: F8, *, covers: float, cell: float, gap: float, weights: F8 | None) -> _Grid:
    low, high = points[:, :2].min(axis=0) - covers, points[:, :2].max(axis=0) + covers
    nx, ny = (np.ceil((high - low) / cell)).astype(int) + 1
    x, y = np.meshgrid(low[0] + np.arange(nx) * cell, low[1] + np.arange(ny) * cell)
    middles = np.column_stack([x.ravel(), y.ravel()])
    away, nearest = cKDTree(points[:, :2]).query(middles)
    near = np.flatnonzero(away <= covers)
    start = np.column_stack([middles[near], points[nearest[near], 2] - DROP_MM])
    start[:, 2] = np.maximum(start[:, 2], 0.1 * DROP_MM)
    under, face = _underside(around, start)
    most = points[nearest[near], 2] + RISE * away[near] + gap
    good = (face >= 0) & (under <= most)
    if weights is not None:
        good &= weights[np.maximum(face, 0)] < BARRED
    # As high as the lowest that is over it: a corner may lie under a lower fold.
    for corner in cell / 2 * np.array([[-1.0, -1.0], [1.0, -1.0], [-1.0, 1.0], [1.0, 1.0]]):
        at_corner, hit = _underside(around, start + [*corner, 0.0])
        under = np.where((hit >= 0) & (at_corner < under), at_corner, under)
        good &= hit != INSIDE
    top = under - gap
    good &= top > LANDS_MM
    rods = np.column_stack([middles[near], np.maximum(top, 1e-3)])
    good[good] = free_down(around, rods[good], cell / 2 + CLEARANCE_MM, 0.0)
    there, tops = np.zeros(ny * nx, np.bool_), np.zeros(ny * nx)
    there[near[good]], tops[near[good]] = True, top[good]
    return _Grid(there.reshape(ny, nx), tops.reshape(ny, nx), low, cell)


INSIDE = -2


def _underside(around: Around, start: F8) -> tuple[F8, NDArray[np.int64]]:
    """The height of what is straight above each place (n, 3), and its face: -1 for none, INSIDE for a place within the
    figure, from which the next surface looks up.
    """
    distance, face = around.first(start, UP)
    named = face.astype(np.int64)
    named[(face >= 0) & (around.normals[np.maximum(face, 0), 2] >= 0)] = INSIDE
    return np.where(face >= 0, start[:, 2] + distance, np.inf), named


def _bodies(grid: _Grid, least_mm2: float) -> list[list[Cell]]:
    """Cells of each body: what hangs together, is nowhere a single cell wide, and is no smaller than `least_mm2`."""
    whole = ndimage.binary_opening(grid.there, np.ones((2, 2), np.bool_))
    label, many = ndimage.label(whole)
    bodies = []
    for k in range(1, many + 1):
        mine = label == k
        if mine.sum() * grid.cell**2 < least_mm2:
            continue
        begins = _begins(mine, grid.top, grid.cell)
        row, column = np.nonzero(mine)
        x, y = grid.origin[0] + column * grid.cell, grid.origin[1] + row * grid.cell
        cells = zip(x.tolist(), y.tolist(), begins[mine].tolist(), grid.top[mine].tolist(), strict=True)
        bodies.append(list(cells))
    return bodies


def _begins(mine: B1, top: F8, cell: float) -> F8:
    """Where each cell of a body begins (y, x): its core on the plate, the others as high as a slope of FLARE from the
    core outwards lets them.
    """
    deep = ndimage.distance_transform_edt(np.pad(mine, 1))[1:-1, 1:-1]
    middle = np.array(np.unravel_index(int(np.argmax(deep)), deep.shape))
    steps = _steps_from(mine, (int(middle[0]), int(middle[1])))
    tall = float(top[mine].mean())
    core = max(CORE_MM, CORE_SHARE * np.sqrt(mine.sum() * cell**2 / np.pi), tall / CORE_SLENDER) / cell
    begins = np.where(mine, top - SLAB_MM, np.inf)
    # From the farthest inwards: each is low enough to carry those that are one step farther out.
    for far in range(int(steps[mine].max()), 0, -1):
        out = np.where(steps == far, begins, np.inf)
        lowest = ndimage.minimum_filter(out, footprint=CROSS, mode="constant", cval=np.inf) - FLARE * cell
        carries = mine & (steps == far - 1)
        begins[carries] = np.minimum(begins[carries], lowest[carries])
    begins[(steps <= core) | (begins < LANDS_MM)] = 0.0
    return begins


def _steps_from(mine: B1, start: tuple[int, int]) -> I4:
    """How many steps along rows and columns each cell of a body (y, x) lies from one of them."""
    steps = np.full(mine.shape, -1, np.int32)
    front = np.zeros(mine.shape, np.bool_)
    front[start] = True
    count = 0
    while front.any():
        steps[front] = count
        front = ndimage.binary_dilation(front) & mine & (steps < 0)
        count += 1
    return steps


def _tip(cells: list[Cell], reason: str, line: float, gap: float, cell: float) -> Tip:
    """A body as a support: its contact is that of the cell nearest to its middle."""
    at = np.array(cells)
    k = int(np.argmin(np.linalg.norm(at[:, :2] - at[:, :2].mean(axis=0), axis=1)))
    x, y, z = float(at[k, 0]), float(at[k, 1]), float(at[k, 3]) + gap
    return Tip(
        x, y, z, line, (cell,), reason, "plate", ((x, y, 0.0), (x, y, z)), gap=gap, cells=tuple(cells), cell=cell
    )
