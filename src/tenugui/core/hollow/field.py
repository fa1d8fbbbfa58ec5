"""How deep every cell of a figure lies below its surface: the field from which cavities are cut.

Along x the ends of runs are exact; along y and z cells are counted. A distance transform that looks only as far as it
is asked needs no lower
envelopes (Felzenszwalb and Huttenlocher 2012): the least of a few shifted lines is a loop that the processor does eight
    cells at a time.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import both_cores, njit, stretches
from ..layers import cut, grid_for
from ..layers.grid import SUB
from ..mesh import Mesh, surface_samples

F4 = NDArray[np.float32]
F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
I8 = NDArray[np.int64]
MOST_CELLS = 24_000_000
"""Cells of a field: 100 MB of 32-bit floats."""
FINEST_MM = 0.12
CELLS_A_WALL = 9.0
"""A wall is at least so many cells thick where the figure is not too large for it."""


@dataclass(frozen=True)
class Field:
    """`depth` (nz, ny, nx) in mm below the surface, 0 outside, exact to a cell up to `reach` and at least that beyond;
    cell (0, 0, 0)'s middle lies at `origin` (x, y, z) in the mesh's frame.
    """

    pitch: float
    origin: F8
    depth: F4
    reach: float

    def place(self, cells: NDArray[np.float64]) -> F8:
        """Points (n, 3) of places (n, 3) counted in cells along z, y, x."""
        return np.asarray(self.origin + cells[:, ::-1] * self.pitch)

    def cell(self, points: F8) -> I8:
        """Cells (n, 3) along z, y, x that hold points (n, 3), at the field's rim where they lie beyond it."""
        at = np.rint((np.asarray(points) - self.origin) / self.pitch).astype(np.int64)[:, ::-1]
        return np.asarray(np.clip(at, 0, np.array(self.depth.shape) - 1))


def pitch_for(size: F8, wall: float) -> float:
    """The cell's width in mm for a figure of this size and a wall: CELLS_A_WALL to it, as far as MOST_CELLS allow."""
    return max(wall / CELLS_A_WALL, FINEST_MM, float((float(np.prod(size)) / MOST_CELLS) ** (1 / 3)))


@njit()
def _across(row_start: I8, x_in: I4, x_out: I4, rows: int, first: int, last: int, square: F4, pitch: float) -> None:
    """Squared distance of every inside cell to the nearer end of its run, layers [first, last)."""
    for layer in range(first, last):
        for row in range(rows):
            line = layer * rows + row
            for r in range(row_start[line], row_start[line + 1]):
                a, b = x_in[r] / SUB, x_out[r] / SUB
                for x in range(max(0, int(np.ceil(a - 0.5))), min(int(b - 0.5) + 1, square.shape[2] - 2)):
                    near = min(x + 0.5 - a, b - x - 0.5) * pitch
                    if near > 0:
                        square[layer + 1, row + 1, x + 1] = near * near


@njit()
def _shifted_cells(square: F4, first: int, last: int, most: int, unit: float) -> None:
    """Least over cells of a row up to `most` away, layers [first, last), in place: what was marked is seen from beside
    it.
    """
    ny, nx = square.shape[1], square.shape[2]
    line = np.empty(nx, np.float32)
    for z in range(first, last):
        for y in range(ny):
            line[:] = square[z, y, :]
            for k in range(1, min(most, nx - 1) + 1):
                far = np.float32(k * k * unit * unit)
                for x in range(nx - k):
                    square[z, y, x] = min(square[z, y, x], line[x + k] + far)
                    square[z, y, x + k] = min(square[z, y, x + k], line[x] + far)


@njit()
def _line(field: F4, layers: bool, a: int, b: int) -> F4:
    """A line of cells: row a of layer b where layers are walked, else row b of layer a."""
    return field[b, a] if layers else field[a, b]


@njit()
def _shifted(square: F4, layers: bool, first: int, last: int, most: int, unit: float, rim: float, out: F4) -> None:
    """Least over layers, or over rows, up to `most` away, `rim` counting beyond the field; rows, or layers, [first,
    last).
    """
    count = square.shape[0] if layers else square.shape[1]
    for a in range(first, last):
        for b in range(count):
            line = _line(out, layers, a, b)
            line[:] = _line(square, layers, a, b)
            for k in range(1, most + 1):
                far = np.float32(k * k * unit * unit)
                for other in (b - k, b + k):
                    if 0 <= other < count:
                        beside = _line(square, layers, a, other)
                        for x in range(len(line)):
                            line[x] = min(line[x], beside[x] + far)
                    else:
                        for x in range(len(line)):
                            line[x] = min(line[x], far + np.float32(rim))


HIDDEN = 1.3
"""Cells: a point of the surface that seems to lie deeper than this lies in a crevice between two scan lines."""


def _crevices(placed: Mesh, x0: float, y0: float, pitch: float, square: F4) -> I8:
    """Cells (n, 3) that hold a point of the surface and yet seem deep: `square` is the transform that has not seen
    them.
    """
    points, _ = surface_samples(placed, 0.9 * pitch, most=1_500_000)
    points = np.concatenate(
        [points, placed.vertices]
    )  # what is smaller than the samples are apart has corners all the same
    at = np.floor((points - [x0, y0, 0.0]) / pitch).astype(np.int64)[:, ::-1] + 1
    deep = square[at[:, 0], at[:, 1], at[:, 2]] > (HIDDEN * pitch) ** 2
    return np.asarray(np.unique(at[deep], axis=0))


@njit()
def _seen_from(square: F4, cells: I8, first: int, last: int, most: int, pitch: float) -> None:
    """Depths, layers [first, last), that these cells of the surface bring down, each in the ball around it; then what
    was squared is no more.
    """
    unit = np.float32(pitch * pitch)
    for i in range(len(cells)):
        z0, y0, x0 = cells[i, 0], cells[i, 1], cells[i, 2]
        for z in range(max(first, z0 - most), min(last, z0 + most + 1)):
            high = most * most - (z - z0) ** 2
            wide = int(np.sqrt(high))
            for y in range(max(0, y0 - wide), min(square.shape[1], y0 + wide + 1)):
                left = (z - z0) ** 2 + (y - y0) ** 2
                deep = int(np.sqrt(most * most - left))
                line = square[z, y]
                for x in range(max(0, x0 - deep), min(len(line), x0 + deep + 1)):
                    line[x] = min(line[x], np.float32(left + (x - x0) ** 2 + 0.25) * unit)
    for z in range(first, last):
        for y in range(square.shape[1]):
            line = square[z, y]
            for x in range(len(line)):
                line[x] = np.sqrt(line[x])


def _transform(square: F4, other: F4, most: int, pitch: float, rim: float = 0.0) -> None:
    """Squared distances along x made those along all three axes, bounded; `other` is room, `rim` what lies beyond the
    field.
    """
    both_cores(lambda a, b: _shifted(square, False, a, b, most, pitch, rim, other), stretches(square.shape[0]))
    both_cores(lambda a, b: _shifted(other, True, a, b, most, pitch, rim, square), stretches(square.shape[1]))


def far_within(inside: NDArray[np.bool_], pitch: float, reach: float) -> F4:
    """Distance in mm of every cell to the nearest that is not `inside`, exact up to `reach` and at least that beyond;
    beyond the field nothing counts.
    """
    most = math.ceil(reach / pitch) + 1
    beyond = ((most + 1) * pitch) ** 2
    square = np.where(inside, np.float32(beyond), np.float32(0.0))
    both_cores(lambda a, b: _shifted_cells(square, a, b, most, pitch), stretches(square.shape[0]))
    _transform(square, np.empty_like(square), most, pitch, beyond)
    return np.asarray(np.sqrt(square))


def depth_field(mesh: Mesh, pitch: float, reach: float) -> Field:
    """The field of a closed mesh, exact up to `reach` mm. O(cells x reach / pitch).

    Raises:
        LayerError: `too-many-layers` where the figure is too large for the pitch.
    """
    placed = mesh.dropped()
    grid = grid_for(placed, pitch, pitch)
    stack = cut(placed, grid)
    columns = math.ceil((placed.upper[0] - grid.x0) / pitch) + 3
    shape = (grid.layers + 2, grid.rows + 2, columns)
    one, other = np.zeros(shape, np.float32), np.empty(shape, np.float32)
    both_cores(
        lambda a, b: _across(stack.row_start, stack.x_in, stack.x_out, grid.rows, a, b, one, pitch),
        stretches(grid.layers),
    )
    most = math.ceil(reach / pitch) + 1
    _transform(one, other, most, pitch)
    hidden = _crevices(placed, grid.x0, grid.y0, pitch, one)
    both_cores(lambda a, b: _seen_from(one, hidden, a, b, most, pitch), stretches(shape[0]))
    shift = mesh.vertices[0] - placed.vertices[0]
    origin = np.array([grid.x0 - 0.5 * pitch, grid.y0 - 0.5 * pitch, -0.5 * pitch]) + shift
    return Field(pitch, origin, one, reach)
