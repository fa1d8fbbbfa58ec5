"""One line of the ledger, and how a margin becomes a chance."""

from __future__ import annotations

import math
from dataclasses import dataclass
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


def chance(margin: float) -> float:
    """Chance of failing at a margin capacity/demand: Φ(-ln m / SPREAD), a half at m = 1, 8 % at m = 2.

    >>> round(chance(1.0), 2), round(chance(2.0), 2)
    (0.5, 0.08)
    """
    if margin <= 0:
        return CAP
    return min(CAP, NormalDist().cdf(-math.log(margin) / SPREAD))


def combined(hazards: list[Hazard]) -> float:
    """Chance that at least one comes true, taken as independent, scars left out, capped."""
    survive = math.prod(1 - h.chance for h in hazards if h.loss != "scar")
    return min(CAP, 1 - survive)


def weighed(threat: Threat, *, safety: float = 1.0, loss: str | None = None, severity: str | None = None) -> Hazard:
    """A threat with its chance. `safety`: how many times what it needs counts as a margin of one half and one half."""
    p = threat.chance
    if p is None:
        p = chance(safety * threat.has / threat.needs) if threat.needs > 0 else 0.0
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
