"""The fold Layers: the supported figure at every customary height of the machine."""

from __future__ import annotations

import numpy as np

from ..choice import Heights, choose_height, cusp_quantiles, height_choice, held_gift, mean_lean
from ..compiled import both_cores
from ..contract import HeldDoc, LayersBoard, LayersRow, height_of, priced_at
from ..layers import prove
from ..machines import Context, printer_heights
from ..mesh import Mesh, ThinPlace
from ..process import Use, process_of
from ..risk import combined, ledger
from ..supports import seen_weights
from ..worth import Rates, priced, rates_of
from .held import HELD
from .inputs import Inputs
from .shelf import Shelf
from .supports import at_rates, held_of
from .tasks import Given, Progress, quiet, task


@task("layers", 3, (*(n for n in HELD if n != "height"), "rates"), LayersBoard, rests_on=("held",))
def layers(shelf: Shelf, given: Given, progress: Progress) -> LayersBoard:
    """Four layer heights of the supported figure, cut and compared; what the fold Supports has made is taken as it is."""
    held = Inputs(shelf, given)
    heights = sorted(printer_heights(held.printer))
    lean = cusp_quantiles(held.placed.whole, seen_weights(held.placed_context().weights))
    progress(0.02, f"supporting and cutting at {len(heights)} heights")

    def one(height: float) -> HeldDoc:
        return held_of(shelf, given, height=height, risk=given["risk"], style=given.get("style", "pillars"))

    made = both_cores(one, [(height,) for height in heights])
    rows = [m.row for m in made]
    choices = [
        height_choice(held.context(height), lean, m.proof.layers.count, _use_of(m), m.row.numbers.risk)
        for height, m in zip(heights, made, strict=True)
    ]
    rates = rates_of(given.get("rates"))
    worths = [priced_at(row.gift, rates) for row in rows]
    found = choose_height(choices, worths)
    return LayersBoard(
        choices=[
            LayersRow(height=height_of(c), held=at_rates(row, worth))
            for c, row, worth in zip(found.choices, rows, worths, strict=True)
        ],
        recommended=found.recommended,
        why=found.why,
    )


def _use_of(made: HeldDoc) -> Use:
    n = made.row.numbers
    return Use(
        n.time_s,
        np.array(made.row.strip.clock_s),
        n.volume_ml,
        n.mass_g,
        n.cost,
        made.proof.time_is,
        n.film_share,
    )


def bare_heights(
    figure: Mesh,
    context: Context,
    heights: list[float],
    thin: list[ThinPlace],
    rates: Rates,
    progress: Progress = quiet,
) -> Heights:
    """A figure in build coordinates as it is, cut at each height and without supports, and the height of least worth."""
    lean, mean = cusp_quantiles(figure, context.weights), mean_lean(figure, context.weights)
    choices, worths = [], []
    for height in sorted(heights):
        here = context.at(height)
        proof = prove(figure, height, here.reach, bridge=here.bridge)
        hazards = ledger(proof, here, thin=thin)
        use = process_of(here.printer).use(proof.stack, proof.areas, here)
        choices.append(height_choice(here, lean, proof.stack.grid.layers, use, combined(hazards)))
        worths.append(
            priced(held_gift([], np.empty(0), mean, hazards, use, here, foot_mm2=float(proof.areas[0])), rates)
        )
    return choose_height(choices, worths)
