"""What a chain of decisions means: which folds are open, settled or stale, what is asked of each, and where the work
goes on.

A fold is `open` (nothing decided), `settled`, or `stale`: its decision rests on inputs that are not today's, whatever
changed: the fold before it, a printer on the shelf, the code of its task. What is stale is never built on.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from ..contract import Ask, Choice, Document
from .folds import FOLDS
from .given import FigureGiven
from .spec import Chosen, FoldSpec, PlanBase
from .tasks import key_of, task_of


def spec_of(name: str) -> FoldSpec | None:
    """A fold by its name."""
    return next((spec for spec in FOLDS if spec.name == name), None)


def read_choices(rows: Mapping[str, Any]) -> dict[str, Choice]:
    """Choices by fold, as they are stored; those of folds that are not known are let go."""
    models = {spec.name: spec.choice for spec in FOLDS}
    return {fold: models[fold].model_validate(row) for fold, row in rows.items() if fold in models}


@dataclass(frozen=True)
class Fold:
    """A fold as a plan stands: its state, whether all it needs is settled and nothing that it uses is stale, its
    choice, and what is asked of its board.
    `waits`: the first fold that keeps it from being ready; `key`: of today's inputs, where they are known; `next`: the
        fold that follows its decision.
    """

    spec: FoldSpec
    state: Literal["open", "settled", "stale"]
    choice: Choice | None
    asked: Ask
    waits: str | None = None
    key: str | None = None
    given: FigureGiven | None = None
    next: str | None = None

    @property
    def ready(self) -> bool:
        """Whether it can be asked."""
        return self.waits is None

    @property
    def name(self) -> str:
        """The fold's name."""
        return self.spec.name


def read_folds(decisions: Sequence[tuple[str, Any, str | None]], base: PlanBase) -> list[Fold]:
    """All folds after a chain of decisions: (fold, choice as stored, key of the inputs it rests on), first to last.

    A decision of a fold without a task rests on nothing that could change under it.
    """
    keys = {fold: key for fold, _, key in decisions}
    choices = read_choices({fold: choice for fold, choice, _ in decisions})
    asked_of = [spec for spec in FOLDS if spec.asks(choices)]
    states: dict[str, str] = {}
    folds = []
    for place, spec in enumerate(asked_of):
        waits = next((need for need in spec.needs if states.get(need) != "settled"), None)
        waits = waits or next((use for use in spec.uses if states.get(use) == "stale"), None)
        settled, key, given = choices.get(spec.name), None, None
        if waits is None and spec.task:
            given = spec.inputs(base, choices)
            key = key_of(spec.task, given)
        state: Literal["open", "settled", "stale"] = "open"
        if settled is not None:
            fresh = waits is None and (spec.task is None or keys[spec.name] == key)
            state = "settled" if fresh or (spec.free and spec.task is None and "size" in choices) else "stale"
        states[spec.name] = state
        follows = _following(asked_of[place + 1 :], choices)
        folds.append(Fold(spec, state, settled, spec.asked(choices), waits, key, given, follows))
    return folds


def _following(later: Sequence[FoldSpec], choices: Chosen) -> str | None:
    """The fold to go on to: one that may stay open only where somebody would ask it, and where it was not answered
    before.
    """
    for spec in later:
        if not spec.free or not spec.from_mm or (spec.worth_asking(choices) and spec.name not in choices):
            return spec.name
    return None


def next_of(folds: Sequence[Fold]) -> str | None:
    """The fold that wants a decision next: the first that is not settled. One that may stay open is passed over once
    the work has gone past it, but not where it is stale.
    """
    done = [f.choice is not None for f in folds]
    for place, fold in enumerate(folds):
        passed = fold.spec.free and fold.state == "open" and any(done[place:])
        if fold.state != "settled" and not passed:
            return fold.name
    return None


def board_size(board: Document) -> int:
    """How many alternatives a board holds."""
    return len(getattr(board, "candidates", None) or getattr(board, "choices", None) or [board])


def recommended(board: Document) -> int:
    """The alternative that the engine would take."""
    return int(getattr(board, "recommended", 0))


def model_of(spec: FoldSpec) -> type[Document]:
    """The model of a fold's board."""
    assert spec.task is not None
    return task_of(spec.task).model
