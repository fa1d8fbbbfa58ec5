"""Filament paths: an estimate from line lengths for boards, the true path of the plan that is taken, its time, and its G-code; and what walls leave open."""

from .estimate import FilamentUse, filament_use
from .gcode import GcodeError, GcodeRead, read_gcode, write_gcode
from .plan import Path, PathError, planned
from .playback import LayerRead, layer_of
from .sampled import sampled_use
from .walls import MOST_PERIMETERS, Slopes, Walls, Weakest, cure, necks_of, slopes, solid_share, weakest

__all__ = [
    "MOST_PERIMETERS",
    "FilamentUse",
    "GcodeError",
    "GcodeRead",
    "LayerRead",
    "Path",
    "PathError",
    "Slopes",
    "Walls",
    "Weakest",
    "cure",
    "filament_use",
    "layer_of",
    "necks_of",
    "planned",
    "read_gcode",
    "sampled_use",
    "slopes",
    "solid_share",
    "weakest",
    "write_gcode",
]
