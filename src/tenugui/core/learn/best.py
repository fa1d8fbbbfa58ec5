"""Which of some ways to print a figure won so far, on how many prints, and with what doubt."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .causes import share_interval
from .log import WHOLE

DRAWS, SEED = 4000, 11
FEW_RUNS = 3
"""Prior: on fewer prints nothing is said to be best."""


@dataclass(frozen=True)
class Known:
    """A way's `runs` whose outcome is known, `good` of which came off whole; the share with 95 % on both sides
    (Jeffreys); the chance that it is the best of all; mean seconds, where they were timed.
    """

    runs: int
    good: int
    share: float
    low: float
    high: float
    best: float
    took_s: float | None


def known_of(ways: Sequence[Sequence[tuple[str, float | None]]]) -> list[Known]:
    """Of ways as (result, seconds) of each of their runs; the chance of best by draws from their posteriors.

    >>> one, other = known_of([[("good", 3600.0)] * 9, [("print lost", None)] * 4])
    >>> one.best > 0.95 and other.best < 0.05, one.took_s
    (True, 3600.0)
    """
    if not ways:
        return []
    rng = np.random.default_rng(SEED)
    good = np.array([sum(result in WHOLE for result, _ in way) for way in ways])
    many = np.array([len(way) for way in ways])
    drawn = rng.beta(good[:, None] + 0.5, (many - good)[:, None] + 0.5, (len(ways), DRAWS))
    best = np.bincount(drawn.argmax(axis=0), minlength=len(ways)) / DRAWS
    told = []
    for k, way in enumerate(ways):
        low, high = share_interval(int(good[k]), int(many[k]))
        timed = [seconds for _, seconds in way if seconds is not None]
        told.append(
            Known(
                int(many[k]),
                int(good[k]),
                float((good[k] + 0.5) / (many[k] + 1)),
                low,
                high,
                float(best[k]),
                float(np.mean(timed)) if timed else None,
            )
        )
    return told
