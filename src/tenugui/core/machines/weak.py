"""Which thin parts will not survive a process, and what would cure each, with its number."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ..mesh import ThinPlace
from .printer import LINES_IN_A_ROD, RESIN_ROD_MM, RESIN_WALL_MM, Printer, draws_lines

LINE_OF_NOZZLE = 1.05
SMALLEST_NOZZLE_MM = 0.15
SENSIBLE_SCALE = 4.0
"""A figure is not printed at more times its size for the sake of one part."""


EDGE = "edge"


@dataclass(frozen=True)
class Weak:
    """A part thinner than its limit; `place` and lengths in printed mm, `scale` the factor that would cure it,
    `remedies` sentences.
    """

    place: ThinPlace
    limit: float
    scale: float
    remedies: tuple[str, ...]


def thin_limits(printer: Printer) -> dict[str, float]:
    """Thinnest `sheet` and `rod` in mm: one line and two lines of filament; priors for resin."""
    return printer.thin_limits()


def parts_among(places: Iterable[ThinPlace]) -> list[ThinPlace]:
    """Those that may break off: an edge comes out rounded, and that is all."""
    return [p for p in places if p.kind != EDGE]


def weak_parts(places: list[ThinPlace], printer: Printer, height_mm: float) -> list[Weak]:
    """Those of `places` that are thinner than their kind's limit, the weakest (by share of its limit) first.
    `height_mm` is the figure's.
    """
    limits = thin_limits(printer)
    weaks = []
    for p in parts_among(places):
        limit = limits[p.kind]
        if p.thickness >= limit:
            continue
        scale = limit / p.thickness
        remedies = (
            [f"holds at {scale:.0%} of this size, {height_mm * scale:.0f} mm tall"] if scale <= SENSIBLE_SCALE else []
        )
        if draws_lines(printer):
            nozzle = p.thickness / (LINES_IN_A_ROD if p.kind == "rod" else 1.0) / LINE_OF_NOZZLE
            if nozzle >= SMALLEST_NOZZLE_MM:
                remedies.append(f"holds from a nozzle of {nozzle:.2f} mm")
            if p.thickness >= (RESIN_ROD_MM if p.kind == "rod" else RESIN_WALL_MM):
                remedies.append("holds in resin")
        remedies.append(
            f"thicken it by {limit - p.thickness:.2f} mm"
            if p.kind == "sheet"
            else f"replace it with a wire of {limit:.1f} mm"
        )
        weaks.append(Weak(p, limit, scale, tuple(remedies)))
    return sorted(weaks, key=lambda w: w.place.thickness / w.limit)
