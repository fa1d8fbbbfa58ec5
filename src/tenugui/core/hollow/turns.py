"""What a turn after a turn leaves: liquid that stays in one position runs on in the next. And how the level falls while
it runs.

Terms. *Pocket*: liquid that no path downhill leads out in one position; what flows into it beyond its room runs on out
of it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from .liquid import OUT_SHARE, Mouth, Space, flooded, flow, levelled

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
B1 = NDArray[np.bool_]
MOST_STEPS = 24
WORTH_A_TURN = 0.2
"""Prior: a second position is told where it lets out so much of what the first leaves."""


@dataclass(frozen=True)
class Turns:
    """Positions to hold a cavity in, one after the other (gravity in the figure's frame), and mm³ that stay
    after each.
    """

    ways: tuple[tuple[float, float, float], ...]
    left: tuple[float, ...]


@njit()
def _pockets(filled: B1, beside: I4, into: I4, order: I4, pocket: I4) -> int:
    """Name the pockets, and for each cell that which its liquid meets first on its way out (-1: none). `order`: cells
    as the flood reached them.
    """
    pocket[:] = -2
    many = 0
    stack = np.empty(len(filled), np.int64)
    for seed in range(len(filled)):
        if not filled[seed] or pocket[seed] >= 0:
            continue
        top = 1
        stack[0] = seed
        pocket[seed] = many
        while top:
            top -= 1
            c = stack[top]
            for k in range(6):
                n = beside[c, k]
                if n >= 0 and filled[n] and pocket[n] < 0:
                    pocket[n] = many
                    stack[top] = n
                    top += 1
        many += 1
    for c in order:
        if pocket[c] == -2:
            pocket[c] = -1 if into[c] < 0 else pocket[into[c]]
    return many


def after(space: Space, mouths: Sequence[Mouth], gravity: F8, liquid: B1) -> B1:
    """Cells (n,) that are filled once a cavity with `liquid` (n,) in it has been held with `gravity` downwards."""
    out_of = flooded(space, mouths, gravity)
    filled, height = out_of.filled, out_of.height
    pocket = np.empty(len(filled), np.int32)
    many = int(_pockets(filled, space.beside, out_of.into, out_of.order, pocket))
    if not many:
        return np.zeros(len(filled), np.bool_)
    pooled = np.bincount(pocket[liquid & (pocket >= 0)], minlength=many)
    # A pocket fills from its lowest cell up, as far as what came into it reaches.
    cells = np.flatnonzero(filled)
    cells = cells[np.lexsort((height[cells], pocket[cells]))]
    starts = np.searchsorted(pocket[cells], np.arange(many))
    rank = np.arange(len(cells)) - starts[pocket[cells]]
    out = np.zeros(len(filled), np.bool_)
    out[cells[rank < pooled[pocket[cells]]]] = True
    return out


def turned(space: Space, mouths: Sequence[Mouth], ways: Sequence[F8]) -> list[B1]:
    """Cells (n,) of a full cavity that are still filled after each of these positions, held one after the other."""
    liquid, states = np.ones(len(space.middles), np.bool_), []
    for way in ways:
        liquid = after(space, mouths, way, liquid)
        states.append(liquid)
    return states


def best_turns(space: Space, mouths: Sequence[Mouth], ways: Sequence[F8]) -> Turns:
    """The position that leaves least, and a second one after it where that lets out a good part of the rest."""
    per_cell = space.width**3
    full = np.ones(len(space.middles), np.bool_)
    first = [after(space, mouths, way, full) for way in ways]
    best = min(range(len(ways)), key=lambda i: int(first[i].sum()))
    turns, left = [ways[best]], [float(first[best].sum()) * per_cell]
    if left[0] > 0:
        second = [after(space, mouths, way, first[best]) for way in ways]
        then = min(range(len(ways)), key=lambda i: int(second[i].sum()))
        rest = float(second[then].sum()) * per_cell
        if rest < (1 - WORTH_A_TURN) * left[0]:
            turns.append(ways[then])
            left.append(rest)
    return Turns(tuple((float(w[0]), float(w[1]), float(w[2])) for w in turns), tuple(left))


def falling(space: Space, mouths: Sequence[Mouth], gravity: F8) -> tuple[list[float], list[float]]:
    """How the level falls while a full cavity is held with `gravity` downwards: seconds, and mm along -gravity that the
    surface stands at then.

    The same flow as `drained`; until OUT_SHARE is out, or the flow ceases.
    """
    out = levelled(space, mouths, gravity)
    filled, height = out.filled, out.height
    sills = [float(height[m.cells].min()) if len(m.cells) else np.inf for m in mouths]
    if not sills or not np.isfinite(min(sills)):
        return [0.0], [float(height.max()) if len(height) else 0.0]
    lowest = mouths[int(np.argmin(sills))]
    level = np.sort(height[~filled])[::-1]
    rates = flow(lowest.radius, lowest.length, np.maximum(level - min(sills), 0.0) + lowest.length)
    runs = np.flatnonzero(rates > 0)
    runs = runs[: max(1, int(np.ceil(OUT_SHARE * len(runs))))]
    if not len(runs):
        return [0.0], [float(height.max())]
    clock = np.cumsum(space.width**3 / rates[runs])
    at = np.unique(np.linspace(0, len(runs) - 1, MOST_STEPS).astype(int))
    return [0.0, *clock[at].tolist()], [float(height.max()), *level[runs][at].tolist()]
