"""What a support takes of somebody's hands, by its contact."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..machines import kind_of
from .tip import Tip

F8 = NDArray[np.float64]
CUT_MIN, PIECE_MIN, ON_FIGURE = 0.06, 0.06, 2.0
"""Priors: minutes to cut a tip of the usual width off, to take a piece that stands by itself in hand and out, and how
many times the former where it stands on the figure and scars it at both ends.
"""
PEELS = 0.4
"""Prior: what keeps a gap peels off, and takes so much of those minutes."""
SAND_MIN = 0.15
"""Prior: minutes to sand the scar of a tip of the usual width on an unmarked face; by its mark's weight elsewhere."""
HAIR_MIN = 0.0125
"""Prior: a nozzle crosses the air to a pillar and back in each of its layers; minutes to take off the hairs of a mm of
it beside an unmarked face; by its mark's weight elsewhere.
"""
MARKS_MM2 = 7.5
"""Prior: so much of what an area has carried wants as much sanding as what one tip with its interface has."""
SCAR_MIN = 3.0
"""Prior: minutes to mend what the ledger calls a scar, where it comes true."""


def tip_minutes(tips: Sequence[Tip], costs: F8, process: str) -> F8:
    """Minutes (n,) to cut each tip off and sand its scar, which costs `costs` (n,) where it is, with the hairs of
    its pillar; an area comes off as one and leaves a mark as large as what it has carried.
    """
    usual = kind_of(process).usual_tip_mm
    wide = np.array([t.diameter for t in tips]) / usual
    marks = np.array([len(t.cells) * t.cell**2 / MARKS_MM2 if t.cells else 0.0 for t in tips])
    marks = np.where(marks > 0, marks, wide**2)
    twice = np.array([ON_FIGURE if t.scars_twice else 1.0 for t in tips])
    peels = np.array([PEELS if t.gap else 1.0 for t in tips])
    rises = np.array([_rise(t) for t in tips])
    return np.asarray(peels * (CUT_MIN * twice * wide + SAND_MIN * costs * marks) + HAIR_MIN * costs * rises)


def _rise(tip: Tip) -> float:
    """mm that a pillar rises beside the figure, where it is drawn in lines and keeps a gap."""
    return tip.z - min(z for *_, z in tip.joints) if tip.gap and tip.joints else 0.0
