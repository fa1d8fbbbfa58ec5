"""The shipped machines with their first materials, for tests."""

from __future__ import annotations

from tenugui.core.machines import FilamentPrinter, ResinPrinter, load_material, load_printer

HERON, KESTREL = load_printer("heron"), load_printer("kestrel")
assert isinstance(HERON, ResinPrinter) and isinstance(KESTREL, FilamentPrinter)
RESIN, FILAMENT = load_material(None, HERON), load_material(None, KESTREL)
