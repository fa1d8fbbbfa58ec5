"""Bridges: where a layer's lines can be laid from one bank to another, both on the layer below."""

from __future__ import annotations

import numpy as np

from ..compiled import njit
from .runs import F8, I4, I8, LayerStack

WAYS = np.array([[1.0, 0.0], [0.0, 1.0], [0.70711, 0.70711], [0.70711, -0.70711]])
STRIDE = 2
"""Scan lines to a step."""
ARCH, RISE_MM = 0.5, 1.5
"""Priors: what closes from bank to bank within so much of height holds itself over this share of what lines bridge: the
crown of an arch, a round hole that lies.
"""


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
    row_start: I8,
    x_in: I4,
    x_out: I4,
    rows: int,
    layer: int,
    x: float,
    j: int,
    ux: float,
    uy: float,
    far: float,
    rise: int,
) -> tuple[float, bool]:
    """How far in scan lines a bank lies from (x, j) along (ux in run units, uy in scan lines) a step, and whether the
    way there crosses air that closes within `rise` layers above; infinite where it ends in open air, or beyond `far`.
    """
    k, crosses = 0.0, False
    top = (len(row_start) - 1) // rows
    while k <= far:
        k += STRIDE
        y = int(np.floor(j + 0.5 + uy * k))
        if y < 0 or y >= rows:
            return np.inf, crosses
        here = x + ux * k
        if within(row_start, x_in, x_out, (layer - 1) * rows + y, here):
            return k, crosses
        if within(row_start, x_in, x_out, layer * rows + y, here):
            continue
        crosses, closes = True, False
        for up in range(layer + 1, min(layer + rise + 1, top)):
            if within(row_start, x_in, x_out, up * rows + y, here):
                closes = True
                break
        if not closes:
            return np.inf, crosses
    return np.inf, crosses


@njit()
def spanned(
    row_start: I8, x_in: I4, x_out: I4, rows: int, layer: int, x: float, j: int, scale: float, span: float, rise: int
) -> bool:
    """Whether a straight line of at most `span` scan lines through (x in run units, row j) lies in its layer and ends
    on the layer below at both sides; or, where it is no longer than ARCH of that, in what closes over it within `rise`
    layers, as the crown of an arch does.

    `scale`: run units to a scan line's pitch.
    """
    for w in range(len(WAYS)):
        ux, uy = WAYS[w, 0] * scale, WAYS[w, 1]
        one, over = _bank(row_start, x_in, x_out, rows, layer, x, j, ux, uy, span, rise)
        if one == np.inf:
            continue
        other, too = _bank(row_start, x_in, x_out, rows, layer, x, j, -ux, -uy, span - one, rise)
        if one + other <= (ARCH * span if over or too else span):
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
    rise: int,
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
                spans[k] = spanned(row_start, x_in, x_out, rows, layer, x, j, pitch / unit, span / pitch, rise)
                break
            if layer * height > points[k, 2] + 3 * height:
                break


def rise_of(height: float) -> int:
    """Within how many layers of a height an arch has to close."""
    return int(RISE_MM / height + 1e-6)


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
            rise_of(g.height),
            spans,
        )
    return spans > 0
