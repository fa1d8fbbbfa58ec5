"""Which process a printer runs."""

from __future__ import annotations

from ..machines import Printer, peels
from .filament import Filament
from .protocol import Process
from .resin import Resin


def process_of(printer: Printer) -> Process:
    """The process that a printer runs."""
    return Resin(printer) if peels(printer) else Filament(printer)
