"""What most computations are told together: the machine, the material, the layer height, and what the marks say."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from .limits import by_depth, default_height, free_reach, limit_angle
from .printer import Material, Printer

F8 = NDArray[np.float64]
B1 = NDArray[np.bool_]


@dataclass(frozen=True)
class Context:
    """`weights` (faces,): how much a scar on each face counts, 1 where None; `hold` (faces,): what is to be held
    whatever the computation says.
    """

    printer: Printer
    material: Material
    height: float
    weights: F8 | None = None
    hold: B1 | None = None

    @staticmethod
    def of(printer: Printer, material: Material, height: float | None = None) -> Context:
        """Without marks, at the printer's customary height unless another is given."""
        return Context(printer, material, default_height(printer) if height is None else height)

    @property
    def reach(self) -> float:
        """Millimetres a layer may reach beyond the one below."""
        return free_reach(self.printer, self.material, self.height)

    @property
    def peel_kpa(self) -> float:
        """How hard the film clings to each mm² of a layer of this height; 0 where there is none."""
        return float(getattr(self.printer, "peel_kpa", 0.0)) * by_depth(self.material, self.height)

    @property
    def bridge(self) -> float:
        """Longest span in mm that a layer's lines bridge from bank to bank."""
        return self.printer.bridge_mm

    @property
    def limit_angle(self) -> float:
        """Steepest free overhang in radians from the vertical."""
        return limit_angle(self.printer, self.material, self.height)

    def at(self, height: float) -> Context:
        """The same at another layer height."""
        return replace(self, height=height)

    def bare(self) -> Context:
        """The same without marks: for a mesh of other faces."""
        return replace(self, weights=None, hold=None)
