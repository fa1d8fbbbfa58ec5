"""Hollowing a figure: walls that are as thick as they are said to be, holes, and what the liquid does."""

from .cavities import Cavity, Hollowed, HollowError, Lattice, hollow, refuse_wall, usual_wall
from .creases import Crease, creases
from .drilling import Hole, drilled, plug, plugs_of
from .existing import came_hollow, filled
from .field import Field, depth_field
from .holes import Opened, bores, judged, suggest, usual_diameter
from .liquid import RESIN, WASH, Drained, Fluid, Mouth, Space, drained, flow, stays
from .packed import pack_hollowed, unpack_hollowed
from .shell import Shell, open_shell
from .turns import Turns, best_turns, falling, turned

__all__ = [
    "RESIN",
    "WASH",
    "Cavity",
    "Crease",
    "Drained",
    "Field",
    "Fluid",
    "Hole",
    "HollowError",
    "Hollowed",
    "Lattice",
    "Mouth",
    "Opened",
    "Shell",
    "Space",
    "Turns",
    "best_turns",
    "bores",
    "came_hollow",
    "creases",
    "depth_field",
    "drained",
    "drilled",
    "falling",
    "filled",
    "flow",
    "hollow",
    "judged",
    "open_shell",
    "pack_hollowed",
    "plug",
    "plugs_of",
    "refuse_wall",
    "stays",
    "suggest",
    "turned",
    "unpack_hollowed",
    "usual_diameter",
    "usual_wall",
]
