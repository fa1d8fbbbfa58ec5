"""How much a printer's prints differ, times as much as usual: what its log says of what was planned.

Every plan tells which share of its trial prints comes off whole on machines that differ more and less; each logged
print is weighed by what it tells of each of them (a particle set over one parameter, weighed by importance: Gelman et
al., Bayesian Data Analysis, 3rd ed., sections 10.4 and 11). Before any print the logarithm is normal about 0, give or
take PRIOR.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr, ndtri

from .log import WHOLE, Logged

F8 = NDArray[np.float64]
PRIOR = 0.4
"""Prior: two machines of three differ by 1/1.5 to 1.5 times as much as usual."""
SCATTERS = (0.5, 0.7, 1.0, 1.4, 2.0, 2.8)
"""How much prints may differ, times as much as usual: what plans are told for."""
GRID = np.exp(np.linspace(math.log(0.4), math.log(4.0), 93))
SURE = 0.002
"""No print is more certain than this, whatever its plan says."""
FEW = 6
"""Prior: fewer prints are not told of."""


@dataclass(frozen=True)
class Scatter:
    """Of `prints` logged, `failed`, where as many as `feared` were expected of a usual machine; it differs `times` as
    much, from `low` to `high` in 95 of 100.
    """

    prints: int
    failed: int
    feared: float
    times: float
    low: float
    high: float


def by_risk(risk: float, scatter: float = 1.0) -> list[tuple[float, float]]:
    """What a plan's risk says of machines that differ by other amounts than its own does, taken as that of one margin.

    >>> [(at, round(whole, 3)) for at, whole in by_risk(0.05)[::2]]
    [(0.5, 0.999), (1.0, 0.95), (2.0, 0.795)]
    """
    z = float(ndtri(min(max(risk, SURE), 1 - SURE))) * scatter
    return [(at, 1 - float(ndtr(z / at))) for at in SCATTERS]


def whole_at(run: Logged) -> F8:
    """(GRID,) the chance that a print comes off whole on machines that differ so much: by its plan's trial prints, else
    by its risk.
    """
    at, whole = (np.array(column) for column in zip(*(run.by_scatter or by_risk(run.planned_risk)), strict=True))
    return np.clip(np.interp(np.log(GRID), np.log(at), whole), SURE, 1 - SURE)


def scatter_of(runs: Sequence[Logged]) -> Scatter | None:
    """What the log of one printer says; None where it has too few outcomes.

    >>> scatter_of([Logged(100, 0.1, None, "good")] * 5) is None
    True
    >>> steady = scatter_of([Logged(100, 0.1, None, "good")] * 60)
    >>> steady.times < 0.9, steady.high < 1.2
    (True, True)
    """
    ended = [run for run in runs if run.result]
    if len(ended) < FEW:
        return None
    weight = -(np.log(GRID) ** 2) / (2 * PRIOR**2)
    feared = 0.0
    for run in ended:
        whole = whole_at(run)
        weight = weight + np.log(whole if run.result in WHOLE else 1 - whole)
        feared += 1 - float(np.interp(0.0, np.log(GRID), whole))
    share = np.exp(weight - weight.max())
    below = np.cumsum(share) / share.sum()
    low, middle, high = (float(np.interp(q, below, GRID)) for q in (0.025, 0.5, 0.975))
    return Scatter(len(ended), sum(run.result not in WHOLE for run in ended), feared, middle, low, high)
