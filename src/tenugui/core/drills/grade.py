"""How right an answer is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from .question import DrillError, Key

FAR = 3.0
"""Prior: a number so many times its slack away is as wrong as any."""


@dataclass(frozen=True)
class Answer:
    """Options that were picked, or a number."""

    picked: Sequence[int] = ()
    number: float | None = None


def graded(key: Key, answer: Answer, options: int) -> float:
    """0 to 1. A number within its slack is right, and counts less and less to FAR times that. Of options that may all
    be right: the share that right and picked have in common (Jaccard 1912). One alone: what it is worth.

    >>> graded(Key(right=[0, 2]), Answer([0, 1]), 4)
    0.3333333333333333
    >>> graded(Key(number=60.0, slack=5.0), Answer(number=70.0), 0)
    0.5

    Raises:
        DrillError: `no-such-option`, `no-number`, `no-answer`.
    """
    if key.number is not None:
        number = answer.number
        if number is None or not abs(number) < 1e9:
            raise DrillError("no-number", "This question asks for a number.", "", "Give one.")
        off = abs(number - key.number) / key.slack
        return max(0.0, min(1.0, (FAR - off) / (FAR - 1.0)))
    picked = set(answer.picked)
    if not picked:
        raise DrillError("no-answer", "Nothing is picked.", "", "Pick at least one letter.")
    if min(picked) < 0 or max(picked) >= options:
        raise DrillError("no-such-option", f"There are {options} letters, and another was picked.", "", "Pick of them.")
    if key.credit:
        if len(picked) > 1:
            raise DrillError("one-only", "One letter is asked for.", "", "Pick one.")
        return key.credit[picked.pop()]
    right = set(key.right)
    return len(picked & right) / len(picked | right)
