"""What is it for? The same boards read by somebody with terrain, a gaming table or a display case in mind."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from ..removal.hands import HIDDEN_STEP_MM, smoothing_min
from ..worth import Gift, Rates, least, priced


@dataclass(frozen=True)
class Purpose:
    """`hidden_mm`: steps that do not matter; `care`: how many times the usual minutes go into smoothing those
    that do.
    """

    name: str
    hidden_mm: float
    care: float
    said: str


USUAL = Purpose("tabletop", HIDDEN_STEP_MM, 1.0, "what primer hides does not count")
PURPOSES = (
    Purpose("terrain", 0.1, 0.5, "steps of a tenth pass as texture, and nobody smooths for long"),
    USUAL,
    Purpose("display", 0.0, 3.0, "every step is smoothed away, with three times the patience"),
)
"""Priors: what steps are hidden under, and how much is given to smooth those that are not, for each use."""


def for_purposes(
    gifts: Sequence[Gift], above: Callable[[int, float], float], process: str, rates: Rates, best: int
) -> list[tuple[Purpose, int]]:
    """For each purpose the alternative of least worth; `best`, what is recommended, for the usual one. `above(i,
    hidden_mm)`: how far the steps of alternative i stand over what is hidden, on average.
    """
    pairs = []
    for purpose in PURPOSES:
        if purpose is USUAL:
            pairs.append((purpose, best))
            continue
        worths = []
        for i, gift in enumerate(gifts):
            usual = smoothing_min(above(i, HIDDEN_STEP_MM), process)
            mine = purpose.care * smoothing_min(above(i, purpose.hidden_mm), process)
            worths.append(priced(replace(gift, hands_min=max(0.0, gift.hands_min - usual + mine)), rates))
        pairs.append((purpose, least(worths)))
    return pairs
