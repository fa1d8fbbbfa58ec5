"""What a plate wants to know of a proved plan."""

from __future__ import annotations

from ..contract import HeldDoc
from ..contract.on_plate import OnPlateDoc
from ..machines import load_printer
from ..plate import footprint_of
from .given import PosedGiven
from .inputs import PosedInputs
from .parts import parts_of
from .shelf import Shelf


def on_plate(shelf: Shelf, given: PosedGiven, held: HeldDoc) -> OnPlateDoc:
    """Of a held figure with its supports."""
    parts = parts_of(PosedInputs(shelf, given), held)
    strip, printer = held.row.strip, load_printer(given.printer)
    return OnPlateDoc(
        footprint=footprint_of(list(parts.values())),
        tall_mm=strip.layers * strip.layer_height_mm,
        pull_n=strip.pull_n if strip.has_pull else [],
        pull_step_mm=strip.layer_height_mm * strip.layers_per_column,
        start_s=printer.start_s,
        hangs=printer.hangs,
        build_mm=printer.build_mm,
    )
