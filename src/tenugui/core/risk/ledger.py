"""From proofs to hazards. All chances are priors until the log has runs of its own, and are labelled so."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from ..layers import LANDS_MM, Island, Proof, closing_share, is_slight
from ..machines import Context, Printer, thin_limits
from ..mesh import ThinPlace
from ..process import NEAR_PLATE_MM, Threat, process_of
from ..supports import USUAL_RISK, Tip, manner_of, safety_factor, touched, usual_tip
from .hazard import CAP, Hazard, weighed

FREE_LAYERS = 2.0
"""Prior: layers an unheld island may grow before it drifts, on average."""
MISHAP = 0.03
"""Prior: one print in about thirty fails for what no layer shows: the plate's hold, power, an empty vat or spool."""
SURVIVES = 2.0
"""Prior: a part at its limit of thickness breaks in one of twelve cases; at half the limit, in every second."""
PART_MM, PART_SHARE = 3.0, 0.06
"""Priors: a rod shorter than so many mm, or than this share of the figure's height, or a sheet thin less far in from its edge, chips; a larger one
breaks off."""
LARGER = 1.5
"""A figure may be printed so many times as large for a part of it; beyond that it is another figure."""
OPEN_SHARE = 0.02
"""Prior: share of open scan lines at which every second print shows it."""
SHEET_MM = 1.0
"""Prior: what hangs over within this height sags and curls as one."""
FOLD_MM = 0.05
"""Prior: what is thinner than a pixel or a grain of plastic is a fold where surfaces cross, not a part."""
LEDGES = 4.0
"""Prior: a ledge so many times as large as one that half of all prints survive curls, tears or falls, and is not sanded away."""
TOLD_SHARE = 0.25
"""Of what half of all prints survive: of less nobody asks whether it hangs all around."""
GRAIN_MM2 = 0.02
LEAST_MM2 = 0.5
"""Overhang below these is the grain of the scan lines."""


def _islands(islands: list[Island], height: float, scatter: float) -> list[Hazard]:
    found = []
    for i in islands:
        alone = i.until_layer - i.layer
        where = (
            f"joins {alone * height:.2f} mm higher" if i.joins_layer is not None else "and never joins anything older"
        )
        text = f"Starts in mid air at {i.z:.2f} mm, {i.area:.2g} mm², {where}."
        remedy = "Support it, or turn the figure so that it grows out of the body."
        threat = Threat("island", i.layer, (i.x, i.y, i.z), FREE_LAYERS, float(alone), "layers alone", text, remedy)
        slight = is_slight(i, height)
        found.append(weighed(threat, scatter, loss="scar", severity="notice") if slight else weighed(threat, scatter))
    return found


def _overhangs(proof: Proof, tips: Sequence[Tip], context: Context) -> list[Hazard]:
    """Ledges beyond the limit as far as no tip holds them; islands' own first layers are none, nor is what sags onto the plate.

    A *ledge* is what hangs over of components that lie on each other, and it is judged where it reaches out most within SHEET_MM of height: what curls
    is one sheet, and the same area spread up a rough flank is not. A small one scars; one of LEDGES times what a print survives is lost. Where nothing is
    peeled, what hangs closely over something sags onto it: it scars, however large.
    """
    parts, height = proof.components, proof.stack.grid.height
    process = process_of(context.printer)
    ledge_mm2 = process.ledge_mm2
    area = proof.hang.by_component.copy()
    area[[i.component for i in proof.islands]] = 0.0
    area[parts.layer * height <= NEAR_PLATE_MM] = 0.0
    busy = area > GRAIN_MM2
    both = parts.links[busy[parts.links].all(axis=1)]
    n = len(area)
    _, ledge = connected_components(coo_matrix((np.ones(len(both), np.bool_), (both[:, 0], both[:, 1])), (n, n)), False)
    whole = np.bincount(ledge, np.where(busy, area, 0.0), ledge.max(initial=0) + 1)
    at = touched(proof, np.array([[t.x, t.y, t.z] for t in tips]).reshape(-1, 3))
    at = at[at >= 0]
    sheet = max(1, round(SHEET_MM / height))
    by_ledge, tips_by_ledge = _grouped(ledge, np.flatnonzero(busy)), _grouped(ledge, at)
    found = []
    for k in np.flatnonzero(whole >= LEAST_MM2):
        members = by_ledge[int(k)]
        by_layer = np.bincount(parts.layer[members], area[members])
        summed = np.convolve(by_layer, np.ones(sheet))[: len(by_layer)]
        high = int(np.argmax(summed)) + 1
        low = max(int(parts.layer[members].min()), high - sheet)
        here = parts.layer[tips_by_ledge.get(int(k), at[:0])]
        under = int(((here >= low - 1) & (here <= high)).sum())
        reach = float(summed[high - 1])
        slope = math.atan2((high - low) * height, math.sqrt(reach))
        total = reach - under * _each_mm2(context, slope)
        if total < LEAST_MM2:
            continue
        members = members[(parts.layer[members] >= low) & (parts.layer[members] < high)]
        worst = members[np.argmax(area[members])]
        layer = int(parts.layer[worst])
        told, shut = total, 0.0
        if process.closes > 1 and total > TOLD_SHARE * ledge_mm2:
            shut = total * closing_share(proof.stack, parts.of_run, layer, int(worst))
            total += shut / process.closes - shut
            if total < LEAST_MM2:
                continue
        x, y = parts.inside[worst]
        held = f", tips under them: {under}" if under else " with nothing under them"
        where = f"between {low * height:.2f} and {high * height:.2f} mm"
        text = f"{told:.1f} mm² reach beyond the limit {where}{held}."
        if shut > told / 2:
            text = f"A ceiling of {told:.1f} mm² closes {where}; it hangs all around and sags a little."
        remedy = "Turn the figure, or hold the ledge with more tips."
        sags = 0.0 if context.printer.hangs else float(proof.hang.lands[members].sum())
        if sags > total / 2:
            text += f" {min(sags, told):.1f} mm² of it sag onto what lies within {LANDS_MM:g} mm below."
        loss = "part lost" if total - sags > LEDGES * ledge_mm2 else "scar"
        place = (float(x), float(y), layer * height)
        threat = Threat("overhang", layer, place, ledge_mm2, total, "mm²", text, remedy, loss=loss)
        found.append(weighed(threat, context.printer.scatter))
    return found


def _grouped(group: NDArray[np.int32], members: NDArray[Any]) -> dict[int, NDArray[Any]]:
    """Members by their group."""
    order = members[np.argsort(group[members], kind="stable")]
    names, starts = np.unique(group[order], return_index=True)
    return dict(zip(names.tolist(), np.split(order, starts[1:]), strict=True)) if len(order) else {}


def _each_mm2(context: Context, slope: float) -> float:
    """What a tip holds of a ledge of this rise over its reach at an even chance: the square of the usual pitch, times the safety that it has in it."""
    pitch = manner_of(context).pitch_mm(slope, usual_tip(context), USUAL_RISK)
    return pitch**2 * safety_factor(USUAL_RISK)


def _together(code: str, tips: Sequence[Tip], height: float, said: str, remedy: str) -> list[Hazard]:
    """One line for all of some supports, at the lowest of them; `said` of that one's height."""
    if not tips:
        return []
    low = min(tips, key=lambda tip: tip.z)
    place = (low.x, low.y, low.z)
    text = said.format(z=low.z)
    threat = Threat(code, int(low.z / height), place, 0.0, float(len(tips)), "supports", text, remedy, 1.0)
    return [weighed(threat, severity="notice")]


def _standing(tips: Sequence[Tip], height: float) -> list[Hazard]:
    """Supports that stand on the figure."""
    many = len(tips) != 1
    said = f"{len(tips)} support{'s stand' if many else ' stands'} on the figure and scar{'' if many else 's'} it twice, the lowest below {{z:.1f}} mm."
    remedy = "Turn the figure, or accept the scars where the surface is hidden."
    return _together("stands-on-figure", tips, height, said, remedy)


def _locked(tips: Sequence[Tip], height: float) -> list[Hazard]:
    """Supports that find no way out of the figure."""
    many = len(tips) != 1
    said = f"{len(tips)} support{'s are' if many else ' is'} locked in by the figure around {'them' if many else 'it'}, the lowest below {{z:.1f}} mm: {'they come' if many else 'it comes'} out in pieces."
    remedy = "Turn the figure, or cut them short with a fine blade."
    return _together("locked", tips, height, said, remedy)


def _thicker(times: float) -> str:
    """What helps a part that lacks so many times its thickness. Nobody prints a figure eight times as large for a tassel."""
    if times <= LARGER:
        return f"Print it {times:.2f} times as large, or handle it last."
    return "No size that you would print makes it strong: thicken it in the model, or expect it to blur or break."


def _thin(places: Sequence[ThinPlace], printer: Printer, height: float, tall: float) -> list[Hazard]:
    found, limits = [], thin_limits(printer)
    for p in places:
        limit = limits[p.kind]
        text = f"{p.thickness:.2f} mm thin over {p.extent:.1f} mm; {limit:.2f} mm survive handling."
        remedy = _thicker(limit / p.thickness)
        threat = Threat("thin", max(0, int(p.z / height)), (p.x, p.y, p.z), p.thickness, limit, "mm", text, remedy)
        # What no machine draws is a fold of the surface, and nothing breaks off with it.
        # A rod breaks off by its length; a sheet only where it is thin far in from its edge.
        reach = p.extent if p.kind == "rod" else p.width
        chips = reach < max(PART_MM, PART_SHARE * tall) or p.thickness < FOLD_MM
        found.append(
            weighed(
                threat,
                printer.scatter,
                safety=SURVIVES,
                loss="scar" if chips else None,
                severity="notice" if chips else None,
            )
        )
    return found


def _open(proof: Proof, scatter: float) -> list[Hazard]:
    stack = proof.stack
    if not stack.open_rows:
        return []
    share = stack.open_rows / (stack.open_rows + int((np.diff(stack.row_start) > 0).sum()))
    text = f"{stack.open_rows:,} scan lines ({share:.1%}) run into a hole of the surface; what they found there is left out."
    remedy = "Repair the mesh before printing."
    threat = Threat("open-surface", 0, (0.0, 0.0, 0.0), OPEN_SHARE, share, "share of scan lines", text, remedy)
    return [weighed(threat, scatter)]


def _outside(proof: Proof, context: Context) -> list[Hazard]:
    """Figure and supports against the build space."""
    grid, build = proof.stack.grid, context.printer.build_mm
    runs = proof.stack
    wide = float((runs.x_out.max() - runs.x_in.min()) * grid.unit) if len(runs.x_in) else 0.0
    rows = np.flatnonzero((np.diff(runs.row_start) > 0).reshape(grid.layers, grid.rows).any(axis=0))
    deep = float((rows[-1] - rows[0] + 1) * grid.pitch) if len(rows) else 0.0
    lift = context.printer.raft_mm(grid.height)
    tall = grid.layers * grid.height + lift
    slack = grid.pitch + 1e-6
    if wide <= build[0] + slack and deep <= build[1] + slack and tall <= build[2] + grid.height:
        return []
    size = f"{wide:.1f} x {deep:.1f} x {tall:.1f} mm{' with the raft' if lift else ''}"
    room = " x ".join(f"{v:g}" for v in build)
    text = f"Figure and supports measure {size}; '{context.printer.name}' builds {room} mm."
    worst = max(wide / build[0], deep / build[1], tall / build[2])
    threat = Threat(
        "outside-build",
        grid.layers - 1,
        (0.0, 0.0, tall),
        1.0,
        worst,
        "of the build space",
        text,
        "Make it smaller, or turn it.",
        CAP,
    )
    return [weighed(threat)]


def ledger(
    proof: Proof,
    context: Context,
    *,
    tips: Sequence[Tip] = (),
    own: Proof | None = None,
    thin: Sequence[ThinPlace] = (),
    off: Sequence[Tip] | None = None,
    locked: Sequence[Tip] = (),
    more: Sequence[Threat] = (),
) -> list[Hazard]:
    """Every hazard of a proved figure, with its supports if it has any; the costliest first. `own`: the figure's proof without them, `off`: those
    of the tips that come off again, `locked`: of those the ones that find no way out, `more`: what others have
    found."""
    height = proof.stack.grid.height
    process, scatter = process_of(context.printer), context.printer.scatter
    mishap = "What no layer shows: the plate's hold, power, an empty vat or spool. A prior until the log knows better."
    found = [
        *_islands(proof.islands, height, scatter),
        *_overhangs(proof, tips, context),
        *_thin(thin, context.printer, height, proof.stack.grid.layers * height),
        *(weighed(threat, scatter) for threat in more),
        *(weighed(threat, scatter) for threat in process.threats(proof, context, tips, proof if own is None else own)),
        *_open(proof, scatter),
        *_outside(proof, context),
        *_standing([tip for tip in (tips if off is None else off) if tip.scars_twice], height),
        *_locked(locked, height),
        weighed(
            Threat(
                "mishap",
                0,
                (0.0, 0.0, 0.0),
                1.0,
                1.0,
                "print",
                mishap,
                "Look after the first layers before leaving.",
                MISHAP,
            )
        ),
    ]
    weight = {"print lost": 3.0, "part lost": 2.0, "scar": 0.3, "speck": 0.01}
    return sorted(
        found, key=lambda h: -h.chance * weight["speck" if (h.code, h.loss) == ("island", "scar") else h.loss]
    )
