"""The shipped machines with their first materials, for tests."""

from __future__ import annotations

from tenugui.core.machines import as_filament, as_resin, load_material, load_printer
from tenugui.core.mesh import Mesh
from tenugui.core.supports import SupportSet
from tenugui.core.supports.body import proved, raft_solid

HERON, KESTREL = as_resin(load_printer("heron")), as_filament(load_printer("kestrel"))
RESIN, FILAMENT = load_material(None, HERON), load_material(None, KESTREL)


def bearing(made: SupportSet) -> Mesh:
    """Figure and supports as they bear each other: across the gaps that a filament's supports keep."""
    parts = [proved(t, made.with_raft) for t in made.tips]
    return Mesh.joined([made.figure, *parts, *([raft_solid(made.tips, made.margin)] if made.with_raft else [])])
