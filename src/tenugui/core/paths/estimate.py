"""A rough estimate of a filament print from the layer stack: lengths of lines over speeds, not a path.

Walls are the contour length times the number of perimeters, limited to what fits into the area; roofs are the area that
is not covered within `roof_mm` above or below, taken from the change of area between layers; the rest is sparse infill.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..machines import FilamentPrinter, Material

F8 = NDArray[np.float64]
TRAVEL_SHARE = 0.25
"""Prior: travel as a share of the drawn length."""


@dataclass(frozen=True)
class Strings:
    """How many travels cross open air with the filament drawn back, and of the layer with the most of them its number
    (from 0) and where one ends, mm.
    """

    count: float
    layer: int
    x: float
    y: float


@dataclass(frozen=True)
class FilamentUse:
    """Seconds in all and after each layer, volume with waste in ml, mass in g, cost, mm³ laid down by each layer, and
    seconds of each if none were slowed to cool; `strings` where a path was planned.
    """

    time_s: float
    clock_s: F8
    volume_ml: float
    mass_g: float
    cost: float
    layer_mm3: F8
    unslowed_s: F8
    strings: Strings | None = None

    def several_s(self, printer: FilamentPrinter, count: int) -> float:
        """Seconds of so many on one plate: each line is drawn for each of them, and a layer is slowed no more than it
        still needs to cool.
        """
        layers = len(self.unslowed_s)
        if count == 1 or not layers:
            return self.time_s
        drawn = np.where(self.unslowed_s > 0, np.maximum(count * self.unslowed_s, printer.least_layer_s), 0.0)
        return float(printer.start_s + drawn.sum() + layers * printer.layer_change_s)


def filament_use(printer: FilamentPrinter, material: Material, height: float, areas: F8, contours: F8) -> FilamentUse:
    """Estimate from each layer's area (mm²) and contour length (mm)."""
    width = printer.line_mm
    wall = np.minimum(contours * printer.perimeters * width, areas)
    inner = areas - wall
    roof_layers = max(1, round(printer.roof_mm / height))
    padded = np.pad(inner, roof_layers)
    count = len(inner)
    above = np.min([padded[roof_layers + d : roof_layers + d + count] for d in range(1, roof_layers + 1)], axis=0)
    below = np.min([padded[roof_layers - d : roof_layers - d + count] for d in range(1, roof_layers + 1)], axis=0)
    roof = inner - np.minimum(inner, np.minimum(above, below))
    sparse = (inner - roof) * printer.infill
    flow_speed = printer.flow_mm3_s / (width * height)
    walls, fills = min(printer.wall_mm_s, flow_speed), min(printer.fill_mm_s, flow_speed)
    lines_wall, lines_fill = wall / width, (roof + sparse) / width
    drawn = lines_wall / walls + lines_fill / fills + TRAVEL_SHARE * (lines_wall + lines_fill) / printer.travel_mm_s
    seconds = np.where(areas > 0, np.maximum(drawn, printer.least_layer_s), 0.0) + printer.layer_change_s
    clock = printer.start_s + np.cumsum(seconds)
    laid = (wall + roof + sparse) * height
    ml = float(laid.sum() / 1000 * (1 + material.waste))
    grams = ml * material.density_g_ml
    return FilamentUse(float(clock[-1]) if count else 0.0, clock, ml, grams, grams / 1000 * material.cost, laid, drawn)
