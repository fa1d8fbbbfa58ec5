"""Parts so thin that they may break while their supports come off."""

from __future__ import annotations

from ..hazards import Arises, Hazard, Kind, Sight, source
from ..machines import EDGE, parts_among, thin_limits
from ..mesh import ThinPlace

SURVIVES = 2.0
"""Prior: a part at its limit of thickness breaks in one of twelve cases; at half the limit, in every second."""
PART_MM, PART_SHARE = 3.0, 0.06
"""Priors: a rod shorter than so many mm, or than this share of the figure's largest extent, or a sheet thin less far
in from its edge, chips; a larger one breaks off.
"""
LARGER = 1.5
"""A figure may be printed so many times as large for a part of it; beyond that it is another figure."""
THIN = Kind(
    "thin", "thin", "a part so thin that it may break while its supports come off", "part lost", "hemp", "handling"
)


def _thicker(times: float) -> str:
    """What helps a part that lacks so many times its thickness. Nobody prints a figure eight times as large for a
    tassel.
    """
    if times <= LARGER:
        return f"Print it {times:.2f} times as large, or handle it last."
    return "No size that you would print makes it strong: thicken it in the model, or expect it to blur or break."


def _rounded(edges: list[ThinPlace], sight: Sight, limit: float) -> Hazard:
    """All edges as one thing to know, at the longest of them: nothing breaks off with them."""
    longest = max(edges, key=lambda p: p.extent)
    many = "An edge is" if len(edges) == 1 else f"{len(edges)} edges are"
    return THIN.at(
        max(0, int(longest.z / sight.height)),
        (longest.x, longest.y, longest.z),
        limit,
        limit,
        unit="mm",
        message=f"{many} sharper than {limit:.2f} mm and come out rounded.",
        remedy="Nothing to do, unless you want them sharp: then a finer machine, or a larger figure.",
        arises=Arises(given=0.0),
        loss="scar",
        quiet=True,
    )


def _largest(sight: Sight) -> float:
    """The figure's largest extent, mm: what is a part of it is one in whatever pose."""
    if sight.figure is not None:
        return float(sight.figure.size.max())
    grid = sight.own.stack.grid
    return max(grid.layers * grid.height, grid.rows * grid.pitch)


@source(THIN)
def thin(sight: Sight) -> list[Hazard]:
    """A rod breaks off by its length; a sheet only where it is thin far in from its edge. What no machine draws is a
    fold, and nothing breaks off with it.
    """
    hazards, limits = [], thin_limits(sight.context.printer)
    large = _largest(sight)
    edges = [p for p in sight.thin if p.kind == EDGE]
    if edges:
        hazards.append(_rounded(edges, sight, limits["sheet"]))
    for p in parts_among(sight.thin):
        limit = limits[p.kind]
        text = f"{p.thickness:.2f} mm thin over {p.extent:.1f} mm; {limit:.2f} mm survive handling."
        reach = p.extent if p.kind == "rod" else p.width
        chips = reach < max(PART_MM, PART_SHARE * large)
        hazards.append(
            THIN.at(
                max(0, int(p.z / sight.height)),
                (p.x, p.y, p.z),
                p.thickness,
                limit,
                unit="mm",
                message=text,
                remedy=_thicker(limit / p.thickness),
                arises=Arises(safety=SURVIVES),
                loss="scar" if chips else None,
                quiet=chips,
            )
        )
    return hazards
