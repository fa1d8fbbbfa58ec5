"""The true outline of a figure at a place, and what layers make of it: drawn to scale, height beside height.

The plane through the place stands upright along the surface's own lean. Where it meets the solid, a line level with the
middle of each layer tells from where to where that layer is solid; overlapping shells are united by counting walls (cf.
`layers.runs`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..machines import Printer, draws_lines
from ..mesh import Mesh, nearest_of
from .detail import draws_mm

F8 = NDArray[np.float64]
WINDOW_MM = 1.5
"""Half the width and height of what is drawn."""
LEVEL = 1e-3
"""A surface that leans less has no direction of its own."""


@dataclass(frozen=True)
class Stair:
    """What layers of one height make: rows (n, 4) z0, z1, from, to in mm about the place; the step's height there in
    mm, and its width (inf on a level place).
    """

    height: float
    rows: F8
    cusp: float
    run: float


@dataclass(frozen=True)
class Profile:
    """The outline about a place (x, y, z) in build coordinates as pieces (n, 4) u0, z0, u1, z1 in mm about it; the lean
    of the surface there in degrees from the upright; what the machine draws across in mm, and whether by round lines; a
    stair for each height.
    """

    at: tuple[float, float, float]
    lean_deg: float
    outline: F8
    draws_mm: float
    round: bool
    stairs: list[Stair]


def profile_at(figure: Mesh, at: Sequence[float], printer: Printer, heights: Sequence[float]) -> Profile:
    """The profile of a figure in build coordinates at its surface's point nearest to `at`. O(faces)."""
    nearest, _ = nearest_of(figure).of(np.asarray(at, float).reshape(1, 3))
    x, y, z = (float(v) for v in nearest[0])
    normals, _ = figure.normals_and_areas()
    corners = figure.vertices[figure.faces]
    # The face that the point lies on: of those whose box holds it, the one whose plane is nearest.
    near = np.flatnonzero(
        ((corners.min(axis=1) <= nearest + 1e-3) & (corners.max(axis=1) >= nearest - 1e-3)).all(axis=1)
    )
    off = np.abs(((nearest - corners[near, 0]) * normals[near]).sum(axis=1))
    n = normals[near[np.argmin(off)]]
    level = float(np.hypot(n[0], n[1]))
    along = np.array([n[0], n[1]]) / level if level > LEVEL else np.array([1.0, 0.0])
    segments, sign = _cut(corners, normals, (x, y), along)
    line, across = draws_lines(printer), draws_mm(printer)
    stairs = []
    for h in heights:
        lean = abs(float(n[2]))
        run = h * lean / level if level > LEVEL else float("inf")
        stairs.append(Stair(h, _stair(segments, sign, z, h, 0.0 if line else across), h * lean, run))
    inside = (np.abs(segments[:, [0, 2]]).min(axis=1) < WINDOW_MM) & (
        np.abs(segments[:, [1, 3]] - z).min(axis=1) < WINDOW_MM
    )
    outline = segments[inside] - np.array([0.0, z, 0.0, z])
    lean_deg = float(np.degrees(np.arcsin(np.clip(n[2], -1, 1))))
    return Profile((x, y, z), lean_deg, outline, across, line, stairs)


def _cut(corners: F8, normals: F8, at: tuple[float, float], along: F8) -> tuple[F8, NDArray[np.int8]]:
    """Where an upright plane meets faces (m, 3, 3): pieces (n, 4) u0, z0, u1, z1, u counted from `at` along it; and +1
    where going along one enters the solid.
    """
    rel = corners[:, :, :2] - np.array(at)
    off, u = rel @ np.array([-along[1], along[0]]), rel @ along
    below = off < 0
    meets = np.flatnonzero(below.any(axis=1) & ~below.all(axis=1))
    off, u, z, below = off[meets], u[meets], corners[meets, :, 2], below[meets]
    ends = []
    for a, b in ((0, 1), (1, 2), (2, 0)):
        share = np.where(below[:, a] != below[:, b], off[:, a] / (off[:, a] - off[:, b] + 1e-300), np.nan)
        ends.append(np.column_stack([u[:, a] + share * (u[:, b] - u[:, a]), z[:, a] + share * (z[:, b] - z[:, a])]))
    pairs = np.stack(ends, axis=1)
    there = ~np.isnan(pairs[:, :, 0])
    # Just two of the three edges are met.
    order = np.argsort(~there, axis=1, kind="stable")[:, :2]
    met = np.take_along_axis(pairs, order[:, :, None], axis=1).reshape(-1, 4)
    return met, np.where(normals[meets, :2] @ along < 0, 1, -1).astype(np.int8)


def _stair(segments: F8, sign: NDArray[np.int8], z: float, height: float, pixel: float) -> F8:
    """Rows z0, z1, from, to about (0, z) of the layers within the window; ends on whole pixels where there are any."""
    first, last = int(np.floor((z - WINDOW_MM) / height)), int(np.ceil((z + WINDOW_MM) / height))
    rows = []
    for k in range(max(0, first), last):
        level = (k + 0.5) * height
        meets = (segments[:, 1] <= level) != (segments[:, 3] <= level)
        s = segments[meets]
        u = s[:, 0] + (level - s[:, 1]) / (s[:, 3] - s[:, 1]) * (s[:, 2] - s[:, 0])
        depth = 0
        begin = 0.0
        for i in np.argsort(u, kind="stable"):
            before, depth = depth, depth + int(sign[meets][i])
            if before <= 0 < depth:
                begin = float(u[i])
            elif depth <= 0 < before and u[i] > -WINDOW_MM and begin < WINDOW_MM:
                ends = np.array([begin, u[i]])
                ends = np.round(ends / pixel) * pixel if pixel else ends
                a, b = np.clip(ends, -WINDOW_MM, WINDOW_MM)
                rows.append((k * height - z, (k + 1) * height - z, float(a), float(b)))
    return np.array(rows).reshape(-1, 4)
