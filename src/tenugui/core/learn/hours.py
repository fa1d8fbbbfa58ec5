"""How long a printer really takes: its logged prints against what was planned for them.

The logarithm of real over planned time is normal about a printer's own mean; of the mean the prior is 0 give or take
PRIOR, of a print NOISE. Both are known, so that the posterior is normal too (Gelman et al., Bayesian Data Analysis, 3rd
ed., section 2.5).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from .log import Logged, timed

PRIOR, NOISE = 0.15, 0.06
"""Priors: a printer takes some 15 % more or less than planned, and a print some 6 % more or less than its printer does.
"""
TWO_SIDED = 1.959964


@dataclass(frozen=True)
class Hours:
    """By how much planned times are multiplied: the `ratio`, and from `low` to `high` it lies in 95 of 100 cases for
    the next print; from `timed` prints.
    """

    timed: int
    ratio: float
    low: float
    high: float


def hours_of(runs: Sequence[Logged]) -> Hours:
    """What the log of one printer says of its hours.

    >>> h = hours_of([Logged(100, 0, 110, "good")] * 3); round(h.ratio, 3), h.low < 1.095 < h.high
    (1.095, True)
    >>> hours_of([]).ratio
    1.0
    """
    logs = timed(runs)
    sharp = 1 / PRIOR**2 + len(logs) / NOISE**2
    mean = sum(logs) / NOISE**2 / sharp
    half = TWO_SIDED * math.sqrt(1 / sharp + NOISE**2)
    return Hours(len(logs), math.exp(mean), math.exp(mean - half), math.exp(mean + half))
