"""How long a start may wait: the latest at which a date is still kept as surely as is wanted, others going on as they
are planned.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from .rules import NEVER, NOBODY, Rules
from .simulate import as_planned, draws, planned_times, woven

I8 = NDArray[np.int64]
SURELY = 0.9
"""Prior: a date that is kept in so many of simulated weeks counts as kept."""
WEEKS, GRAIN_MIN, MOST = 80, 15, 12
"""Simulated weeks of each try, minutes to which a start is told, and dates that are looked at, the soonest first."""


def latest_starts(rules: Rules, runs: I8, hands: I8, surely: float = SURELY) -> I8:
    """(jobs,) the latest minute at which each job with a date may start; NEVER where it has none, finds no place, or is
    not kept so surely even as it is planned; of MOST dates. Bisected on the same draws, as if a later start never did
    better.
    """
    lasts, fails = draws(rules, WEEKS)
    planned = runs[:, 4] < NEVER
    out = np.full(rules.jobs, NEVER, np.int64)
    sequence, since = as_planned(rules, hands), planned_times(runs, hands)
    on = np.where(planned, runs[:, 0], NOBODY)
    early = np.where(planned, runs[:, 1], rules.early)

    def kept(job: int, start: int) -> bool:
        begins = early.copy()
        begins[job] = start
        order = np.argsort(np.where(planned, begins, NEVER), kind="stable")
        held = replace(rules, early=begins)
        weeks = (
            woven(held, order, on, sequence=sequence, since=since, lasts=lasts[k], fails=fails[k])[0]
            for k in range(WEEKS)
        )
        return sum(int(week[job, 4] <= rules.due[job]) for week in weeks) >= surely * WEEKS

    dated = np.flatnonzero(planned & (rules.due < NEVER))
    for job in dated[np.argsort(rules.due[dated], kind="stable")][:MOST].tolist():
        low, high = int(runs[job, 1]), int(rules.due[job])
        if high <= low or not kept(job, low):
            continue
        while high - low > GRAIN_MIN:
            middle = (low + high) // 2
            low, high = (middle, high) if kept(job, middle) else (low, middle)
        out[job] = low
    return out
