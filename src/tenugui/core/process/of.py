"""Which process a printer runs."""

from __future__ import annotations

from collections.abc import Callable

from ..machines import Printer, as_filament, as_resin
from .filament import Filament
from .protocol import Process
from .resin import Resin

PROCESSES: dict[str, Callable[[Printer], Process]] = {
    "resin": lambda printer: Resin(as_resin(printer)),
    "filament": lambda printer: Filament(as_filament(printer)),
}


def process_of(printer: Printer) -> Process:
    """The process that a printer runs."""
    return PROCESSES[printer.process](printer)
