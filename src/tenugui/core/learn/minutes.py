"""How long somebody's hands really take: steps off the plate that were timed, against what was reckoned for them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from .causes import Ratio, ratio_by

PRIOR, NOISE = 0.5, 0.5
"""Priors: somebody takes half as long again or less than is reckoned, and a step half as long again as their others."""
LEAST_TIMES, MOST_TIMES = 0.2, 5.0
FEW = 3
"""Fewer steps teach nothing that a plan should count with."""


@dataclass(frozen=True)
class Timed:
    """A step by hand: what kind of work it is, minutes that were reckoned, and those that it took."""

    step: str
    reckoned: float
    real: float


def kind_of_step(step: str) -> str:
    """The kind of work of a step: supports are taken off in groups, each a step of its own.

    >>> kind_of_step("supports off, 2 of 3, from its left"), kind_of_step("prime")
    ('supports off', 'prime')
    """
    return step.split(", ")[0]


def minutes_of(steps: Sequence[Timed]) -> Ratio:
    """Real over reckoned minutes.

    >>> slow = minutes_of([Timed("prime", 4, 8)] * 12); round(slow.ratio, 1), slow.low < 2 < slow.high
    (1.9, True)
    """
    return ratio_by([math.log(s.real / s.reckoned) for s in steps if s.real > 0 and s.reckoned > 0], PRIOR, NOISE)


def by_kind(steps: Sequence[Timed]) -> dict[str, Ratio]:
    """The same of each kind of work, that of which most is known first."""
    kinds: dict[str, list[Timed]] = {}
    for step in steps:
        kinds.setdefault(kind_of_step(step.step), []).append(step)
    return {kind: minutes_of(some) for kind, some in sorted(kinds.items(), key=lambda k: -len(k[1]))}


def times_of(ratio: Ratio) -> float:
    """By how much a plan may multiply its minutes."""
    return round(min(max(ratio.ratio, LEAST_TIMES), MOST_TIMES), 3)
