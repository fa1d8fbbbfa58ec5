"""The parts of a plan in build coordinates."""

from __future__ import annotations

from ..contract import HeldDoc, braces_from, tips_from
from ..mesh import Mesh
from ..supports import support_mesh
from .inputs import PosedInputs


def parts_of(inputs: PosedInputs, supported: HeldDoc) -> dict[str, Mesh]:
    """Figure, plinth and supports in build coordinates, from what the held figure keeps."""
    held_by = supported.supports
    braces, margin = braces_from(held_by.braces), held_by.raft_margin_mm
    solid = support_mesh(tips_from(held_by.tips), held_by.raft, braces, margin=margin)
    plinth = inputs.placed.plinth
    return (
        {"figure": inputs.placed.figure}
        | ({} if plinth is None else {"plinth": plinth})
        | ({} if solid is None else {"supports": solid})
    )
