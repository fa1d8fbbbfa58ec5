"""Bridges: where a layer's lines can be laid from one bank to another, both on the layer below."""

from __future__ import annotations

import numpy as np

from ..compiled import njit
from .runs import F8, I4, I8, LayerStack

WAYS = np.array([[1.0, 0.0], [0.0, 1.0], [0.70711, 0.70711], [0.70711, -0.70711]])
STRIDE = 2
"""Scan lines to a step."""


@njit()
def within(row_start: I8, x_in: I4, x_out: I4, row: int, x: float) -> bool:
    """Whether a run of a row holds x (run units)."""
    low, high = row_start[row], row_start[row + 1]
    while low < high:
        middle = (low + high) // 2
        if x_out[middle] <= x:
            low = middle + 1
        else:
            high = middle
    return bool(low < row_start[row + 1] and x_in[low] <= x)


@njit()
def _bank(
    row_start: I8, x_in: I4, x_out: I4, rows: int, layer: int, x: float, j: int, ux: float, uy: float, far: float
) -> float:
    """How far in scan lines a bank lies from (x, j) along (ux in run units, uy in scan lines) a step; infinite where
    the layer ends first, or beyond `far`.
    """
    k = 0.0
    while k <= far:
        k += STRIDE
        y = int(np.floor(j + 0.5 + uy * k))
        if y < 0 or y >= rows:
            return np.inf
        here = x + ux * k
        if within(row_start, x_in, x_out, (layer - 1) * rows + y, here):
            return k
        if not within(row_start, x_in, x_out, layer * rows + y, here):
            return np.inf
    return np.inf


@njit()
def spanned(
    row_start: I8, x_in: I4, x_out: I4, rows: int, layer: int, x: float, j: int, scale: float, span: float
) -> bool:
    """Whether a straight line of at most `span` scan lines through (x in run units, row j) lies in its layer and ends
    on the layer below at both sides.

    `scale`: run units to a scan line's pitch.
    """
    for w in range(len(WAYS)):
        ux, uy = WAYS[w, 0] * scale, WAYS[w, 1]
        one = _bank(row_start, x_in, x_out, rows, layer, x, j, ux, uy, span)
        if one < np.inf and one + _bank(row_start, x_in, x_out, rows, layer, x, j, -ux, -uy, span - one) <= span:
            return True
    return False


@njit()
def _each(
    points: F8,
    row_start: I8,
    x_in: I4,
    x_out: I4,
    frame: tuple[float, float, float, float, float],
    layers: int,
    rows: int,
    span: float,
    spans: F8,
) -> None:
    height, x0, y0, pitch, unit = frame
    for k in range(len(points)):
        j = int(np.floor((points[k, 1] - y0) / pitch))
        x = (points[k, 0] - x0) / unit
        if j < 0 or j >= rows:
            continue
        # The layer that the surface's point begins: its middle lies above the point, and what is below it is bare.
        for layer in range(max(1, int(np.floor(points[k, 2] / height + 0.5 - 1e-6))), layers):
            if within(row_start, x_in, x_out, layer * rows + j, x):
                spans[k] = spanned(row_start, x_in, x_out, rows, layer, x, j, pitch / unit, span / pitch)
                break
            if layer * height > points[k, 2] + 3 * height:
                break


def bridged(stack: LayerStack, points: F8, span_mm: float) -> np.ndarray:
    """Which of the points (n, 3) of a figure's underside, in build coordinates, lie where lines of at most `span_mm`
    bridge from bank to bank.
    """
    spans = np.zeros(len(points))
    if span_mm > 0 and len(points):
        g = stack.grid
        frame = (g.height, g.x0, g.y0, g.pitch, g.unit)
        _each(
            np.ascontiguousarray(points, float),
            stack.row_start,
            stack.x_in,
            stack.x_out,
            frame,
            g.layers,
            g.rows,
            span_mm,
            spans,
        )
    return spans > 0
