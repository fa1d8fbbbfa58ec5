"""Where detail of the outside cuts in: what a crease takes from a cavity, or keeps solid altogether.

The figure is closed first (Serra 1982): dilated and eroded by a ball, so that creases narrower than the ball are
filled. What lies deeper than the wall in the closed figure and not in the figure itself is where the inside had to be
thicker for the sake of a crease.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from .field import Field, far_within

CELLS_A_WALL = 4.0
"""Creases are looked for on cells of which about so many lie in a wall."""
LEAST_BITE = 0.75
"""Of a wall: what cuts in less, as a square corner does, is nothing to be told."""

LEAST_TAKEN = 0.5
"""Of a cube of the wall: what takes less from a cavity is nothing to be told."""

FARTHEST_WALLS = 6.0
"""How much deeper a crease reaches is exact up to so many walls less one, and at least that beyond."""


@dataclass(frozen=True)
class Crease:
    """What cuts in: its deepest place under the surface in the mesh's frame, how many mm deeper it reaches than the
    surface around it, the mm³ that it takes from the cavity, and whether what it touches is hollow beside it.
    """

    place: tuple[float, float, float]
    deep: float
    taken: float
    hollow: bool


def creases(field: Field, wall: float) -> list[Crease]:
    """The creases and grooves narrower than two walls that a cavity of this wall has to keep clear of, the deepest
    first. O(cells).
    """
    step = max(1, round(wall / CELLS_A_WALL / field.pitch))
    depth, pitch = field.depth[::step, ::step, ::step], field.pitch * step
    rim = int(np.ceil(wall / pitch)) + 2
    depth = np.pad(depth, rim)
    # What no ball of a wall's radius that rolls outside can reach is filled.
    outside = far_within(depth <= 0, pitch, wall + pitch) > wall
    if not outside.any():
        return []
    closed = far_within(~outside, pitch, FARTHEST_WALLS * wall) - np.float32(wall)
    taken = (closed > wall + pitch) & (depth > 0) & (depth <= wall)
    label, count = ndimage.label(taken, np.ones((3, 3, 3), bool))
    if not count:
        return []
    cells = np.argwhere(taken)
    of = label[taken] - 1
    bite = closed[taken] - depth[taken]
    # Of places as deep as each other the one next to the crease is told.
    order = np.lexsort((depth[taken] * 0.1 - bite, of))
    first = order[np.searchsorted(of[order], np.arange(count))]
    beside = np.bincount(of, ndimage.binary_dilation(depth > wall, iterations=2)[taken], count) > 0
    many, deepest, at = np.bincount(of, minlength=count), bite[first], cells[first]
    places = field.place(((at - rim) * step).astype(np.float64))
    creases = [
        Crease((float(x), float(y), float(z)), float(d), float(n) * pitch**3, bool(b))
        for (x, y, z), d, n, b in zip(places, deepest, many, beside, strict=True)
        if d >= LEAST_BITE * wall and n * pitch**3 >= LEAST_TAKEN * wall**3
    ]
    return sorted(creases, key=lambda c: -c.deep)
