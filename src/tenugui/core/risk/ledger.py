"""From proofs to hazards. All chances are priors until the log has runs of its own, and are labelled so."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from statistics import NormalDist

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import ConvexHull, QhullError

from ..layers import Island, Proof, is_slight
from ..machines import Material, Printer, ResinPrinter, thin_limits
from ..mesh import ThinPlace
from ..supports import Tip
from ..supports.demand import SPREAD
from ..vat import layer_pull
from .codes import HAZARDS

F8 = NDArray[np.float64]
FREE_LAYERS = 2.0
"""Prior: layers an unheld island may grow before it drifts, on average."""
LEDGE_MM2 = {"resin": 12.0, "filament": 6.0}
"""Prior: overhang beyond the limit in one stretch that half of all prints survive without a mark that matters."""
SUCTION_HARM_N = 4.0
"""Prior: suction at which a figure's wall or its hold gives way half of the time."""
PLATE_KPA = 60.0
"""Prior: adhesion of green resin to the plate, or of a first layer to the bed."""
MISHAP = 0.03
"""Prior: one print in about thirty fails for what no layer shows: the plate's hold, power, an empty vat or spool."""
SURVIVES = 2.0
"""Prior: a part at its limit of thickness breaks in one of twelve cases; at half the limit, in every second."""
PART_MM = 3.0
"""Prior: a shorter rod, or a sheet thin less far in from its edge, chips; a larger one breaks off."""
TRAPPED_CHANCE = 0.5
"""Prior: resin closed in for good leaks or bursts the figure in every second case."""
CAP = 0.95


@dataclass(frozen=True)
class Hazard:
    """One line of the ledger. Place in mm in build coordinates; `has` and `needs` in `unit` are the evidence; `chance` is a prior."""

    code: str
    severity: str
    layer: int
    x: float
    y: float
    z: float
    chance: float
    cost: str
    has: float
    needs: float
    unit: str
    message: str
    remedy: str


def chance(margin: float) -> float:
    """Chance of failing at a margin capacity/demand: Φ(-ln m / SPREAD), a half at m = 1, 8 % at m = 2.

    >>> round(chance(1.0), 2), round(chance(2.0), 2)
    (0.5, 0.08)
    """
    if margin <= 0:
        return CAP
    return min(CAP, NormalDist().cdf(-math.log(margin) / SPREAD))


def combined(hazards: list[Hazard]) -> float:
    """Chance that at least one comes true, taken as independent, scars left out, capped."""
    survive = math.prod(1 - h.chance for h in hazards if h.cost != "scar")
    return min(CAP, 1 - survive)


def _hazard(
    code: str, layer: int, place: tuple[float, float, float], has: float, needs: float, unit: str, message: str, remedy: str,
    safety: float = 1.0,
) -> Hazard:
    """`safety`: how many times what it needs counts as a margin of one half and one half."""
    p = chance(safety * has / needs) if needs > 0 else 0.0
    severity = "severe" if p >= 0.5 else "warning" if p >= 0.1 else "notice"
    return Hazard(code, severity, layer, *place, p, HAZARDS[code][0], has, needs, unit, message, remedy)


def _islands(islands: list[Island], height: float) -> list[Hazard]:
    found = []
    for i in islands:
        alone = i.until_layer - i.layer
        where = f"joins {alone * height:.2f} mm higher" if i.joins_layer is not None else "and never joins anything older"
        h = _hazard(
            "island",
            i.layer,
            (i.x, i.y, i.z),
            FREE_LAYERS,
            float(alone),
            "layers alone",
            f"Starts in mid air at {i.z:.2f} mm, {i.area:.2g} mm², {where}.",
            "Support it, or turn the figure so that it grows out of the body.",
        )
        found.append(replace(h, cost="scar", severity="notice") if is_slight(i, height) else h)
    return found


def _overhangs(proof: Proof, process: str) -> list[Hazard]:
    """Stretches of neighbouring layers with area beyond the limit, islands' own first layers left out."""
    area = proof.hang.by_layer.copy()
    for i in proof.islands:
        area[i.layer] -= min(area[i.layer], proof.hang.by_component[i.component])
    found = []
    busy = area > 0.02
    edges = np.flatnonzero(np.diff(np.concatenate([[False], busy, [False]]).astype(int)))
    for first, end in zip(edges[::2], edges[1::2], strict=True):
        total = float(area[first:end].sum())
        if total < 0.5:
            continue
        layer = int(first + np.argmax(area[first:end]))
        of_layer = np.flatnonzero(proof.components.layer == layer)
        worst = of_layer[np.argmax(proof.hang.by_component[of_layer])]
        x, y = proof.components.inside[worst]
        found.append(
            _hazard(
                "overhang",
                layer,
                (float(x), float(y), layer * proof.stack.grid.height),
                LEDGE_MM2[process],
                total,
                "mm²",
                f"{total:.1f} mm² reach beyond the limit between {first * proof.stack.grid.height:.2f} and {end * proof.stack.grid.height:.2f} mm.",
                "Turn the figure, or hold the ledge with more tips.",
            )
        )
    return found


def _resin(proof: Proof, printer: ResinPrinter, material: Material, tips: list[Tip], lifted: bool) -> list[Hazard]:
    height = proof.stack.grid.height
    found = []
    for cup in proof.voids.sealed:
        force = printer.suction_kpa * cup.peak_area * 1e-3
        top = cup.first_layer + int(np.argmax(cup.area))
        found.append(
            _hazard(
                "sealed",
                top,
                (cup.x, cup.y, top * height),
                SUCTION_HARM_N,
                force,
                "N of suction",
                f"A cup of {cup.volume:.1f} mm³ seals against the film from {cup.first_layer * height:.2f} to {(cup.last_layer + 1) * height:.2f} mm and sucks with {force:.2f} N.",
                "Vent it with a hole near the plate, or tilt the figure until it drains.",
            )
        )
    for space in proof.voids.trapped:
        found.append(
            Hazard(
                "trapped",
                "severe",
                int(space.z_low / height),
                space.x,
                space.y,
                space.z_low,
                TRAPPED_CHANCE,
                HAZARDS["trapped"][0],
                0.0,
                space.volume,
                "mm³",
                f"{space.volume / 1000:.2f} ml of liquid resin stay inside between {space.z_low:.1f} and {space.z_high:.1f} mm.",
                "Drill two drain holes on hidden surfaces, or fill the hollow.",
            )
        )
    pull = layer_pull(printer, proof.areas, proof.voids.sealed_area)
    if lifted and tips:
        strength = sum(material.green_strength_mpa * math.pi * t.diameter**2 / 4 for t in tips)
        peak = int(np.argmax(pull))
        x, y = proof.centroids[peak]
        found.append(
            _hazard(
                "pull",
                peak,
                (float(x), float(y), peak * height),
                strength,
                float(pull[peak]),
                "N",
                f"The peel of layer {peak} pulls with {pull[peak]:.2f} N; all tips together hold {strength:.1f} N.",
                "Add tips below the widest sections, or tilt the figure to narrow them.",
            )
        )
    elif len(pull):
        foot = proof.areas[0] * PLATE_KPA * 1e-3
        peak = int(np.argmax(pull))
        x, y = proof.centroids[peak]
        found.append(
            _hazard(
                "pull",
                peak,
                (float(x), float(y), peak * height),
                float(foot),
                float(pull[peak]),
                "N",
                f"The peel of layer {peak} pulls with {pull[peak]:.2f} N; the foot on the plate holds {foot:.2f} N.",
                "Give it a raft or a wider foot.",
            )
        )
    return found


def _standing(tips: list[Tip], height: float) -> list[Hazard]:
    """One line for all supports that stand on the figure, at the lowest of them."""
    if not tips:
        return []
    low = min(tips, key=lambda tip: tip.z)
    message = f"{len(tips)} support{'s stand' if len(tips) > 1 else ' stands'} on the figure and scar{'' if len(tips) > 1 else 's'} it twice, the lowest below {low.z:.1f} mm."
    remedy = "Turn the figure, or accept the scars where the surface is hidden."
    return [
        Hazard(
            "stands-on-figure",
            "notice",
            int(low.z / height),
            low.x,
            low.y,
            low.z,
            1.0,
            "scar",
            0.0,
            float(len(tips)),
            "supports",
            message,
            remedy,
        )
    ]


def _stance(proof: Proof) -> list[Hazard]:
    """Filament: where the centre of mass comes down against the hull of the first layer, supports included."""
    runs = proof.stack.layer_runs(0)
    weight = proof.areas.sum()
    if not len(runs) or weight <= 0:
        return []
    here = (proof.areas[:, None] * proof.centroids).sum(axis=0) / weight
    ends = np.concatenate([runs[:, [1, 0]], runs[:, [2, 0]]])
    try:
        hull = ConvexHull(ends)
    except QhullError:
        return []
    outside = float((hull.equations[:, :2] @ here + hull.equations[:, 2]).max())
    radius = math.sqrt(hull.volume / math.pi)
    message = f"The centre of mass comes down {abs(outside):.1f} mm {'outside' if outside > 0 else 'inside'} the edge of its foot."
    return [
        _hazard(
            "unstable",
            0,
            (float(here[0]), float(here[1]), 0.0),
            radius,
            max(radius + outside, 1e-3),
            "mm",
            message,
            "Turn it onto a broader foot, or give it supports around the foot.",
        )
    ]


def _thin(places: list[ThinPlace], limits: dict[str, float], height: float) -> list[Hazard]:
    found = []
    for p in places:
        limit = limits[p.kind]
        h = _hazard(
            "thin",
            max(0, int(p.z / height)),
            (p.x, p.y, p.z),
            p.thickness,
            limit,
            "mm",
            f"{p.thickness:.2f} mm thin over {p.extent:.1f} mm; {limit:.2f} mm survive handling.",
            f"Print it {limit / p.thickness:.2f} times as large, or handle it last.",
            SURVIVES,
        )
        # A rod breaks off by its length; a sheet only where it is thin far in from its edge.
        reach = p.extent if p.kind == "rod" else p.width
        found.append(h if reach >= PART_MM else replace(h, cost="scar", severity="notice"))
    return found


def ledger(proof: Proof, printer: Printer, material: Material, tips: list[Tip], lifted: bool, thin: list[ThinPlace]) -> list[Hazard]:
    """Every hazard of a proved figure, with its supports if it has any; the costliest first."""
    height = proof.stack.grid.height
    found = _islands(proof.islands, height) + _overhangs(proof, printer.process) + _thin(thin, thin_limits(printer), height)
    if not isinstance(printer, ResinPrinter):
        found += _stance(proof)
    else:
        found += _resin(proof, printer, material, tips, lifted)
    if proof.stack.open_rows:
        share = proof.stack.open_rows / max(1, int((np.diff(proof.stack.row_start) > 0).sum()))
        found.append(
            _hazard(
                "open-surface",
                0,
                (0.0, 0.0, 0.0),
                0.02,
                share,
                "share of scan lines",
                f"{proof.stack.open_rows:,} scan lines ({share:.1%}) run into a hole of the surface; what they found there is left out.",
                "Repair the mesh before printing.",
            )
        )
    found += _standing([tip for tip in tips if tip.on == "model"], height)
    found.append(
        Hazard(
            "mishap",
            "notice",
            0,
            0.0,
            0.0,
            0.0,
            MISHAP,
            HAZARDS["mishap"][0],
            1.0,
            1.0,
            "print",
            "What no layer shows: the plate's hold, power, an empty vat or spool. A prior until the log knows better.",
            "Look after the first layers before leaving.",
        )
    )
    weight = {"print lost": 3.0, "part lost": 2.0, "scar": 0.3}
    return sorted(found, key=lambda h: -h.chance * weight[h.cost])
