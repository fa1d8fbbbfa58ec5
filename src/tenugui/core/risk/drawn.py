"""What a nozzle's lines leave of a figure: slopes that they do not close, and hairs where it crosses open air."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..hazards import Hazard, Kind, Sight, source
from ..machines import Context, as_filament
from ..mesh import Mesh
from ..paths import Strings, Walls, slopes

F8 = NDArray[np.float64]
GAPS_MM2, HAIRS = 20.0, 1500.0
"""Priors: so much open slope, by its marks, or so many crossings leave in every second print what somebody has to mend.
"""
TOLD = 0.1
"""Less than this share of it is not told."""


GAPS = Kind("gaps", "slopes that stay open", "slopes that lines leave open", "scar", "rain", stop="hangs")
STRINGS = Kind("strings", "strings", "hairs where the nozzle crosses open air", "scar", "rope", stop="strings")


@source(GAPS, STRINGS, on=lambda printer: printer.draws_lines)
def drawn(sight: Sight) -> list[Hazard]:
    """Of a figure at its layer height, and of the strings of its path."""
    return [
        *([] if sight.figure is None else open_slopes(sight.figure, sight.context)),
        *([] if sight.strings is None else hairs(sight.strings, sight.context)),
    ]


def open_slopes(figure: Mesh, context: Context) -> list[Hazard]:
    """Slopes that its lines do not close, of a figure in build coordinates."""
    printer, hazards = as_filament(context.printer), []
    walls = Walls(printer.perimeters, printer.roof_mm, printer.infill)
    gaps = slopes(figure, context.weights, walls, printer.line_mm, context.height)
    if gaps.open_weighed > TOLD * GAPS_MM2:
        x, y, z = _widest(figure, context.weights, gaps.lean)
        text = (
            f"{gaps.open_mm2:.0f} mm² of its slopes are closed neither by {walls.perimeters} lines nor "
            f"by a roof: they stay open or rough; at {GAPS_MM2:g} every second print is mended (prior)."
        )
        remedy = "More lines (the fold Walls says how many), or thinner layers."
        layer = max(0, int(z / context.height))
        hazards.append(
            GAPS.at(layer, (x, y, z), GAPS_MM2, gaps.open_weighed, unit="mm² by mark", message=text, remedy=remedy)
        )
    return hazards


def hairs(strings: Strings, context: Context) -> list[Hazard]:
    """Where its nozzle crosses open air."""
    if strings.count <= TOLD * HAIRS:
        return []
    z = (strings.layer + 0.5) * context.height
    remedy = "A dry spool and your own retraction; hairs go with a quick warm flame or hot air."
    place, text = (strings.x, strings.y, z), crosses(strings.count, z)
    return [STRINGS.at(strings.layer, place, HAIRS, strings.count, unit="crossings", message=text, remedy=remedy)]


def crosses(count: float, z_mm: float) -> str:
    """So many crossings, most often at a height, in words."""
    return (
        f"The nozzle crosses open air some {count:,.0f} times, by "
        f"every few layers of its path, most often at {z_mm:.1f} mm; "
        f"at {HAIRS:,.0f} every second print is mended (prior)."
    )


def _widest(figure: Mesh, weights: F8 | None, lean: tuple[float, float]) -> tuple[float, float, float]:
    """Where most of what leans so lies: the middle of the face that weighs most."""
    normal, area = figure.normals_and_areas()
    mass = area if weights is None else area * weights
    open_ = (np.abs(normal[:, 2]) > lean[0]) & (np.abs(normal[:, 2]) < lean[1])
    x, y, z = figure.corners()[int(np.where(open_, mass, -1.0).argmax())].mean(axis=0).tolist()
    return x, y, z
