"""Layers at a screen's own pixels, with grey at their edges: a pixel's value is the share of it that is solid.

Straight from runs: each pixel row is cut on SUBLINES scan lines, whose ends are exact to a 256th of their distance, so
nothing is drawn larger and shrunk.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from ..errors import CoreError
from ..layers import LayerGrid, cut
from ..layers.grid import MAX_ROWS, SUB
from ..machines import ResinPrinter
from ..mesh import Mesh

U1 = NDArray[np.uint8]
I4 = NDArray[np.int32]
I8 = NDArray[np.int64]
SUBLINES = 4
FULL = 255
MARGIN_LINES = 2


class SectionError(CoreError):
    """Layers that a machine cannot show."""


@dataclass(frozen=True)
class Screen:
    """Pixels across and down, and their size in mm. The build's x runs along a row from the left, its y from the bottom
    row up; the middle of the build is the middle of the screen.
    """

    columns: int
    rows: int
    wide_mm: float
    tall_mm: float

    @classmethod
    def of(cls, printer: ResinPrinter) -> Screen:
        """A printer's screen."""
        (columns, rows), (x, y, _) = printer.pixels, printer.build_mm
        return cls(columns, rows, x / columns, y / rows)

    @property
    def corner(self) -> tuple[float, float]:
        """Where the screen's lower left corner lies in build coordinates whose middle is 0, mm."""
        return -self.columns * self.wide_mm / 2, -self.rows * self.tall_mm / 2


@dataclass(frozen=True)
class Raster:
    """The band of a screen (rows, columns) at one layer, grey, its first row the topmost; `first`: that row's number
    from the top of the screen.
    """

    layer: int
    first: int
    grey: U1

    def area_mm2(self, screen: Screen) -> float:
        """What its pixels sum to."""
        return float(self.grey.sum(dtype=np.int64)) / FULL * screen.wide_mm * screen.tall_mm


@njit()
def _lit(
    row_start: I8,
    x_in: I4,
    x_out: I4,
    first_row: int,
    bands: int,
    offset: int,
    wide: float,
    out: U1,
    diff: NDArray[np.float64],
) -> None:
    """Grey of one layer: `first_row` of its runs, SUBLINES of them a row of `out` from the bottom up; x from `offset`
    run units on, a pixel `wide` of them.
    """
    columns = out.shape[1]
    for band in range(bands):
        target = out[bands - 1 - band]
        target[:] = 0
        low, high = columns, -1
        for s in range(SUBLINES):
            r = first_row + band * SUBLINES + s
            for q in range(row_start[r], row_start[r + 1]):
                a, b = (x_in[q] - offset) / wide, (x_out[q] - offset) / wide
                a, b = max(a, 0.0), min(b, float(columns))
                if b <= a:
                    continue
                p, e = int(a), min(int(b), columns - 1)
                low, high = min(low, p), max(high, e)
                # What a run covers of a pixel, as differences that a running sum turns into shares.
                if p == e:
                    diff[p] += b - a
                    diff[p + 1] -= b - a
                else:
                    head, tail = p + 1 - a, b - e
                    diff[p] += head
                    diff[p + 1] += 1.0 - head
                    diff[e] -= 1.0 - tail
                    diff[e + 1] -= tail
        total = 0.0
        for p in range(low, high + 1):
            total += diff[p]
            target[p] = np.uint8(min(255.0, total * (255.0 / SUBLINES) + 0.5))
            diff[p] = 0.0
        if high >= 0:
            diff[high + 1] = 0.0


def rasters(mesh: Mesh, height: float, screen: Screen, *, first: int = 0, last: int | None = None) -> Iterator[Raster]:
    """The layers [first, last) of a mesh in build coordinates, whose middle is 0, one after the other; all in one band.

    Cut a slab at a time: memory of some hundred layers whatever the print's height.

    Raises:
        SectionError: `off-screen`: the figure reaches beyond the pixels.
    """
    left, bottom = screen.corner
    low, high = mesh.lower, mesh.upper
    if low[0] < left or low[1] < bottom or high[0] > -left or high[1] > -bottom:
        raise SectionError(
            "off-screen",
            f"The print reaches from {low[0]:.1f}, {low[1]:.1f} to {high[0]:.1f}, {high[1]:.1f} "
            f"mm; the screen from {left:.1f}, {bottom:.1f} to {-left:.1f}, {-bottom:.1f}.",
            "the plate",
            "Move it to the middle of the plate, make it smaller, or turn it.",
        )
    pitch = screen.tall_mm / SUBLINES
    begin = int((low[1] - bottom) / screen.tall_mm)
    end = min(screen.rows, int(np.ceil((high[1] - bottom) / screen.tall_mm)))
    bands = max(end - begin, 1)
    lines = bands * SUBLINES
    layers = int(np.ceil(high[2] / height - 1e-9))
    last = layers if last is None else min(last, layers)
    slab = max(1, min(256, MAX_ROWS // lines))
    # The grid begins a whole number of pitches from its own zero, which is put where the band begins.
    moved = mesh.vertices - np.array([left, bottom + begin * screen.tall_mm, 0.0])
    west = int(np.floor(moved[:, 0].min() / pitch)) - 1
    grey, diff = np.zeros((bands, screen.columns), np.uint8), np.zeros(screen.columns + 2)
    for start in range(first, last, slab):
        count = min(slab, last - start)
        grid = LayerGrid(height, pitch, west * pitch, 0.0, count, lines)
        part = _between(Mesh(moved, mesh.faces), start * height, (start + count) * height)
        stack = cut(part, grid)
        for k in range(count):
            _lit(
                stack.row_start,
                stack.x_in,
                stack.x_out,
                k * lines,
                bands,
                -west * SUB,
                screen.wide_mm / pitch * SUB,
                grey,
                diff,
            )
            yield Raster(start + k, screen.rows - end, grey)


def _between(mesh: Mesh, low: float, high: float) -> Mesh:
    """The faces of a mesh that reach between two heights, lowered by the first."""
    z = mesh.vertices[:, 2]
    corner = z[mesh.faces]
    near = (corner.max(axis=1) >= low) & (corner.min(axis=1) <= high)
    return Mesh(mesh.vertices - np.array([0.0, 0.0, low]), np.ascontiguousarray(mesh.faces[near]))
