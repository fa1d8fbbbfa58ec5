"""A thousand prints: what is shared by all of one print and what is each tip's own is drawn, and every print is walked
from the plate upwards.

What is strained beyond its strength gives way and hands its load to the others at once, who share it as springs as
stiff as they are strong (fibre bundles: Daniels 1945, Proc. R. Soc. A 183). A body whose last hold has given way is
lost from that layer on.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..compiled import both_cores, njit, stretches
from ..supports.load import GRIP_MM, LEAST_PULL_N
from .moments import Moments

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
I8 = NDArray[np.int64]
B1 = NDArray[np.bool_]
STRENGTH, PEEL, PLATE, OWN = 0.25, 0.25, 0.3, 0.35
"""Priors: spread (of the logarithm) of the resin's strength from one print to the next, of the film's pull, of the
plate's hold, and of one tip from its neighbour. Strength, pull and a tip of its own together are the spread that
margins are weighed by.
"""
SHARED = (STRENGTH**2 + PEEL**2) / (STRENGTH**2 + PEEL**2 + OWN**2)
"""The share of that spread's square that all tips of one print have in common."""
PRINTS = 1000
SEED = 20_261


@dataclass(frozen=True)
class Draws:
    """Factors around 1 of every print (p,): `strength`, `peel`, `plate`; of every tip in it: `own` (t, p). The same
    seed gives the same numbers, and more tips leave those of the first ones as they are.
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
    """Of every print (p,): the moment at which its first body was lost (-1 none), the share of the figure that was
    lost, and how many tips gave way; and in how many prints each node was lost (k,).
    """

    moment: I4
    share: F8
    torn: I4
    lost: I4


class Bodies(NamedTuple):
    """What every print is walked over: its moments, of how many each node is made (k,), and what each moment asks at
    most while all hold (m,).
    """

    moments: Moments
    kids: I4
    most: F8


class State(NamedTuple):
    """What one print is at, written anew for each: of holds (h,) what is left and how strong, the order from the
    weakest up and the factors in it; of nodes (k,) what was touched, lost, shut, and what is kept of their holds.
    """

    alive: B1
    factor: F8
    order: I8
    ordered: F8
    touched: B1
    lost: B1
    shut: I4
    kept: F8
    upto: I4


class Told(NamedTuple):
    """What prints leave behind: see `Walked`."""

    moment: I4
    share: F8
    torn: I4


# What is kept of the holds of a node that are left: sums of their stiffness and its moments, the weakest factor, and
# the box that they lie in.
TOTAL, MX, MY, MXX, MYY, MXY, WEAKEST, LEFT, RIGHT, NEAR, FAR = range(11)
KEPT = 11


@njit()
def _add(holds: F8, alive: B1, factor: F8, low: int, high: int, kept: F8) -> None:
    """Take holds low to high into what is kept of a node, as far as they are left."""
    for k in range(low, high):
        if alive[k]:
            x, y, stiff = holds[k, 0], holds[k, 1], holds[k, 2]
            kept[TOTAL] += stiff
            kept[MX] += stiff * x
            kept[MY] += stiff * y
            kept[MXX] += stiff * x * x
            kept[MYY] += stiff * y * y
            kept[MXY] += stiff * x * y
            kept[WEAKEST] = min(kept[WEAKEST], factor[k])
            kept[LEFT], kept[RIGHT] = min(kept[LEFT], x), max(kept[RIGHT], x)
            kept[NEAR], kept[FAR] = min(kept[NEAR], y), max(kept[FAR], y)


@njit()
def _none(kept: F8) -> None:
    kept[:WEAKEST] = 0.0
    kept[WEAKEST] = np.inf
    kept[LEFT], kept[RIGHT], kept[NEAR], kept[FAR] = np.inf, -np.inf, np.inf, -np.inf


@njit()
def _asked(
    holds: F8, state: State, low: int, high: int, x: float, y: float, force: float, kept: F8, enough: float
) -> tuple[float, int]:
    """The largest load over strength that a force asks of a hold that is left, and of which; a bound of it and -1 where
    that is no more than `enough`. What is stronger than the hardest strained place asks need not be looked at.
    """
    total = kept[TOTAL]
    mx, my = kept[MX] / total, kept[MY] / total
    jxx = GRIP_MM * GRIP_MM + kept[MXX] / total - mx * mx
    jyy = GRIP_MM * GRIP_MM + kept[MYY] / total - my * my
    jxy = kept[MXY] / total - mx * my
    ex, ey = x - mx, y - my
    whole = jxx * jyy - jxy * jxy
    ax, ay = (jyy * ex - jxy * ey) / whole, (jxx * ey - jxy * ex) / whole
    base = 1.0 + GRIP_MM * np.sqrt(ax * ax + ay * ay)
    lever = abs(ax) * max(kept[RIGHT] - mx, mx - kept[LEFT]) + abs(ay) * max(kept[FAR] - my, my - kept[NEAR])
    hardest = force * (base + lever) / total
    bound = hardest / kept[WEAKEST]
    if bound <= enough:
        return bound, -1
    weak = np.searchsorted(state.ordered, hardest / enough, side="right") if enough > 0 else high - low
    few = weak < high - low
    most, worst = 0.0, -1
    for i in range(weak if few else high - low):
        k = state.order[i] if few else low + i
        if low <= k < high and state.alive[k]:
            lean = base + ax * (holds[k, 0] - mx) + ay * (holds[k, 1] - my)
            asked = force * max(0.0, lean) / (total * state.factor[k])
            if asked > most:
                most, worst = asked, k
    return most, worst


@njit()
def _room(holds: int, nodes: int) -> State:
    """Room for one print's state, all whole and as strong as they are told."""
    factor = np.ones(holds)
    return State(
        np.ones(holds, np.bool_),
        factor,
        np.arange(holds),
        factor.copy(),
        np.zeros(nodes, np.bool_),
        np.zeros(nodes, np.bool_),
        np.zeros(nodes, np.int32),
        np.empty((nodes, KEPT)),
        np.full(nodes, -1, np.int32),
    )


@njit()
def _intact(moments: Moments, most: F8) -> None:
    """What each moment asks at most of any hold while all are whole and as strong as they are told."""
    holds, low, high, force = moments.holds, moments.low, moments.high, moments.force
    state, kept = _room(len(holds), 1), np.empty(KEPT)
    for m in range(len(force)):
        most[m] = 0.0
        if force[m] > 0 and high[m] > low[m]:
            _none(kept)
            _add(holds, state.alive, state.factor, low[m], high[m], kept)
            most[m], _ = _asked(holds, state, low[m], high[m], moments.x[m], moments.y[m], force[m], kept, 0.0)


@njit()
def _print(bodies: Bodies, state: State, peel: float) -> tuple[int, int]:
    """One print: which moment lost the first body, and how many tips gave way; `lost` (k,) becomes which nodes were."""
    moments, kids, most = bodies
    node, force, low, high, parent = moments.node, moments.force, moments.low, moments.high, moments.parent
    alive, touched, lost, shut, kept, upto = (
        state.alive, state.touched, state.lost, state.shut, state.kept, state.upto,
    )  # fmt: skip
    weakest = np.inf
    for k in range(len(state.factor)):
        alive[k] = True
        weakest = min(weakest, state.factor[k])
    touched[:], lost[:], shut[:], upto[:] = False, False, 0, -1
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
            if upto[n] < 0:
                _none(kept[n])
                upto[n] = low[m]
            if upto[n] < high[m]:  # what came since
                _add(moments.holds, alive, state.factor, upto[n], high[m], kept[n])
                upto[n] = high[m]
            worst = -1
            if kept[n, TOTAL] > 0:
                pull = force[m] * peel
                asked, worst = _asked(
                    moments.holds, state, low[m], high[m], moments.x[m], moments.y[m], pull, kept[n], 1.0
                )
                if asked <= 1.0:
                    break
            if worst >= 0:
                alive[worst] = False
                upto[n] = -1
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
def _prints(bodies: Bodies, drawn: tuple[F8, F8, F8, F8], start: int, end: int, told: Told, counts: I4) -> None:
    strength, peel, plate, own = drawn
    parent, volume, tip = bodies.moments.parent, bodies.moments.volume, bodies.moments.tip
    nodes, many = len(parent), len(tip)
    state, below = _room(many, nodes), np.zeros(nodes)
    whole = 0.0
    for k in range(nodes):
        whole += volume[k] if parent[k] < 0 else 0.0
    for p in range(start, end):
        for k in range(many):
            state.factor[k] = plate[p] if tip[k] < 0 else strength[p] * own[tip[k], p]
        state.order[:] = np.argsort(state.factor)
        for k in range(many):
            state.ordered[k] = state.factor[state.order[k]]
        told.moment[p], told.torn[p] = _print(bodies, state, peel[p])
        if told.moment[p] < 0:
            told.share[p] = 0.0
            continue
        # What a lost body was made of is gone with it; what another grew on by itself is not counted twice.
        gone = 0.0
        below[:] = 0.0
        for k in range(nodes):
            mine = volume[k] if state.lost[k] else below[k]
            if state.lost[k]:
                counts[k] += 1
            if parent[k] >= 0:
                below[parent[k]] += mine
            else:
                gone += mine
        told.share[p] = gone / whole if whole > 0 else 0.0


def bodies_of(moments: Moments) -> Bodies:
    """What prints are walked over."""
    parent = moments.parent
    kids = np.bincount(parent[parent >= 0], minlength=len(parent)).astype(np.int32)
    most = np.empty(len(moments.node))
    _intact(moments, most)
    return Bodies(moments, kids, most)


def printed(moments: Moments, draws: Draws) -> Walked:
    """Print it as often as there are draws. O(prints x moments), and x holds where one gives way; both cores."""
    many, bodies = len(draws.peel), bodies_of(moments)
    told = Told(np.empty(many, np.int32), np.empty(many), np.empty(many, np.int32))
    counts = [np.zeros(len(moments.parent), np.int32) for _ in stretches(many)]
    drawn = (draws.strength, draws.peel, draws.plate, np.ascontiguousarray(draws.own))
    parts = [(a, b, counts[i]) for i, (a, b) in enumerate(stretches(many))]
    both_cores(lambda a, b, count: _prints(bodies, drawn, a, b, told, count), parts)
    return Walked(told.moment, told.share, told.torn, np.sum(counts, axis=0, dtype=np.int32))
