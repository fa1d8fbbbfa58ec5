"""Filament paths. So far a first estimate of time and material from line lengths; true toolpaths come later."""

from .estimate import FilamentUse, filament_use

__all__ = ["FilamentUse", "filament_use"]
