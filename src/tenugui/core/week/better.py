"""What to move so that a date is kept more surely: one print begun earlier, all woven anew."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .rules import NEVER, NOBODY, Rules
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


@dataclass(frozen=True)
class Move:
    """A job put first: what becomes of the date that is least sure, what others lose together, all chances before and
    after (jobs,), and the plan that follows.
    """

    first: int
    weakest: int
    gain: float
    harm: float
    now: F8
    then: F8
    plan: tuple[I8, I8]


def moves(rules: Rules, runs: I8, hands: I8) -> list[Move]:
    """Moves that help the date that is least sure, the best first; none where nothing is due."""
    dated = np.flatnonzero(rules.due < NEVER)
    if not len(dated):
        return []
    now = _sure(rules, runs, hands)
    weakest = int(dated[np.argmin(now[dated])])
    order = np.argsort(runs[:, 1], kind="stable")
    found = []
    for j in _movable(order, weakest):
        # What somebody wants before all others stays before them.
        heavy = rules.weight[order] > rules.weight[j]
        moved = np.concatenate([order[heavy], [j], order[~heavy & (order != j)]]).astype(np.int64)
        plan = woven(rules, moved, np.full(rules.jobs, NOBODY, np.int64))
        then = _sure(rules, *plan)
        lost = float(np.maximum(now[dated] - then[dated], 0.0).sum())
        found.append(Move(j, weakest, float(then[weakest] - now[weakest]), lost, now, then, plan))
    return sorted((m for m in found if m.gain > 0), key=lambda m: m.harm - m.gain)


def better(rules: Rules, runs: I8, hands: I8) -> Better | None:
    """The one move that most helps the date of a plan that is least sure; None where no move is worth it."""
    best = next((m for m in moves(rules, runs, hands) if m.gain >= WORTH and m.gain > m.harm), None)
    if best is None:
        return None
    changed = np.flatnonzero((rules.due < NEVER) & (np.abs(best.then - best.now) >= 0.01))
    told = [best.weakest, *(int(k) for k in changed if k != best.weakest)]
    jobs = rules.ask.jobs
    return Better(jobs[best.first].name, [(jobs[k].name, float(best.now[k]), float(best.then[k])) for k in told])


def _movable(order: I8, weakest: int) -> list[int]:
    """The weakest itself, then what stands before it, the last first."""
    before = order[: int(np.flatnonzero(order == weakest)[0])]
    return [weakest, *before[::-1].tolist()][:MOST_TRIED]


def _sure(rules: Rules, runs: I8, hands: I8) -> F8:
    return np.nan_to_num(chances(rules, runs, hands, weeks=WEEKS), nan=1.0)
