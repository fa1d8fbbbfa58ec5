"""A whole tray of figures in step: what goes alone goes for all at once, what wants hands one figure after another."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..learn.minutes import kind_of_step
from .steps import Step


@dataclass(frozen=True)
class TrayStep:
    """A step for all of a tray; `parts`: of which figure how much and for how many minutes, where hands are wanted."""

    step: Step
    parts: tuple[str, ...] = ()


def work_of(step: Step) -> str:
    """The kind of work of a step."""
    return kind_of_step(step.name)


def in_step(figures: Sequence[tuple[str, Sequence[Step]]]) -> list[TrayStep]:
    """Steps of several figures by name, each figure's in its own order, merged: a kind of work is begun when no figure
    that still wants it is kept from it. Alone it takes as long as the slowest, by hand all of them together.

    >>> from .steps import Step
    >>> wash, sand = Step("wash", 0, 5, False, "", "", ""), Step("sand", 5, 3, True, "2 mm²", "", "")
    >>> [(t.step.name, t.step.start, t.step.minutes) for t in in_step([("a", [wash, sand]), ("b", [wash, sand])])]
    [('wash', 0.0, 5), ('sand', 5.0, 6)]
    """
    left = [list(steps) for _, steps in figures]
    merged, at = [], 0.0
    while any(left):
        kind = _next(left)
        mine = [
            [steps.pop(0) for _ in range(_run(steps, kind))] if steps and work_of(steps[0]) == kind else []
            for steps in left
        ]
        step, parts = _together(kind, [(name, some) for (name, _), some in zip(figures, mine, strict=True) if some])
        merged.append(TrayStep(replace(step, start=round(at, 1)), parts))
        at += step.minutes
    return merged


def _run(steps: Sequence[Step], kind: str) -> int:
    """How many steps of one kind come first."""
    return next((k for k, step in enumerate(steps) if work_of(step) != kind), len(steps))


def _next(left: Sequence[Sequence[Step]]) -> str:
    """The kind of work that comes first somewhere, and nowhere later than first."""
    heads = [work_of(steps[0]) for steps in left if steps]
    for kind in heads:
        if all(kind not in [work_of(step) for step in steps[_run(steps, kind) :]] for steps in left):
            return kind
    return heads[0]


def _together(kind: str, each: Sequence[tuple[str, Sequence[Step]]]) -> tuple[Step, tuple[str, ...]]:
    first = each[0][1][0]
    name = kind if sum(len(some) for _, some in each) > 1 else first.name
    if not first.hands:
        minutes = max(sum(s.minutes for s in some) for _, some in each)
        return replace(first, name=name, minutes=minutes), ()
    minutes = round(sum(s.minutes for _, some in each for s in some), 1)
    parts = tuple(f"{figure}: {_said(some)}" for figure, some in each) if len(each) > 1 else ()
    amount = "" if len(each) > 1 else ", ".join(s.amount for s in each[0][1] if s.amount)
    return replace(first, name=name, minutes=minutes, amount=amount), parts


def _said(some: Sequence[Step]) -> str:
    amounts = [s.amount for s in some if s.amount]
    minutes = sum(s.minutes for s in some)
    return ", ".join([*amounts, f"{max(1, round(minutes))} min"])
