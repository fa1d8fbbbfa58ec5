"""Which layers pull hardest, why, and what a slower lift and a worn film have to do with it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..machines import ResinPrinter
from .resin import layer_pull

F8 = NDArray[np.float64]
Cause = Literal["cup", "shelf", "wide", "raft"]
VALLEY = 0.75
"""Between two peaks the pull falls below this share of the lesser one's; else they are one hill."""
BELOW_MM, WIDENS = 1.0, 1.4
"""Prior: a layer is a shelf where it is so many times as wide as what lies this far below it."""
SUCKS = 0.4
"""Prior: suction of this share of the pull is what to do something about."""
TOLD_SHARE = 0.5
"""Of the hardest pull: what pulls less than this share of it is not told beside it."""
FILM_PATCH = 0.1
"""Prior: a film wears as much by being peeled as by being peeled off this share of the plate."""
LIFT_POWER = 1 / 3
"""Prior: the peel grows with this power of the lift's speed (a trend: Pan et al. 2017, Rapid Prototyping Journal, on
separation force).
"""


@dataclass(frozen=True)
class Peak:
    """A layer that pulls harder than those around it: newtons, those of them that are suction, mm² of the layer and of
    what it seals.
    """

    layer: int
    newtons: float
    suction: float
    area: float
    sealed: float
    cause: Cause


def peaks(
    printer: ResinPrinter,
    areas: F8,
    sealed: F8,
    *,
    height: float,
    depth: float = 1.0,
    most: int = 3,
    raft_mm: float = 0.0,
) -> list[Peak]:
    """The layers that pull hardest, each on a hill of its own, the hardest first. `areas` and `sealed` (layers,) in
    mm², `height` of a layer and of the raft under it in mm; `depth` as `layer_pull` has it.
    """
    pull = layer_pull(printer, areas, sealed, depth)
    peaks: list[Peak] = []
    below = max(1, round(BELOW_MM / height))
    # From the hardest down; what no valley parts from one that is told is its flank.
    for k in np.argsort(-pull, kind="stable").tolist():
        if len(peaks) == most or pull[k] <= 0 or pull[k] < TOLD_SHARE * float(pull.max()):
            break
        between = (pull[min(k, p.layer) : max(k, p.layer) + 1].min() for p in peaks)
        if any(low >= VALLEY * pull[k] for low in between):
            continue
        suction = printer.suction_kpa * float(sealed[k]) * 1e-3
        widens = k >= below and areas[k] >= WIDENS * areas[k - below]
        cause: Cause = "cup" if suction >= SUCKS * pull[k] else "shelf" if widens else "wide"
        if k * height < raft_mm:
            cause = "raft"
        peaks.append(Peak(k, float(pull[k]), suction, float(areas[k]), float(sealed[k]), cause))
    return peaks


def slower(printer: ResinPrinter, share: float) -> ResinPrinter:
    """The printer with the first part of its lift, which peels, at this share of its speed; peel and suction fall by
    LIFT_POWER.

    >>> p = ResinPrinter(name="made up", build_mm=(100, 60, 150), pixels=(4000, 2400))
    >>> round(slower(p, 0.125).peel_kpa / p.peel_kpa, 6), slower(p, 0.5).lift_mm_s
    (0.5, (0.5, 3.0))
    """
    first, then = printer.lift_mm_s
    eased = share**LIFT_POWER
    return printer.model_copy(
        update={
            "lift_mm_s": (first * share, then),
            "peel_kpa": printer.peel_kpa * eased,
            "suction_kpa": printer.suction_kpa * eased,
        }
    )


def film_wear(printer: ResinPrinter, areas: F8) -> float:
    """Share of a film's usual life that peeling off layers of `areas` (layers,) mm² takes: half by their number, half
    by what they cover.

    >>> p = ResinPrinter(name="made up", build_mm=(100, 60, 150), pixels=(4000, 2400), film_layers=30_000)
    >>> film_wear(p, np.full(3000, 600.0)), film_wear(p, np.zeros(3000))
    (0.1, 0.05)
    """
    patch = FILM_PATCH * printer.build_mm[0] * printer.build_mm[1]
    return float((0.5 + 0.5 * areas / patch).sum()) / printer.film_layers
