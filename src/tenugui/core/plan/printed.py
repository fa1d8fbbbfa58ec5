"""A file for a machine, from the plan or from elsewhere, read and judged: would this printer print it, what would it
take, and where would it fail?
"""

from __future__ import annotations

from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from ..contract import FaultDoc, PrintedDoc
from ..errors import CoreError
from ..machines import (
    FilamentPrinter,
    Printer,
    ResinPrinter,
    as_resin,
    by_depth,
    draws_lines,
    fits_in,
    load_material,
)
from ..paths import GcodeRead, read_gcode
from ..supports.holds import PLATE_KPA
from ..vat import layer_pull, read_archive

F8 = NDArray[np.float64]
MOST_BYTES = 2 * 2**30
FLOW_SLACK, LEVEL_MM = 1.05, 1e-3
"""What a file's rounding may add to the flow; heights that differ by less are one."""
HOTTER_C = 30.0
"""Prior: a filament's makers differ by so many degrees; a file that heats further means another material, or harm."""
ENDINGS = (".gcode", ".zip")


def judged_file(name: str, handle: BinaryIO, printer: Printer) -> PrintedDoc:
    """G-code for a nozzle, or an archive of layers (docs/formats.md) for a screen.

    Raises:
        CoreError: `wrong-machine`: the file is for the other kind of machine; or what the readers refuse.
    """
    gcode = name.lower().endswith(".gcode")
    if gcode != draws_lines(printer):
        what = "G-code moves a nozzle" if gcode else "An archive of layers is for a screen"
        raise CoreError(
            "wrong-machine", f"{what}; '{printer.name}' is a {printer.process} printer.", name, "Name another."
        )
    if draws_lines(printer):
        data = handle.read(MOST_BYTES + 1)
        if len(data) > MOST_BYTES:
            raise CoreError("too-large", f"More than {MOST_BYTES / 2**30:.0f} GB of G-code.", name)
        try:
            text = data.decode()
        except UnicodeDecodeError as reason:
            raise CoreError("not-text", f"This is no G-code: byte {reason.start:,} is no text.", name) from reason
        return _lines(read_gcode(text), text, printer)
    return _layers(handle, as_resin(printer))


def _degrees(word: str) -> float:
    """What a word asks of the nozzle, degrees; 0 of any other word."""
    name, *rest = word.split()
    if name not in ("M104", "M109"):
        return 0.0
    return max((float(part[1:]) for part in rest if part[0] == "S"), default=0.0)


def _fault(code: str, severity: str, count: int, message: str) -> list[FaultDoc]:
    return [FaultDoc(code=code, severity=severity, count=count, message=message)] if count else []  # type: ignore[arg-type]


def _lines(read: GcodeRead, text: str, printer: FilamentPrinter) -> PrintedDoc:
    begin, end = read.points[:-1], read.points[1:]
    long = np.linalg.norm(end - begin, axis=1)
    draws = read.layer >= 0
    if not draws.any():
        raise CoreError("prints-nothing", "The file lays nothing down.", remedy="Write it again.")
    pushed = read.fed * np.pi * printer.filament_mm**2 / 4
    heights = np.unique(np.round(end[draws, 2], 4))
    steps = np.diff(np.concatenate([[0.0], heights]))
    drawn = np.concatenate([begin[draws], end[draws]])
    low, high = drawn.min(axis=0), drawn.max(axis=0)
    room = np.array(printer.build_mm)
    flow = pushed[draws] * read.speed[draws] / np.maximum(long[draws], 1e-9)
    printed_to = np.maximum.accumulate(np.where(draws, end[:, 2], 0.0))
    crosses = (end[:, 2] < printed_to - LEVEL_MM) & (np.linalg.norm((end - begin)[:, :2], axis=1) > 0.1) & draws
    first = int(np.argmax(draws))
    heated = "M109" in text[: max(text.find("G1 X"), 0)] or "M104" in text[: max(text.find("G1 X"), 0)]
    hottest = max((_degrees(word) for word in read.words), default=0.0)
    outside = not (fits_in(-low, np.zeros(3)) and fits_in(high, room))
    span = " x ".join(f"{v:.1f}" for v in high - low)
    hazards = [
        *_fault(
            "outside-build",
            "severe",
            int(outside),
            f"It draws {span} mm, from {low[0]:.1f}, {low[1]:.1f} to {high[0]:.1f}, "
            f"{high[1]:.1f}: beyond {' x '.join(f'{v:g}' for v in room)} mm.",
        ),
        *_fault("not-heated", "severe", int(not heated), "Nothing heats the nozzle before the first line."),
        *_fault(
            "too-hot",
            "severe",
            int(hottest > printer.nozzle_c + HOTTER_C),
            f"It heats the nozzle to {hottest:.0f} °C; '{printer.name}' is "
            f"set to {printer.nozzle_c:.0f} (slack {HOTTER_C:.0f}, a prior).",
        ),
        *_fault(
            "in-the-air",
            "severe",
            int(end[first, 2] > 0.8 * printer.nozzle_mm),
            f"Its first line is drawn {end[first, 2]:.2f} mm above the plate.",
        ),
        *_fault(
            "too-high",
            "severe",
            int((steps > 0.8 * printer.nozzle_mm + LEVEL_MM).sum()),
            f"Layers up to {steps.max():.2f} mm apart; a nozzle of "
            f"{printer.nozzle_mm:g} mm lays {0.8 * printer.nozzle_mm:g}.",
        ),
        *_fault("into-the-print", "severe", int(crosses.sum()), "Lines are drawn lower than what is printed already."),
        *_fault(
            "flow",
            "warning",
            int((flow > FLOW_SLACK * printer.flow_mm3_s).sum()),
            f"Lines want up to {flow.max():.1f} mm³/s; the nozzle melts {printer.flow_mm3_s:g}.",
        ),
    ]
    same = len(np.unique(np.round(steps[1:], 3))) <= 1
    return PrintedDoc(
        kind="gcode",
        printer=printer.name,
        layers=read.layers,
        layer_height_mm=float(np.median(steps)) if same else None,
        tall_mm=float(high[2]),
        volume_ml=read.volume_mm3(printer) / 1000,
        time_s=printer.start_s + read.seconds(printer),
        findings=hazards,
    )


def _layers(handle: BinaryIO, printer: ResinPrinter) -> PrintedDoc:
    back = read_archive(handle)
    manifest, areas = back.manifest, back.areas
    depth = by_depth(load_material(None, printer), manifest.layer_height_mm)
    pull = layer_pull(printer, areas, np.zeros_like(areas), depth)
    hold = float(areas[0]) * PLATE_KPA * 1e-3
    empty = int((areas <= 0).sum())
    dark = int((np.array(manifest.exposure_s) <= 0).sum())
    tall = manifest.layers * manifest.layer_height_mm
    grid = (manifest.columns, manifest.rows) != tuple(printer.pixels) or abs(
        manifest.pixel_mm[0] - printer.pixel_mm
    ) > 1e-4
    hazards = [
        *_fault("differs", "severe", back.differs, "Layers whose pixels say another area than the manifest."),
        *_fault(
            "other-screen",
            "severe",
            int(grid),
            f"Made for {manifest.columns} x {manifest.rows} pixels of {manifest.pixel_mm[0]:g} mm; "
            f"'{printer.name}' has {printer.pixels[0]} x {printer.pixels[1]} of {printer.pixel_mm:g}.",
        ),
        *_fault(
            "outside-build",
            "severe",
            int(not fits_in(tall, printer.build_mm[2])),
            f"{tall:.1f} mm tall; '{printer.name}' builds {printer.build_mm[2]:g}.",
        ),
        *_fault(
            "empty-layer",
            "severe",
            empty,
            "Layers with nothing lit, the first at "
            f"{int(np.argmax(areas <= 0)) + 1}: what comes above hangs on nothing.",
        ),
        *_fault("dark-layer", "severe", dark, "Layers that are not lit long enough to cure: no exposure."),
        *_fault(
            "plate",
            "warning",
            int(float(pull.max()) > hold),
            f"Layer {int(pull.argmax()) + 1} pulls with {pull.max():.1f} "
            f"N; the first holds {hold:.1f} N on the plate (prior).",
        ),
    ]
    return PrintedDoc(
        kind="layers",
        printer=printer.name,
        layers=manifest.layers,
        layer_height_mm=manifest.layer_height_mm,
        tall_mm=tall,
        volume_ml=back.volume_mm3 / 1000,
        time_s=manifest.time_s,
        findings=hazards,
    )
