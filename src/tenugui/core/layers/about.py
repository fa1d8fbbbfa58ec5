"""How thick the solid is over a place on its underside, and how wide about it: read off the layers, so that shells pushed into each other are one."""

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
        out[k, 0], out[k, 1] = 0.0, 0.0
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


def thick_and_wide(stack: LayerStack, points: F8) -> F8:
    """(n, 2) mm at points (n, 3) on a figure's underside in build coordinates: how thick the solid is straight up, and how wide at least along its layer in
    the middle of that; both at most MOST_MM, and 0 where none begins.
    """
    out, g = np.zeros((len(points), 2)), stack.grid
    frame = (g.height, g.x0, g.y0, g.pitch, g.unit)
    _about(np.ascontiguousarray(points, float), stack.row_start, stack.x_in, stack.x_out, frame, g.layers, g.rows, out)
    return out
