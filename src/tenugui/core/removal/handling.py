"""Tips taken off against the strength of what they hold: a tip that is snapped off, or cut with the cutter's squeeze,
bends the feature it stands on.

A round neck of diameter d breaks at a moment as d³, a feature of thickness t and width w at one as w t². A rod DELICATE
tips thick is as strong as the snap.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..hazards import Arises, Hazard, Kind, Loss, Sight, chance, source
from ..layers import LayerStack, features
from ..mesh import Mesh
from ..risk import PART_MM, PART_SHARE
from ..supports import Tip
from .cutter import DELICATE, necks, reached, ways_in

F8 = NDArray[np.float64]
CUT = 8.0
"""Prior: a cutter strains what it cuts from so many times less than a snap does: as a tip of half the width."""
ABROAD = 4.0
"""Of a sheet no more than so many times its thickness bears with it."""
ROD = 2.0
"""What is wider than so many times its thickness is a sheet, and chips; what is not breaks off."""
TOLD = 0.01
"""Of what breaks more seldom nothing is said."""
CRUMB_MM = 0.15
"""Prior: what is thinner is a grain of relief, and goes with the scar that any tip leaves."""
HANDLED = Kind(
    "handled",
    "breaks with its tip",
    "a part hardly thicker than the tip that is taken off it",
    "part lost",
    "hemp",
    "handling",
)
AROUND = ((0.7, 0.7), (-0.7, 0.7), (0.7, -0.7), (-0.7, -0.7))


def bears(thick: F8, wide: F8, diameter: F8, cut: NDArray[np.bool_]) -> F8:
    """How many times what taking a tip off asks the feature it stands on bears (n,); all in mm.

    >>> one, no = np.ones(1), np.zeros(1, bool)
    >>> float(bears(2 * one, 2 * one, one, no)[0]), float(bears(one, one, one, ~no)[0])
    (1.0, 1.0)
    """
    w = np.clip(wide, thick, ABROAD * thick)
    return np.asarray(w * thick**2 / (DELICATE * diameter) ** 3 * np.where(cut, CUT, 1.0))


def stood_on(stack: LayerStack, tips: Sequence[Tip]) -> F8:
    """(n, 3) how thick, wide and long what each tip stands on is, mm: the middle one of five readings under its width,
    since a contact may lie on an edge.
    """
    at = np.array([(t.x, t.y, t.z) for t in tips])
    aside = np.array([t.diameter for t in tips])[:, None] / 2
    widths = np.stack([features(stack, at + aside * [x, y, 0.0]) for x, y in ((0, 0), *AROUND)])
    none = (widths[..., 0] == 0).all(axis=0)
    # Where nothing begins over any of them it is no feature that could be told.
    widths[:, none] = np.inf
    widths[widths[..., 0] == 0] = np.nan
    return np.asarray(np.nanmedian(widths, axis=0))


@source(HANDLED)
def _handled(sight: Sight) -> list[Hazard]:
    if sight.figure is None:
        return []
    return handling(sight.figure, sight.own.stack, sight.off, sight.context.printer.scatter)


def handling(figure: Mesh, stack: LayerStack, tips: Sequence[Tip], scatter: float = 1.0) -> list[Hazard]:
    """What breaks when tips are taken off a figure in build coordinates, cut without them: what breaks off, and what
    chips, one line each.
    """
    fused = [tip for tip in tips if not tip.gap]  # what keeps a gap peels off
    if not fused:
        return []
    wide_tip = np.array([t.diameter for t in fused])
    thick, wide, long = stood_on(stack, fused).T
    snapped = bears(thick, wide, wide_tip, np.zeros(len(fused), np.bool_))
    weak = np.flatnonzero((thick >= CRUMB_MM) & (np.array([chance(m, scatter) for m in snapped.tolist()]) >= TOLD))
    if not len(weak):
        return []
    cut = np.zeros(len(fused), np.bool_)
    cut[weak] = reached(figure, necks([fused[k] for k in weak]), ways_in()).any(axis=1)
    margin = bears(thick, wide, wide_tip, cut)
    # What goes on as thin for a while is a part; what does not is a bump, and a sheet chips.
    rod = (wide < ROD * thick) & (long >= max(PART_MM, PART_SHARE * float(figure.size[2])))
    hazards = []
    groups: tuple[tuple[Loss, NDArray[np.int64]], ...] = (("part lost", weak[rod[weak]]), ("scar", weak[~rod[weak]]))
    for loss, mine in groups:
        each = np.array([chance(m, scatter) for m in margin[mine].tolist()])
        p = 1 - math.prod((1 - each).tolist())
        if p < TOLD:
            continue
        risky = mine[each >= TOLD / 10]
        k = int(mine[np.argmax(each)])
        tip = fused[k]
        what = "breaks off" if loss == "part lost" else "chips"
        how = "cut" if cut[k] else "snapped, since no cutter reaches it"
        many = len(risky) > 1
        few = f"{len(risky)} tips stand on parts" if many else "a tip stands on a part"
        text = (
            f"When they come off: {few} hardly thicker than {'they are. The worst' if many else 'it is. It'}, "
            f"{tip.diameter:.2f} mm wide at {tip.z:.1f} mm, is {how}; "
            f"what it stands on is {thick[k]:.2f} mm thick and {what} with it (priors)."
        )
        remedy = (
            "Finer tips there, warm water and a fresh blade; or "
            "turn the figure so that they stand on something stouter."
        )
        needs = DELICATE * tip.diameter / (CUT ** (1 / 3) if cut[k] else 1.0)
        layer, place = max(0, int(tip.z / stack.grid.height)), (tip.x, tip.y, tip.z)
        arises = Arises(margins=tuple(margin[mine].tolist()))
        hazards.append(
            HANDLED.at(
                layer, place, float(thick[k]), needs, unit="mm", message=text, remedy=remedy, arises=arises, loss=loss
            )
        )
    return hazards
