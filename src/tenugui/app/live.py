"""Directions weighed and ranked while a hand turns the figure or moves a priority: the scale is kept, so that an answer takes milliseconds."""

from __future__ import annotations

import threading
from collections import OrderedDict
from typing import Any

import numpy as np

from ..core.machines import Printer, load_printer
from ..core.pose import AIMS, Scale, Search, placement, rank_poses, why_not, wish_of
from ..store.db import Store
from ..work.inputs import key_of
from ..work.tasks import searched
from .models import Ranked, Weighed

KEPT = 4
_scales: OrderedDict[str, tuple[Search, Scale]] = OrderedDict()
_lock = threading.Lock()


def _scale(store: Store, given: dict[str, Any], printer: Printer) -> tuple[Search, Scale]:
    """The search of these inputs and its coarse mesh ready to be weighed; the last few stay."""
    key = key_of("scale", {name: value for name, value in given.items() if name not in ("priorities", "pinned")})
    with _lock:
        if key in _scales:
            _scales.move_to_end(key)
            return _scales[key]
    search = searched(store, given)
    held = search, search.scale(printer)
    with _lock:
        _scales[key] = held
        while len(_scales) > KEPT:
            _scales.popitem(last=False)
    return held


def _told(
    search: Search, printer: Printer, factor: float, wish: dict[str, float], down: tuple[float, float, float], metrics: dict[str, float]
) -> Weighed:
    against = dict(zip(AIMS, map(float, search.table.aims[search.best(wish)]), strict=True))
    place = placement(search.coarse, down)
    whole = np.eye(4)
    whole[:3, :3] = place.turn * factor
    whole[:3, 3] = place.shift
    return Weighed(
        down=down,
        aims={name: metrics[name] for name in AIMS},
        matrix=[float(v) for v in whole.T.ravel()],
        why=why_not(metrics, against, search.table, wish),
        fits=metrics["height_mm"] <= printer.build_mm[2],
    )


def weighed(store: Store, given: dict[str, Any], down: list[float], priorities: dict[str, float]) -> Weighed:
    """Aims of `down` (a unit vector in the file's frame), and what it costs beside the best of the search by the wish."""
    printer = load_printer(given["printer"])
    search, scale = _scale(store, given, printer)
    metrics = dict(zip(AIMS, map(float, scale.weigh(np.array([down])).aims[0]), strict=True))
    return _told(search, printer, given["factor"], wish_of(printer, priorities), (down[0], down[1], down[2]), metrics)


def ranked(store: Store, given: dict[str, Any], priorities: dict[str, float]) -> Ranked:
    """The search ranked anew by other priorities: nothing is weighed again but the few that are picked."""
    printer = load_printer(given["printer"])
    wish = wish_of(printer, priorities)
    search, scale = _scale(store, given, printer)
    choice = rank_poses(search.coarse, search, printer, wish=wish, scale=scale)
    return Ranked(
        candidates=[_told(search, printer, given["factor"], wish, c.down, c.metrics) for c in choice.candidates],
        recommended=choice.recommended,
        front=np.flatnonzero(choice.on_front).tolist(),
        merit=search.merit(wish).round(4).tolist(),
        wish=wish,
    )
