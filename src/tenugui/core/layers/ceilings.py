"""Ceilings that close: what hangs over space that the layer below shuts in on all sides is held all around, as the roof
of a cavity is.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from ..compiled import njit
from .grid import SUB
from .runs import I4, I8, LayerStack

B1 = NDArray[np.bool_]
F4 = NDArray[np.float32]
CELL_MM = 0.2
MOUTH_MM = 5.0
"""Prior: an opening no wider than this, a drain hole, does not keep a ceiling from hanging all around."""


@njit()
def _drawn(
    row_start: I8, x_in: I4, x_out: I4, first: int, rows: int, step: int, of_run: I4, wanted: int, west: int, out: B1
) -> None:
    """Every `step`-th scan line of a layer as cells `step` pitches wide; `wanted`: runs of this component alone, -1 for
    all.
    """
    for y in range(out.shape[0]):
        j = y * step + step // 2
        if j >= rows:
            break
        for q in range(row_start[first + j], row_start[first + j + 1]):
            if wanted >= 0 and of_run[q] != wanted:
                continue
            a, b = (x_in[q] - west) // (SUB * step), (x_out[q] - west) // (SUB * step)
            for x in range(max(a, 0), min(b + 1, out.shape[1])):
                out[y, x] = True


def _far(free: B1) -> F4:
    """Of each cell (y, x) to the nearest that is not free, in cells."""
    return np.asarray(cv2.distanceTransform(free.view(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE))


def closing_share(stack: LayerStack, of_run: I4, layer: int, component: int) -> float:
    """Of what hangs over the layer below in a component of a layer: the share that lies over space shut in on all sides
    but for openings of MOUTH_MM.

    0 where nothing hangs over.
    """
    grid = stack.grid
    step = max(1, round(CELL_MM / grid.pitch))
    pad = int(np.ceil(MOUTH_MM / (step * grid.pitch))) + 2
    lines = [stack.row_start[(layer - 1) * grid.rows], stack.row_start[(layer + 1) * grid.rows]]
    if layer < 1 or lines[0] == lines[1]:
        return 0.0
    west, east = int(stack.x_in[lines[0] : lines[1]].min()), int(stack.x_out[lines[0] : lines[1]].max())
    shape = (grid.rows // step + 1, (east - west) // (SUB * step) + 1)
    here, below = np.zeros(shape, np.bool_), np.zeros(shape, np.bool_)
    data = (stack.row_start, stack.x_in, stack.x_out)
    _drawn(*data, layer * grid.rows, grid.rows, step, of_run, component, west, here)
    _drawn(*data, (layer - 1) * grid.rows, grid.rows, step, of_run, -1, west, below)
    over = np.pad(here & ~below, pad)
    if not over.any():
        return 0.0
    radius = MOUTH_MM / 2 / (step * grid.pitch)
    roomy = _far(~np.pad(below, pad)) > radius
    rooms, _ = ndimage.label(roomy)
    reached = _far(rooms != rooms[0, 0]) <= radius + 1
    return float((over & ~reached).sum() / over.sum())
