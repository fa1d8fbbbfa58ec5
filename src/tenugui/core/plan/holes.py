"""Holes of a hollowed figure: which cavity each opens, which are suggested, and what is said of them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..contract import Finding, HoleDoc, hole_from
from ..errors import CoreError
from ..hollow import Hole, Hollowed, Opened, suggest
from ..mesh import FAR, rays_of

F8 = NDArray[np.float64]
SLOW_DRAIN_S = 600.0
"""Prior: longer nobody waits without being told."""
MOST_HOLES = 64
TOLD_MM3 = 10.0
"""Spaces left solid that are all smaller than this are nothing to be told."""


def opens(hollowed: Hollowed, point: F8, axis: F8) -> tuple[int, float] | None:
    """The cavity that a bore meets first, and how deep; None where it meets none."""
    lengths = [float(rays_of(c.surface).first(point[None], axis)[0][0]) for c in hollowed.cavities]
    best = int(np.argmin(lengths)) if lengths else -1
    return (best, lengths[best]) if best >= 0 and lengths[best] < FAR else None


def sorted_holes(hollowed: Hollowed, rows: Sequence[HoleDoc]) -> tuple[list[list[Hole]], list[Finding]]:
    """Holes by the cavity that each opens, and what is wrong with those that open none, or merge.

    Their way in is what they say; the wall that they go through is measured.
    """
    by_cavity: list[list[Hole]] = [[] for _ in hollowed.cavities]
    findings = []
    for index, row in enumerate(rows):
        hole = hole_from(row)
        axis = np.array(hole.axis) / max(float(np.linalg.norm(hole.axis)), 1e-9)
        met = opens(hollowed, np.array(hole.point), axis)
        if met is None:
            text = f"Hole {index + 1} opens no cavity: move it, or turn it towards one."
            findings.append(Finding(code="hole-misses", severity="severe", count=1, message=text, place=hole.point))
            continue
        cavity, deep = met
        by_cavity[cavity].append(
            Hole(hole.point, (float(axis[0]), float(axis[1]), float(axis[2])), hole.diameter, deep)
        )
        if deep > 2.5 * hollowed.wall > 0:
            text = (
                f"Hole {index + 1} goes through {deep:.1f} mm where the wall is "
                f"{hollowed.wall:g} mm: it runs along the wall, or through a thick place."
            )
            findings.append(Finding(code="hole-deep", severity="warning", count=1, message=text, place=hole.point))
    for holes in by_cavity:
        for i, one in enumerate(holes):
            for other in holes[:i]:
                apart = float(np.linalg.norm(np.subtract(one.point, other.point)))
                if apart < (one.diameter + other.diameter) / 2 + hollowed.wall / 2:
                    text = f"Two holes {apart:.1f} mm apart run into each other. Move one."
                    findings.append(
                        Finding(code="holes-merge", severity="warning", count=1, message=text, place=one.point)
                    )
    return by_cavity, findings


def suggested(hollowed: Hollowed, plate: F8, weights: F8 | None = None) -> tuple[list[Opened | None], list[Finding]]:
    """Holes for every cavity, and where none can be placed."""
    opened: list[Opened | None] = []
    findings = []
    for index, cavity in enumerate(hollowed.cavities):
        try:
            opened.append(suggest(hollowed, cavity, plate, weights=weights))
        except CoreError as refused:
            text = f"Cavity {index + 1}: {refused.what} {refused.remedy}"
            findings.append(Finding(code=refused.code, severity="severe", count=1, message=text))
            opened.append(None)
    return opened, findings


def findings_of(hollowed: Hollowed, opened: Sequence[Opened | None]) -> list[Finding]:
    """What a person should know of a hollowed figure with these holes."""
    findings = []
    slow = sum(
        o is not None and o.vented and (o.drips.seconds is None or o.drips.seconds > SLOW_DRAIN_S) for o in opened
    )
    if slow:
        text = (
            f"{slow} cavit{'y runs' if slow == 1 else 'ies run'} empty slowly or not at all: tilt and turn "
            "the figure, widen the holes, or warm the resin as far as its maker allows. Times are priors."
        )
        findings.append(Finding(code="drains-slowly", severity="warning", count=slow, message=text))
    closed = sum(o is None or not o.vented for o in opened)
    if closed:
        text = (
            f"{closed} cavit{'y' if closed == 1 else 'ies'} without two holes: resin "
            "stays inside and can burst the figure. Drain, flush and cure inside."
        )
        findings.append(Finding(code="sealed-cavity", severity="severe", count=closed, message=text))
    if hollowed.cavities and hollowed.solid_at and hollowed.solid_at[0][3] >= TOLD_MM3:
        x, y, z, most = hollowed.solid_at[0]
        many = (
            f"{hollowed.left_solid} spaces deeper than the wall stay"
            if hollowed.left_solid > 1
            else "A space deeper than the wall stays"
        )
        text = f"{many} solid, the largest of {most:.0f} mm³: too little to be worth two holes."
        findings.append(
            Finding(code="left-solid", severity="notice", count=hollowed.left_solid, message=text, place=(x, y, z))
        )
    if not hollowed.cavities and not hollowed.came:
        text = (
            f"Nothing lies deeper than {hollowed.wall:g} mm under the "
            "surface in a space worth two holes: the figure stays solid."
        )
        findings.append(Finding(code="stays-solid", severity="notice", count=1, message=text))
    return findings
