"""Plans of a series' cells: another plan of its figure with the levels of one cell, supported, layered and proved."""

from __future__ import annotations

from ..core.contract import LayersChoice, OwnSupports, SupportsAsk, SupportsChoice
from ..core.contract.asks import Ask, NoAsk
from ..core.contract.choices import BoardChoice
from ..core.plan import Progress
from ..core.plan.given import Given
from ..core.plan.tasks import within
from ..store import plans
from ..store.db import StoreError
from .chores import Done, board_of, chore, same_again
from .folds import Standing, evidence_of, stored
from .shelf import StoreShelf

LATER = ("supports", "layers", "proof")
"""What is decided anew for each cell."""


class CellGiven(Given):
    """A plan that was branched for a cell up to its supports with the cell's own settings, the plan it came from, and
    the levels it is to have: None for what that one has.
    """

    plan: int
    base: int
    height: float | None = None
    risk: float | None = None


@chore("cell", CellGiven)
def cell(shelf: StoreShelf, given: CellGiven, progress: Progress) -> Done:
    """Decide supports, layers and proof of a cell's plan at its levels, and again what its own settings make stale.
    Done again, it takes the same.

    Raises:
        StoreError: `not-offered`: the machine's boards have nothing at its levels.
    """
    standing = Standing.of(shelf.store, given.base)
    held = standing.choice(SupportsChoice)
    layered = standing.choice(LayersChoice)
    if held is None or layered is None:
        raise StoreError("fold-open", "The plan that it came from has no supports or layers any more.", "Prove it.")
    _freshen(shelf, given.plan, progress)
    if given.risk is None or given.risk == held.risk:
        asked = held.wishes or SupportsAsk()
        _take(shelf, given.plan, "supports", asked, wanted=held, progress=within(progress, 0.0, 0.4))
    else:
        own = OwnSupports(risk=given.risk, style=held.style, edits=held.edits)  # type: ignore[arg-type]
        wanted = held.model_copy(update={"risk": given.risk})
        _take(shelf, given.plan, "supports", SupportsAsk(own=own), wanted=wanted, progress=within(progress, 0.0, 0.4))
    height = layered.layer_height_mm if given.height is None else given.height
    plain = layered.model_copy(update={"layer_height_mm": height} | ({"bands": None} if given.height else {}))
    _take(shelf, given.plan, "layers", NoAsk(), wanted=plain, progress=within(progress, 0.4, 0.7))
    _take(shelf, given.plan, "proof", NoAsk(), wanted=None, progress=within(progress, 0.7, 1.0))
    return {"plan": given.plan}


def _freshen(shelf: StoreShelf, plan: int, progress: Progress) -> None:
    """Take again, at the plan's own settings, what was decided before its supports."""
    done = list[str]()
    while True:
        standing = Standing.of(shelf.store, plan)
        stale = next((f for f in standing.folds if f.state == "stale" and f.spec.task and f.name not in LATER), None)
        if stale is None:
            return
        if stale.name in done or not same_again(shelf, standing, stale.name, "For a cell of a series", progress):
            what = f"{stale.spec.title} is not to be had as it was at this cell's level."
            raise StoreError("not-offered", what, "Plan a series at levels that the machine's boards offer.", 409)
        done.append(stale.name)


def _take(
    shelf: StoreShelf, plan: int, name: str, asked: Ask, *, wanted: BoardChoice | None, progress: Progress
) -> None:
    """Compute a fold's board and decide for what is wanted of it, None for its only row."""
    standing = Standing.of(shelf.store, plan)
    fold = standing.fold(name)
    spec = fold.spec
    assert spec.task
    board, given = board_of(shelf, standing, name, asked, progress)
    index = 0 if wanted is None else spec.same(wanted, board)
    if index is None:
        what = f"The board of {spec.title} has nothing at this cell's level."
        raise StoreError("not-offered", what, "Plan a series at levels that the machine's boards offer.", 409)
    taken = spec.taken(board, index, asked)
    plans.decide(
        shelf.store,
        plan,
        name,
        choice=stored(taken.choice),
        evidence=evidence_of(spec.task, given, taken),
        reason=f"For a cell of a series: {taken.reason}",
        expected=standing.head,
    )
