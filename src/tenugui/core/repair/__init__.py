"""Repair in visible steps. Each step says what it changed; a sound mesh passes through bit for bit.

Terms. *Fill*: close the loops of edges that have a face on one side only. *Turn*: make neighbours run the same way
round, and shells face outwards. *Unite*: make one surface of overlapping shells (a boolean union). *Remesh*: a new
surface around what the layer stack calls solid, the last resort.
*Thin*: fewer triangles for the same surface, with the error told. *Ready*: what every fold works on, see `ready`.
*Speck*: a small shell that lies loose. *Floor*, *filled*: what an open
shell is given, see `inside`.
"""

from .inside import filled, with_floor
from .presupported import Props, find_props, without_faces
from .ready import Ready, make_ready, open_share
from .remesh import unite
from .specks import loose_specks
from .steps import Repair, RepairError, Step, repair
from .thin import Thinned, thin
from .volume import solid_volume

__all__ = [
    "Props",
    "Ready",
    "Repair",
    "RepairError",
    "Step",
    "Thinned",
    "filled",
    "find_props",
    "loose_specks",
    "make_ready",
    "open_share",
    "repair",
    "solid_volume",
    "thin",
    "unite",
    "with_floor",
    "without_faces",
]
