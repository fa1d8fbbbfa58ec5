"""Points moved onto the surface that lies exactly one wall below another."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..mesh import Nearest

F8 = NDArray[np.float64]
ROUNDS = 12
SETTLED_MM = 1e-3


def settle(points: F8, outside: Nearest, wall: float, slack: float, fixed: NDArray[np.bool_] | None = None) -> F8:
    """Points (n, 3) that lie deeper than a wall moved out onto the surface `wall` mm below another, as far as they lie
    within `slack` of it and are not `fixed` (n,).

    Between two walls that are too close a point is pushed to and fro; one that finds no place goes back to where it
    was.
    """
    moved, left = points.copy(), np.arange(len(points)) if fixed is None else np.flatnonzero(~fixed)
    for _ in range(ROUNDS):
        at, far = outside.of(moved[left])
        astray = (np.abs(far - wall) > SETTLED_MM) & ((far < wall) | (far - wall < slack)) & (far > 1e-9)
        if not astray.any():
            return moved
        left, at, far = left[astray], at[astray], far[astray]
        moved[left] = at + (moved[left] - at) * (wall / far)[:, None]
    near = left[outside.of(moved[left])[1] < wall - SETTLED_MM]
    moved[near] = points[near]
    return moved
