"""Time and material of a proved stack, for either process, in one shape."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..layers import LayerStack
from ..machines import Material, Printer, ResinPrinter
from ..paths import filament_use
from ..vat import resin_use

F8 = NDArray[np.float64]


@dataclass(frozen=True)
class Use:
    """Seconds in all, seconds after each layer, ml and g with waste, cost in the material's currency. `rough`: not from a true path."""

    time_s: float
    clock_s: F8
    volume_ml: float
    mass_g: float
    cost: float
    rough: bool


def use_of(stack: LayerStack, areas: F8, printer: Printer, material: Material) -> Use:
    """What printing this stack takes."""
    if isinstance(printer, ResinPrinter):
        r = resin_use(printer, material, stack.grid.layers, stack.grid.height, float(areas.sum() * stack.grid.height))
        return Use(r.time_s, r.clock_s, r.volume_ml, r.mass_g, r.cost, False)
    f = filament_use(printer, material, stack.grid.height, areas, stack.contour_mm)
    return Use(f.time_s, f.clock_s, f.volume_ml, f.mass_g, f.cost, True)
