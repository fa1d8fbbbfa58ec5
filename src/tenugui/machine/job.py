"""What a machine makes of a file: how long each layer takes and what goes into it, read from the file alone."""

from __future__ import annotations

import io
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..core.errors import CoreError
from ..core.machines import FilamentPrinter, Printer, as_filament, peels
from ..core.paths import GcodeRead, read_gcode
from ..core.paths.motion import seconds
from ..core.vat import read_archive

F8 = NDArray[np.float64]


@dataclass(frozen=True)
class Job:
    """A file as a machine runs it: seconds before the first layer, of every layer (n,), and after the last; what goes
    into each (n,) in `unit`.
    """

    name: str
    start_s: float
    layers_s: F8
    end_s: float
    material: F8
    unit: str

    def slower(self, times: float) -> Job:
        """The same file on a machine that takes so many times as long for every layer."""
        return replace(self, layers_s=self.layers_s * times)

    @property
    def time_s(self) -> float:
        """All of it."""
        return self.start_s + float(self.layers_s.sum()) + self.end_s


def job_of(name: str, data: bytes, printer: Printer) -> Job:
    """Read a file for a machine.

    Raises:
        CoreError: what the readers refuse, or `prints-nothing`.
    """
    if peels(printer):
        back = read_archive(io.BytesIO(data))
        manifest = back.manifest
        return Job(
            name,
            manifest.start_s,
            np.array(manifest.seconds),
            manifest.end_s,
            back.areas * manifest.layer_height_mm / 1000,
            "ml",
        )
    printer = as_filament(printer)
    try:
        read = read_gcode(data.decode())
    except UnicodeDecodeError as reason:
        raise CoreError("not-text", f"This is no G-code: byte {reason.start:,} is no text.", name) from reason
    return _path(name, read, printer)


def _path(name: str, read: GcodeRead, printer: FilamentPrinter) -> Job:
    if not read.layers:
        raise CoreError("prints-nothing", "The file lays nothing down.", name)
    still = np.linalg.norm(np.diff(read.points, axis=0), axis=1) < 1e-9
    took = seconds(read.points, read.speed, printer.acceleration_mm_s2, printer.corner_mm)
    took = took + np.where(still, np.abs(read.fed) / np.maximum(read.speed, 1e-9), 0.0)
    # What only moves belongs to the layer that it leads to; what comes after the last line, to the last.
    draws = read.layer >= 0
    ahead = np.minimum.accumulate(np.where(draws, read.layer, read.layers - 1)[::-1])[::-1]
    by_layer = np.bincount(ahead, weights=took, minlength=read.layers) + printer.layer_change_s
    went = np.bincount(ahead, weights=np.maximum(read.fed, 0.0), minlength=read.layers)
    laid = np.asarray(went * np.pi * printer.filament_mm**2 / 4 / 1000, float)
    return Job(name, printer.start_s, np.asarray(by_layer, float), 0.0, laid, "ml")
