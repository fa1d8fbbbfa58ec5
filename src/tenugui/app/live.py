"""Directions weighed and ranked while a hand turns the figure or moves a priority: the scale is kept, so that an answer takes milliseconds."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..core.machines import Context, Printer
from ..core.plan import Inputs, Memory, SearchDoc, kept, key_of, search_from
from ..core.plan.inputs import matrix_of
from ..core.pose import AIMS, Scale, Search, fitting, placement, rank_poses, why_not, wish_of
from ..store.db import Store, StoreError
from ..work.shelf import StoreShelf
from .models import Ranked, Weighed

_scales = Memory(4)


def _scale(store: Store, given: dict[str, Any], printer: Printer) -> tuple[Search, Scale]:
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
    search: Search,
    printer: Printer,
    factor: float,
    wish: dict[str, float],
    down: tuple[float, float, float],
    metrics: dict[str, float],
) -> Weighed:
    against = dict(zip(AIMS, map(float, search.table.aims[search.best(wish)]), strict=True))
    return Weighed(
        down=down,
        aims={name: metrics[name] for name in AIMS},
        matrix=matrix_of(placement(search.coarse, down), factor),
        why=why_not(metrics, against, search.table, wish),
        fits=bool(fitting(search.coarse, np.array([down]), printer.build_mm)[0]),
    )


def weighed(store: Store, given: dict[str, Any], down: list[float], priorities: dict[str, float]) -> Weighed:
    """Aims of `down` (a unit vector in the file's frame), and what it costs beside the best of the search by the wish."""
    held = Inputs(StoreShelf(store), given)
    search, scale = _scale(store, given, held.printer)
    metrics = dict(zip(AIMS, map(float, scale.weigh(np.array([down])).aims[0]), strict=True))
    return _told(
        search, held.printer, held.factor, wish_of(held.printer, priorities), (down[0], down[1], down[2]), metrics
    )


def ranked(store: Store, given: dict[str, Any], priorities: dict[str, float]) -> Ranked:
    """The search ranked anew by other priorities: nothing is weighed again but the few that are picked."""
    held = Inputs(StoreShelf(store), given)
    wish = wish_of(held.printer, priorities)
    search, scale = _scale(store, given, held.printer)
    choice = rank_poses(search.coarse, search, Context.of(held.printer, held.material), wish=wish, scale=scale)
    return Ranked(
        candidates=[_told(search, held.printer, held.factor, wish, c.down, c.metrics) for c in choice.candidates],
        recommended=choice.recommended,
        front=np.flatnonzero(choice.on_front).tolist(),
        merit=search.merit(wish).round(4).tolist(),
        wish=wish,
    )
