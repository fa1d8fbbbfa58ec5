"""What to move so that a date is kept more surely: one print begun earlier, all woven anew."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .ask import WeekAsk
from .rules import NEVER, NOBODY, Rules, rules_of
from .simulate import chances, woven

F8 = NDArray[np.float64]
I8 = NDArray[np.int64]
WEEKS = 300
"""So many weeks tell one change from another: half a percent is not worth a move."""
WORTH = 0.04
"""Prior: a date has to become so much surer for a move to be spoken of."""
MOST_TRIED = 6


@dataclass(frozen=True)
class Better:
    """A print put first, and what becomes of dates: (job, chance before, chance after), the one that it is about first;
    others only where they change.
    """

    first: str
    dates: list[tuple[str, float, float]]


def better(ask: WeekAsk, starts: dict[str, tuple[str, int]]) -> Better | None:
    """The one move that most helps the date that is least sure; None where no move is worth it.

    `starts`: (machine, minute) by job of a plan that is there.
    """
    rules = rules_of(ask)
    runs = np.full((rules.jobs, 5), NEVER, np.int64)
    machines = {machine.name: m for m, machine in enumerate(ask.machines)}
    for j, job in enumerate(ask.jobs):
        if job.name in starts:
            machine, minute = starts[job.name]
            runs[j] = machines[machine], minute, minute, minute, minute
    dated = np.flatnonzero(rules.due < NEVER)
    if not len(dated):
        return None
    now = _sure(rules, runs)
    weakest = int(dated[np.argmin(now[dated])])
    order = np.argsort(runs[:, 1], kind="stable")
    best: tuple[float, int, F8] | None = None
    for j in _movable(order, weakest):
        moved = np.concatenate([[j], order[order != j]]).astype(np.int64)
        again, _ = woven(rules, moved, np.full(rules.jobs, NOBODY, np.int64))
        then = _sure(rules, again)
        gain = float(then[weakest] - now[weakest])
        harm = float(np.maximum(now[dated] - then[dated], 0.0).sum())
        if gain >= WORTH and gain > harm and (best is None or gain - harm > best[0]):
            best = (gain - harm, j, then)
    if best is None:
        return None
    _, j, then = best
    told = [weakest, *(int(k) for k in dated if k != weakest and abs(then[k] - now[k]) >= 0.01)]
    return Better(ask.jobs[j].name, [(ask.jobs[k].name, float(now[k]), float(then[k])) for k in told])


def _movable(order: I8, weakest: int) -> list[int]:
    """The weakest itself, then what stands before it, the last first."""
    before = order[: int(np.flatnonzero(order == weakest)[0])]
    return [weakest, *before[::-1].tolist()][:MOST_TRIED]


def _sure(rules: Rules, runs: I8) -> F8:
    return np.nan_to_num(chances(rules, runs, weeks=WEEKS), nan=1.0)
