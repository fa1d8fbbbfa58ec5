"""From proofs to hazards. All chances are priors until the log has runs of its own, and are labelled so."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..layers import Island, Proof, is_slight
from ..machines import Context, thin_limits
from ..mesh import ThinPlace
from ..process import Threat, process_of
from ..supports import USUAL_RISK, Tip, manner_of, safety_factor, usual_tip
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
LEDGES = 4.0
"""Prior: a ledge so many times as large as one that half of all prints survive curls, tears or falls, and is not sanded away."""
GRAIN_MM2 = 0.02
LEAST_MM2 = 0.5
"""Overhang below these is the grain of the scan lines."""


def _islands(islands: list[Island], height: float) -> list[Hazard]:
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
        found.append(weighed(threat, cost="scar", severity="notice") if slight else weighed(threat))
    return found


def _overhangs(proof: Proof, ledge_mm2: float, tips: Sequence[Tip], each_mm2: float) -> list[Hazard]:
    """Stretches of neighbouring layers with area beyond the limit, islands' own first layers left out, as far as no tip holds them.

    A tip holds `each_mm2` of what lies around it. A ledge that is small scars; one of LEDGES times what a print survives is lost.
    """
    heights = np.sort(np.array([t.z for t in tips]))
    height = proof.stack.grid.height
    area = proof.hang.by_layer.copy()
    for i in proof.islands:
        area[i.layer] -= min(area[i.layer], proof.hang.by_component[i.component])
    found = []
    busy = area > GRAIN_MM2
    edges = np.flatnonzero(np.diff(np.concatenate([[False], busy, [False]]).astype(int)))
    for first, end in zip(edges[::2], edges[1::2], strict=True):
        whole = float(area[first:end].sum())
        low, high = np.searchsorted(heights, [(first - 1) * height, (end + 1) * height])
        total = whole - float(high - low) * each_mm2
        if total < LEAST_MM2:
            continue
        layer = int(first + np.argmax(area[first:end]))
        of_layer = np.flatnonzero(proof.components.layer == layer)
        worst = of_layer[np.argmax(proof.hang.by_component[of_layer])]
        x, y = proof.components.inside[worst]
        under = f", {high - low} tips under it" if high > low else " with nothing under it"
        text = f"{total:.1f} mm² reach beyond the limit between {first * height:.2f} and {end * height:.2f} mm{under}."
        remedy = "Turn the figure, or hold the ledge with more tips."
        cost = "part lost" if total > LEDGES * ledge_mm2 else None
        place = (float(x), float(y), layer * height)
        found.append(weighed(Threat("overhang", layer, place, ledge_mm2, total, "mm²", text, remedy, cost=cost)))
    return found


def _each_mm2(context: Context) -> float:
    """What a tip holds of a flat ledge at an even chance: the square of the usual pitch, times the safety that the pitch has in it."""
    pitch = manner_of(context).pitch_mm(0.0, usual_tip(context), USUAL_RISK)
    return pitch**2 * safety_factor(USUAL_RISK)


def _standing(tips: list[Tip], height: float) -> list[Hazard]:
    """One line for all supports that stand on the figure, at the lowest of them."""
    if not tips:
        return []
    low = min(tips, key=lambda tip: tip.z)
    many = len(tips) > 1
    text = f"{len(tips)} support{'s stand' if many else ' stands'} on the figure and scar{'' if many else 's'} it twice, the lowest below {low.z:.1f} mm."
    remedy = "Turn the figure, or accept the scars where the surface is hidden."
    threat = Threat(
        "stands-on-figure",
        int(low.z / height),
        (low.x, low.y, low.z),
        0.0,
        float(len(tips)),
        "supports",
        text,
        remedy,
        1.0,
    )
    return [weighed(threat, severity="notice")]


def _thicker(times: float) -> str:
    """What helps a part that lacks so many times its thickness. Nobody prints a figure eight times as large for a tassel."""
    if times <= LARGER:
        return f"Print it {times:.2f} times as large, or handle it last."
    return "No size that you would print makes it strong: thicken it in the model, or expect it to blur or break."


def _thin(places: Sequence[ThinPlace], limits: dict[str, float], height: float, tall: float) -> list[Hazard]:
    found = []
    for p in places:
        limit = limits[p.kind]
        text = f"{p.thickness:.2f} mm thin over {p.extent:.1f} mm; {limit:.2f} mm survive handling."
        remedy = _thicker(limit / p.thickness)
        threat = Threat("thin", max(0, int(p.z / height)), (p.x, p.y, p.z), p.thickness, limit, "mm", text, remedy)
        # A rod breaks off by its length; a sheet only where it is thin far in from its edge.
        reach = p.extent if p.kind == "rod" else p.width
        chips = reach < max(PART_MM, PART_SHARE * tall)
        found.append(
            weighed(threat, safety=SURVIVES, cost="scar" if chips else None, severity="notice" if chips else None)
        )
    return found


def _open(proof: Proof) -> list[Hazard]:
    stack = proof.stack
    if not stack.open_rows:
        return []
    share = stack.open_rows / max(1, int((np.diff(stack.row_start) > 0).sum()))
    text = f"{stack.open_rows:,} scan lines ({share:.1%}) run into a hole of the surface; what they found there is left out."
    remedy = "Repair the mesh before printing."
    return [weighed(Threat("open-surface", 0, (0.0, 0.0, 0.0), OPEN_SHARE, share, "share of scan lines", text, remedy))]


def _outside(proof: Proof, context: Context) -> list[Hazard]:
    """Figure and supports against the build space."""
    grid, build = proof.stack.grid, context.printer.build_mm
    runs = proof.stack
    wide = float((runs.x_out.max() - runs.x_in.min()) * grid.unit) if len(runs.x_in) else 0.0
    rows = np.flatnonzero((np.diff(runs.row_start) > 0).reshape(grid.layers, grid.rows).any(axis=0))
    deep = float((rows[-1] - rows[0] + 1) * grid.pitch) if len(rows) else 0.0
    tall = grid.layers * grid.height
    slack = grid.pitch + 1e-6
    if wide <= build[0] + slack and deep <= build[1] + slack and tall <= build[2] + grid.height:
        return []
    size = f"{wide:.1f} x {deep:.1f} x {tall:.1f} mm"
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
) -> list[Hazard]:
    """Every hazard of a proved figure, with its supports if it has any; the costliest first. `own`: the figure's proof without them."""
    height = proof.stack.grid.height
    process = process_of(context.printer)
    mishap = "What no layer shows: the plate's hold, power, an empty vat or spool. A prior until the log knows better."
    found = [
        *_islands(proof.islands, height),
        *_overhangs(proof, process.ledge_mm2, tips, _each_mm2(context)),
        *_thin(thin, thin_limits(context.printer), height, proof.stack.grid.layers * height),
        *(weighed(threat) for threat in process.threats(proof, context, tips, proof if own is None else own)),
        *_open(proof),
        *_outside(proof, context),
        *_standing([tip for tip in tips if tip.on == "model"], height),
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
    weight = {"print lost": 3.0, "part lost": 2.0, "scar": 0.3}
    return sorted(found, key=lambda h: -h.chance * weight[h.cost])
