"""Hollowing a figure: walls that are as thick as they are said to be, holes, and what the liquid does."""

from .cavities import Cavity, Hollowed, HollowError, Lattice, hollow, usual_wall
from .field import Field, depth_field
from .holes import Hole, Opened, drilled, judged, plug, suggest, usual_diameter
from .liquid import Drained, Mouth, Space, drained, flow, stays

__all__ = [
    "Cavity",
    "Drained",
    "Field",
    "Hole",
    "HollowError",
    "Hollowed",
    "Lattice",
    "Mouth",
    "Opened",
    "Space",
    "depth_field",
    "drained",
    "drilled",
    "flow",
    "hollow",
    "judged",
    "plug",
    "stays",
    "suggest",
    "usual_diameter",
    "usual_wall",
]
