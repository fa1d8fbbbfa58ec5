"""Lines of a layer: perimeters, roofs and floors, infill, supports; from closed outlines by the polygon library and
compiled clipping.

A line is `width` wide and `height` high with round sides (a stadium), so lines lie `pitch_of` apart: then what is drawn
is what is filled.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from manifold3d import CrossSection, JoinType
from numpy.typing import NDArray

from ..compiled import njit

F8 = NDArray[np.float64]
I8 = NDArray[np.int64]
TRAVEL, OUTER, INNER, SOLID, SPARSE, SUPPORT, INTERFACE, BRIM, IRON, RAFT = range(10)
KINDS = (
    "travel",
    "outermost line",
    "line within",
    "roof or floor",
    "sparse fill",
    "support",
    "pad under the figure",
    "brim",
    "ironing",
    "raft",
)
SIMPLE_MM = 0.02
"""Corners of an outline that change it by less are left out."""
ARC = 32
"""Sides of a circle where a corner is rounded."""
SHORTEST_MM = 0.2
"""Lines of infill that are shorter are left out."""


def line_mm2(width: float, height: float) -> float:
    """Section of a line with round sides.

    >>> round(line_mm2(0.42, 0.2), 4)
    0.0754
    """
    return (width - height) * height + math.pi * height**2 / 4


def pitch_of(width: float, height: float) -> float:
    """Distance between lines that fill without gap or overlap."""
    return line_mm2(width, height) / height


@dataclass(frozen=True)
class Line:
    """A drawn line: its points (n, 2) in mm, its kind, and whether it ends where it begins."""

    points: F8
    kind: int
    closed: bool


@njit()
def _clipped(loops: F8, starts: I8, spacing: float, out: F8) -> int:
    """Horizontal lines every `spacing` inside closed loops (even-odd): out rows y, x0, x1. Returns how many, or how
    many there would be.
    """
    low, high = np.inf, -np.inf
    for k in range(len(loops)):
        low, high = min(low, loops[k, 1]), max(high, loops[k, 1])
    n = 0
    crossing = np.empty(len(loops))
    first = int(np.floor(low / spacing)) + 1
    last = int(np.ceil(high / spacing)) - 1
    for j in range(first, last + 1):
        y = j * spacing
        many = 0
        for loop in range(len(starts) - 1):
            begin, end = starts[loop], starts[loop + 1]
            for a in range(begin, end):
                b = a + 1 if a + 1 < end else begin
                ya, yb = loops[a, 1], loops[b, 1]
                if (ya <= y) != (yb <= y):
                    crossing[many] = loops[a, 0] + (y - ya) / (yb - ya) * (loops[b, 0] - loops[a, 0])
                    many += 1
        inside = np.sort(crossing[:many])
        for q in range(0, many - 1, 2):
            if n < len(out):
                out[n, 0], out[n, 1], out[n, 2] = y, inside[q], inside[q + 1]
            n += 1
    return n


def fill(region: CrossSection, spacing: float, degrees: float, kind: int) -> list[Line]:
    """Straight lines `spacing` apart inside a region, to and fro."""
    loops = [np.asarray(loop, float) for loop in region.to_polygons()]
    if not loops:
        return []
    turn = math.radians(degrees)
    c, s = math.cos(turn), math.sin(turn)
    there = np.array([[c, s], [-s, c]])
    points = np.concatenate(loops) @ there.T
    starts = np.concatenate([[0], np.cumsum([len(loop) for loop in loops])]).astype(np.int64)
    out = np.empty((4096, 3))
    count = int(_clipped(points, starts, spacing, out))
    if count > len(out):
        out = np.empty((count, 3))
        count = int(_clipped(points, starts, spacing, out))
    lines = []
    for k, (y, a, b) in enumerate(out[:count].tolist()):
        if b - a < SHORTEST_MM:
            continue
        ends = np.array([[a, y], [b, y]] if k % 2 == 0 else [[b, y], [a, y]])
        lines.append(Line(ends @ there, kind, False))
    return lines


@dataclass(frozen=True)
class Rings:
    """Perimeters of a region, what is left inside them, and the area that not even the outermost can draw."""

    lines: list[Line]
    inside: CrossSection
    lost: float


def rings(region: CrossSection, first: float, pitch: float, count: int) -> Rings:
    """`count` perimeters inside a region, the outermost's middle `first` mm from its edge, each cut in from the one
    before.
    """
    lines: list[Line] = []
    inset, lost = region, 0.0
    for k in range(count):
        inset = inset.offset(-(pitch if k else first), JoinType.Round, 2.0, ARC).simplify(SIMPLE_MM)
        if k == 0:
            lost = max(0.0, region.area() - inset.offset(first, JoinType.Round, 2.0, ARC).area())
        if inset.is_empty():
            break
        lines += [Line(np.asarray(loop, float), INNER if k else OUTER, True) for loop in inset.to_polygons()]
    return Rings(lines, inset.offset(-pitch / 2, JoinType.Round, 2.0, ARC), lost)
