"""Series: several settings tried on one figure or test piece, planned so that what is found can be told apart, and read
so that nobody concludes more than was seen.

Terms. *Factor*: a setting that is varied; its values are *levels*. *Cell*: one level of every factor. *Specimen*: one
print of a cell. *Response*: what was counted, timed or judged of a specimen. *Aliased*: factors that move together, so
that nobody can tell whose effect was seen. *Knee*: the level beyond which more hours buy less than they cost.
"""

from .best import FEW_RUNS, Best, Knee, Next, best_of, knee_of, next_of
from .design import Cell, aliased, cells_of, missing
from .effects import Effect, Fitted, effects_of, fitted
from .results import Results, read_results
from .spec import KINDS, SeriesError, Spec, read_spec

__all__ = [
    "FEW_RUNS",
    "KINDS",
    "Best",
    "Cell",
    "Effect",
    "Fitted",
    "Knee",
    "Next",
    "Results",
    "SeriesError",
    "Spec",
    "aliased",
    "best_of",
    "cells_of",
    "effects_of",
    "fitted",
    "knee_of",
    "missing",
    "next_of",
    "read_results",
    "read_spec",
]
