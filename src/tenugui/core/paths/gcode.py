"""A path as plain G-code in standard words, and back: absolute places and absolute extrusion, comments by layer and
kind.

G0 travels, G1 draws, G28 homes, G90 and M82 say that all is absolute, G92 sets the extruder's zero, M104, M109, M140
and M190 heat, M106 and M107 turn the fan on and off. Nothing else is written.
"""

from __future__ import annotations

import io
import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..errors import CoreError
from ..machines import FilamentPrinter, Material
from ..names import plain
from .drive import Path
from .lines import KINDS, TRAVEL
from .motion import seconds
from .words import BAD_NUMBER, FED, NO_SPEED, RELATIVE, SPEED, Z, moves_of

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
MOST_LINES = 40_000_000
CLEAR_MM = 5.0
"""The nozzle leaves the finished print so far upwards."""
HEAD = "; tenugui/gcode@1"


class GcodeError(CoreError):
    """G-code that cannot be read."""


def filament_mm2(printer: FilamentPrinter) -> float:
    """Section of the filament as it goes in."""
    return math.pi * printer.filament_mm**2 / 4


def words_of(path: Path, printer: FilamentPrinter) -> tuple[str, ...]:
    """Every word of a path's file that moves nothing, in its order: heat, fan, how numbers are meant."""
    return (*_before(printer), *_fan(path.layers, printer), *_after(printer))


def _before(printer: FilamentPrinter) -> tuple[str, ...]:
    bed, nozzle = f"S{printer.bed_c:g}", f"S{printer.nozzle_c:g}"
    heat = (f"M140 {bed}", f"M104 {nozzle}", f"M190 {bed}", f"M109 {nozzle}")
    return (*heat, "M107", "G28", "G21", "G90", "M82", "G92 E0")


def _fan(layers: int, printer: FilamentPrinter) -> tuple[str, ...]:
    """From the second layer on."""
    return (f"M106 S{255 * printer.fan:.0f}",) if printer.fan > 0 and layers > 1 else ()


def _after(printer: FilamentPrinter) -> tuple[str, ...]:
    """The fan stops before the nozzle leaves."""
    return ("M107", "M104 S0", "M140 S0")


def write_gcode(path: Path, printer: FilamentPrinter, material: Material) -> str:
    """A path, its middle moved to the middle of the plate, whose corner is 0."""
    out = io.StringIO()
    say = out.write
    section, corner = filament_mm2(printer), (printer.build_mm[0] / 2, printer.build_mm[1] / 2)
    say(f"{HEAD}\n; printer: {plain(printer.name)}\n; material: {plain(material.name)}\n")
    say(f"; layer height: {_heights(path)} mm\n")
    say(f"; layers: {path.layers}\n; volume: {path.volume_mm3:.1f} mm3\n")
    say("; Check the temperatures against the filament's maker, and clear the plate.\n")
    say("\n".join(_before(printer)) + "\n")
    fed, layer, kind, up = 0.0, -1, -1, 0.0
    ends = path.points[1:] + [corner[0], corner[1], 0.0]
    rows = zip(
        ends.tolist(),
        path.kind.tolist(),
        path.speed.tolist(),
        path.fed.tolist(),
        path.layer.tolist(),
        path.drawn.tolist(),
        strict=True,
    )
    for (x, y, z), what, speed, more, at, drawn in rows:
        if at != layer:
            layer, kind = at, -1  # each layer says its kinds anew, so that it can be read alone
            say(f"; layer {at + 1} of {path.layers}, z {z:.3f}\n")
            if at == 1:
                say("".join(f"{word}\n" for word in _fan(path.layers, printer)))
        if what == TRAVEL:
            if drawn:
                say(f"G1 E{fed - printer.retract_mm:.5f} F{printer.retract_mm_s * 60:.0f}\n")
            over = z + (printer.hop_mm if drawn else 0.0)
            if over != up:  # up before across: what is printed is not in the way
                say(f"G0 Z{over:.3f} F{speed * 60:.0f}\n")
            say(f"G0 X{x:.3f} Y{y:.3f} F{speed * 60:.0f}\n")
            if over != z:
                say(f"G0 Z{z:.3f} F{speed * 60:.0f}\n")
            up = z
            if drawn:
                say(f"G1 E{fed:.5f} F{printer.retract_mm_s * 60:.0f}\n")
            continue
        if what != kind:
            kind = what
            say(f"; {KINDS[what]}\n")
        fed += more / section
        say(f"G1 X{x:.3f} Y{y:.3f} E{fed:.5f} F{speed * 60:.0f}\n")
    say(f"G1 E{fed - printer.retract_mm:.5f} F{printer.retract_mm_s * 60:.0f}\n")
    fan, *cold = _after(printer)
    say(f"{fan}\nG0 Z{min(up + CLEAR_MM, printer.build_mm[2]):.3f} F{printer.travel_mm_s * 60:.0f}\n")
    say(f"G0 X{corner[0]:.3f} Y{printer.build_mm[1] - 5:.3f} F{printer.travel_mm_s * 60:.0f}\n")
    say("\n".join(cold) + "\n; end\n")
    return out.getvalue()


def _heights(path: Path) -> str:
    """One, or from the least to the most."""
    least, most = float(path.heights.min()), float(path.heights.max())
    return f"{least:g}" if most - least < 1e-6 else f"{least:g} to {most:g}"


@dataclass(frozen=True)
class GcodeRead:
    """What a file of G-code does: moves through `points` (n + 1, 3) mm at `speed` (n,) mm/s, `fed` (n,) mm of filament
    that go in with each, at which of `layers` heights each draws (n,), and the `words` that move nothing, in their
    order.
    """

    points: F8
    speed: F8
    fed: F8
    layer: I4
    layers: int
    words: tuple[str, ...] = ()

    def volume_mm3(self, printer: FilamentPrinter) -> float:
        """What is laid down: what goes in and is not drawn back."""
        return float(self.fed.sum()) * filament_mm2(printer)

    def seconds(self, printer: FilamentPrinter) -> float:
        """Drawing, travelling and drawing back; nothing for heating, and no layer slowed."""
        still = np.linalg.norm(np.diff(self.points, axis=0), axis=1) < 1e-9
        turns = np.where(still, np.abs(self.fed) / np.maximum(self.speed, 1e-9), 0.0)
        moved = seconds(self.points, self.speed, printer.acceleration_mm_s2, printer.corner_mm)
        return float(moved.sum() + turns.sum())


def read_gcode(text: str) -> GcodeRead:
    """Read standard words; what is not known is refused by its line, since it might move.

    Raises:
        GcodeError: `unknown-word`, `bad-number`, `relative`, `no-speed`, `too-many-lines`.
    """
    data = np.frombuffer(text.encode(), np.uint8)
    rows = np.empty((text.count("G0") + text.count("G1") + 1, 5))
    still = np.empty((text.count("G") + text.count("M") + 1, 2), np.int64)
    many, wrong, line, begin, end, said = moves_of(data, MOST_LINES, rows, still)
    if wrong:
        raise _refused(wrong, line, bytes(data[begin : min(end, begin + 20)]).decode(errors="replace"))
    if line > MOST_LINES:
        raise GcodeError("too-many-lines", f"More than {MOST_LINES:,} lines.", remedy="Choose a coarser layer.")
    rows = rows[:many]
    points, pushed = np.concatenate([np.zeros((1, 3)), rows[:, :3]]), rows[:, FED].copy()
    draws = np.flatnonzero((pushed > 0) & (np.linalg.norm(np.diff(points[:, :2], axis=0), axis=1) > 0))
    heights, layer = np.unique(np.round(rows[draws, Z], 4), return_inverse=True)
    every = np.full(many, -1, np.int32)
    every[draws] = layer
    words = tuple(" ".join(bytes(data[a:b]).decode(errors="replace").split()) for a, b in still[:said].tolist())
    return GcodeRead(points, rows[:, SPEED].copy(), pushed, every, len(heights), words)


def _refused(wrong: int, line: int, word: str) -> GcodeError:
    where = f"line {line}"
    if wrong == BAD_NUMBER:
        return GcodeError("bad-number", f"Line {line:,} says '{word}'.", where)
    if wrong == NO_SPEED:
        return GcodeError("no-speed", f"Line {line:,} moves at no speed.", where, "Give it an F above 0.")
    if wrong == RELATIVE:
        return GcodeError("relative", f"Line {line:,} asks for relative moves.", where, "Write it absolute.")
    return GcodeError("unknown-word", f"Line {line:,} says '{word}', which is not known.", where)
