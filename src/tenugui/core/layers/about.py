"""How thick the solid is over a place on its underside, how wide about it, and how far it stays so thin: read off the
layers, so that shells pushed into each other are one.
"""

from __future__ import annotations

import numpy as np

from ..compiled import njit
from .bridges import WAYS, within
from .runs import F8, I4, I8, LayerStack

BEGINS_MM = 0.3
"""The solid over a contact begins within so much of it."""
MOST_MM = 4.0
"""Of what is thicker or wider nothing more is asked."""
MIDDLE_MM = 1.0
"""It is measured across in its middle, or so far up."""
READ = 12
"""So many layers of a column tell how far it goes up and down."""
CELL_MM, FAR_MM, AS_THIN = 0.2, 6.0, 1.5
"""A feature goes on, cell by cell and so far at most, while it is no thicker than so many times what it is here."""


@njit()
def _far(
    row_start: I8,
    x_in: I4,
    x_out: I4,
    layers: int,
    rows: int,
    x: float,
    y: float,
    layer: int,
    most: int,
    step: tuple[float, float],
) -> float:
    """How far from (x in run units, y in scan lines) the solid about a layer goes on in columns of at most `most`
    layers, in cells; `step` of one in both. Of the layers of a column about READ are read.
    """
    reach, stride = int(FAR_MM / CELL_MM), max(1, most // READ)
    side = 2 * reach + 1
    middle = np.full((side, side), -1, np.int32)
    queue = np.empty((side * side, 2), np.int32)
    queue[0, 0], queue[0, 1] = reach, reach
    middle[reach, reach] = layer
    head, tail, farthest = 0, 1, 0.0
    while head < tail:
        a, b = queue[head]
        head += 1
        farthest = max(farthest, np.hypot(a - reach, b - reach))
        for w in range(4):
            c, d = a + (1, -1, 0, 0)[w], b + (0, 0, 1, -1)[w]
            if c < 0 or d < 0 or c >= side or d >= side or middle[c, d] >= 0:
                continue
            here, row = x + (c - reach) * step[0], int(np.floor(y + (d - reach) * step[1]))
            at = middle[a, b]
            if row < 0 or row >= rows or not within(row_start, x_in, x_out, at * rows + row, here):
                continue
            low, high = at, at
            while (
                high - low < most
                and low >= stride
                and within(row_start, x_in, x_out, (low - stride) * rows + row, here)
            ):
                low -= stride
            while (
                high - low < most
                and high + stride < layers
                and within(row_start, x_in, x_out, (high + stride) * rows + row, here)
            ):
                high += stride
            if high - low >= most:
                continue
            middle[c, d] = (low + high) // 2
            queue[tail, 0], queue[tail, 1] = c, d
            tail += 1
    return farthest


@njit()
def _about(
    points: F8,
    row_start: I8,
    x_in: I4,
    x_out: I4,
    frame: tuple[float, float, float, float, float],
    layers: int,
    rows: int,
    out: F8,
) -> None:
    height, x0, y0, pitch, unit = frame
    most, far = max(1, int(MOST_MM / height)), int(MOST_MM / pitch)
    for k in range(len(points)):
        j, x = int(np.floor((points[k, 1] - y0) / pitch)), (points[k, 0] - x0) / unit
        out[k, :] = 0.0
        if j < 0 or j >= rows:
            continue
        first = max(0, int(np.floor(points[k, 2] / height + 0.5 - 1e-6)))
        last = min(layers, first + 1 + int(BEGINS_MM / height))
        while first < last and not within(row_start, x_in, x_out, first * rows + j, x):
            first += 1
        if first >= last:
            continue
        n = 0
        while n < most and first + n < layers and within(row_start, x_in, x_out, (first + n) * rows + j, x):
            n += 1
        out[k, 0] = n * height
        layer = first + min(n // 2, int(MIDDLE_MM / height))
        least = MOST_MM
        for w in range(len(WAYS)):
            steps = 1
            for side in (1, -1):
                for s in range(1, far):
                    y = int(np.floor(j + 0.5 + side * WAYS[w, 1] * s))
                    if y < 0 or y >= rows:
                        break
                    if not within(row_start, x_in, x_out, layer * rows + y, x + side * WAYS[w, 0] * s * pitch / unit):
                        break
                    steps += 1
            least = min(least, steps * pitch)
        out[k, 1] = least
        if n >= most:
            out[k, 2] = FAR_MM
            continue
        step = (CELL_MM / unit, CELL_MM / pitch)
        thin = max(int(np.ceil(AS_THIN * n)), n + 1)
        out[k, 2] = CELL_MM * _far(row_start, x_in, x_out, layers, rows, x, j + 0.5, first + n // 2, thin, step)


def features(stack: LayerStack, points: F8) -> F8:
    """(n, 3) mm at points (n, 3) on a figure's underside in build coordinates: how thick the solid is straight up, how
    wide at least along its layer in the middle of that, both at most MOST_MM, and how far it goes on as thin, at most
    FAR_MM and so much where it is as thick as is asked; all 0 where none begins.
    """
    out, g = np.zeros((len(points), 3)), stack.grid
    frame = (g.height, g.x0, g.y0, g.pitch, g.unit)
    _about(np.ascontiguousarray(points, float), stack.row_start, stack.x_in, stack.x_out, frame, g.layers, g.rows, out)
    return out
