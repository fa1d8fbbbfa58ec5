"""What lies above and below a contact: the component that a tip touches, and whether anything is there already."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from ..layers import Proof

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
I8 = NDArray[np.int64]
NEAR_MM = 0.2
"""A tip holds a component that lies within this of its contact; it reaches in by about half of it."""


@njit()
def _under(
    points: F8,
    row_start: I8,
    x_in: I4,
    x_out: I4,
    of_run: I4,
    frame: tuple[float, float, float, float, float],
    layers: int,
    rows: int,
    out: I4,
) -> None:
    """The component that each point (n, 3) touches from below, -1 for none: of the first layer above it, near the
    point.
    """
    height, x0, y0, pitch, unit = frame
    reach = int(np.ceil(NEAR_MM / pitch))
    for k in range(len(points)):
        low = max(0, int(np.floor(points[k, 2] / height + 0.5 - 1e-6)))
        x = (points[k, 0] - x0) / unit
        slack = NEAR_MM / unit
        j0 = int(np.floor((points[k, 1] - y0) / pitch))
        best = np.inf
        for layer in range(low, min(layers, low + 4)):
            for j in range(max(0, j0 - reach), min(rows, j0 + reach + 1)):
                r = layer * rows + j
                for q in range(row_start[r], row_start[r + 1]):
                    away = max(0.0, max(x_in[q] - x, x - x_out[q])) / slack + abs(j - j0) / max(reach, 1)
                    if x_in[q] - slack <= x <= x_out[q] + slack and away < best:
                        best = away
                        out[k] = of_run[q]
            if out[k] >= 0:
                break


def touched(proof: Proof, points: F8) -> I4:
    """The component of a figure's own stack that each contact (n, 3) touches from below; -1 where it touches
    nothing.
    """
    stack, g = proof.stack, proof.stack.grid
    component = np.full(len(points), -1, np.int32)
    frame = (g.height, g.x0, g.y0, g.pitch, g.unit)
    _under(
        points, stack.row_start, stack.x_in, stack.x_out, proof.components.of_run, frame, g.layers, g.rows, component
    )
    return component


def bare_below(proof: Proof, points: F8, reach: float = 0.0) -> NDArray[np.bool_]:
    """Whether nothing of the figure lies right below each point (n, 3) of its surface, nor within `reach` mm of there.

    Inside another shell something does, and there is nothing to hold; near an edge the next layer clings to it.
    """
    stack, g = proof.stack, proof.stack.grid
    bare = np.ones(len(points), np.bool_)
    frame = (g.height, g.x0, g.y0, g.pitch, g.unit)
    _bare(points, stack.row_start, stack.x_in, stack.x_out, frame, g.rows, reach, bare)
    return bare


@njit()
def _bare(
    points: F8,
    row_start: I8,
    x_in: I4,
    x_out: I4,
    frame: tuple[float, float, float, float, float],
    rows: int,
    reach: float,
    bare: NDArray[np.bool_],
) -> None:
    height, x0, y0, pitch, unit = frame
    lines = int(reach / pitch)
    for k in range(len(points)):
        layer = int(np.floor(points[k, 2] / height - 1.5))
        j0 = int(np.floor((points[k, 1] - y0) / pitch))
        if layer < 0:
            continue
        x = (points[k, 0] - x0) / unit
        for j in range(max(0, j0 - lines), min(rows - 1, j0 + lines) + 1):
            aside = (j - j0) * pitch
            slack = np.sqrt(max(0.0, reach * reach - aside * aside)) / unit
            r = layer * rows + j
            for q in range(row_start[r], row_start[r + 1]):
                if x_in[q] - slack < x < x_out[q] + slack:
                    bare[k] = False
            if not bare[k]:
                break
