"""The parts of a plan in build coordinates."""

from __future__ import annotations

from collections.abc import Mapping

from ..contract import HeldDoc, braces_from, tips_from
from ..mesh import Mesh
from ..paths import Props
from ..supports import support_parts
from .inputs import PosedInputs

SUPPORTS = "supports"


def support_name(density: float | None) -> str:
    """What supports are called among the parts: those whose lines lie at a density of their own, a share of solid, say
    so.

    >>> support_name(None), support_name(0.4)
    ('supports', 'supports at 40 %')
    """
    return SUPPORTS if density is None else f"{SUPPORTS} at {100 * density:g} %"


def props_in(parts: Mapping[str, Mesh]) -> Props:
    """The supports among parts, by the density of their lines.

    >>> list(props_in({"figure": None, "supports": None, "supports at 12.5 %": None}))
    [None, 0.125]
    """
    found: dict[float | None, Mesh] = {}
    for name, part in parts.items():
        if name == SUPPORTS:
            found[None] = part
        elif name.startswith(f"{SUPPORTS} at "):
            found[float(name.split()[2]) / 100] = part
    return found


def carried_in(parts: Mapping[str, Mesh]) -> Mesh:
    """All but supports, in one."""
    return Mesh.joined([part for name, part in parts.items() if not name.startswith(SUPPORTS)])


def parts_of(inputs: PosedInputs, supported: HeldDoc) -> dict[str, Mesh]:
    """Figure, plinth and supports in build coordinates, from what the held figure keeps: see `support_name`."""
    held_by = supported.supports
    braces, margin = braces_from(held_by.braces), held_by.raft_margin_mm
    solids = support_parts(tips_from(held_by.tips), held_by.raft, braces, margin=margin)
    plinth = inputs.placed.plinth
    return (
        {"figure": inputs.placed.figure}
        | ({} if plinth is None else {"plinth": plinth})
        | {support_name(density): solid for density, solid in solids.items()}
    )
