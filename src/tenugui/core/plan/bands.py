"""The supported figure in bands: thin layers where steps would be seen, thick ones where nobody sees them. Filament
only: a screen's exposure follows its layer.

Everything that is held and proved is that of the finest layer; the hours are those of each height's own true path, slab
by slab.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..compiled import both_cores
from ..contract import (
    BandsDoc,
    CuspDoc,
    HazardDoc,
    HeightDoc,
    HeldDoc,
    LayersRow,
    StripDoc,
    SupportsRow,
    hazard_from,
    hazard_of,
)
from ..layers.bands import Banding, Bands
from ..machines import draws_lines, printer_heights
from ..paths import seconds_at
from ..process import process_of
from ..removal.hands import HIDDEN_STEP_MM, finish_min, mean_lean, smoothing_min
from ..risk.drawn import crosses
from ..supports import seen_weights
from ..worth import Worth, compared
from .given import BandedGiven, SupportedGiven
from .inputs import PosedInputs
from .parts import parts_of, props_in
from .supports import held_of

F8 = NDArray[np.float64]
LIMITS_MM = (0.03, 0.05, 0.08, 0.11, 0.15)
"""Priors: steps that the board offers to accept, from what nobody sees to what arm's length hides."""
SAMPLED = 20
"""Layers of each height that are planned truly on the finest one's supports."""
WORTHWHILE = 0.03
"""Prior: what saves less than this share of the hours is no alternative."""


def helds_of(inputs: PosedInputs, given: SupportedGiven) -> list[HeldDoc]:
    """The figure held and proved at every customary height, finest first; what is on the shelf is taken from there."""

    def one(height: float) -> HeldDoc:
        return held_of(inputs.shelf, given, height=height, risk=given.risk, style=given.style)

    return both_cores(one, [(height,) for height in sorted(printer_heights(inputs.printer, inputs.material))])


def banding_of(inputs: PosedInputs, rows: Sequence[HeldDoc]) -> Banding:
    """The figure prepared to be cut in bands of the heights at which it was held."""
    finest = rows[0].row
    context = inputs.placed_context(finest.layer_height_mm)
    begins = [spot.at[2] for spot in finest.spots] + [island.z_mm for island in rows[0].proof.islands]
    return Banding(
        inputs.placed.whole,
        seen_weights(context.weights),
        [m.row.layer_height_mm for m in rows],
        reach_mm=context.reach,
        begins_mm=np.array(begins, float),
        clocks=_clocks(inputs, rows),
    )


def _clocks(inputs: PosedInputs, rows: Sequence[HeldDoc]) -> list[tuple[F8, F8]]:
    """Seconds by height of every height's print on the supports of the finest, which bands are held by: its own hours,
    corrected by what some of its layers truly take on those.
    """
    printer, props = inputs.printer, props_in(parts_of(inputs, rows[0]))
    clocks = [_clock(rows[0].row.strip)]
    if not draws_lines(printer):
        return clocks + [_clock(m.row.strip) for m in rows[1:]]
    for other in rows[1:]:
        at, clock = _clock(other.row.strip)
        height, count = other.row.layer_height_mm, other.proof.layers.count
        marks = np.interp(np.arange(count + 1) * height, at, clock)
        taken = np.unique(np.linspace(min(1, count - 1), count - 1, SAMPLED).round().astype(np.int64))
        own = np.diff(marks)
        ratio = seconds_at(inputs.placed.whole, props, printer, height, taken) / np.maximum(own[taken], 1e-9)
        each = own * np.interp(np.arange(count), taken, ratio)
        tops, seconds = np.arange(count + 1) * height, np.concatenate([[0.0], np.cumsum(each)])
        clocks.append((tops.astype(float), np.asarray(marks[0] + seconds, float)))
    return clocks


def _clock(strip: StripDoc) -> tuple[F8, F8]:
    """Seconds by height of a height's own print: the first layer's begin is when the machine is ready."""
    tops = np.minimum(np.arange(1, len(strip.clock_s) + 1) * strip.layers_per_column, strip.layers)
    clock = np.array(strip.clock_s)
    each = (clock[-1] - clock[0]) / max(1, strip.layers - tops[0]) if len(clock) > 1 else 0.0
    start = max(0.0, float(clock[0]) - each * float(tops[0]))
    return np.concatenate([[0.0], tops * strip.layer_height_mm]), np.concatenate([[start], clock])


def may_band(inputs: PosedInputs) -> bool:
    """Whether the machine lays layers of several heights in one print: a screen's exposure follows its layer."""
    return not inputs.printer.hangs and len(printer_heights(inputs.printer, inputs.material)) > 1


def banded_rows(
    inputs: PosedInputs, banding: Banding, cut_rows: Sequence[HeldDoc], finest: HeightDoc
) -> list[LayersRow]:
    """A row for each limit that makes a difference."""
    rows = list[LayersRow]()
    for limit in LIMITS_MM:
        bands = banding.within(limit, HIDDEN_STEP_MM)
        before = rows[-1].bands.runs if rows and rows[-1].bands else [(cut_rows[0].row.layer_height_mm, 0)]
        if bands.time_s <= (1 - WORTHWHILE) * finest.time_s and bands.runs() != before:
            rows.append(_row(inputs, cut_rows[0].row, finest, bands))
    return rows


def _row(inputs: PosedInputs, row: SupportsRow, finest: HeightDoc, bands: Bands) -> LayersRow:
    shares = bands.heights / bands.heights.sum()
    blemishes = process_of(inputs.printer).blemishes
    height = finest.model_copy(
        update={
            "layers": len(bands.heights),
            "time_s": bands.time_s,
            "cusp_mm": CuspDoc(median=bands.cusp[0], p95=bands.cusp[1], max=bands.cusp[2]),
            "blemishes": float(
                sum(s * blemishes(h) for s, h in zip(shares.tolist(), bands.heights.tolist(), strict=True))
            ),
        }
    )
    return LayersRow(height=height, held=in_bands(inputs, row, bands), bands=bands_document(bands))


def bands_document(bands: Bands) -> BandsDoc:
    """Bands by height and number of layers."""
    return BandsDoc(limit_mm=bands.limit_mm, runs=bands.runs(), layers=len(bands.heights), time_s=bands.time_s)


def in_bands(inputs: PosedInputs, row: SupportsRow, bands: Bands) -> SupportsRow:
    """A row of the finest layer with the hours and the steps of its bands; those of several at once in proportion."""
    ratio = bands.time_s / max(row.numbers.time_s, 1e-9)
    strip, process = row.strip, inputs.printer.process
    columns = np.minimum(np.arange(1, len(strip.clock_s) + 1) * strip.layers_per_column, strip.layers)
    clock = np.interp(columns * strip.layer_height_mm, *_clock_of(bands))
    lean = mean_lean(inputs.placed.whole, seen_weights(inputs.placed_context().weights))
    more = smoothing_min(bands.above_hidden_mm, process) - finish_min(lean, row.layer_height_mm, process)
    return row.model_copy(
        update={
            "several_s": [s * ratio for s in row.several_s],
            "hazards": fewer_strings(row.hazards, strip.layers, bands),
            "numbers": row.numbers.model_copy(update={"time_s": bands.time_s, "finish_mm": bands.cusp[1]}),
            "gift": row.gift.model_copy(
                update={"machine_h": bands.time_s / 3600, "hands_min": max(0.0, row.gift.hands_min + more)}
            ),
            "strip": strip.model_copy(
                update={
                    "clock_s": clock.round(4).tolist(),
                    "time_s": bands.time_s,
                    "bands": [(float(z), float(h)) for z, h in zip(*_tops(bands), strict=True)],
                }
            ),
        }
    )


def fewer_strings(old: Sequence[HazardDoc], layers: int, bands: Bands) -> list[HazardDoc]:
    """Hazards of the finest layer, its strings as many fewer as bands have layers: each is crossed on its own."""
    share, hazards = len(bands.heights) / max(1, layers), list[HazardDoc]()
    for hazard in old:
        if hazard.code == "strings":
            needs = hazard.needs * share
            fewer = replace(hazard_from(hazard), needs=needs, message=crosses(needs, hazard.z_mm))
            hazards.append(hazard_of(fewer))
        else:
            hazards.append(hazard)
    return hazards


def _tops(bands: Bands) -> tuple[list[float], list[float]]:
    """Where each band ends, and its height."""
    runs = bands.runs()
    return np.cumsum([h * n for h, n in runs]).round(4).tolist(), [h for h, _ in runs]


def _clock_of(bands: Bands) -> tuple[F8, F8]:
    """Heights from the plate up, and the seconds at each."""
    tops, clock = np.cumsum(bands.heights), bands.start_s + np.cumsum(bands.seconds)
    return np.concatenate([[0.0], tops]), np.concatenate([[bands.start_s], clock])


def bands_or_not(rows: Sequence[LayersRow], worths: Sequence[Worth], best: int, why: str) -> tuple[int, str]:
    """The row of bands that is cheaper than every one of one height, and why; else that one. What is in bands is held
    and proved as its finest layer.
    """
    banded = [i for i, row in enumerate(rows) if row.bands]
    least = min(banded, key=lambda i: worths[i].total, default=best)
    bands = rows[least].bands
    if bands is None or any(
        worths[least].total >= w.total for w, row in zip(worths, rows, strict=True) if not row.bands
    ):
        return best, why
    heights = [height for height, _ in bands.runs]
    beside = compared(worths[least], worths[best]) or "nothing that can be told"
    return least, (
        f"In bands of {min(heights):g} to {max(heights):g} mm, thick where steps keep "
        f"to {bands.limit_mm * 1000:.0f} µm and nothing begins: {bands.layers:,} layers. "
        f"Beside {rows[best].height.layer_height_mm:g} mm throughout: {beside}."
    )


def bands_as_taken(inputs: PosedInputs, given: BandedGiven) -> Bands | None:
    """The bands of a plan's own inputs: those within the limit that was taken; None where its layers are of one
    height.
    """
    limit = given.bands
    if not limit or not may_band(inputs):
        return None
    return banding_of(inputs, helds_of(inputs, given)).within(limit, HIDDEN_STEP_MM)
