"""The headless command `hollow`."""

from __future__ import annotations

import argparse
import math
from pathlib import Path

import numpy as np
import orjson

from .core.contract import Finding, HollowDoc, hollow_document
from .core.errors import CoreError
from .core.hollow import Cavity, Hole, Hollowed, Lattice, Opened, drilled, hollow, judged, plug, suggest
from .core.mesh import FAR, Mesh, rays_of
from .core.mesh.edges import face_volumes
from .headless import read_figure, write_parts

PLATE = np.array([0.0, 0.0, -1.0])
"""The plate is below, as the file stands."""
STRUT_SHARE = 0.15
"""Prior: struts are so much of their pitch thick, and no thinner than the next."""
THINNEST_STRUT_MM = 0.8
MOST_HOLES = 64
SLOW_DRAIN_S = 600.0
"""Prior: longer nobody waits without being told."""
STRAY_MM = 1.0
"""How far a plug's head reaches past its shaft, at most."""


def _lattice(pitch: float | None) -> Lattice | None:
    return None if pitch is None else Lattice(pitch, round(max(THINNEST_STRUT_MM, STRUT_SHARE * pitch), 2))


def _given_holes(path: str, made: Hollowed) -> list[list[Hole]]:
    """Holes of a file by the cavity that each opens.

    Raises:
        CoreError: `bad-holes` where the file holds none, or one that opens nothing.
    """
    how = 'Give a list of {"x_mm", "y_mm", "z_mm", "axis": [x, y, z] into the figure, "diameter_mm"}.'
    try:
        rows = orjson.loads(Path(path).read_bytes())
    except orjson.JSONDecodeError as reason:
        raise CoreError("bad-holes", f"The holes cannot be read: {reason}.", path, how) from reason
    rows = rows.get("holes") if isinstance(rows, dict) else rows
    if not isinstance(rows, list) or not 0 < len(rows) <= MOST_HOLES:
        raise CoreError("bad-holes", f"There are no holes in this file, or more than {MOST_HOLES}.", path, how)
    found: list[list[Hole]] = [[] for _ in made.cavities]
    for index, row in enumerate(rows):
        try:
            point = np.array([float(row["x_mm"]), float(row["y_mm"]), float(row["z_mm"])])
            axis = np.array([float(v) for v in row["axis"]])
            wide = float(row["diameter_mm"])
            axis = axis / np.linalg.norm(axis)
        except (KeyError, TypeError, ValueError) as reason:
            raise CoreError("bad-holes", f"Hole {index + 1} is not complete: {reason}.", path, how) from reason
        sound = axis.shape == (3,) and bool(np.isfinite([*point, *axis, wide]).all()) and 0.3 <= wide <= 20
        opens = _opens(made, point, axis) if sound else None
        if opens is None:
            what = f"Hole {index + 1} opens no cavity." if sound else f"Hole {index + 1} cannot be."
            raise CoreError("bad-holes", what, path, how)
        cavity, length = opens
        (x, y, z), (u, v, w) = point.tolist(), axis.tolist()
        found[cavity].append(Hole((x, y, z), (u, v, w), wide, length))
    return found


def _opens(made: Hollowed, point: np.ndarray, axis: np.ndarray) -> tuple[int, float] | None:
    """The cavity that a bore meets first, and how deep."""
    lengths = [float(rays_of(c.surface).first(point[None], axis)[0][0]) for c in made.cavities]
    best = int(np.argmin(lengths)) if lengths else -1
    return (best, lengths[best]) if best >= 0 and lengths[best] < FAR else None


def _suggested(made: Hollowed, cavity: Cavity, index: int, findings: list[Finding]) -> Opened | None:
    try:
        opened = suggest(made, cavity, PLATE)
    except CoreError as refused:
        what = f"Cavity {index + 1}: {refused.what} {refused.remedy}"
        findings.append(Finding(code=refused.code, severity="severe", count=1, message=what))
        return None
    if opened.drips.seconds is None or opened.drips.seconds > SLOW_DRAIN_S:
        text = f"Cavity {index + 1} runs empty slowly: tilt and turn the figure, widen the holes, or warm the resin as far as its maker allows. Times are priors."
        findings.append(Finding(code="drains-slowly", severity="warning", count=1, message=text))
    return opened


def _plugs(holes: list[Hole]) -> dict[str, Mesh]:
    """A plug for every hole, side by side."""
    apart = 2 + max(h.diameter for h in holes) + 2 * STRAY_MM
    return {
        f"plug {i + 1}": Mesh((made := plug(hole)).vertices + [i * apart, 0.0, 0.0], made.faces)
        for i, hole in enumerate(holes)
    }


def hollowed(given: argparse.Namespace) -> HollowDoc:
    """Hollow a file's figure as it stands, with the holes asked for, and write it where that is asked.

    Raises:
        CoreError: bad input, in one sentence with its remedy.
    """
    if not math.isfinite(given.wall):
        raise CoreError("bad-wall", "The wall is no number.", remedy="Give it in mm.")
    brought = read_figure(given.file, given.unit, None, ready=True)
    made = hollow(brought.worked, given.wall, _lattice(given.lattice))
    findings: list[Finding] = []
    opened: list[Opened | None] = [None] * len(made.cavities)
    if given.holes == "auto":
        opened = [_suggested(made, cavity, i, findings) for i, cavity in enumerate(made.cavities)]
    elif given.holes != "none":
        rows = _given_holes(given.holes, made)
        opened = [judged(c, holes, PLATE) if holes else None for c, holes in zip(made.cavities, rows, strict=True)]
    closed = sum(o is None for o in opened)
    if closed:
        text = f"{closed} cavit{'y' if closed == 1 else 'ies'} without a hole: resin stays inside and can burst the figure. Drain, flush and cure inside."
        findings.append(Finding(code="sealed-cavity", severity="severe", count=closed, message=text))
    if not made.cavities:
        text = f"Nothing lies deeper than {given.wall:g} mm under the surface in a space worth two holes: the figure stays solid."
        findings.append(Finding(code="stays-solid", severity="notice", count=1, message=text))
    holes = [hole for o in opened if o for hole in o.holes]
    body: Mesh = drilled(made, holes, countersunk=bool(given.plugs))
    if given.out:
        write_parts({"figure": body}, given.out)
    if given.plugs and holes:
        write_parts(_plugs(holes), given.plugs)
    return hollow_document(made, opened, float(face_volumes(body).sum()), findings)
