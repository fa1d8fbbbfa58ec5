"""Regions: contacts that stand close together under one underside; which of them are worth carrying."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree
from scipy.special import ndtr

from ..layers import Proof
from ..machines import SPREAD, Context, kind_of
from .manner import LEDGES, Manner
from .minutes import CUT_MIN, HAIR_MIN, PEELS, PIECE_MIN, SAND_MIN, SCAR_MIN
from .reach import Reachable
from .tip import Tip
from .touch import touched

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
B1 = NDArray[np.bool_]
LEAST_RISK, DEAR = 0.01, 2.0
"""Priors: who accepts no more has everything carried; and so has everybody who does not draw in lines, where a scar
costs less than this.
"""
FLAT_MM = 1.5
"""Prior: what hangs within this height sags as one; of a slope more hangs than the layers that its contacts touch."""
NEAR_MM = 4.0
"""Prior: what hangs so near to a contact sags with what it holds, however far apart contacts are set."""
LINKS = 1.5
"""Prior: contacts no farther apart than so many pitches of a flat underside belong to one region."""


def regions(points: F8, pitch: float) -> I4:
    """To which region each contact (n, 3) belongs (n,): those that are linked by steps of LINKS pitches.

    >>> regions(np.array([[0.0, 0, 9], [2, 0, 9], [4, 0, 9], [30, 0, 9]]), 2.0).tolist()
    [0, 0, 0, 1]
    """
    many = len(points)
    if not many:
        return np.empty(0, np.int32)
    near = cKDTree(points).query_pairs(LINKS * pitch, output_type="ndarray")
    linked = coo_matrix((np.ones(len(near)), (near[:, 0], near[:, 1])), (many, many))
    return np.asarray(connected_components(linked, directed=False)[1])


def regions_of_tips(tips: Sequence[Tip], pitch: float) -> I4:
    """To which region each tip belongs (n,): an area and the tips beside it to one."""
    contacts = [t.contacts for t in tips]
    if not contacts:
        return np.empty(0, np.int32)
    many = np.array([len(c) for c in contacts])
    region = regions(np.array([at for c in contacts for at in c]), pitch)
    return np.asarray(region[np.cumsum(many) - many])


def worth_carrying(
    points: F8, proof: Proof, context: Context, where: Reachable, *, manner: Manner, pitch: float, risk: float
) -> B1:
    """Which contacts (n, 3) under undersides are worth their minutes: a small region at what people look at, whose tips
    would take longer to take off and sand, with the hairs of their pillars, than its own droop takes to mend, is left
    by who accepts more than the least risk: nothing tall stands before a face for a speck.

    What is as large as a part is carried in any case.
    """
    keep = np.ones(len(points), np.bool_)
    if not len(points) or not len(where.spots) or risk <= LEAST_RISK:
        return keep
    cost = where.cost[cKDTree(where.spots).query(points)[1]]
    wide = manner.tip_mm(risk) / kind_of(context.printer.process).usual_tip_mm
    each = PEELS * (CUT_MIN * wide + SAND_MIN * cost * wide**2) + PIECE_MIN
    drawn = not context.printer.hangs
    if drawn:
        each += HAIR_MIN * cost * points[:, 2]
    region, on = regions(points, pitch), touched(proof, points)
    near = _hanging_by(points, region, proof)
    for k in range(int(region.max()) + 1):
        mine = np.flatnonzero(region == k)
        over = np.unique(on[mine][on[mine] >= 0])
        droops = max(float(proof.hang.by_component[over].sum()), float(near[k]))
        tall = float(np.ptp(points[mine, 2]))
        seen = float(cost[mine].mean())
        cheap = not drawn and seen < DEAR
        if cheap or tall > FLAT_MM or droops > LEDGES * manner.ledge_mm2:
            continue
        chance = float(ndtr(np.log(max(droops, 1e-6) / manner.ledge_mm2) / (context.printer.scatter * SPREAD)))
        # Nobody mends an underside as a cheek is mended.
        keep[mine] = each[mine].sum() <= SCAR_MIN * chance * (min(1.0, seen) if drawn else 1.0)
    return keep


def _hanging_by(points: F8, region: I4, proof: Proof) -> F8:
    """mm² that hang near each region's contacts (regions,): of a slope more hangs than the layers that are touched."""
    parts, hang = proof.components, proof.hang
    some = np.flatnonzero(hang.by_component > 0)
    found = np.zeros(int(region.max()) + 1)
    if not len(some):
        return found
    height = proof.stack.grid.height
    at = np.column_stack([hang.places[some], (parts.layer[some] + 0.5) * height])
    far, nearest = cKDTree(points).query(at)
    close = far <= NEAR_MM
    np.add.at(found, region[nearest[close]], hang.by_component[some][close])
    return found
