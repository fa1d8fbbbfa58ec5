"""What a supported figure takes of a person, a machine and its luck, from its tips, its steps and its ledger."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..hazards import Hazard
from ..layers.steps import FLAT
from ..machines import Context, kind_of
from ..mesh import Mesh, rays_of
from ..pose.price import FINISH_MIN
from ..process import Use
from ..supports import PIECE_MIN, SCAR_MIN, Brace, Tip, pieces, seen_weights, tip_minutes
from ..worth import Gift

F8 = NDArray[np.float64]
SPECK_SHARE = 0.04
"""Prior: the mark of a speck of relief that nothing held takes so much of those minutes, of the few that are seen at
all.
"""
HIDDEN_STEP_MM = 0.02
"""Prior: steps that primer hides."""


def finish_min(lean: float, height: float, process: str) -> float:
    """Minutes to smooth steps at a layer height, `lean` the weighted mean of |n_z| over its slopes; none where primer
    hides them.

    >>> finish_min(0.5, 0.05, "resin"), finish_min(0.5, 0.02, "resin")
    (9.0, 0.0)
    """
    return smoothing_min(lean * max(0.0, height - HIDDEN_STEP_MM), process)


def smoothing_min(above_mm: float, process: str) -> float:
    """Minutes to smooth steps that stand `above_mm` on average over what primer hides."""
    return FINISH_MIN * above_mm / (kind_of(process).finish_at_mm - HIDDEN_STEP_MM)


def mean_lean(mesh: Mesh, weights: F8 | None) -> float:
    """Weighted mean of |n_z| over the surface of a posed figure, flat faces counting as none."""
    normal, area = mesh.normals_and_areas()
    mass = area if weights is None else area * weights
    lean = np.abs(normal[:, 2])
    return float((mass * np.where(lean < FLAT, lean, 0.0)).sum() / max(float(mass.sum()), 1e-12))


UNDER_MM = 0.15
"""Rays start so far below a contact, and meet its face within twice that."""


def weights_at(mesh: Mesh, weights: F8 | None, tips: Sequence[Tip]) -> F8:
    """What a scar costs at each tip (n,): of the face right above its contact, else of the nearest that looks down; the
    mean over all contacts of an area. In a cavity, or on the rim of a hole into one, nothing: nobody sands there.
    """
    weights = seen_weights(weights)
    if weights is None or not tips:
        return np.ones(len(tips))
    contacts = [t.contacts for t in tips]
    many = np.array([len(c) for c in contacts])
    costs = _at_contacts(mesh, weights, np.array([at for c in contacts for at in c]))
    return np.asarray(np.add.reduceat(costs, np.cumsum(many) - many) / many)


def _at_contacts(mesh: Mesh, weights: F8, at: F8) -> F8:
    distance, face = rays_of(mesh).first(at - [0, 0, UNDER_MM], np.array([0.0, 0.0, 1.0]))
    costs = weights[np.maximum(face, 0)]
    if (beside := distance > 2 * UNDER_MM).any():
        costs[beside] = _nearest(mesh, weights, at[beside])
    return np.asarray(costs)


def _nearest(mesh: Mesh, weights: F8, at: F8) -> F8:
    normal, _ = mesh.normals_and_areas()
    down = np.flatnonzero(normal[:, 2] < 0)
    if not len(down):
        return np.ones(len(at))
    middles = mesh.middles()[down]
    near = _columns(middles, at)
    far, places = cKDTree(middles[near]).query(at) if len(near) else (np.full(len(at), np.inf), np.zeros(len(at), int))
    nearest = near[places] if len(near) else places
    if (lost := far > COLUMN_MM).any():
        nearest[lost] = cKDTree(middles).query(at[lost])[1]
    return np.asarray(weights[down[nearest]])


COLUMN_MM = 1.0


def _columns(middles: F8, at: F8) -> NDArray[np.int64]:
    """Those of many points that may lie within COLUMN_MM of one of a few: in their squares of the table, and those
    around.
    """
    low = np.minimum(middles[:, :2].min(axis=0), at[:, :2].min(axis=0)) - COLUMN_MM
    cells, mine = (((p[:, :2] - low) / COLUMN_MM).astype(np.int64) for p in (middles, at))
    near = np.zeros(np.maximum(cells.max(axis=0), mine.max(axis=0)) + 2, np.bool_)
    for x in (-1, 0, 1):
        for y in (-1, 0, 1):
            near[mine[:, 0] + x, mine[:, 1] + y] = True
    return np.flatnonzero(near[cells[:, 0], cells[:, 1]])


def chances(hazards: Sequence[Hazard]) -> tuple[float, float, float]:
    """Chance of losing the print, of losing a part, and how many scars are to be expected, specks counting as what they
    take.
    """
    lost, part = (
        1 - math.prod(1 - h.chance for h in hazards if h.loss == loss) for loss in ("print lost", "part lost")
    )
    return lost, part, sum(h.chance * (SPECK_SHARE if h.code == "island" else 1.0) for h in hazards if h.loss == "scar")


def off_minutes(tips: Sequence[Tip], costs: F8, process: str, braces: Sequence[Brace] = ()) -> float:
    """Minutes to cut all tips off, sand their scars, and take what stands in pieces out; what braces and interfaces
    join comes out as one.
    """
    return float(tip_minutes(tips, costs, process).sum()) + PIECE_MIN * pieces(tips, braces)


def held_gift(
    tips: Sequence[Tip],
    costs: F8,
    lean: float,
    *,
    hazards: Sequence[Hazard],
    use: Use,
    context: Context,
    foot_mm2: float = 0.0,
    braces: Sequence[Brace] = (),
    fails: tuple[float, float] | None = None,
) -> Gift:
    """Minutes to scrape off what lies on the plate itself (`foot_mm2`), to cut off, sand and smooth, hours and material
    as its layers say, and the chances of its ledger; `fails`: of losing the print and a part, where trial prints know
    better.
    """
    process = context.printer.process
    kind = kind_of(process)
    off = off_minutes(tips, costs, process, braces)
    lost, part, scars = chances(hazards)
    lost, part = (lost, part) if fails is None else fails
    scraped = kind.hands_min.get("contact_mm2", 0.0) * foot_mm2
    hands = kind.fixed_min + scraped + off + SCAR_MIN * scars + finish_min(lean, context.height, process)
    return Gift(context.printer.hands_times * hands, use.time_s / 3600, use.cost, lost, part)
