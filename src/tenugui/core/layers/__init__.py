"""The layer stack: every layer of a figure as runs, and all that can be read off them.

Terms. *Run*: an interval of one scan line inside the solid (a row of a run-length encoded picture). *Component*: runs
of one layer that touch (8-connected for the solid, 4-connected for the empty, so that the two never cross). *Island*: a
component that overlaps nothing in the layer below and does not start on the plate. *Sealed space* (cup): empty space
that, in what is printed so far, has no way out but through the film. *Trapped space*: empty space with no way out in
the finished part. *Overhang*: area farther outside the layer below than the process can reach.
"""

from .about import features
from .bridges import bridged
from .ceilings import closing_share
from .grid import LayerError, LayerGrid, grid_for
from .overhang import LANDS_MM, left_over, overhang
from .runs import LayerStack, cut, cut_onto
from .solids import Components, Island, find_islands, middles, runs_of, solid_components
from .stack import Proof, Solid, alone_mm, completed, is_slight, prove, read_solid, relief_mm
from .voids import SealedSpace, TrappedSpace, Voids, find_voids

__all__ = [
    "LANDS_MM",
    "Components",
    "Island",
    "LayerError",
    "LayerGrid",
    "LayerStack",
    "Proof",
    "SealedSpace",
    "Solid",
    "TrappedSpace",
    "Voids",
    "alone_mm",
    "bridged",
    "closing_share",
    "completed",
    "cut",
    "cut_onto",
    "features",
    "find_islands",
    "find_voids",
    "grid_for",
    "is_slight",
    "left_over",
    "middles",
    "overhang",
    "prove",
    "read_solid",
    "relief_mm",
    "runs_of",
    "solid_components",
]
