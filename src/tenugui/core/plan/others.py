"""The figure as it stands by other nozzles and by other machines of the shelf: what a finer nozzle saves of the detail,
and what another process would give.

Of the figure alone, without supports, so that all are compared in the same; the machine that was chosen is among the
rows.
"""

from __future__ import annotations

import numpy as np

from ..contract import OtherDoc, OthersDoc, height_of
from ..layers import prove
from ..layers.detail import detail_of
from ..layers.steps import cusp_quantiles
from ..machines import (
    Context,
    FilamentPrinter,
    Material,
    Printer,
    default_height,
    draws_lines,
    load_material,
    load_printer,
)
from ..pose import fitting
from ..process import process_of
from ..process.heights import HeightChoice, height_choice, more_or_less
from ..supports import seen_weights
from .given import OthersGiven
from .inputs import PosedInputs
from .shelf import Shelf
from .tasks import Progress, task

NOZZLES_MM = (0.2, 0.25, 0.4, 0.6, 0.8)
UPRIGHT = np.array([[0.0, 0.0, -1.0]])
"""As it stands, at whichever turn about z."""
NEAR = 2.0
"""Nozzles so many times as fine or as wide are offered."""
MOST_MACHINES = 4
FINE_SLOWER, FINE_GENTLER = 0.35, 0.5
"""Priors: powers of a finer nozzle's share by which its lines are slower and its acceleration less: half the nozzle
draws at four fifths of the speed, which is what people measured over what lines of the same speed would take.
"""


def with_nozzle(printer: FilamentPrinter, nozzle_mm: float) -> FilamentPrinter:
    """A machine with another nozzle: lines in proportion, as many as make the same wall; a narrower one melts less, in
    proportion, and draws its fine lines more slowly and turns more gently, so that they lie where they belong (priors).
    """
    share = nozzle_mm / printer.nozzle_mm
    line, slower = round(printer.line_mm * share, 3), min(1.0, share) ** FINE_SLOWER
    changes = {
        "wall_mm_s": printer.wall_mm_s * slower,
        "fill_mm_s": printer.fill_mm_s * slower,
        "acceleration_mm_s2": printer.acceleration_mm_s2 * min(1.0, share) ** FINE_GENTLER,
        "nozzle_mm": nozzle_mm,
        "line_mm": line,
        "perimeters": max(1, round(printer.perimeters * printer.line_mm / line)),
        "flow_mm3_s": printer.flow_mm3_s * min(1.0, share),
    }
    return FilamentPrinter.model_validate(printer.model_dump() | changes)


def _named(printer: Printer, material: Material, nozzle: bool) -> str:
    if nozzle and draws_lines(printer):
        return f"nozzle of {printer.nozzle_mm:g} mm"
    return f"{printer.name}, {material.name}"


@task("others", OthersGiven, OthersDoc)
def others(shelf: Shelf, given: OthersGiven, progress: Progress) -> OthersDoc:
    """Rows by nozzle and by machine."""
    inputs = PosedInputs(shelf, given)
    figure, seen = inputs.placed.whole, seen_weights(inputs.placed_context().weights)
    lean, detail = cusp_quantiles(figure, seen), detail_of(figure, seen)
    asked = _asked(inputs, given)
    rows = list[OtherDoc]()
    for k, (printer, material, nozzle, height) in enumerate(asked):
        progress(0.05 + 0.95 * k / len(asked), f"{_named(printer, material, nozzle)} at {height:g} mm")
        context = Context.of(printer, material, height)
        proof = prove(figure, height, context.reach, bridge=context.bridge)
        use = process_of(printer).use_of(figure, {}, proof, context)
        choice = height_choice(context, lean, proof.stack.grid.layers, use=use, risk=0.0, detail=detail)
        fits = bool(fitting(figure, UPRIGHT, printer.build_mm)[0])
        rows.append(_row(_named(printer, material, nozzle), printer, choice, fits))
    return OthersDoc(rows=rows, said=said_of(rows))


def _asked(inputs: PosedInputs, given: OthersGiven) -> list[tuple[Printer, Material, bool, float]]:
    """What is compared, the chosen machine at the chosen height first."""
    own, height = inputs.printer, given.height
    asked: list[tuple[Printer, Material, bool, float]] = [(own, inputs.material, draws_lines(own), height)]
    if draws_lines(own):
        for nozzle in NOZZLES_MM:
            if nozzle != own.nozzle_mm and own.nozzle_mm / NEAR <= nozzle <= own.nozzle_mm * NEAR:
                other = with_nozzle(own, nozzle)
                asked += [(other, inputs.material, True, h) for h in other.heights()[:3]]
    for machine in given.machines[:MOST_MACHINES]:
        printer = load_printer(machine.printer)
        material = load_material(machine.material, printer)
        asked.append((printer, material, False, default_height(printer)))
    return asked


def _row(place: str, printer: Printer, choice: HeightChoice, fits: bool) -> OtherDoc:
    height = height_of(choice)
    return OtherDoc(
        place=place,
        process=printer.process,
        nozzle_mm=printer.nozzle_mm if draws_lines(printer) else None,
        layer_height_mm=height.layer_height_mm,
        time_s=height.time_s,
        material_g=height.material_g,
        cost=height.cost,
        cusp_mm=height.cusp_mm,
        lost_share=height.lost_share or 0.0,
        blemishes=height.blemishes,
        fits=fits,
    )


def said_of(rows: list[OtherDoc]) -> list[str]:
    """What a friend would say of a finer nozzle and of the other process, beside the first row."""
    own, said = rows[0], list[str]()
    finer = [r for r in rows if r.nozzle_mm and own.nozzle_mm and r.nozzle_mm < own.nozzle_mm]
    if finer:
        best = min(finer, key=lambda r: (abs(r.layer_height_mm - own.layer_height_mm), -(r.nozzle_mm or 0)))
        said.append(
            f"A {best.place} at {best.layer_height_mm:g} mm does not draw "
            f"{_share(best.lost_share)} of what is seen rather than {_share(own.lost_share)}: "
            f"{more_or_less(best.time_s - own.time_s)}."
        )
    for r in rows[1:]:
        if r.process != own.process and r.fits:
            said.append(
                f"{r.place} at {r.layer_height_mm:g} mm: steps of "
                f"{r.cusp_mm.p95 * 1000:.0f} µm rather than {own.cusp_mm.p95 * 1000:.0f}, "
                f"{_share(r.lost_share)} not drawn rather than {_share(own.lost_share)}, "
                f"{more_or_less(r.time_s - own.time_s)}, before supports."
            )
            break
    return said


def _share(share: float) -> str:
    return "nothing" if share < 5e-4 else f"{share * 100:.1f} %"


__all__ = ["others", "said_of", "with_nozzle"]
