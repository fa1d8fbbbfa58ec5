"""What an aim of a pose costs, in minutes of a person at the bench or of waiting for a print made again: aims are added as magnitudes.

All prices are priors. They say how a pose is told from another, not how long a figure takes.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

F8 = NDArray[np.float64]
LOST_MIN = 90.0
"""Prior: what a print that fell over costs: cleaning, and a good part of the hours again."""
LEAN_MM = 1.5
"""Prior: a centre of mass so far off the foot falls in two of three prints."""
SLENDER_AT = 9.0
"""Prior: a figure so many widths of its foot tall is as likely to be knocked over by the nozzle as not."""
CUP = 0.15
"""Prior: a hollow that holds resin under suction costs the print so often, or is never clean inside."""
FINISH_MIN = 18.0
"""Prior: smoothing a figure whose every surface is stepped as deep as a layer."""


def falls_by_lean(mm: F8) -> F8:
    """Chance (n,) of falling by the centre of mass's lean over the foot's edge."""
    return np.asarray(1 - np.exp(-np.maximum(mm, 0) / LEAN_MM))


def falls_by_height(slender: F8) -> F8:
    """Chance (n,) of being knocked over, by height over the foot's width."""
    return np.asarray(1 / (1 + np.exp(-(np.minimum(slender, 1e3) - SLENDER_AT) / 1.5)))


MINUTES: dict[str, Callable[[F8], F8]] = {
    "support_area_mm2": lambda v: 0.03 * v,
    "scar_area_mm2": lambda v: 0.05 * v,
    "support_volume_mm3": lambda v: 0.0008 * v,
    "minima": lambda v: 0.4 * v,
    "peak_section_mm2": lambda v: 0.006 * v,
    "cups": lambda v: LOST_MIN * (1 - (1 - CUP) ** v),
    "height_mm": lambda v: 0.1 * v,
    "step_cost": lambda v: FINISH_MIN * v,
    "lean": lambda v: LOST_MIN * falls_by_lean(v),
    "slender": lambda v: LOST_MIN * falls_by_height(v),
    "weak_mm": lambda v: 0.4 * v,
    "foot_mm2": lambda v: 0.0 * v,
}


def minutes(aims: dict[str, F8], wish: dict[str, float]) -> F8:
    """(n,) minutes of each direction: the aims' prices times what the person makes of each (1 as the prior has it).

    >>> minutes({"cups": np.array([0.0, 2.0]), "minima": np.array([5.0, 0.0])}, {"cups": 1.0, "minima": 2.0}).round(3).tolist()
    [4.0, 24.975]
    """
    return np.asarray(sum(weight * MINUTES[aim](aims[aim]) for aim, weight in wish.items()))
