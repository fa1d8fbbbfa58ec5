"""Which supports stand in a cavity: no cutter comes in, they stay there, and nobody sees their scars."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..mesh import Mesh, rays_of

INSIDE_WEIGHT = 1000.0
"""What a scar is said to cost in a cavity, more than on any mark, so that a fit or a keep-out is not taken for one:
nothing is held there but what starts in mid air, since its ceilings close by themselves.
"""
UNDER_MM = 0.3


def seen_weights(weights: NDArray[np.float64] | None) -> NDArray[np.float64] | None:
    """Weights (faces,) by which a surface is finished: nobody smooths the inside of a cavity."""
    return None if weights is None else np.where(weights >= INSIDE_WEIGHT, 0.0, weights)


def stays_inside(figure: Mesh, weights: NDArray[np.float64] | None, tips: Sequence[Any]) -> NDArray[np.bool_]:
    """(n,) of tips that stand on the figure: whether what they hold looks into a cavity, by the first face above their
    contact.
    """
    stays = np.zeros(len(tips), np.bool_)
    on = np.flatnonzero([tip.on == "model" for tip in tips]).tolist()
    if weights is None or not on or float(weights.max(initial=0.0)) < INSIDE_WEIGHT:
        return stays
    at = np.array([[tips[i].x, tips[i].y, tips[i].z - UNDER_MM] for i in on])
    _, face = rays_of(figure).first(at, np.array([0.0, 0.0, 1.0]))
    stays[on] = (face >= 0) & (weights[np.maximum(face, 0)] >= INSIDE_WEIGHT)
    return stays
