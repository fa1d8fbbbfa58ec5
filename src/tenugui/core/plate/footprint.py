"""Footprints: what solids cover of the plate, as outlines that never cover less."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from ..compiled import njit
from ..errors import CoreError
from ..mesh import Mesh

F8 = NDArray[np.float64]
U1 = NDArray[np.uint8]
Polygon = list[tuple[float, float]]
CELL_MM = 0.2
"""Of the raster that an outline is read from: it lies at most so far outside of what it is of."""
MOST_CELLS = 40_000_000


@njit()
def _covered(corners: F8, x0: float, y0: float, cell: float, mask: U1) -> None:
    """Every cell that a triangle (n, 3, 2) touches: where its box and its three sides let it."""
    rows, columns = mask.shape
    for t in range(len(corners)):
        ax, ay = corners[t, 0, 0], corners[t, 0, 1]
        bx, by = corners[t, 1, 0], corners[t, 1, 1]
        cx, cy = corners[t, 2, 0], corners[t, 2, 1]
        area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        if area < 0:
            bx, by, cx, cy = cx, cy, bx, by
        low_i = max(0, int(np.floor((min(ay, by, cy) - y0) / cell)))
        high_i = min(rows - 1, int(np.floor((max(ay, by, cy) - y0) / cell)))
        low_j = max(0, int(np.floor((min(ax, bx, cx) - x0) / cell)))
        high_j = min(columns - 1, int(np.floor((max(ax, bx, cx) - x0) / cell)))
        for i in range(low_i, high_i + 1):
            for j in range(low_j, high_j + 1):
                if mask[i, j]:
                    continue
                # The corner of the cell that lies farthest inside of a side decides whether all of it is outside.
                left, right = x0 + j * cell, x0 + (j + 1) * cell
                down, up = y0 + i * cell, y0 + (i + 1) * cell
                outside = False
                for side in range(3):
                    if side == 0:
                        px, py, qx, qy = ax, ay, bx, by
                    elif side == 1:
                        px, py, qx, qy = bx, by, cx, cy
                    else:
                        px, py, qx, qy = cx, cy, ax, ay
                    nx, ny = -(qy - py), qx - px
                    x = right if nx > 0 else left
                    y = up if ny > 0 else down
                    if nx * (x - px) + ny * (y - py) < 0:
                        outside = True
                        break
                if not outside:
                    mask[i, j] = 1


def footprint_of(solids: Sequence[Mesh], cell: float = CELL_MM) -> list[Polygon]:
    """Outlines (x, y) in mm, one for each part that stands apart, holes filled: nobody prints within another piece.

    Raises:
        CoreError: `too-large`.
    """
    corners = np.concatenate([solid.vertices[solid.faces][:, :, :2] for solid in solids])
    low, high = corners.min(axis=(0, 1)), corners.max(axis=(0, 1))
    # Two cells of air around, so that every outline closes.
    x0, y0 = (float(v) - 2 * cell for v in low)
    columns, rows = (int(np.ceil(v / cell)) + 5 for v in (high - low).tolist())
    if rows * columns > MOST_CELLS:
        raise CoreError("too-large", f"It covers {high[0] - low[0]:.0f} x {high[1] - low[1]:.0f} mm of a plate.")
    mask = np.zeros((rows, columns), np.uint8)
    _covered(np.ascontiguousarray(corners), x0, y0, cell, mask)
    filled = ndimage.binary_fill_holes(mask)
    outlines = []
    # Through the middles of the cells beside: half a cell outside, so that what is simplified by less cuts nothing.
    wide = ndimage.binary_dilation(filled, np.ones((3, 3), bool)).astype(np.uint8)
    for contour in cv2.findContours(wide, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)[0]:
        points = cv2.approxPolyDP(contour, 0.45, True)[:, 0, :].astype(float)
        xy = np.column_stack([x0 + (points[:, 0] + 0.5) * cell, y0 + (points[:, 1] + 0.5) * cell])
        outlines.append([(round(float(x), 3), round(float(y), 3)) for x, y in xy])
    return outlines


def turned(polygons: Sequence[Polygon], degrees: float) -> list[F8]:
    """Turned about the origin, counter-clockwise: (n, 2) each."""
    a = np.radians(degrees)
    turn = np.array([[np.cos(a), np.sin(a)], [-np.sin(a), np.cos(a)]])
    return [np.array(p, float) @ turn for p in polygons]


def grown(polygons: Sequence[F8], by: float, cell: float) -> tuple[NDArray[np.bool_], F8]:
    """The cells that outlines and all within `by` mm of them touch, and where the first cell begins (x, y): a whole
    number of cells from the origin.
    """
    points = np.concatenate(polygons)
    low = np.floor((points.min(axis=0) - by) / cell - 1) * cell
    shape = np.ceil((points.max(axis=0) + by + cell - low) / cell).astype(int) + 1
    mask = np.zeros((shape[1], shape[0]), np.uint8)
    for polygon in polygons:
        _filled(np.ascontiguousarray(polygon), float(low[0]), float(low[1]), cell, mask)
        edge = np.stack([polygon, np.roll(polygon, -1, axis=0), polygon], axis=1)
        _covered(np.ascontiguousarray(edge), float(low[0]), float(low[1]), cell, mask)
    inside = mask > 0
    if by > 0:
        reach = int(np.ceil(by / cell)) + 1
        y, x = np.ogrid[-reach : reach + 1, -reach : reach + 1]
        # Two cells come no nearer than their nearest corners.
        near = np.hypot(np.maximum(np.abs(x) - 1, 0), np.maximum(np.abs(y) - 1, 0)) * cell < by
        inside = np.asarray(ndimage.binary_dilation(inside, near))
    return np.asarray(inside), low


@njit()
def _filled(ring: F8, x0: float, y0: float, cell: float, mask: U1) -> None:
    """Cells whose middles lie within a ring (n, 2): to the left of each an odd number of its sides is crossed."""
    rows, columns = mask.shape
    crossed = np.zeros((rows, columns + 1), np.uint8)
    for k in range(len(ring)):
        ax, ay = ring[k - 1, 0], ring[k - 1, 1]
        bx, by = ring[k, 0], ring[k, 1]
        if ay == by:
            continue
        if ay > by:
            ax, ay, bx, by = bx, by, ax, ay
        first = max(0, int(np.ceil((ay - y0) / cell - 0.5)))
        last = min(rows - 1, int(np.ceil((by - y0) / cell - 0.5)) - 1)
        for i in range(first, last + 1):
            x = ax + (bx - ax) * ((y0 + (i + 0.5) * cell) - ay) / (by - ay)
            j = int(np.ceil((x - x0) / cell - 0.5))
            crossed[i, min(columns, max(0, j))] ^= 1
    for i in range(rows):
        inside = 0
        for j in range(columns):
            inside ^= crossed[i, j]
            if inside:
                mask[i, j] = 1
