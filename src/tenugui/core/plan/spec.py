"""What a fold is: one entry that says all of it; and the choices by fold that it works on."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, TypeVar

from ..contract import Ask, Choice, Document, NoAsk, Numbers, SizeChoice
from .given import FigureGiven

C = TypeVar("C", bound=Choice)
Chosen = Mapping[str, Choice]
"""Choices by fold."""


@dataclass(frozen=True)
class PlanBase:
    """What a plan's inputs are made from: the figure's mesh as it came and the copy that is worked on, printers and
    materials as JSON by id, and the settings that it came with, where it was a plan's own file.
    """

    sha: str
    worked: str
    printers: Mapping[int, Any]
    materials: Mapping[int, Any]
    came: str | None = None


@dataclass(frozen=True)
class Taken:
    """An alternative that was taken: what is stored of it, why, and its running figures."""

    choice: Choice
    reason: str
    numbers: Numbers | None


@dataclass(frozen=True)
class FoldSpec:
    """One fold. `choice`: the model of what is stored; `needs`: folds that must be settled before it, `uses`: such as
    may stay open, but must not be stale.

    With a board: its `task`, `given` the task's inputs, from the figure's, the choices before it and what is asked;
    `take` an alternative by index; `same` the alternative of a new board that an old choice means, and `again` what to
    ask for where there is none. `ask`: the model of what a person may ask of it; `first` what is asked where nobody has
    asked yet; `unsaid` what a person has to say before an alternative is taken, and has not. `free`: it may stay open
    and the rest goes on without it; of figures below `from_mm` it is passed over.
    `process`: the only one that it is for.
    """

    name: str
    title: str
    question: str
    needs: tuple[str, ...]
    choice: type[Choice]
    worded: Callable[[Any], str]
    uses: tuple[str, ...] = ()
    task: str | None = None
    given: Callable[[PlanBase, Chosen, Any], FigureGiven] | None = None
    take: Callable[[Any, int], Taken] | None = None
    same: Callable[[Any, Any], int | None] = lambda choice, board: 0
    again: Callable[[Any, Any], Ask | None] = lambda choice, asked: None
    ask: type[Ask] = NoAsk
    first: Callable[[Chosen], Ask] = field(default=lambda choices: NoAsk())
    unsaid: Callable[[Any, int, Any], str | None] = lambda board, index, asked: None
    free: bool = False
    from_mm: float = 0.0
    decided: bool = True
    process: str | None = None

    def asks(self, choices: Chosen) -> bool:
        """Whether the fold is asked of a plan with these choices."""
        size = of(choices, SizeChoice)
        return self.process is None or size is None or size.process in (None, self.process)

    def worth_asking(self, choices: Chosen) -> bool:
        """Whether somebody would ask it of a figure of this size."""
        size = of(choices, SizeChoice)
        return self.asks(choices) and (size is None or size.height_mm >= self.from_mm)

    def asked(self, choices: Chosen, now: Ask | None = None) -> Ask:
        """What is asked of its board: now; where nothing is said now, what was asked when it was settled; else what it
        begins with.
        """
        if now is not None:
            return now
        wishes = getattr(choices.get(self.name), "wishes", None)
        return wishes if wishes is not None else self.first(choices)

    def inputs(self, base: PlanBase, choices: Chosen, now: Ask | None = None) -> FigureGiven:
        """Its task's inputs."""
        assert self.given is not None
        return self.given(base, choices, self.asked(choices, now))

    def taken(self, board: Document, index: int, asked: Ask) -> Taken:
        """An alternative of its board, with what was asked when it was taken."""
        assert self.take is not None
        taken = self.take(board, index)
        if "wishes" not in type(taken.choice).model_fields:
            return taken
        return Taken(taken.choice.model_copy(update={"wishes": asked}), taken.reason, taken.numbers)


def of(choices: Chosen, kind: type[C]) -> C | None:
    """The choice of a kind, where it is made."""
    return next((choice for choice in choices.values() if isinstance(choice, kind)), None)


def must(choices: Chosen, kind: type[C]) -> C:
    """The choice of a kind that a fold needs."""
    choice = of(choices, kind)
    assert choice is not None
    return choice
