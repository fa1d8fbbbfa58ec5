"""Trial prints: the plan printed a thousand times before the machine does it once."""

from .draw import PRINTS, SEED, Draws, Walked, printed
from .moments import Moments, moments_of
from .tally import Cause, Remedy, Trial, tallied
from .tried import OnTrial, tried, whole_by_scatter

__all__ = [
    "PRINTS",
    "SEED",
    "Cause",
    "Draws",
    "Moments",
    "OnTrial",
    "Remedy",
    "Trial",
    "Walked",
    "moments_of",
    "printed",
    "tallied",
    "tried",
    "whole_by_scatter",
]
