"""A figure as it stands in its file, without supports: its proof, and how it would come out at several heights."""

from __future__ import annotations

import dataclasses
from collections.abc import Sequence

import numpy as np

from ..contract import LayersDoc, ProofDoc, basics_of, layers_document, proof_document
from ..hazards import combined
from ..layers import prove
from ..layers.detail import detail_of
from ..layers.steps import cusp_quantiles
from ..machines import Context
from ..mesh import Mesh, ThinPlace
from ..process import process_of
from ..process.heights import Heights, choose_height, height_choice
from ..removal.hands import held_gift, mean_lean
from ..risk import ledger
from ..worth import Rates, priced, rates_of
from .given import BareGiven, HeightsGiven
from .inputs import Inputs
from .shelf import Shelf
from .size import thin_of
from .supported import refuse_nothing
from .tasks import Progress, task


@task("bare", BareGiven, ProofDoc, rests_on=("proposed", "thin"))
def bare_task(shelf: Shelf, given: BareGiven, progress: Progress) -> ProofDoc:
    """Every layer read; `as_is` leaves the figure at the height above the plate that its file gives it."""
    inputs = Inputs(shelf, given)
    figure = inputs.figure if given.as_is else inputs.figure.dropped()
    context = inputs.context(given.height)
    proof = prove(figure, context.height, context.reach, bridge=context.bridge)
    refuse_nothing(figure, proof.stack.volume())
    hazards = ledger(proof, context, thin=_thin(inputs, figure))
    use = process_of(inputs.printer).use_of(figure, {}, proof, context)
    return proof_document(basics_of(inputs.figure), proof, use, hazards=hazards, context=context)


@task("heights", HeightsGiven, LayersDoc, rests_on=("proposed", "thin"))
def bare_heights_task(shelf: Shelf, given: HeightsGiven, progress: Progress) -> LayersDoc:
    """The figure cut at each of the heights asked for."""
    inputs = Inputs(shelf, given)
    figure = inputs.figure.dropped()
    rates = rates_of(given.rates)
    thin = _thin(inputs, figure)
    return layers_document(bare_heights(figure, inputs.context(), given.heights, thin=thin, rates=rates))


def _thin(inputs: Inputs, figure: Mesh) -> list[ThinPlace]:
    """Thin places of the figure where it stands in its file, moved with `figure`."""
    dx, dy, dz = (float(v) for v in figure.lower - inputs.figure.lower)
    return [
        dataclasses.replace(p, x=p.x + dx, y=p.y + dy, z=p.z + dz)
        for p in thin_of(inputs.shelf, inputs.given, inputs.printer)
    ]


def bare_heights(
    figure: Mesh,
    context: Context,
    heights: Sequence[float],
    *,
    thin: list[ThinPlace],
    rates: Rates,
) -> Heights:
    """A figure in build coordinates as it is, cut at each height and without supports, and the height of least
    worth.
    """
    lean, mean = cusp_quantiles(figure, context.weights), mean_lean(figure, context.weights)
    detail = detail_of(figure, context.weights)
    choices, worths = [], []
    for height in sorted(heights):
        here = context.at(height)
        proof = prove(figure, height, here.reach, bridge=here.bridge)
        hazards = ledger(proof, here, thin=thin)
        use = process_of(here.printer).use_of(figure, {}, proof, here)
        choices.append(
            height_choice(here, lean, proof.stack.grid.layers, use=use, risk=combined(hazards), detail=detail)
        )
        worths.append(
            priced(
                held_gift(
                    [], np.empty(0), mean, hazards=hazards, use=use, context=here, foot_mm2=float(proof.areas[0])
                ),
                rates,
            )
        )
    return choose_height(choices, worths)
