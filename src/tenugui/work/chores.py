"""Chores: jobs that change what is kept, and not only compute. Each may be done again without harm, since a worker may
die in it.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from ..core.contract import Ask, Document
from ..core.plan import Given, Progress, computed, model_of
from ..core.plan.given import FigureGiven
from ..store import plans
from ..store.db import Store
from .folds import Standing, evidence_of, inputs_hash, stored
from .shelf import StoreShelf

Done = dict[str, Any]
"""What a chore has done, as JSON."""
A = TypeVar("A", bound=Given)
CHORES: dict[str, Callable[[StoreShelf, dict[str, Any], Progress], Done]] = {}
"""By name, each as a job runs it: from the JSON in which it waited."""


def chore(
    name: str, takes: type[A]
) -> Callable[[Callable[[StoreShelf, A, Progress], Done]], Callable[[StoreShelf, A, Progress], Done]]:
    """Register a chore with the model of what it takes."""

    def register(run: Callable[[StoreShelf, A, Progress], Done]) -> Callable[[StoreShelf, A, Progress], Done]:
        CHORES[name] = lambda shelf, asked, progress: run(shelf, takes.model_validate(asked), progress)
        return run

    return register


class PlanGiven(Given):
    """`plan`: its number."""

    plan: int


def outdated(standing: Standing) -> str | None:
    """The first fold whose decision rests on the same inputs in an older version of the engine; None where there is
    none.
    """
    last = {row["fold"]: row for row in standing.chain}
    for fold in standing.folds:
        if fold.state != "stale" or fold.spec.task is None or fold.given is None:
            continue
        rests = last[fold.name]["evidence"].get("inputs")
        return fold.name if rests is None or rests == inputs_hash(fold.spec.task, fold.given) else None
    return None


@chore("refresh", PlanGiven)
def refresh(shelf: StoreShelf, asked_for: PlanGiven, progress: Progress) -> Done:
    """Bring a plan up to date where only the engine has moved: compute its boards again and take the same alternatives,
    with new evidence.

    Where the same alternative is not there any more, the fold stays stale, for the person to decide.
    """
    store: Store = shelf.store
    given_plan = asked_for.plan
    done: list[str] = []
    while True:
        standing = Standing.of(store, given_plan)
        name = outdated(standing)
        if name is None or name in done:
            return {"brought_up_to_date": done}
        if not same_again(shelf, standing, name, "Brought up to date", progress):
            return {"brought_up_to_date": done, "left": name}
        done.append(name)


@chore("again", PlanGiven)
def again(shelf: StoreShelf, asked_for: PlanGiven, progress: Progress) -> Done:
    """Take again, as the plan's inputs stand, whatever was decided and is stale, as far as the same is to be had; what
    comes after is left to the person.
    """
    done: list[str] = []
    while True:
        standing = Standing.of(shelf.store, asked_for.plan)
        stale = next((f.name for f in standing.folds if f.state == "stale" and f.spec.task), None)
        if stale is None:
            return {"taken_again": done}
        if stale in done or not same_again(shelf, standing, stale, "With settings of its own", progress):
            return {"taken_again": done, "left": stale}
        done.append(stale)


def same_again(shelf: StoreShelf, standing: Standing, name: str, why: str, progress: Progress) -> bool:
    """Compute a fold's board as its inputs stand and take what was taken; whether it is there."""
    fold = standing.fold(name)
    spec, asked, choice = fold.spec, fold.asked, fold.choice
    assert spec.task and choice is not None
    board, given = board_of(shelf, standing, name, asked, progress)
    index = spec.same(choice, board)
    if index is None and (again := spec.again(choice, asked)) is not None:
        asked = again
        board, given = board_of(shelf, standing, name, asked, progress)
        index = spec.same(choice, board)
    if index is None:
        return False
    taken = spec.taken(board, index, asked)
    plans.decide(
        shelf.store,
        int(standing.plan["id"]),
        name,
        choice=stored(taken.choice),
        evidence=evidence_of(spec.task, given, taken),
        reason=f"{why}: {taken.reason}",
        expected=standing.head,
    )
    return True


def board_of(
    shelf: StoreShelf, standing: Standing, name: str, asked: Ask, progress: Progress
) -> tuple[Document, FigureGiven]:
    """A fold's board with what is asked of it, and the inputs it was computed from."""
    spec, given = standing.fold(name).spec, standing.given(name, asked)
    assert spec.task
    return computed(shelf.about(given.sha), spec.task, given, model_of(spec), progress), given
