"""Sections: what each layer of a plan is, at the grain of the machine that makes it. Everything that is written stands
on them.

Terms. *Screen*: a resin printer's pixels over its build plate. *Band*: the rows of a screen that a print lights at all.
"""

from .outlines import loops_of, outlines, outlines_at
from .screen import Raster, Screen, rasters

__all__ = ["Raster", "Screen", "loops_of", "outlines", "outlines_at", "rasters"]
