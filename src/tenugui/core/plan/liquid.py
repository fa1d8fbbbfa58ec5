"""A cut through a hollow figure in the position it is held in: outlines, what stays, and how the level falls."""

from __future__ import annotations

from collections.abc import Sequence

import manifold3d
import numpy as np
from numpy.typing import NDArray

from ..contract import LiquidDoc
from ..hollow import Hole, Hollowed, drained, falling, stays
from ..hollow.holes import mouth_of
from ..mesh import Mesh

F8 = NDArray[np.float64]
MOST_POINTS = 400
"""Corners of an outline that a drawing of a few hundred pixels shows."""


def _outlines(mesh: Mesh, frame: F8, depth: float) -> list[list[tuple[float, float]]]:
    """Polygons where a plane cuts a closed mesh: `frame` rows are the cut's x, its y, and its normal."""
    points = np.asarray(mesh.vertices @ frame.T, np.float32)
    solid = manifold3d.Manifold(manifold3d.Mesh(points, np.ascontiguousarray(mesh.faces, np.uint32)))
    loops = []
    for line in solid.slice(depth).to_polygons():
        step = max(1, len(line) // MOST_POINTS)
        loops.append([(round(float(x), 3), round(float(y), 3)) for x, y in line[::step]])
    return loops


def liquid_of(
    hollowed: Hollowed, holes: Sequence[Sequence[Hole]], down: F8, kept: NDArray[np.bool_] | None = None
) -> LiquidDoc:
    """The largest cavity held with `down` downwards, cut through its middle where it is widest. `kept`: its cells that
    are filled after more than one position; else what stays of a full one.
    """
    down = down / max(float(np.linalg.norm(down)), 1e-9)
    cavity, mine = hollowed.cavities[0], list(holes[0])
    space = cavity.space
    mouths = [m for m in (*(mouth_of(cavity, hole) for hole in mine), *cavity.own) if len(m.cells)]
    middle = space.middles.mean(axis=0)
    aside = np.cross(down, [1.0, 0, 0] if abs(down[0]) < 0.9 else [0, 1.0, 0])
    aside /= np.linalg.norm(aside)
    other = np.cross(down, aside)
    flat = (space.middles - middle) @ np.stack([aside, other], axis=1)
    # The widest way across: the first axis of the cells' shadow.
    turn = np.linalg.eigh(flat.T @ flat)[1][:, -1]
    across = turn[0] * aside + turn[1] * other
    frame = np.stack([across, -down, np.cross(across, -down)])
    depth = float(frame[2] @ middle)
    kept = stays(space, mouths, down) if kept is None else kept
    near = kept & (np.abs(space.middles @ frame[2] - depth) <= space.width)
    cells = np.unique(np.round((space.middles[near] @ frame[:2].T) / space.width).astype(int), axis=0) * space.width
    seconds, level = falling(space, mouths, down)
    drips = drained(space, mouths, down)
    return LiquidDoc(
        down=(float(down[0]), float(down[1]), float(down[2])),
        figure=_outlines(hollowed.outer, frame, depth),
        cavity=_outlines(Mesh(cavity.surface.vertices, cavity.surface.faces[:, ::-1]), frame, depth),
        stays=[(round(float(x), 3), round(float(y), 3)) for x, y in cells],
        cell_mm=space.width,
        seconds=seconds,
        level_mm=level,
        retained_ml=float(kept.sum()) * space.width**3 / 1000,
        drain_s=drips.seconds,
    )
