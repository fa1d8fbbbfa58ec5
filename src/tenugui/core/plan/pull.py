"""What pulls at a bare figure, what would hold it, and what a tilt, a hole or a slower lift would change: each cut and
read anew.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..contract import PullDoc, PullRemedy, peak_of
from ..layers import Proof, prove
from ..machines import USUAL_RISK, Context, MachineError, Printer, ResinPrinter, by_depth, peels
from ..mesh import Mesh
from ..pose import placement
from ..supports import margin_of, tip_hold, usual_tip
from ..supports.holds import PLATE_KPA
from ..vat import Peak, layer_pull, layer_seconds, peaks, slower

F8 = NDArray[np.float64]
MILD_N = 3.0
"""Prior: what pulls less wants no remedy: a dozen usual tips hold it."""
TILTS_DEG, AROUND = (20.0, 40.0), 8
COARSE_LAYERS = 160
"""Tilts are weighed on so many layers, and the best of them on all."""
WORTH_SHARE = 0.9
"""A remedy is told where it leaves no more than this share of the pull."""
LIFT_SHARE = 0.5


def tilted(down: Sequence[float], degrees: float, around: float) -> F8:
    """The direction to the plate once the figure leans by `degrees` towards `around` (radians, in the frame of
    `across`).
    """
    z = np.array(down, float) / float(np.linalg.norm(down))
    x, y = across(z)
    lean = math.radians(degrees)
    return np.asarray(math.cos(lean) * z + math.sin(lean) * (math.cos(around) * x + math.sin(around) * y))


def across(z: F8) -> tuple[F8, F8]:
    """Two directions across another, and across each other."""
    x = np.cross([0.0, 1.0, 0.0] if abs(z[1]) < 0.9 else [1.0, 0.0, 0.0], z)
    x /= float(np.linalg.norm(x))
    return x, np.cross(z, x)


def _hardest(proof: Proof, context: Context, printer: ResinPrinter) -> float:
    return float(layer_pull(printer, proof.areas, proof.voids.sealed_area, _depth(context)).max())


def _depth(context: Context) -> float:
    return by_depth(context.material, context.height)


def _tilt(
    body: Mesh, sketch: Mesh, context: Context, down: Sequence[float], printer: ResinPrinter
) -> PullRemedy | None:
    """The tilt that pulls least, of those that fit the machine."""
    coarse = max(context.height, float(sketch.size.max()) / COARSE_LAYERS)
    best: tuple[float, float, F8] | None = None
    for degrees in TILTS_DEG:
        for k in range(AROUND):
            way = tilted(down, degrees, 2 * math.pi * k / AROUND)
            try:
                place = placement(sketch, (float(way[0]), float(way[1]), float(way[2])), printer.room_mm, printer.name)
            except MachineError:
                continue  # a tilt that does not fit is none
            pull = _hardest(prove(place.apply(sketch), coarse, context.reach), context, printer)
            # Of two that pull alike the lesser tilt is taken.
            if best is None or pull < 0.95 * best[0]:
                best = (pull, degrees, way)
    if best is None:
        return None
    _, degrees, way = best
    down_so = (float(way[0]), float(way[1]), float(way[2]))
    figure = placement(body, down_so, printer.room_mm, printer.name).apply(body)
    pull = _hardest(prove(figure, context.height, context.reach), context, printer)
    return PullRemedy(kind="tilt", what=f"Tilted by {degrees:.0f}°", pull_n=pull, down=down_so)


def _vented(proof: Proof, context: Context, printer: ResinPrinter, worst: Peak) -> PullRemedy | None:
    """What is left when the cup that sucks at the worst layer breathes."""
    sealed = proof.voids.sealed_area.copy()
    here = [c for c in proof.voids.sealed if c.first_layer <= worst.layer <= c.last_layer]
    if not here:
        return None
    cup = max(here, key=lambda c: c.area[min(worst.layer - c.first_layer, len(c.area) - 1)])
    sealed[cup.first_layer : cup.first_layer + len(cup.area)] -= cup.area
    pull = float(layer_pull(printer, proof.areas, np.maximum(sealed, 0.0), _depth(context)).max())
    low = cup.first_layer * proof.stack.grid.height
    return PullRemedy(kind="hole", what=f"A hole into the cup that closes at {low:.1f} mm", pull_n=pull)


def _slow(proof: Proof, context: Context, printer: ResinPrinter) -> PullRemedy:
    eased = slower(printer, LIFT_SHARE)
    count, height = proof.stack.grid.layers, context.height

    def seconds(p: ResinPrinter) -> float:
        return float(layer_seconds(p, context.material, count, height).sum())

    return PullRemedy(
        kind="lift",
        what=f"Peeled at {eased.lift_mm_s[0]:.2g} in place of {printer.lift_mm_s[0]:.2g} mm/s",
        pull_n=_hardest(proof, context, eased),
        longer_min=(seconds(eased) - seconds(printer)) / 60,
    )


def pull_of(
    proof: Proof, body: Mesh, sketch: Mesh, *, context: Context, down: Sequence[float], printer: Printer, film: float
) -> PullDoc | None:
    """What pulls at a bare figure as it was proved with `down` at the plate; None where nothing is peeled.

    `body` is the figure in its file's frame, `sketch` a copy of few faces on which tilts are weighed, `film` the share
    of a film's life that it wears.
    """
    if not peels(printer):
        return None
    height = proof.stack.grid.height
    strongest = peaks(printer, proof.areas, proof.voids.sealed_area, height=height, depth=_depth(context))
    worst = strongest[0].newtons if strongest else 0.0
    margin = worst * margin_of(context, USUAL_RISK)
    remedies: list[PullRemedy | None] = []
    if strongest and worst > MILD_N:
        remedies = [_tilt(body, sketch, context, down, printer)]
        if strongest[0].cause == "cup":
            remedies.insert(0, _vented(proof, context, printer, strongest[0]))
        remedies.append(_slow(proof, context, printer))
    return PullDoc(
        peaks=[peak_of(p, proof) for p in strongest],
        tips=math.ceil(margin / float(tip_hold(context, usual_tip(context)))),
        plate_mm2=margin / (PLATE_KPA * 1e-3),
        film_share=film,
        remedies=[r for r in remedies if r is not None and r.pull_n <= WORTH_SHARE * worst],
    )
