"""Chores: jobs that change what is kept, and not only compute. Each may be done again without harm, since a worker may die in it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ..core.plan import Given, Progress, board_size, computed, model_of
from ..core.pose import unit
from ..store import plans
from ..store.db import Store
from .folds import Standing, evidence_of, inputs_hash
from .shelf import StoreShelf

Chore = Callable[[StoreShelf, Given, Progress], dict[str, Any]]
CHORES: dict[str, Chore] = {}


def chore(name: str) -> Callable[[Chore], Chore]:
    """Register a chore."""

    def register(run: Chore) -> Chore:
        CHORES[name] = run
        return run

    return register


def outdated(standing: Standing) -> str | None:
    """The first fold whose decision rests on the same inputs in an older version of the engine; None where there is none."""
    last = {row["fold"]: row for row in standing.chain}
    for fold in standing.folds:
        if fold.state != "stale" or fold.spec.task is None or fold.given is None:
            continue
        rests = last[fold.name]["evidence"].get("inputs")
        return fold.name if rests is None or rests == inputs_hash(fold.spec.task, fold.given) else None
    return None


def _same(fold: str, choice: dict[str, Any], board: Any) -> int | None:
    """The alternative of a new board that an old choice means."""
    rows = getattr(board, "candidates", None) or getattr(board, "choices", None)
    for index in range(board_size(board)):
        if rows is None or fold == "proof":
            return 0
        row = rows[index]
        if fold == "pose" and sum((a - b) ** 2 for a, b in zip(row.pose.down, choice["down"], strict=True)) < 1e-6:
            return index
        if fold == "supports" and (row.style, round(row.risk, 9)) == (choice["style"], round(choice["risk"], 9)):
            return index
        if fold == "hollow" and (row.wall_mm, row.lattice_mm) == (choice["wall"], choice.get("lattice")):
            return index
        walls = ("perimeters", "roof_mm", "infill")
        if fold == "walls" and all(abs(getattr(row, k) - choice[k]) < 1e-9 for k in walls):
            return index
        if fold == "layers" and abs(row.height.layer_height_mm - choice["layer_height_mm"]) < 1e-9:
            banded = None if row.bands is None else row.bands.limit_mm
            if banded == (choice.get("bands") or {}).get("limit_mm"):
                return index
    return None


@chore("refresh")
def refresh(shelf: StoreShelf, given: Given, progress: Progress) -> dict[str, Any]:
    """Bring a plan up to date where only the engine has moved: compute its boards again and take the same alternatives, with new evidence.

    Where the same alternative is not there any more, the fold stays stale, for the person to decide.
    """
    store: Store = shelf.store
    done: list[str] = []
    while True:
        standing = Standing.of(store, given["plan"])
        name = outdated(standing)
        if name is None or name in done:
            return {"brought_up_to_date": done}
        fold = standing.fold(name)
        asked, choice = dict(fold.given or {}), fold.choice or {}
        assert fold.spec.task and fold.spec.take
        board = computed(shelf.about(asked), fold.spec.task, asked, model_of(fold.spec), progress)
        index = _same(name, choice, board)
        if index is None and name == "pose":
            # The direction itself is asked for, whatever the new search offers.
            asked["pinned"] = [*asked.get("pinned", [])[-3:], list(unit(choice["down"]))]
            board = computed(shelf.about(asked), fold.spec.task, asked, model_of(fold.spec), progress)
            index = _same(name, choice, board)
        if index is None:
            return {"brought_up_to_date": done, "left": name}
        taken = fold.spec.take(board, index)
        wishes = {k: asked[k] for k in ("wish", "pinned", "own") if k in asked} if fold.spec.wished else {}
        held = {**taken.choice, **({"wishes": wishes} if wishes else {})}
        evidence = evidence_of(fold.spec.task, asked, taken)
        plans.decide(store, given["plan"], name, held, evidence, f"Brought up to date: {taken.reason}", standing.head)
        done.append(name)
