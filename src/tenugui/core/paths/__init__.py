"""Filament paths: an estimate from line lengths for boards, the true path of the plan that is taken, its time, and its
G-code; and what walls leave open.
"""

from .blemishes import Blemishes, blemishes_of
from .drive import Path, PathError
from .estimate import FilamentUse, Strings, filament_use
from .gcode import GcodeError, GcodeRead, read_gcode, words_of, write_gcode
from .plan import heights_of, ironing_s, planned
from .playback import LayerRead, layer_of
from .props import Props
from .sampled import sampled_use, seconds_at
from .seams import SHOWS, Seen
from .walls import MOST_PERIMETERS, Slopes, Walls, Weakest, cure, necks_of, slopes, solid_share, weakest

__all__ = [
    "MOST_PERIMETERS",
    "SHOWS",
    "Blemishes",
    "FilamentUse",
    "GcodeError",
    "GcodeRead",
    "LayerRead",
    "Path",
    "PathError",
    "Props",
    "Seen",
    "Slopes",
    "Strings",
    "Walls",
    "Weakest",
    "blemishes_of",
    "cure",
    "filament_use",
    "heights_of",
    "ironing_s",
    "layer_of",
    "necks_of",
    "planned",
    "read_gcode",
    "sampled_use",
    "seconds_at",
    "slopes",
    "solid_share",
    "weakest",
    "words_of",
    "write_gcode",
]
