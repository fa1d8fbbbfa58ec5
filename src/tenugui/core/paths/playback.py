"""One layer of a written path, as the machine will draw it: read from the file itself, never from the plan."""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np
from manifold3d import CrossSection, FillRule, JoinType
from numpy.typing import NDArray

from ..machines import FilamentPrinter
from .gcode import GcodeError, read_gcode
from .inside import Inside
from .lines import ARC, KINDS, OUTER, TRAVEL
from .motion import seconds

F8 = NDArray[np.float64]
U1 = NDArray[np.uint8]
B1 = NDArray[np.bool_]
STROKE_MM = 1e-3
MARK = re.compile(r"^; layer (\d+) of (\d+)", re.M)


@dataclass(frozen=True)
class LayerRead:
    """Moves of one layer through `points` (n + 1, 3) mm on the plate, the `kind` (n,) of each (see `lines.KINDS`), its
    `seconds` (n,), and mm of filament `fed` (n,); which moves `begin` an outermost line (n,), and mm of open `air` that
    each crosses with the filament drawn back (n,).
    """

    points: F8
    kind: U1
    seconds: F8
    fed: F8
    begin: B1
    air: F8


def layer_of(text: str, number: int, printer: FilamentPrinter) -> LayerRead:
    """Layer `number`, from 1, of G-code that this application wrote.

    Raises:
        GcodeError: `no-layer`: the file has none of that number.
    """
    begin = text.find(f"\n; layer {number} of ")
    if number < 1 or begin < 0:
        raise GcodeError("no-layer", f"The file has no layer {number:,}.", remedy="Ask for one that it has.")
    end = MARK.search(text, begin + 2 + len(f"; layer {number} of "))
    mine = text[begin : end.start() if end else len(text)]
    before = _last_place(text[:begin])
    read = read_gcode(f"G0 X{before[0]} Y{before[1]} Z{before[2]} F6000\nG92 E{before[3]}\n{mine}")
    kinds, now = [TRAVEL], TRAVEL
    for line in mine.splitlines():
        if line.startswith("; ") and line[2:] in KINDS:
            now = KINDS.index(line[2:])
        elif line.startswith(("G0", "G1")):
            kinds.append(now)
    kind = np.array(kinds, np.uint8)
    still = np.linalg.norm(np.diff(read.points, axis=0), axis=1) < 1e-9
    kind[(read.fed <= 0) | still] = TRAVEL
    took = seconds(read.points, read.speed, printer.acceleration_mm_s2, printer.corner_mm)
    took += np.where(still, np.abs(read.fed) / np.maximum(read.speed, 1e-9), 0.0)
    begin = (kind == OUTER) & np.concatenate([[True], kind[:-1] != OUTER])
    air = _airs(read.points[:, :2], kind, begin, np.where(still, read.fed, 0.0), printer.line_mm)
    # The first move only puts the nozzle where the layer before left it.
    return LayerRead(read.points[1:], kind[1:], took[1:], read.fed[1:], begin[1:], air[1:])


def _airs(points: F8, kind: U1, begin: B1, stroke: F8, line_mm: float) -> F8:
    """(n,) mm of air outside the layer's own outermost lines that travels cross with the filament drawn back; `stroke`
    (n,) of the filament alone.
    """
    lengths = np.zeros(len(kind))
    loops = []
    for first in np.flatnonzero(begin).tolist():
        rest = np.flatnonzero(kind[first:] != OUTER)
        loops.append(points[first : first + int(rest[0]) + 1 if len(rest) else len(points)])
    drawn = np.flatnonzero((np.cumsum(stroke) < -STROKE_MM) & (np.linalg.norm(np.diff(points, axis=0), axis=1) > 0))
    if len(loops) and len(drawn):
        section = CrossSection(loops, FillRule.EvenOdd).offset(line_mm / 2, JoinType.Round, 2.0, ARC)
        lengths[drawn] = Inside(section, []).airs(np.hstack([points[drawn], points[drawn + 1]]))
    return lengths


def _last_place(text: str) -> tuple[float, float, float, float]:
    """Where the last moves of a text leave the nozzle, and how much filament has gone in."""
    words = []
    for axis in "XYZE":
        at = max(text.rfind(f" {axis}"), 0)
        match = re.match(rf" {axis}(-?[\d.]+)", text[at : at + 32])
        words.append(float(match.group(1)) if match else 0.0)
    return words[0], words[1], words[2], words[3]
