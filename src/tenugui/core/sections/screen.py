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
F8 = NDArray[np.float64]
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
    """The band of a screen at one layer, grey, row after row from its topmost, which is row `first` of the screen: row
    j is dark up to at[start[j]], from at[k] on it is value[k] for start[j] <= k < start[j + 1], and dark again from
    the last, whose value is 0. `lit`: what its pixels sum to. The arrays are the next layer's afterwards.
    """

    layer: int
    first: int
    start: I8
    at: I4
    value: U1
    lit: int

    def area_mm2(self, screen: Screen) -> float:
        """What its pixels sum to."""
        return self.lit / FULL * screen.wide_mm * screen.tall_mm


@njit()
def _met(diff: F8, p: int, share: float, touched: I4, many: int) -> int:
    """Note a difference; how many pixels have one, each as often as it was met."""
    diff[p] += share
    touched[many] = p
    return many + 1


@njit()
def _sorted(touched: I4, many: int) -> None:
    """The first `many` in order: few, and nearly so."""
    for k in range(1, many):
        p, q = touched[k], k
        while q > 0 and touched[q - 1] > p:
            touched[q] = touched[q - 1]
            q -= 1
        touched[q] = p


@njit()
def _lit(
    runs: tuple[I8, I4, I4],
    first_row: int,
    offset: int,
    wide: float,
    columns: int,
    start: I8,
    at: I4,
    value: U1,
    room: tuple[F8, I4],
) -> int:
    """Grey of one layer: `first_row` of its runs, SUBLINES of them a row from the bottom up; x from `offset` run units
    on, a pixel `wide` of them. `start`, `at`, `value`: see `Raster`. Returns the sum.
    """
    row_start, x_in, x_out = runs
    diff, touched = room
    bands, lit, n = len(start) - 1, 0, 0
    for j in range(bands):
        start[j] = n
        many = 0
        for s in range(SUBLINES):
            r = first_row + (bands - 1 - j) * SUBLINES + s
            for q in range(row_start[r], row_start[r + 1]):
                a, b = (x_in[q] - offset) / wide, (x_out[q] - offset) / wide
                a, b = max(a, 0.0), min(b, float(columns))
                if b <= a:
                    continue
                p, e = int(a), min(int(b), columns - 1)
                # What a run covers of a pixel, as differences that a running sum turns into shares.
                if p == e:
                    many = _met(diff, p, b - a, touched, many)
                    many = _met(diff, p + 1, a - b, touched, many)
                else:
                    head, tail = p + 1 - a, b - e
                    many = _met(diff, p, head, touched, many)
                    many = _met(diff, p + 1, 1.0 - head, touched, many)
                    many = _met(diff, e, tail - 1.0, touched, many)
                    many = _met(diff, e + 1, -tail, touched, many)
        _sorted(touched, many)
        total, before, since = 0.0, 0, 0
        for k in range(many):
            p = touched[k]
            if k and touched[k - 1] == p:
                continue
            total += diff[p]
            diff[p] = 0.0
            grey = 0 if p >= columns else int(min(255.0, total * (255.0 / SUBLINES) + 0.5))
            if grey != before:
                lit += before * (p - since)
                at[n], value[n] = p, grey
                before, since, n = grey, p, n + 1
    start[bands] = n
    return lit


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
    start, room = np.zeros(bands + 1, np.int64), np.zeros(screen.columns + 2)
    for begin_at in range(first, last, slab):
        count = min(slab, last - begin_at)
        grid = LayerGrid(height, pitch, west * pitch, 0.0, count, lines)
        part = _between(Mesh(moved, mesh.faces), begin_at * height, (begin_at + count) * height)
        stack = cut(part, grid)
        # A run has four ends: where it begins and ends, each in a pixel and in the next.
        many = 4 * int(np.diff(stack.row_start[::lines][: count + 1]).max(initial=0)) + 4
        touched, at, value = np.empty(many, np.int32), np.empty(many, np.int32), np.empty(many, np.uint8)
        for k in range(count):
            lit = _lit(
                (stack.row_start, stack.x_in, stack.x_out),
                k * lines,
                -west * SUB,
                screen.wide_mm / pitch * SUB,
                screen.columns,
                start,
                at,
                value,
                (room, touched),
            )
            yield Raster(begin_at + k, screen.rows - end, start, at, value, int(lit))


def _between(mesh: Mesh, low: float, high: float) -> Mesh:
    """The faces of a mesh that reach between two heights, lowered by the first."""
    z = mesh.vertices[:, 2]
    corner = z[mesh.faces]
    near = (corner.max(axis=1) >= low) & (corner.min(axis=1) <= high)
    return Mesh(mesh.vertices - np.array([0.0, 0.0, low]), np.ascontiguousarray(mesh.faces[near]))
