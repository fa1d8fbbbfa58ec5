"""What a change of supports would do, before it is made: the kept load path is walked anew, nothing is cut and nothing
is placed.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import both_cores
from ..contract import BackOffDoc, ChangeDoc, DemandDoc, DialDoc, EditAsk, HeldDoc, NeededDoc, SupportsRow, WhatIfDoc
from ..machines import Context, default_height
from ..supports import Carrying, back_off, find_demand, manner_of, margin_of, needed, tip_hold, what_if
from .given import HeldGiven, PosedGiven, SupportsGiven
from .inputs import PosedInputs
from .shelf import Shelf
from .supported import held_given
from .tasks import Progress, kept, key_of, task


@dataclass(frozen=True)
class Kept:
    """A set that has been made, and its load path; which of it are areas (n,)."""

    carrying: Carrying
    on: NDArray[np.int32]
    points: NDArray[np.float64]
    strength: NDArray[np.float64]
    context: Context
    broad: NDArray[np.bool_]


def kept_set(shelf: Shelf, given: SupportsGiven, risk: float, style: str, edits: Sequence[EditAsk]) -> Kept | None:
    """The set of these inputs; None where it has not been made yet."""
    inputs = PosedInputs(shelf, given)
    height = default_height(inputs.printer)
    asked = held_given(given, height=height, risk=risk, style=style, edits=edits)
    try:
        row = shelf.memory.recall(("held", key_of("held", asked)), lambda: _made(shelf, asked)).row
    except LookupError:
        return None
    return kept_in(inputs, row)


def held_if_made(
    shelf: Shelf, given: SupportsGiven, risk: float, *, style: str, edits: Sequence[EditAsk]
) -> HeldDoc | None:
    """The document of a set of these inputs; None where it has not been made yet."""
    height = default_height(PosedInputs(shelf, given).printer)
    return kept(shelf, "held", held_given(given, height=height, risk=risk, style=style, edits=edits), HeldDoc)


def kept_in(inputs: PosedInputs, row: SupportsRow) -> Kept:
    """The set of a row, and its load path."""
    shelf, sha = inputs.shelf, row.carrying_sha
    return Kept(
        shelf.memory.recall(("carrying", sha), lambda: Carrying.unpack(shelf.get(sha))),
        np.array([s.component for s in row.spots], np.int32),
        np.array([s.at for s in row.spots], float).reshape(-1, 3),
        np.array([s.hold_n for s in row.spots], float),
        Context.of(inputs.printer, inputs.material, row.layer_height_mm),
        np.array([s.area_mm2 > 0 for s in row.spots], np.bool_),
    )


STOPS = tuple(round(0.005 * 60 ** (k / 6), 6) for k in range(7))
"""Risks that are counted for the dial: each the same factor above the last."""


@task("dial", PosedGiven, DialDoc)
def dial(shelf: Shelf, given: PosedGiven, progress: Progress) -> DialDoc:
    """What the placed figure asks for at every stop."""
    inputs = PosedInputs(shelf, given)
    context = inputs.placed_context(default_height(inputs.printer))
    progress(0.1, "reading every layer without supports")
    before, where, manner = inputs.before(context), inputs.reachable(context), manner_of(context)

    def at(risk: float) -> DemandDoc:
        demand = find_demand(inputs.placed.whole, before, context, where, tip_mm=manner.tip_mm(risk), risk=risk)
        return DemandDoc(risk=risk, tips=len(demand.points), reasons=dict(Counter(demand.reasons)))

    progress(0.4, "counting the tips that it asks for")
    return DialDoc(stops=both_cores(at, [(risk,) for risk in STOPS]))


def needed_of(set_kept: Kept, risk: float) -> NeededDoc:
    """Which tips of a set are needed at an accepted risk; areas are, whatever the load path says of their middle."""
    mask = needed(set_kept.carrying, set_kept.on, set_kept.points, set_kept.strength, margin_of(set_kept.context, risk))
    return NeededDoc(needed=(mask | set_kept.broad).tolist())


def back_off_of(set_kept: Kept, risk: float) -> BackOffDoc:
    """The order in which tips of a set may go at an accepted risk; areas stay."""
    carrying, wanted = set_kept.carrying, margin_of(set_kept.context, risk)
    way = back_off(carrying, set_kept.on, set_kept.points, set_kept.strength, wanted=wanted, stays=set_kept.broad)
    least = [float(m) if carrying.peeled and np.isfinite(m) else None for m in way.least]
    return BackOffDoc(order=way.order.tolist(), free=way.free, least=least)


def what_if_of(set_kept: Kept, *, risk: float, gone: Sequence[int], put: Sequence[Sequence[float]]) -> WhatIfDoc:
    """A set without the tips numbered `gone` and with more at `put` (build coordinates)."""
    carrying, wanted = set_kept.carrying, margin_of(set_kept.context, risk)
    changed = what_if(
        carrying,
        set_kept.on,
        set_kept.points,
        set_kept.strength,
        gone=[k for k in gone if 0 <= k < len(set_kept.on)],
        put=np.array(put, float).reshape(-1, 3),
        put_strength=float(tip_hold(set_kept.context, manner_of(set_kept.context).tip_mm(risk))),
        wanted=wanted,
    )
    return WhatIfDoc(
        worse=[
            ChangeDoc(
                place=(c.x, c.y, c.z),
                pull_n=c.pull,
                share=c.share,
                before=_told(c.before, carrying),
                after=_told(c.after, carrying),
            )
            for c in changed.worse
        ],
        wanted=wanted if carrying.peeled else 1.0,
        margins=[float(m) if carrying.peeled and np.isfinite(m) else None for m in changed.margins],
        vain=changed.vain,
    )


def _told(margin: float, carrying: Carrying) -> float:
    """A margin where something is peeled; else 1 for what is held and 0 for what is not."""
    return margin if carrying.peeled else float(margin > 0)


def _made(shelf: Shelf, asked: HeldGiven) -> HeldDoc:
    known = kept(shelf, "held", asked, HeldDoc)
    if known is None:
        raise LookupError
    return known
