"""The log read as a whole."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

FEW = 20
"""Prior: with fewer outcomes a share says little."""
WHOLE = ("good", "scarred")
LOST = "print lost"


@dataclass(frozen=True)
class Logged:
    """One run: planned seconds and risk, real seconds and result where they are known; `by_scatter`: see `TrialDoc`."""

    planned_s: float
    planned_risk: float
    real_s: float | None = None
    result: str | None = None
    by_scatter: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True)
class LogReading:
    """Outcomes logged; how many came out whole, and how many the plans predicted; of those that ran to their end, real
    over planned time as geometric mean and spread of logarithms (None where too few were timed); whether there are few.
    """

    outcomes: int
    whole: int
    predicted_whole: float
    timed: int
    time_ratio: float | None
    time_spread: float | None
    few: bool


def timed(runs: Sequence[Logged]) -> list[float]:
    """Logarithms of real over planned time, of the prints that ran to their end: one that was lost ended before its
    time, and says nothing of it.
    """
    return [
        math.log(r.real_s / r.planned_s)
        for r in runs
        if r.result and r.result != LOST and r.real_s and r.real_s > 0 and r.planned_s > 0
    ]


def read_log(runs: Sequence[Logged]) -> LogReading:
    """Read runs of any number.

    >>> r = read_log([Logged(100, 0.1, 110, "good"), Logged(100, 0.3, 20, "print lost"), Logged(50, 0.2)])
    >>> r.outcomes, r.whole, round(r.predicted_whole, 2), r.timed, round(r.time_ratio, 3), r.time_spread
    (2, 1, 1.6, 1, 1.1, None)
    """
    ended = [r for r in runs if r.result]
    logs = timed(runs)
    mean = sum(logs) / len(logs) if logs else None
    spread = None
    if mean is not None and len(logs) > 1:
        spread = math.sqrt(sum((v - mean) ** 2 for v in logs) / (len(logs) - 1))
    return LogReading(
        outcomes=len(ended),
        whole=sum(r.result in WHOLE for r in ended),
        predicted_whole=sum(1 - r.planned_risk for r in ended),
        timed=len(logs),
        time_ratio=None if mean is None else math.exp(mean),
        time_spread=spread,
        few=len(ended) < FEW,
    )
