"""A thousand prints: what is shared by all of one print and what is each tip's own is drawn, and every print is walked from the plate upwards.

What is strained beyond its strength gives way and hands its load to the others at once, who share it as springs as stiff as they are strong (fibre bundles:
Daniels 1945, Proc. R. Soc. A 183). A body whose last hold has given way is lost from that layer on.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import both_cores, njit, stretches
from ..supports.load import GRIP_MM, LEAST_PULL_N
from .moments import Moments

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
B1 = NDArray[np.bool_]
STRENGTH, PEEL, PLATE, OWN = 0.25, 0.25, 0.3, 0.35
"""Priors: spread (of the logarithm) of the resin's strength from one print to the next, of the film's pull, of the plate's hold, and of one tip from its
neighbour. Strength, pull and a tip of its own together are the spread that margins are weighed by."""
PRINTS = 1000
SEED = 20_261


@dataclass(frozen=True)
class Draws:
    """Factors around 1 of every print (p,): `strength`, `peel`, `plate`; of every tip in it: `own` (t, p). The same seed gives the same numbers, and more tips
    leave those of the first ones as they are.
    """

    strength: F8
    peel: F8
    plate: F8
    own: F8

    @staticmethod
    def of(tips: int, prints: int = PRINTS, seed: int = SEED, spread: float = 1.0) -> Draws:
        """For so many tips; `spread` widens all of them."""
        shared = np.random.default_rng(seed).standard_normal((3, prints)) * spread
        own = np.random.default_rng([seed, 1]).standard_normal((tips, prints)) * spread
        strength, peel, plate = np.exp(shared * np.array([[STRENGTH], [PEEL], [PLATE]]))
        return Draws(strength, peel, plate, np.exp(OWN * own))


@dataclass(frozen=True)
class Walked:
    """Of every print (p,): the moment at which its first body was lost (-1 none), the share of the figure that was lost, and how many tips gave way; and in
    how many prints each node was lost (k,).
    """

    moment: I4
    share: F8
    torn: I4
    lost: I4


@njit()
def _asked(
    holds: F8, alive: B1, low: int, high: int, x: float, y: float, force: float, factor: F8
) -> tuple[float, int]:
    """The largest load over strength that a force asks of a hold that is left, and of which."""
    total, mx, my = 0.0, 0.0, 0.0
    for k in range(low, high):
        if alive[k]:
            total += holds[k, 2]
            mx += holds[k, 2] * holds[k, 0]
            my += holds[k, 2] * holds[k, 1]
    if total <= 0:
        return np.inf, -1
    mx, my = mx / total, my / total
    jxx, jyy, jxy = GRIP_MM * GRIP_MM, GRIP_MM * GRIP_MM, 0.0
    for k in range(low, high):
        if alive[k]:
            share, u, v = holds[k, 2] / total, holds[k, 0] - mx, holds[k, 1] - my
            jxx, jyy, jxy = jxx + share * u * u, jyy + share * v * v, jxy + share * u * v
    ex, ey = x - mx, y - my
    whole = jxx * jyy - jxy * jxy
    ax, ay = (jyy * ex - jxy * ey) / whole, (jxx * ey - jxy * ex) / whole
    base = 1.0 + GRIP_MM * np.sqrt(ax * ax + ay * ay)
    most, worst = 0.0, -1
    for k in range(low, high):
        if alive[k]:
            asked = force * max(0.0, base + ax * (holds[k, 0] - mx) + ay * (holds[k, 1] - my)) / (total * factor[k])
            if asked > most:
                most, worst = asked, k
    return most, worst


@njit()
def _intact(node: I4, force: F8, x: F8, y: F8, low: I4, high: I4, holds: F8, most: F8) -> None:
    """What each moment asks at most of any hold while all are whole and as strong as they are told."""
    alive, one = np.ones(len(holds), np.bool_), np.ones(len(holds))
    for m in range(len(node)):
        most[m] = 0.0
        if force[m] > 0 and high[m] > low[m]:
            most[m], _ = _asked(holds, alive, low[m], high[m], x[m], y[m], force[m], one)


@njit()
def _print(
    node: I4,
    force: F8,
    x: F8,
    y: F8,
    low: I4,
    high: I4,
    parent: I4,
    volume: F8,
    holds: F8,
    most: F8,
    factor: F8,
    peel: float,
    alive: B1,
    touched: B1,
    lost: B1,
    kids: I4,
    shut: I4,
) -> tuple[int, int]:
    """One print: which moment lost the first body, and how many tips gave way; `lost` (k,) becomes which nodes were."""
    weakest = np.inf
    for k in range(len(factor)):
        alive[k] = True
        weakest = min(weakest, factor[k])
    touched[:], lost[:], shut[:] = False, False, 0
    first, torn = -1, 0
    before = -1
    for m in range(len(node)):
        n = node[m]
        if n != before and kids[n] > 0 and shut[n] == kids[n] and not lost[n]:
            lost[n] = True  # all that it grew from is gone
            if parent[n] >= 0:
                shut[parent[n]] += 1
        before = n
        if lost[n] or force[m] <= 0 or high[m] == low[m]:
            continue
        if not touched[n] and most[m] * peel <= weakest:
            continue
        while True:
            asked, worst = _asked(holds, alive, low[m], high[m], x[m], y[m], force[m] * peel, factor)
            if worst >= 0 and asked <= 1.0:
                break
            if worst >= 0:
                alive[worst] = False
                torn += 1
                up = n
                while up >= 0 and not touched[up]:
                    touched[up] = True
                    up = parent[up]
                continue
            if force[m] * peel > LEAST_PULL_N:
                lost[n] = True
                first = m if first < 0 else first
                if parent[n] >= 0:
                    shut[parent[n]] += 1
            break
    return first, torn


@njit()
def _prints(
    node: I4,
    force: F8,
    x: F8,
    y: F8,
    low: I4,
    high: I4,
    parent: I4,
    volume: F8,
    holds: F8,
    tip: I4,
    most: F8,
    kids: I4,
    strength: F8,
    peel: F8,
    plate: F8,
    own: F8,
    start: int,
    end: int,
    moment: I4,
    share: F8,
    torn: I4,
    counts: I4,
) -> None:
    nodes, many = len(parent), len(holds)
    alive, factor = np.empty(many, np.bool_), np.empty(many)
    touched, lost, shut = np.empty(nodes, np.bool_), np.empty(nodes, np.bool_), np.empty(nodes, np.int32)
    whole = 0.0
    for k in range(nodes):
        whole += volume[k] if parent[k] < 0 else 0.0
    below = np.zeros(nodes)
    for p in range(start, end):
        for k in range(many):
            factor[k] = plate[p] if tip[k] < 0 else strength[p] * own[tip[k], p]
        moment[p], torn[p] = _print(
            node, force, x, y, low, high, parent, volume, holds, most, factor, peel[p], alive, touched, lost, kids, shut
        )
        if moment[p] < 0:
            share[p] = 0.0
            continue
        # What a lost body was made of is gone with it; what another grew on by itself is not counted twice.
        gone = 0.0
        below[:] = 0.0
        for k in range(nodes):
            mine = volume[k] if lost[k] else below[k]
            if lost[k]:
                counts[k] += 1
            if parent[k] >= 0:
                below[parent[k]] += mine
            else:
                gone += mine
        share[p] = gone / whole if whole > 0 else 0.0


def printed(moments: Moments, draws: Draws) -> Walked:
    """Print it as often as there are draws. O(prints x moments), and x holds where one gives way; both cores."""
    many, nodes = len(draws.peel), len(moments.parent)
    kids = np.bincount(moments.parent[moments.parent >= 0], minlength=nodes).astype(np.int32)
    most = np.empty(len(moments.node))
    ranges = (moments.node, moments.force, moments.x, moments.y, moments.low, moments.high)
    _intact(*ranges, moments.holds, most)
    moment, share, torn = np.empty(many, np.int32), np.empty(many), np.empty(many, np.int32)
    shares = [np.zeros(nodes, np.int32) for _ in stretches(many)]
    held = (*ranges, moments.parent, moments.volume, moments.holds, moments.tip, most, kids)
    drawn = (draws.strength, draws.peel, draws.plate, np.ascontiguousarray(draws.own))
    parts = [(a, b, shares[i]) for i, (a, b) in enumerate(stretches(many))]
    both_cores(lambda a, b, counts: _prints(*held, *drawn, a, b, moment, share, torn, counts), parts)
    return Walked(moment, share, torn, np.sum(shares, axis=0, dtype=np.int32))
