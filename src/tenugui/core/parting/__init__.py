"""Cutting a figure into a kit: where a limb is joined, how it is parted there, and the peg that brings it back.

Terms. *Section*: what a plane cuts of the figure, in loops. *Limb*: what hangs on the rest by one region of a section
alone. *Seam*: the outline of that region, which is glued, filled and sanded where it is seen. *Peg* and *socket*: a
keyed pin on the limb and its hole in the rest, so much wider all around as the machine's clearance.
"""

from .part import Joint, Parted, PartingError, Plane, closed, joint_minutes, part
from .peg import Fit, Peg
from .propose import Proposed, propose_cuts

__all__ = [
    "Fit",
    "Joint",
    "Parted",
    "PartingError",
    "Peg",
    "Plane",
    "Proposed",
    "closed",
    "joint_minutes",
    "part",
    "propose_cuts",
]
