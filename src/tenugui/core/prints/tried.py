"""A support set put on trial: what pulls on what, a thousand prints of it, and their tally."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..hazards import Hazard
from ..learn import SCATTERS
from ..supports import Carrying
from .draw import PRINTS, Draws, printed
from .moments import Moments, moments_of
from .tally import Trial, tallied

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]


@dataclass(frozen=True)
class OnTrial:
    """Tips of a set: where they push (n, 3) mm, on which component (n,), and how strong they are (n,) N."""

    at: F8
    on: I4
    strength: F8

    def with_more(self, at: F8, on: I4) -> OnTrial:
        """With others of the usual strength."""
        usual = np.full(len(at), float(np.median(self.strength)) if len(self.strength) else 0.0)
        joined = ((self.at, at), (self.on, on), (self.strength, usual))
        return OnTrial(*(np.concatenate(pair) for pair in joined))


def tried(
    carrying: Carrying, tips: OnTrial, hazards: Sequence[Hazard], *, layers: int, height: float, scatter: float = 1.0
) -> tuple[Trial, Moments | None]:
    """Print a set a thousand times on a machine whose prints differ `scatter` times as much as usual, always with the
    same draws; its moments where something peels.
    """
    draws = Draws.of(len(tips.at), PRINTS, spread=scatter)
    moments = moments_of(carrying, tips.on, tips.at, tips.strength) if carrying.peeled else None
    walked = None if moments is None else printed(moments, draws)
    return tallied(moments, walked, draws, hazards, layers=layers, height=height), moments


def whole_by_scatter(
    carrying: Carrying, tips: OnTrial, hazards: Sequence[Hazard], *, layers: int, height: float
) -> list[float]:
    """(SCATTERS,) the share that comes off whole on machines that differ so much."""
    shares = []
    for there in SCATTERS:
        scattered = [h.on(there) for h in hazards]
        trial, _ = tried(carrying, tips, scattered, layers=layers, height=height, scatter=there)
        shares.append(trial.whole / trial.prints)
    return shares
