"""Ledges: what reaches out beyond the limit, as far as no tip holds it."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from ..hazards import Hazard, Kind, Loss, Sight, source
from ..layers import LANDS_MM, closing_share, left_over
from ..machines import USUAL_RISK, Context
from ..mesh import Mesh, rays_of
from ..process import NEAR_PLATE_MM, process_of
from ..supports import LEDGES, manner_of, safety_factor, touched, usual_tip

F8 = NDArray[np.float64]
SHEET_MM = 1.0
"""Prior: what hangs over within this height sags and curls as one."""
TOLD_SHARE = 0.25
"""Of what half of all prints survive: of less nobody asks whether it hangs all around."""
LEAST_CHANCE = 1e-3
"""Of a ledge that fails more seldom nothing is said."""
UNDER_MM = 0.3
"""From so far below a contact its surface is looked at."""
GRAIN_MM2 = 0.02
LEAST_MM2 = 0.5
"""Overhang below these is the grain of the scan lines."""
OVERHANG = Kind(
    "overhang", "overhang", "a layer reaches farther out than the layer below can carry", "scar", "rain", stop="hangs"
)


@source(OVERHANG)
def ledges(sight: Sight) -> list[Hazard]:
    """Ledges beyond the limit as far as no tip holds them; islands' own first layers are none, nor is what sags onto
    the plate: of lines whatever is no farther from it than LANDS_MM, where nobody sees their underside.

    A *ledge* is what hangs over of components that lie on each other, and it is judged where it reaches out most within
    SHEET_MM of height: what curls is one sheet, and the same area spread up a rough flank is not. A tip holds what lies
    within its reach of it on the layer, cell by cell, and nothing elsewhere. A small ledge scars; one of LEDGES times
    what a print survives is lost. Where nothing is peeled, what hangs closely over something sags onto it: it scars,
    however large.
    """
    proof, context = sight.proof, sight.context
    parts, height = proof.components, sight.height
    process = process_of(context.printer)
    ledge_mm2 = process.ledge_mm2
    area = proof.hang.by_component.copy()
    area[[i.component for i in proof.islands]] = 0.0
    area[parts.layer * height <= (NEAR_PLATE_MM if context.printer.peels else LANDS_MM)] = 0.0
    busy = area > GRAIN_MM2
    tips = np.array([contact for t in sight.tips for contact in t.contacts]).reshape(-1, 3)
    at = touched(proof, tips)
    of_tip = np.flatnonzero(at >= 0)
    # A layer that its tips hold all along hangs nowhere, and parts no slope in two.
    joins = busy.copy()
    joins[at[of_tip]] = True
    both = parts.links[joins[parts.links].all(axis=1)]
    n = len(area)
    _, ledge = connected_components(coo_matrix((np.ones(len(both), np.bool_), (both[:, 0], both[:, 1])), (n, n)), False)
    whole = np.bincount(ledge, np.where(busy, area, 0.0), ledge.max(initial=0) + 1)
    sheet = max(1, round(SHEET_MM / height))
    slope = _slopes(sight.figure, tips)
    reach = _reach_mm(context, slope)
    # Up a slope a tip holds layers above its own, as far as it reaches; and those of one sheet.
    climbs = np.clip(np.round(reach * np.tan(slope) / height), 1, sheet).astype(np.int64)
    by_ledge = _grouped(ledge, np.flatnonzero(busy))
    tips_by_ledge = _grouped(ledge[at[of_tip]], np.arange(len(of_tip)))
    hazards = []
    for k in np.flatnonzero(whole >= LEAST_MM2):
        members = by_ledge[int(k)]
        by_layer = np.bincount(parts.layer[members], area[members])
        summed = np.convolve(by_layer, np.ones(sheet))[: len(by_layer)]
        high = int(np.argmax(summed)) + 1
        low = max(int(parts.layer[members].min()), high - sheet)
        mine = of_tip[tips_by_ledge.get(int(k), of_tip[:0])]
        here = parts.layer[at[mine]]
        under = mine[(here >= low - climbs[mine]) & (here <= high)]
        total = float(summed[high - 1])
        members = members[(parts.layer[members] >= low) & (parts.layer[members] < high)]
        left, lands, places = area, proof.hang.lands, proof.hang.places
        if len(under):
            window = (low, high)
            left, lands, places = left_over(
                proof.stack, parts.of_run, proof.hang, layers=window, points=tips[under, :2], radius_mm=reach[under]
            )
            total = float(left[members].sum())
        if total < LEAST_MM2:
            continue
        worst = members[np.argmax(left[members])]
        layer = int(parts.layer[worst])
        beyond, shut = total, 0.0
        if process.closes > 1 and total > TOLD_SHARE * ledge_mm2:
            shut = total * closing_share(proof.stack, parts.of_run, layer, int(worst))
            total += shut / process.closes - shut
            if total < LEAST_MM2:
                continue
        x, y = places[worst]
        words = f" that none of {len(under)} tips under them reaches" if len(under) else " with nothing under them"
        where = f"between {low * height:.2f} and {high * height:.2f} mm"
        text = f"{beyond:.1f} mm² reach beyond the limit {where}{words}."
        if shut > beyond / 2:
            text = f"A ceiling of {beyond:.1f} mm² closes {where}; it hangs all around and sags a little."
        remedy = "Turn the figure, or hold the ledge with more tips."
        sags = 0.0 if context.printer.peels else float(lands[members].sum())
        if sags > total / 2:
            text += f" {min(sags, beyond):.1f} mm² of it sag onto what lies within {LANDS_MM:g} mm below."
        loss: Loss = "part lost" if total - sags > LEDGES * ledge_mm2 else "scar"
        place = (float(x), float(y), layer * height)
        told_so = OVERHANG.at(layer, place, ledge_mm2, total, unit="mm²", message=text, remedy=remedy, loss=loss)
        if told_so.on(context.printer.scatter).chance >= LEAST_CHANCE:
            hazards.append(told_so)
    return hazards


def _grouped(group: NDArray[np.int32], members: NDArray[Any]) -> dict[int, NDArray[Any]]:
    """Members by their group."""
    order = members[np.argsort(group[members], kind="stable")]
    names, starts = np.unique(group[order], return_index=True)
    return dict(zip(names.tolist(), np.split(order, starts[1:]), strict=True)) if len(order) else {}


def _slopes(figure: Mesh | None, contacts: F8) -> F8:
    """How steep the surface is at contacts (n, 3), radians; flat where that is not known, as on a sharp edge."""
    slopes = np.zeros(len(contacts))
    if figure is None or not len(contacts):
        return slopes
    far, face = rays_of(figure).first(contacts - [0.0, 0.0, UNDER_MM], np.array([0.0, 0.0, 1.0]))
    on = (face >= 0) & (far < 2 * UNDER_MM)
    normals, _ = figure.normals_and_areas()
    slopes[on] = np.arccos(np.clip(-normals[face[on], 2], 0.0, 1.0))
    return slopes


def _reach_mm(context: Context, slopes: F8) -> F8:
    """How far from it a tip on a surface of each slope (n,) holds a ledge at an even chance: the radius of as much as
    the square of the usual pitch there, times the safety that it has in it.
    """
    manner, tip = manner_of(context), usual_tip(context)
    grid = np.linspace(0, math.pi / 2, 64)
    pitch = np.interp(slopes, grid, [manner.pitch_mm(float(s), tip, USUAL_RISK) for s in grid])
    return np.asarray(pitch * math.sqrt(safety_factor(USUAL_RISK, context.printer.scatter) / math.pi))
