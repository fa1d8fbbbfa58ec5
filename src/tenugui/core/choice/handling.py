"""Tips taken off against the strength of what they hold: a tip that is snapped off, or cut with the cutter's squeeze, bends the feature it stands on.

A round neck of diameter d breaks at a moment as d³, a feature of thickness t and width w at one as w t². A rod DELICATE tips thick is as strong as the snap.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..mesh import Mesh, rays_of
from ..process import Threat
from ..risk import chance
from ..supports import Tip
from .removal import DELICATE, necks, reached, ways_in

F8 = NDArray[np.float64]
CUT = 8.0
"""Prior: a cutter strains what it cuts from so many times less than a snap does: as a tip of half the width."""
ABROAD = 4.0
"""Of a sheet no more than so many times its thickness bears with it."""
ROD = 2.0
"""What is wider than so many times its thickness is a sheet, and chips; what is not breaks off."""
TOLD = 0.01
"""Of what breaks more seldom nothing is said."""
RAISED_MM, MIDDLE_MM = 0.02, 2.0
"""A feature is measured upwards from so little above its tip, and across in its middle, or so far up."""
WAYS = 4


def bears(thick: F8, wide: F8, diameter: F8, cut: NDArray[np.bool_]) -> F8:
    """How many times what taking a tip off asks the feature it stands on bears (n,); all in mm.

    >>> one, no = np.ones(1), np.zeros(1, bool)
    >>> float(bears(2 * one, 2 * one, one, no)[0]), float(bears(one, one, one, ~no)[0])
    (1.0, 1.0)
    """
    w = np.clip(wide, thick, ABROAD * thick)
    return np.asarray(w * thick**2 / (DELICATE * diameter) ** 3 * np.where(cut, CUT, 1.0))


def across(figure: Mesh, at: F8) -> F8:
    """How wide the solid is about places inside it (n, 3): the least of its widths along the level, mm."""
    rays, least = rays_of(figure), np.full(len(at), np.inf)
    for turn in np.arange(WAYS) * np.pi / WAYS:
        way = np.array([np.cos(turn), np.sin(turn), 0.0])
        least = np.minimum(least, rays.first(at, way)[0] + rays.first(at, -way)[0])
    return least


def handling(figure: Mesh, tips: Sequence[Tip], height: float, scatter: float = 1.0) -> list[Threat]:
    """What breaks when tips are taken off a figure in build coordinates: what breaks off, and what chips, one line each; in layers of `height`."""
    fused = [tip for tip in tips if not tip.gap]  # what keeps a gap peels off
    if not fused:
        return []
    at = np.array([(t.x, t.y, t.z) for t in fused])
    wide_tip = np.array([t.diameter for t in fused])
    thick, _ = rays_of(figure).first(at + [0.0, 0.0, RAISED_MM], np.array([0.0, 0.0, 1.0]))
    thick = thick + RAISED_MM
    wide = across(figure, at + np.column_stack([0 * thick, 0 * thick, np.minimum(thick, MIDDLE_MM) / 2]))
    snapped = bears(thick, wide, wide_tip, np.zeros(len(fused), np.bool_))
    weak = np.flatnonzero(np.array([chance(m, scatter) for m in snapped.tolist()]) >= TOLD)
    if not len(weak):
        return []
    cut = np.zeros(len(fused), np.bool_)
    cut[weak] = reached(figure, necks([fused[k] for k in weak]), ways_in()).any(axis=1)
    margin = bears(thick, wide, wide_tip, cut)
    rod = wide < ROD * thick
    found = []
    for loss, mine in (("part lost", weak[rod[weak]]), ("scar", weak[~rod[weak]])):
        each = np.array([chance(m, scatter) for m in margin[mine].tolist()])
        p = 1 - math.prod((1 - each).tolist())
        if p < TOLD:
            continue
        told = mine[each >= TOLD / 10]
        k = int(mine[np.argmax(each)])
        tip = fused[k]
        what = "breaks off" if loss == "part lost" else "chips"
        how = "cut" if cut[k] else "snapped, since no cutter reaches it"
        few = "a tip stands" if len(told) == 1 else f"{len(told)} tips stand"
        text = (
            f"When they come off: {few} on parts hardly thicker than the tip. The worst, {tip.diameter:.2f} mm wide at {tip.z:.1f} mm, is {how}; "
            f"what it stands on is {thick[k]:.2f} mm thick and {what} with it."
        )
        remedy = "Finer tips there, warm water and a fresh blade; or turn the figure so that they stand on something stouter."
        needs = DELICATE * tip.diameter / (CUT ** (1 / 3) if cut[k] else 1.0)
        found.append(
            Threat(
                "handled",
                max(0, int(tip.z / height)),
                (tip.x, tip.y, tip.z),
                float(thick[k]),
                needs,
                "mm",
                text,
                remedy,
                min(p, 1.0),
                loss=loss,
            )
        )
    return found
