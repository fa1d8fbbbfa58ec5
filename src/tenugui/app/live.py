"""Directions weighed and ranked while a hand turns the figure or moves a priority: the scale is kept, so that an answer
takes milliseconds.
"""

from __future__ import annotations

import numpy as np

from ..core.contract import (
    BackOffDoc,
    HeldDoc,
    HoleDoc,
    HollowedDoc,
    JudgedDoc,
    NeededDoc,
    WhatIfDoc,
    WishAsk,
    WishDoc,
    worth_of,
)
from ..core.machines import Context, Printer
from ..core.plan import (
    Inputs,
    Kept,
    Memory,
    SearchDoc,
    back_off_of,
    held_if_made,
    judge_holes,
    kept,
    kept_set,
    key_of,
    needed_of,
    search_from,
    what_if_of,
)
from ..core.plan.given import FigureGiven, HollowedGiven, HollowGiven, SupportsGiven
from ..core.plan.inputs import matrix_of
from ..core.plan.pose import plain_wish
from ..core.pose import AIMS, Direction, Pace, Scale, Search, fitting, placement, rank_poses, why_not
from ..core.pose.choose import F8
from ..core.worth import Worth, priced
from ..store.db import Store, StoreError
from ..work.shelf import StoreShelf
from .models import HolesAsk, Ranked, SetAsk, Weighed, WhatIfAsk

_scales = Memory(4)
_hollowed = Memory(2)
_carrying = Memory(8)


def judged(store: Store, given: HollowGiven, asked: HolesAsk) -> JudgedDoc:
    """Holes of a figure that has been hollowed at this wall; the last two stay unpacked."""
    cut = given.to(HollowedGiven, wall=asked.wall_mm, lattice=asked.lattice_mm)
    shelf = StoreShelf(store, _hollowed)
    if kept(shelf, "hollowed", cut, HollowedDoc) is None:
        raise StoreError("not-computed", "Nothing is hollowed at this wall yet.", "Wait for its row.", 409)
    rows = [HoleDoc.model_validate(row.model_dump()) for row in asked.holes]
    document = judge_holes(shelf, given, asked.wall_mm, pitch=asked.lattice_mm, rows=rows, ways=asked.turns)
    if document is None:
        raise StoreError("not-closed", "The figure cannot be hollowed.", "Repair it in the fold Size.", 409)
    return document


def _set(store: Store, given: SupportsGiven, asked: SetAsk) -> Kept:
    """A set that has been made; the last few load paths stay unpacked."""
    kept = kept_set(StoreShelf(store, _carrying), given, asked.risk, asked.style, asked.edits)
    if kept is None:
        raise StoreError("not-computed", "These supports have not been made yet.", "Wait for their row.", 409)
    return kept


def made_set(store: Store, given: SupportsGiven, asked: SetAsk) -> HeldDoc:
    """The document of a set that has been made.

    Raises:
        StoreError: `not-computed`.
    """
    shelf = StoreShelf(store)
    document = held_if_made(shelf, given, asked.risk, style=asked.style, edits=asked.edits)
    if document is None:
        raise StoreError("not-computed", "These supports have not been made yet.", "Wait for their row.", 409)
    return document


def what_if(store: Store, given: SupportsGiven, asked: WhatIfAsk) -> WhatIfDoc:
    """What a change of a set would weaken."""
    return what_if_of(_set(store, given, asked), risk=asked.risk, gone=asked.gone, put=asked.put)


def needed(store: Store, given: SupportsGiven, asked: SetAsk) -> NeededDoc:
    """Which tips of a set are needed."""
    return needed_of(_set(store, given, asked), asked.risk)


def back_off(store: Store, given: SupportsGiven, asked: SetAsk) -> BackOffDoc:
    """The order in which tips of a set may go."""
    return back_off_of(_set(store, given, asked), asked.risk)


def _scale(store: Store, given: FigureGiven, printer: Printer) -> tuple[Search, Scale]:
    """The search of these inputs and its coarse mesh ready to be weighed; the last few stay."""

    def make() -> tuple[Search, Scale]:
        shelf = StoreShelf(store)
        document = kept(shelf, "search", given, SearchDoc)
        if document is None:
            raise StoreError(
                "not-computed", "The poses have not been searched yet.", "Open the fold Pose and wait for them.", 409
            )
        search = search_from(shelf, document)
        return search, search.scale(printer)

    return _scales.recall(key_of("search", given), make)


def _told(
    inputs: Inputs, search: Search, best: int, *, down: tuple[float, float, float], aims: F8, worth: Worth
) -> Weighed:
    context = Context.of(inputs.printer, inputs.material)
    here, there = (dict(zip(AIMS, map(float, row), strict=True)) for row in (aims, search.table.aims[best]))
    return Weighed(
        down=down,
        aims=here,
        matrix=matrix_of(placement(search.coarse, down), inputs.factor),
        worth=worth_of(worth),
        why=why_not(here, there, Pace.of(context), search.volume_mm3),
        fits=bool(fitting(search.coarse, np.array([down]), inputs.printer.build_mm)[0]),
    )


def weighed(store: Store, given: FigureGiven, down: Direction, asked: WishAsk | None) -> Weighed:
    """Aims of `down` (a unit vector in the file's frame), and what it costs beside the best of the search by
    the wish.
    """
    inputs = Inputs(StoreShelf(store), given)
    search, scale = _scale(store, given, inputs.printer)
    wish, context = plain_wish(asked), Context.of(inputs.printer, inputs.material)
    table = scale.weigh(np.array([down]))
    taken = search.takes(context, table)
    best = int(np.argmin(search.merit(context, wish) + np.where(search.fits, 0.0, np.inf)))
    return _told(inputs, search, best, down=down, aims=table.aims[0], worth=priced(taken.gift(0), wish.rates))


def ranked(store: Store, given: FigureGiven, asked: WishAsk | None) -> Ranked:
    """The search ranked anew by another wish: nothing is weighed again but the few that are picked."""
    inputs = Inputs(StoreShelf(store), given)
    wish, context = plain_wish(asked), Context.of(inputs.printer, inputs.material)
    search, scale = _scale(store, given, inputs.printer)
    choice = rank_poses(search.coarse, search, context, wish=wish, scale=scale, front=inputs.front)
    merit = search.merit(context, wish)
    best = int(np.argmin(merit + np.where(search.fits, 0.0, np.inf)))
    aims = [np.array([c.metrics[name] for name in AIMS], float) for c in choice.candidates]
    return Ranked(
        candidates=[
            _told(inputs, search, best, down=c.down, aims=row, worth=c.worth)
            for c, row in zip(choice.candidates, aims, strict=True)
        ],
        recommended=choice.recommended,
        front=np.flatnonzero(choice.on_front).tolist(),
        merit=merit.round(4).tolist(),
        wish=WishDoc.model_validate(wish.as_dict()),
        unmet=list(choice.unmet),
    )
