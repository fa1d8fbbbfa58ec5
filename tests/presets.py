"""The shipped machines with their first materials, for tests."""

from __future__ import annotations

from tenugui.core.machines import FilamentPrinter, ResinPrinter, load_material, load_printer
from tenugui.core.mesh import Mesh
from tenugui.core.supports import SupportSet
from tenugui.core.supports.body import proved, raft_solid

HERON, KESTREL = load_printer("heron"), load_printer("kestrel")
assert isinstance(HERON, ResinPrinter) and isinstance(KESTREL, FilamentPrinter)
RESIN, FILAMENT = load_material(None, HERON), load_material(None, KESTREL)


def bearing(made: SupportSet) -> Mesh:
    """Figure and supports as they bear each other: across the gaps that a filament's supports keep."""
    parts = [proved(t, made.with_raft) for t in made.tips]
    return Mesh.joined([made.figure, *parts, *([raft_solid(made.tips, made.margin)] if made.with_raft else [])])
