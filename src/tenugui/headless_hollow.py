"""The headless command `hollow`."""

from __future__ import annotations

import argparse
import math
from pathlib import Path

import numpy as np
import orjson

from .core.contract import Finding, HoleAsk, HollowDoc, hole_of, hollow_document
from .core.errors import CoreError
from .core.formats import pack_whole, read_whole
from .core.hollow import Hole, Hollowed, Opened, judged, plugs_of, refuse_wall
from .core.mesh.edges import face_volumes
from .core.plan import MemoryShelf, computed
from .core.plan.cut_out import lattice_of, must_hollow
from .core.plan.figure import MadeDoc
from .core.plan.given import BodyGiven, Cut, SizedGiven
from .core.plan.holes import MOST_HOLES, findings_of, opens, suggested
from .headless import read_figure, refuse_own_file, write_parts

PLATE = np.array([0.0, 0.0, -1.0])
"""The plate is below, as the file stands."""


def _given_holes(path: str, hollowed: Hollowed) -> list[list[Hole]]:
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
    by_cavity: list[list[Hole]] = [[] for _ in hollowed.cavities]
    for index, row in enumerate(rows):
        try:
            point = np.array([float(row["x_mm"]), float(row["y_mm"]), float(row["z_mm"])])
            axis = np.array([float(v) for v in row["axis"]])
            wide = float(row["diameter_mm"])
            axis = axis / np.linalg.norm(axis)
        except (KeyError, TypeError, ValueError) as reason:
            raise CoreError("bad-holes", f"Hole {index + 1} is not complete: {reason}.", path, how) from reason
        sound = axis.shape == (3,) and bool(np.isfinite([*point, *axis, wide]).all()) and 0.3 <= wide <= 20
        met = opens(hollowed, point, axis) if sound else None
        if met is None:
            what = f"Hole {index + 1} opens no cavity." if sound else f"Hole {index + 1} cannot be."
            raise CoreError("bad-holes", what, path, how)
        cavity, length = met
        (x, y, z), (u, v, w) = point.tolist(), axis.tolist()
        by_cavity[cavity].append(Hole((x, y, z), (u, v, w), wide, length))
    return by_cavity


def hollowed(given: argparse.Namespace) -> HollowDoc:
    """Hollow a file's figure as it stands, with the holes asked for, and write it where that is asked.

    Raises:
        CoreError: bad input, in one sentence with its remedy.
    """
    if not math.isfinite(given.wall):
        raise CoreError("bad-wall", "The wall is no number.", remedy="Give it in mm.")
    refuse_own_file(given)
    refuse_wall(given.wall, lattice_of(given.lattice))
    worked = read_figure(given.file, given.unit, None, ready=True).worked
    shelf = MemoryShelf()
    figure = SizedGiven(sha=shelf.put(pack_whole(worked)))
    cut_out = must_hollow(shelf, figure, given.wall, given.lattice)
    findings: list[Finding] = []
    opened: list[Opened | None] = [None] * len(cut_out.cavities)
    if given.holes == "auto":
        opened, findings = suggested(cut_out, PLATE)
    elif given.holes != "none":
        by_cavity = _given_holes(given.holes, cut_out)
        opened = [
            judged(c, holes, PLATE) if holes else None for c, holes in zip(cut_out.cavities, by_cavity, strict=True)
        ]
    findings += findings_of(cut_out, opened)
    holes = [hole for o in opened if o for hole in o.holes]
    rows = tuple(HoleAsk(**hole_of(hole).model_dump()) for hole in holes)
    asked = Cut(wall=given.wall, lattice=given.lattice, holes=rows, plugs=bool(given.plugs))
    cut = computed(shelf, "body", figure.to(BodyGiven, hollow=asked), MadeDoc)
    body = read_whole(shelf.get(cut.sha))
    if given.out:
        write_parts({"figure": body}, given.out)
    if given.plugs and holes:
        write_parts(plugs_of(holes), given.plugs)
    return hollow_document(cut_out, opened, float(face_volumes(body).sum()), findings)
