"""What differs between resin and filament once a figure is cut: time and material, pull, what threatens a print, the
run sheet's lines.

Everything else asks a `Process`; nobody asks which one it is.
"""

from . import filament, resin  # what they fear registers itself
from .of import process_of
from .protocol import COUNTS, MOST_OF_IT, NEAR_PLATE_MM, Basis, Process, Use

__all__ = ["COUNTS", "MOST_OF_IT", "NEAR_PLATE_MM", "Basis", "Process", "Use", "filament", "process_of", "resin"]
