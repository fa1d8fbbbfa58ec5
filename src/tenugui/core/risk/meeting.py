"""Where supports of a nozzle meet the figure across a gap: too small a one fuses and tears what it carried, over too
large a one the first lines sag down onto it, and between lines too far apart they sag as well.
"""

from __future__ import annotations

import math

from ..hazards import Arises, Hazard, Kind, Sight, source
from ..machines import as_filament
from ..paths.lines import pitch_of
from ..supports import Tip
from ..supports.manner import BRIDGE_MM

FUSES, SAGS, SAGS_MM = 0.5, 4.0, 0.5
"""Priors: across so much of a layer's height every second print fuses; across so many layers, and no less than so many
mm, it sags in every second.
"""
MENDED_MM2 = 40.0
"""Prior: of so much that is carried, two prints of three show what one of them would."""
TOLD, DROOP_TOLD = 0.02, 0.1
"""What comes true less often is not told, nor what sags by a smaller share of the gap."""
FUSED = Kind("fused", "fused", "supports fuse with what they carry and tear it", "scar", "stripes", stop="")
SAGGED = Kind("gap-sags", "sags on its support", "first lines sag onto the support below them", "scar", "rain", stop="")


@source(FUSED, SAGGED, on=lambda printer: printer.draws_lines)
def meeting(sight: Sight) -> list[Hazard]:
    """Of all supports that end equally short of the figure on lines equally far apart: what one of them does all do."""
    alike: dict[tuple[float, float], list[Tip]] = {}
    for tip in sight.off:
        if tip.gap:
            alike.setdefault((round(tip.gap, 4), round(droops_mm(sight, tip), 4)), []).append(tip)
    hazards = []
    for (gap, droop), tips in alike.items():
        seen = 1 - math.exp(-sum(map(carries_mm2, tips)) / MENDED_MM2)
        hazards += [h for h in _of(sight, gap, droop, tips=tips, seen=seen) if h.chance > TOLD]
    return hazards


def droops_mm(sight: Sight, tip: Tip) -> float:
    """See `droop_mm`. What is no wider than its own walls has none."""
    if not tip.cells:
        return 0.0
    printer = as_filament(sight.context.printer)
    share = printer.support_density if tip.density is None else tip.density
    return droop_mm(sight.height, pitch_of(printer.line_mm, sight.height) / share, printer.interface_layers)


def droop_mm(height: float, apart: float, interface: int) -> float:
    """How far the first lines over an area sag between those that it is drawn in, `apart` mm: by a layer's height
    across a bridged span (prior), by the square of the span; each layer of its interface halves what the next one sees.

    >>> droop_mm(0.2, BRIDGE_MM, 0), droop_mm(0.2, 2 * BRIDGE_MM, 2)
    (0.2, 0.2)
    """
    return height * (apart / BRIDGE_MM) ** 2 / 2**interface


def _of(sight: Sight, gap: float, droop: float, *, tips: list[Tip], seen: float) -> list[Hazard]:
    low, height = min(tips, key=lambda tip: tip.z), sight.height
    layer, place, arises = int(low.z / height), (low.x, low.y, low.z), Arises(tried=seen)
    many = f"{len(tips)} support{'s end' if len(tips) != 1 else ' ends'} {gap:.2f} mm short, {gap / height:.1f} layers"
    between = f" and {droop:.2f} mm between their lines" if droop > DROOP_TOLD * gap else ""
    fuses, sags = FUSES * height, max(SAGS * height, SAGS_MM)
    return [
        FUSED.at(
            layer,
            place,
            gap,
            fuses,
            unit="mm of gap",
            message=f"{many}: in some prints they fuse with what they carry, and tear it when they come off (prior).",
            remedy="A larger gap: the machine's, or a region's by hand.",
            arises=arises,
        ),
        SAGGED.at(
            layer,
            place,
            sags,
            gap + droop,
            unit="mm",
            message=f"{many}: in some prints the first lines over them sag by as much{between} and stay rough (prior).",
            remedy="A smaller gap or denser lines: the machine's, or a region's by hand.",
            arises=arises,
        ),
    ]


def carries_mm2(tip: Tip) -> float:
    """What of the figure a support lies under: its cells, its interface, or its bare end."""
    if tip.cells:
        return len(tip.cells) * tip.cell**2
    return math.pi * max(tip.cap, tip.diameter) ** 2 / 4
