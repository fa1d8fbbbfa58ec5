"""What the liquid in a cavity does: where it stays when the figure is held one way, and how long the rest takes to run
out.

Terms. *Gravity*: unit vector of the figure's frame along which liquid falls. *Sill*: the lowest place of a hole's
mouth. *Pocket*: liquid that no path downhill leads out.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from .field import Field

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
I8 = NDArray[np.int64]
B1 = NDArray[np.bool_]
MOST_CELLS = 400_000
MOST_SWEEPS = 12
"""A cavity that winds more often than that is flooded cell by cell."""
MOST_SWEEPS = 12
GRAVITY_M_S2 = 9.81
STEPS_A_CELL = 16
"""Steps of a cell's width to which the flood's heights are rounded."""
JET = 0.82
"""Through a short tube runs so much of what its section and the head would let through (Torricelli; Borda 1766)."""
OUT_SHARE = 0.95
"""The last drops take for ever; a cavity counts as empty when so much of what runs out is out."""


@dataclass(frozen=True)
class Fluid:
    """What runs: viscosity in Pa·s, surface tension in N/m, density in kg/m³."""

    viscosity: float
    surface: float
    density: float


RESIN = Fluid(0.4, 0.035, 1120.0)
"""Priors: resin at room temperature; a data sheet knows better."""
WASH = Fluid(0.003, 0.023, 800.0)
"""Priors: a spirit for washing, with some resin in it."""


@dataclass(frozen=True)
class Space:
    """The empty cells (n, 3) of a cavity by their middles in mm, their width, and each one's neighbours (n, 6), -1 for
    none.
    """

    middles: F8
    width: float
    beside: I4

    @property
    def volume(self) -> float:
        """Of all cells, mm³."""
        return len(self.middles) * self.width**3


def space_of(field: Field, empty: B1, start: F8) -> Space:
    """The cells of a cavity, coarser where there are more than MOST_CELLS; `start`: the first cell (z, y, x) of `empty`
    in the field.
    """
    step = max(1, math.ceil((int(empty.sum()) / MOST_CELLS) ** (1 / 3)))
    coarse = empty[::step, ::step, ::step]
    at = np.argwhere(coarse)
    return space_between(at, field.place(at * step + start), step * field.pitch)


def space_between(at: I8, middles: F8, width: float) -> Space:
    """Cells by their places (n, 3) on a grid, each told its neighbours."""
    number = np.full(tuple(n + 3 for n in (at.max(axis=0) if len(at) else (0, 0, 0))), -1, np.int32)
    number[tuple((at + 1).T)] = np.arange(len(at), dtype=np.int32)
    beside = np.empty((len(at), 6), np.int32)
    for k, (axis, way) in enumerate((a, w) for a in range(3) for w in (-1, 1)):
        moved = at + 1
        moved[:, axis] += way
        beside[:, k] = number[tuple(moved.T)]
    return Space(middles, width, beside)


@njit()
def _flood(height: I4, beside: I4, openings: I4, head: I4, level: I4, into: I4, order: I4) -> int:
    """Priority flood (Barnes, Lehman, Mulla 2014) from the openings inwards: the level to which each cell stays filled
    (above all of them to begin with); the cell that it was reached from; the cells as they were reached, and how many.

    Heights are whole numbers, so that the queue is a stack for each (`head`, -1 where empty) and the flood is linear.
    """
    below = np.empty(len(height), np.int32)
    for c in openings:
        at = height[c]
        if level[c] > at:
            level[c] = at
            below[c], head[at] = head[at], c
    reached = 0
    for at in range(len(head)):
        while head[at] >= 0:
            c = head[at]
            head[at] = below[c]
            order[reached] = c
            reached += 1
            for k in range(6):
                n = beside[c, k]
                if n < 0:
                    continue
                # Whoever reaches a cell first reaches it from the lowest level: it is final.
                up = max(at, height[n])
                if level[n] > up:
                    level[n] = up
                    into[n] = c
                    below[n], head[up] = head[up], n
    return reached


@njit()
def _swept(height: I4, beside: I4, level: I4, most: int) -> bool:
    """Levels by sweeps to and fro, each in the order of memory (Vincent 1993): a cell stays filled no higher than the
    lowest level beside it, nor lower than itself. False where `most` sweeps do not settle all: then only the flood
    does.
    """
    n = len(height)
    for sweep in range(most):
        changed = False
        for i in range(n):
            c = i if sweep % 2 == 0 else n - 1 - i
            if level[c] > height[c]:
                low = level[c]
                for k in range(6):
                    other = beside[c, k]
                    if other >= 0:
                        low = min(low, level[other])
                up = max(low, height[c])
                if up < level[c]:
                    level[c] = up
                    changed = True
        if not changed:
            return True
    return False


@dataclass(frozen=True)
class Mouth:
    """A hole as the liquid sees it: the cells that it opens, its radius and the length of its channel in mm."""

    cells: I8
    radius: float
    length: float


def stays(space: Space, mouths: Sequence[Mouth], gravity: F8) -> B1:
    """Cells (n,) that stay filled when the figure is held with `gravity` downwards long enough; all of them where
    nothing is open.
    """
    return levelled(space, mouths, gravity).filled


@dataclass(frozen=True)
class Levelled:
    """Of each cell (n,): whether it stays filled, its height in mm, and that in whole steps of `step` mm above the
    lowest.
    """

    filled: B1
    height: F8
    whole: I4
    step: float


@dataclass(frozen=True)
class Flooded:
    """Of each cell (n,): whether it stays filled, which one its liquid runs to (-1 out), and its height in mm; and the
    cells as the flood reached them.
    """

    filled: B1
    into: I4
    order: I4
    height: F8


def _dry(space: Space, mouths: Sequence[Mouth], gravity: F8) -> tuple[F8, I4, float, I4, I4]:
    """Before anything flows: heights of the cells in mm and in whole steps, a step in mm, the cells that are open, and
    levels above all.
    """
    height = -(space.middles @ np.asarray(gravity, float))
    step = space.width / STEPS_A_CELL
    whole = ((height - height.min(initial=np.inf)) * (1 / step) + 0.5).astype(np.int32)
    openings = np.unique(np.concatenate([m.cells for m in mouths])) if mouths else np.empty(0, np.int64)
    level = np.full(len(height), int(whole.max(initial=0)) + 1 + STEPS_A_CELL, np.int32)
    return height, whole, step, openings.astype(np.int32), level


def levelled(space: Space, mouths: Sequence[Mouth], gravity: F8) -> Levelled:
    """What stays in a cavity whose mouths are open, without the ways that the rest takes."""
    height, whole, step, openings, level = _dry(space, mouths, gravity)
    level[openings] = whole[openings]
    if not _swept(whole, space.beside, level, MOST_SWEEPS):
        return Levelled(flooded(space, mouths, gravity).filled, height, whole, step)
    return Levelled(level > whole + STEPS_A_CELL // 2, height, whole, step)


def flooded(space: Space, mouths: Sequence[Mouth], gravity: F8) -> Flooded:
    """What a flood from the open mouths inwards leaves, and the ways out."""
    height, whole, _, openings, level = _dry(space, mouths, gravity)
    head = np.full(int(whole.max(initial=0)) + 1, -1, np.int32)
    into, order = np.full(len(height), -1, np.int32), np.empty(len(height), np.int32)
    many = int(_flood(whole, space.beside, openings, head, level, into, order))
    return Flooded(level > whole + STEPS_A_CELL // 2, into, order[:many], height)


def flow(radius: float, length: float, head: F8 | float, fluid: Fluid = RESIN) -> F8:
    """mm³ a second through a hole (mm) under heads of a fluid (mm): Poiseuille's channel and Sampson's orifice in a row
    (Dagan, Weinbaum, Pfeffer 1982), and what its speed takes (Torricelli, with JET of the section), less what surface
    tension holds back; 0 where that is all.

    >>> flow(0.5, 2.0, np.array([1.0, 20.0])).round(2).tolist(), float(flow(1.5, 2.0, 20.0).round())
    ([0.0, 1.89], 227.0)
    """
    r, long = radius * 1e-3, length * 1e-3
    drive = np.maximum(fluid.density * GRAVITY_M_S2 * np.asarray(head, float) * 1e-3 - 2 * fluid.surface / r, 0.0)
    drag = fluid.viscosity * (8 * long / (math.pi * r**4) + 3 / r**3)
    inert = fluid.density / (2 * (JET * math.pi * r**2) ** 2)
    return np.asarray(2 * drive / (drag + np.sqrt(drag**2 + 4 * inert * drive)) * 1e9)


@dataclass(frozen=True)
class Drained:
    """What one position of the figure leaves and takes: mm³ retained by pockets, mm³ that the lowest hole's surface
    tension holds back, and seconds until OUT_SHARE of the rest is out (None where air cannot come in, or nothing is
    open).
    """

    retained: float
    clings: float
    seconds: float | None
    filled: B1


def drained(space: Space, mouths: Sequence[Mouth], gravity: F8, fluid: Fluid = RESIN) -> Drained:
    """Hold a full cavity with `gravity` downwards: the lowest hole lets the liquid out, any other lets air in."""
    out = levelled(space, mouths, gravity)
    filled, height = out.filled, out.height
    retained = float(filled.sum()) * space.width**3
    if not mouths:
        return Drained(retained, 0.0, None, filled)
    sills = [float(height[m.cells].min()) if len(m.cells) else np.inf for m in mouths]
    lowest = mouths[int(np.argmin(sills))]
    # The level falls from step to step; what is left above the sill when the flow has ceased clings.
    cells = np.bincount(out.whole[~filled])[::-1]
    base = float(height.min()) if len(height) else 0.0
    above = np.maximum(base + np.arange(len(cells))[::-1] * out.step - min(sills), 0.0) + lowest.length
    per_cell = space.width**3
    rates = flow(lowest.radius, lowest.length, above, fluid)
    runs = rates > 0
    most = math.ceil(OUT_SHARE * int(cells[runs].sum()))
    # Of the last step that counts only so many cells as are wanted.
    counted = np.diff(np.minimum(np.cumsum(cells[runs]), most), prepend=0)
    seconds = float((counted * per_cell / rates[runs]).sum())
    breathes = sum(s < np.inf for s in sills) >= 2
    return Drained(retained, float(cells[~runs].sum()) * per_cell, seconds if breathes else None, filled)
