"""One line of the ledger, and how a margin becomes a chance."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from statistics import NormalDist

from ..process import Threat
from ..supports.demand import SPREAD
from .codes import HAZARDS

CAP = 0.95


@dataclass(frozen=True)
class Hazard:
    """Place in mm in build coordinates; `has` and `needs` in `unit` are the evidence; `chance` is a prior; `loss` what would be lost."""

    code: str
    severity: str
    layer: int
    x: float
    y: float
    z: float
    chance: float
    loss: str
    has: float
    needs: float
    unit: str
    message: str
    remedy: str
    part: str = ""


def chance(margin: float, scatter: float = 1.0) -> float:
    """Chance of failing at a margin capacity/demand: Φ(-ln m / (scatter SPREAD)), a half at m = 1, 8 % at m = 2 where prints differ as usual.

    >>> round(chance(1.0), 2), round(chance(2.0), 2)
    (0.5, 0.08)
    """
    if margin <= 0:
        return CAP
    return min(CAP, NormalDist().cdf(-math.log(margin) / (scatter * SPREAD)))


def combined(hazards: list[Hazard]) -> float:
    """Chance that at least one comes true, taken as independent, scars left out, capped."""
    survive = math.prod(1 - h.chance for h in hazards if h.loss != "scar")
    return min(CAP, 1 - survive)


def rescattered(hazard: Hazard, ratio: float) -> Hazard:
    """The same where prints differ `ratio` times as much as its chance was told for; what is told without a margin stays."""
    if hazard.code == "mishap" or not 0 < hazard.chance < 1:
        return hazard
    normal = NormalDist()
    return replace(hazard, chance=min(CAP, normal.cdf(normal.inv_cdf(hazard.chance) / ratio)))


def weighed(
    threat: Threat,
    scatter: float = 1.0,
    *,
    safety: float = 1.0,
    loss: str | None = None,
    severity: str | None = None,
) -> Hazard:
    """A threat with its chance where prints differ `scatter` times as much as usual. `safety`: how many times what it needs counts as a margin of one half
    and one half."""
    p = threat.chance
    if p is None:
        p = chance(safety * threat.has / threat.needs, scatter) if threat.needs > 0 else 0.0
    return Hazard(
        threat.code,
        severity or ("severe" if p >= 0.5 else "warning" if p >= 0.1 else "notice"),
        threat.layer,
        *threat.place,
        chance=p,
        loss=loss or threat.loss or HAZARDS[threat.code][0],
        has=threat.has,
        needs=threat.needs,
        unit=threat.unit,
        message=threat.message,
        remedy=threat.remedy,
        part=threat.part,
    )
