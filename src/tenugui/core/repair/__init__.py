"""Repair in visible steps. Each step says what it changed; a sound mesh passes through bit for bit.

Terms. *Fill*: close the loops of edges that have a face on one side only. *Turn*: make neighbours run the same way round, and
shells face outwards. *Unite*: make one surface of overlapping shells (a boolean union). *Remesh*: a new surface around
what the layer stack calls solid, the last resort.
*Thin*: fewer triangles for the same surface, with the error told.
"""

from .presupported import Props, find_props, without_faces
from .steps import Repair, RepairError, Step, repair
from .thin import Thinned, thin

__all__ = ["Props", "Repair", "RepairError", "Step", "Thinned", "find_props", "repair", "thin", "without_faces"]
