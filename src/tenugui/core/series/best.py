"""Which level is best and with what chance, where more hours stop paying, and which cell to print next."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..worth import PRESETS, USUAL_RATES
from .design import Cell, aliased, every, missing
from .effects import Fitted
from .spec import MORE_IS_BETTER, Kind, Spec

F8 = NDArray[np.float64]
FEW_RUNS = 2
"""With fewer in a cell nobody knows how much two prints of it differ: a direction, not a rate."""
MINUTES_EACH: dict[Kind, float] = {"count": 1.0, "yesno": 15.0, "grade": 5.0, "preference": 10.0}
"""Priors: minutes of hands that one blemish, one lost feature, one grade, and being preferred for sure are worth."""


@dataclass(frozen=True)
class Best:
    """The chance that a level is the best of its factor in a response."""

    response: str
    factor: str
    level: int
    chance: float


@dataclass(frozen=True)
class Knee:
    """The level of a factor beyond which another hour buys less than it costs: hours it takes, and what the step to the
    next level would buy and cost, in coins; both 0 where there is no next.
    """

    factor: str
    level: int
    response: str
    hours: float
    buys: float
    costs: float


@dataclass(frozen=True)
class Next:
    """The cell to print next, and why."""

    levels: tuple[int, ...]
    why: str


def best_of(read: Fitted) -> list[Best]:
    """Of every factor with two levels seen: in which share of draws each is the best."""
    rows = []
    for factor, draws in read.draws.items():
        there = np.flatnonzero(read.seen[factor])
        if len(there) < 2:
            continue
        mine = draws[:, there] * (1.0 if read.kind in MORE_IS_BETTER else -1.0)
        share = np.bincount(mine.argmax(axis=1), minlength=len(there)) / len(mine)
        rows += [Best(read.response, factor, int(k), float(c)) for k, c in zip(there, share, strict=True)]
    return rows


def coins_each(spec: Spec, response: str) -> float:
    """What one of a response is worth: as the person says, else minutes of hands at the usual rate (prior)."""
    kind = spec.responses[response]
    return spec.coins_each.get(response, MINUTES_EACH.get(kind, 0.0) * PRESETS[USUAL_RATES].minute)


def knee_of(spec: Spec, reads: Sequence[Fitted]) -> Knee | None:
    """Of the factor that takes the most hours from its quickest to its slowest level, by its most telling response;
    None where no hours, nothing else, or no rate is told.
    """
    times = [r for r in reads if r.kind == "time"]
    gains = [r for r in reads if r.kind in MINUTES_EACH and coins_each(spec, r.response) > 0]
    if not times or not gains or spec.rate_per_h is None:
        return None
    hours = {f: np.median(d, axis=0) for f, d in times[0].draws.items() if times[0].seen[f].sum() > 1}
    if not hours:
        return None
    factor = max(hours, key=lambda f: float(np.ptp(hours[f][times[0].seen[f]])))

    def worth(read: Fitted) -> F8:
        more = 1.0 if read.kind in MORE_IS_BETTER else -1.0
        return np.asarray(more * np.median(read.draws[factor], axis=0) * coins_each(spec, read.response))

    told = max(gains, key=lambda r: float(np.ptp(worth(r)[r.seen[factor]])) if r.seen[factor].any() else 0.0)
    there = np.flatnonzero(times[0].seen[factor] & told.seen[factor])
    if len(there) < 2:
        return None
    total = np.sum([worth(read) for read in gains], axis=0)
    order = there[np.argsort(hours[factor][there], kind="stable")]
    at = 0
    while at + 1 < len(order):
        # A level that is worse than the one before may still lead to one that pays.
        later = order[at + 1 :]
        buys = total[later] - total[order[at]]
        costs = spec.rate_per_h * (hours[factor][later] - hours[factor][order[at]])
        pays = np.flatnonzero(buys > costs)
        if not len(pays):
            break
        at += 1 + int(pays[0])
    here = int(order[at])
    step = (0.0, 0.0)
    if at + 1 < len(order):
        after = int(order[at + 1])
        step = (
            float(total[after] - total[here]),
            float(spec.rate_per_h * (hours[factor][after] - hours[factor][here])),
        )
    return Knee(factor, here, told.response, float(hours[factor][here]), *step)


def next_of(spec: Spec, cells: Sequence[Cell], reads: Sequence[Fitted]) -> Next:
    """The cell from which most is expected: one that parts what moves together, one that nobody has printed, one with a
    single print; else the one whose levels may be the best and are least known.
    """
    together, absent = aliased(spec, cells), missing(spec, cells)
    if together:
        for levels in absent:
            if len(aliased(spec, [*cells, Cell(levels, 1)])) < len(together):
                return Next(levels, f"It parts {' and '.join(together[0])}, which move together in all that is there.")
    runs = {cell.levels: cell.runs for cell in cells}
    promise = _promises(spec, reads)
    if absent:
        return Next(max(absent, key=lambda levels: _of(promise, levels)), "Nobody has printed it.")
    few = [levels for levels in every(spec) if runs.get(levels, 0) < FEW_RUNS]
    if few:
        return Next(max(few, key=lambda levels: _of(promise, levels)), "One print tells no spread.")
    best = max(every(spec), key=lambda levels: _of(promise, levels) / runs.get(levels, 1) ** 0.5)
    return Next(best, "Its levels may be the best, and one more print tells most of them.")


def _promises(spec: Spec, reads: Sequence[Fitted]) -> list[F8]:
    """How much each level of each factor may still tell: chance of being best times doubt of it, over all responses."""
    promise = [np.zeros(len(levels)) for levels in spec.factors.values()]
    for read in reads:
        chances = {(b.factor, b.level): b.chance for b in best_of(read)}
        for k, (factor, draws) in enumerate(read.draws.items()):
            scale = float(np.abs(np.median(draws, axis=0)).max()) or 1.0
            spread = np.where(read.seen[factor], draws.std(axis=0) / scale, 1.0)
            chance = np.array([chances.get((factor, level), 0.5) for level in range(len(spread))])
            promise[k] += chance * (1 - chance) * spread + 1e-6 * chance
    return promise


def _of(promise: Sequence[F8], levels: tuple[int, ...]) -> float:
    return float(sum(of[level] for of, level in zip(promise, levels, strict=True)))
