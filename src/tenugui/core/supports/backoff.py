"""Start full, then back off: the order in which tips of a set may go, and from where on something would give way."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .margins import Carrying, worse

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
B1 = NDArray[np.bool_]


@dataclass(frozen=True)
class BackOff:
    """Tips in the order in which they go (n,), how many of them go before anything is held by less than is wanted
    (`free`), and the least margin of a part once each is gone (n,).
    """

    order: I4
    free: int
    least: F8


def back_off(carrying: Carrying, on: I4, points: F8, strength: F8, *, wanted: float, stays: B1) -> BackOff:
    """The way from all tips of a set (components (n,), contacts (n, 3), strengths in N (n,)) to as few as hold `wanted`
    times what pulls: the one that bears least goes, what then bears least next, and whatever would leave a part with
    less is kept until nothing else is left to go. What is barred from going (`stays`, n) never goes.

    A tip that was kept once is kept for good: with fewer beside it, it is not missed less. One walk a tip.
    """
    now, order, least, kept = on.copy(), list[int](), list[float](), list[int]()
    walked, asked = carrying.walk(now, points, strength)
    part, before = carrying.lasting(walked), walked.rows[:, 3]
    going = np.flatnonzero(~stays)
    while len(going):
        k = int(going[np.argmin(asked[going])])
        without = now.copy()
        without[k] = -1
        after, then = carrying.walk(without, points, strength)
        going = going[going != k]
        if (part & worse(before, after.rows[:, 3], wanted)).any():
            kept.append(k)
            continue
        now, asked = without, then
        order.append(k)
        least.append(_least(after.rows[:, 3], part))
    free = len(order)
    for k in kept:
        now[k] = -1
        order.append(k)
        least.append(_least(carrying.walk(now, points, strength)[0].rows[:, 3], part))
    return BackOff(np.array(order, np.int32), free, np.array(least))


def _least(margins: F8, part: B1) -> float:
    """The least margin of what is a part; endless where nothing is."""
    return float(margins[part].min()) if part.any() else np.inf
