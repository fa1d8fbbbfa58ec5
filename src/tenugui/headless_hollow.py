"""The headless command `hollow`."""

from __future__ import annotations

import argparse
import math
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import orjson
from numpy.typing import NDArray

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
from .headless import read_figure, refuse_files, write_parts

PLATE = np.array([0.0, 0.0, -1.0])
"""The plate is below, as the file stands."""
HOW = 'Give a list of {"x_mm", "y_mm", "z_mm", "axis": [x, y, z] into the figure, "diameter_mm"}.'


@dataclass(frozen=True)
class _GivenHoles:
    """Holes of a file: each a point (3,) on the surface, the way (3,) into the figure, and a diameter in mm."""

    path: str
    rows: list[tuple[NDArray[np.float64], NDArray[np.float64], float]]

    @staticmethod
    def read(path: str) -> _GivenHoles:
        """As a file tells them.

        Raises:
            CoreError: `bad-holes` where it holds none, or one that cannot be.
        """
        try:
            rows = orjson.loads(Path(path).read_bytes())
        except orjson.JSONDecodeError as reason:
            raise CoreError("bad-holes", f"The holes cannot be read: {reason}.", path, HOW) from reason
        rows = rows.get("holes") if isinstance(rows, dict) else rows
        if not isinstance(rows, list) or not 0 < len(rows) <= MOST_HOLES:
            raise CoreError("bad-holes", f"There are no holes in this file, or more than {MOST_HOLES}.", path, HOW)
        return _GivenHoles(path, [_hole(index + 1, row, path) for index, row in enumerate(rows)])

    def by_cavity(self, hollowed: Hollowed) -> list[list[Hole]]:
        """By the cavity that each opens.

        Raises:
            CoreError: `bad-holes` where one opens nothing.
        """
        by_cavity: list[list[Hole]] = [[] for _ in hollowed.cavities]
        for index, (point, axis, wide) in enumerate(self.rows):
            met = opens(hollowed, point, axis)
            if met is None:
                raise CoreError("bad-holes", f"Hole {index + 1} opens no cavity.", self.path, HOW)
            cavity, length = met
            (x, y, z), (u, v, w) = point.tolist(), axis.tolist()
            by_cavity[cavity].append(Hole((x, y, z), (u, v, w), wide, length))
        return by_cavity


def _hole(number: int, row: Any, path: str) -> tuple[NDArray[np.float64], NDArray[np.float64], float]:
    try:
        point = np.array([float(row["x_mm"]), float(row["y_mm"]), float(row["z_mm"])])
        axis = np.array([float(v) for v in row["axis"]])
        wide = float(row["diameter_mm"])
        axis = axis / np.linalg.norm(axis)
    except (KeyError, TypeError, ValueError) as reason:
        raise CoreError("bad-holes", f"Hole {number} is not complete: {reason}.", path, HOW) from reason
    if axis.shape != (3,) or not np.isfinite([*point, *axis, wide]).all() or not 0.3 <= wide <= 20:
        raise CoreError("bad-holes", f"Hole {number} cannot be.", path, HOW)
    return point, axis, wide


def hollowed(given: argparse.Namespace) -> HollowDoc:
    """Hollow a file's figure as it stands, with the holes asked for, and write it where that is asked.

    Raises:
        CoreError: bad input, in one sentence with its remedy.
    """
    if not math.isfinite(given.wall):
        raise CoreError("bad-wall", "The wall is no number.", remedy="Give it in mm.")
    refuse_files(given)
    refuse_wall(given.wall, lattice_of(given.lattice))
    asked = None if given.holes in ("auto", "none") else _GivenHoles.read(given.holes)
    worked = read_figure(given.file, given.unit, None, ready=True).worked
    shelf = MemoryShelf()
    figure = SizedGiven(sha=shelf.put(pack_whole(worked)))
    cut_out = must_hollow(shelf, figure, given.wall, given.lattice)
    findings: list[Finding] = []
    opened: list[Opened | None] = [None] * len(cut_out.cavities)
    if given.holes == "auto":
        opened, findings = suggested(cut_out, PLATE)
    elif asked is not None:
        by_cavity = zip(cut_out.cavities, asked.by_cavity(cut_out), strict=True)
        opened = [judged(cavity, holes, PLATE) if holes else None for cavity, holes in by_cavity]
    findings += findings_of(cut_out, opened)
    holes = [hole for o in opened if o for hole in o.holes]
    rows = tuple(HoleAsk(**hole_of(hole).model_dump()) for hole in holes)
    way = Cut(wall=given.wall, lattice=given.lattice, holes=rows, plugs=bool(given.plugs))
    cut = computed(shelf, "body", figure.to(BodyGiven, hollow=way), MadeDoc)
    body = read_whole(shelf.get(cut.sha))
    if given.out:
        write_parts({"figure": body}, given.out)
    if given.plugs and holes:
        write_parts(plugs_of(holes), given.plugs)
    return hollow_document(cut_out, opened, float(face_volumes(body).sum()), findings)
