"""Filament paths. So far a first estimate of time and material from line lengths, and what walls leave open; true toolpaths come later."""

from .estimate import FilamentUse, filament_use
from .walls import MOST_PERIMETERS, Slopes, Walls, Weakest, cure, necks_of, slopes, solid_share, weakest

__all__ = [
    "MOST_PERIMETERS",
    "FilamentUse",
    "Slopes",
    "Walls",
    "Weakest",
    "cure",
    "filament_use",
    "necks_of",
    "slopes",
    "solid_share",
    "weakest",
]
