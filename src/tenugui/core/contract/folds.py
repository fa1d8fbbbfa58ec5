"""The folds of a job in the order of the work, and what a chain of decisions makes of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

FOLDS = ("size", "marks", "pose", "supports", "layers", "proof", "log")
DECIDED = FOLDS[:-1]
"""Folds that hold a decision; the log holds runs."""
FREE = ("marks",)
"""Folds that may stay open: the rest goes on without them. Marks are kept in the figure's own frame, so a new size leaves them standing."""


@dataclass(frozen=True)
class Decision:
    """One decision of a chain: `order` grows along it."""

    fold: str
    choice: dict[str, Any]
    order: int


@dataclass(frozen=True)
class Fold:
    """State of a fold: `open` (nothing decided), `settled`, or `stale` (something before it changed since); `ready` when all before it are settled."""

    name: str
    state: str
    ready: bool
    choice: dict[str, Any] | None


def next_of(folds: Sequence[Fold]) -> str | None:
    """The fold that wants a decision next: the first that is not settled. One that may stay open is passed over once the work has gone past it.

    >>> next_of(folds_of([Decision("size", {}, 1)])), next_of(folds_of([Decision("size", {}, 1), Decision("pose", {}, 2)]))
    ('marks', 'supports')
    """
    done = [f.choice is not None for f in folds]
    for place, fold in enumerate(folds):
        if fold.state != "settled" and not (fold.name in FREE and any(done[place:])):
            return fold.name
    return None


def folds_of(chain: Sequence[Decision]) -> list[Fold]:
    """States of all folds. A decision makes every later fold that was decided before it stale.

    >>> [f.state for f in folds_of([Decision("size", {}, 1), Decision("pose", {}, 2), Decision("size", {}, 3)])][:3]
    ['settled', 'open', 'stale']
    """
    last = {d.fold: d for d in chain}
    folds, newest, ready = [], -1, True
    for name in FOLDS:
        held = last.get(name)
        if held is None:
            state = "open"
        elif name in FREE:
            state = "settled"
        elif held.order < newest or not ready:
            state = "stale"
        else:
            state = "settled"
        folds.append(Fold(name, state, ready, held.choice if held else None))
        newest = max(newest, held.order if held else -1)
        ready = ready and (state == "settled" or name in FREE)
    return folds
