"""Shapes nested on a plate: occupancy correlated with turned shapes by Fourier transforms, each laid where it reaches
least far from the front left corner.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from .footprint import F8, Polygon, grown, turned

B1 = NDArray[np.bool_]
CELL_MM = 0.5
"""Of the raster on which pieces are nested."""
TURNS = 16
"""So many turns of a piece are tried, where it may be turned."""


@dataclass(frozen=True)
class Shape:
    """Outlines about the piece's own origin; `turns` in degrees that it may take."""

    outlines: list[Polygon]
    turns: tuple[float, ...] = (0.0,)


@dataclass(frozen=True)
class Nested:
    """Where a shape lies: which, on which plate, its origin from the front left corner, and its turn."""

    shape: int
    plate: int
    x_mm: float
    y_mm: float
    turn_deg: float


@dataclass(frozen=True)
class Box:
    """A part of every plate that is kept free, from the front left corner."""

    x0_mm: float
    y0_mm: float
    x1_mm: float
    y1_mm: float


@dataclass
class _Board:
    """A plate as it fills: taken cells, and their transform where it is of use."""

    taken: B1
    spectrum: NDArray[np.complex128] | None = field(default=None)


@dataclass(frozen=True)
class _Turned:
    """A shape at one turn: its cells, their transform turned round, and where its first cell begins."""

    cells: B1
    spectrum: NDArray[np.complex128]
    low: F8
    turn: float


def nested(
    shapes: Sequence[Shape],
    size: tuple[float, float],
    gap: float,
    *,
    fixed: Sequence[Nested] = (),
    free: Sequence[Box] = (),
    most_plates: int = 100,
    cell: float = CELL_MM,
) -> tuple[list[Nested], list[int]]:
    """Lay shapes on plates of `size` mm, in the order in which they are given, at least `gap` mm apart; where each
    lies, and which fit none. `fixed`: where some lie already, and stay, whatever they touch; `free`: what is kept free
    on every plate.
    """
    rows, columns = int(size[1] / cell + 1e-9), int(size[0] / cell + 1e-9)
    bare = _bare((rows, columns), free, cell)
    boards: list[_Board] = []
    for at in fixed:
        while len(boards) <= at.plate:
            boards.append(_Board(bare.copy()))
        _cover(boards[at.plate].taken, shapes[at.shape], at, gap / 2, cell)
    stay = {at.shape for at in fixed}
    known: dict[int, list[_Turned]] = {}
    for shape in shapes:
        if id(shape) not in known:
            known[id(shape)] = _ways(shape, gap / 2, cell, (rows, columns))
    held = [known[id(shape)] for shape in shapes]
    laid: list[Nested] = list(fixed)
    left: list[int] = []
    for k, ways in enumerate(held):
        if k in stay:
            continue
        placed = None
        for plate in range(min(len(boards) + 1, most_plates)):
            if plate == len(boards):
                boards.append(_Board(bare.copy()))
            placed = _laid(boards[plate], ways)
            if placed is not None:
                way, i, j = placed
                h, w = way.cells.shape
                # What lies past the plate's edge is air around the shape, no part of it.
                a, b = max(0, -i), max(0, -j)
                c, d = min(h, rows - i), min(w, columns - j)
                boards[plate].taken[i + a : i + c, j + b : j + d] |= way.cells[a:c, b:d]
                boards[plate].spectrum = None
                origin = np.array([j, i]) * cell - way.low
                laid.append(Nested(k, plate, float(origin[0]), float(origin[1]), way.turn))
                break
        if placed is None:
            left.append(k)
            if len(boards) > 1 + max((at.plate for at in laid), default=-1):
                boards.pop()
    return laid, left


def _bare(shape: tuple[int, int], free: Sequence[Box], cell: float) -> B1:
    """An empty plate, but for what is kept free on it."""
    taken = np.zeros(shape, bool)
    for box in free:
        i0, i1 = max(0, int(box.y0_mm // cell)), int(np.ceil(box.y1_mm / cell))
        j0, j1 = max(0, int(box.x0_mm // cell)), int(np.ceil(box.x1_mm / cell))
        taken[i0:i1, j0:j1] = True
    return taken


def _cover(taken: B1, shape: Shape, at: Nested, by: float, cell: float) -> None:
    """Take the cells of a shape that lies there already, and of all within `by` mm of it."""
    rows, columns = taken.shape
    cells, low = grown([p + (at.x_mm, at.y_mm) for p in turned(shape.outlines, at.turn_deg)], by, cell)
    j, i = np.round(low / cell).astype(int).tolist()
    h, w = cells.shape
    a, b, c, d = max(0, -i), max(0, -j), min(h, rows - i), min(w, columns - j)
    if a < c and b < d:
        taken[i + a : i + c, j + b : j + d] |= cells[a:c, b:d]


def _ways(shape: Shape, by: float, cell: float, board: tuple[int, int]) -> list[_Turned]:
    """A shape at all its turns at which it fits the empty plate, the least tall first."""
    ways = []
    for turn in shape.turns:
        cells, low = grown(turned(shape.outlines, turn), by, cell)
        filled = np.argwhere(cells)
        (i0, j0), (i1, j1) = filled.min(axis=0), filled.max(axis=0) + 1
        cells = cells[i0:i1, j0:j1]
        if cells.shape[0] > board[0] or cells.shape[1] > board[1]:
            continue
        spectrum = fft.rfft2(cells[::-1, ::-1].astype(np.float32), _padded(board))
        ways.append(_Turned(cells, spectrum, low + np.array([j0, i0]) * cell, turn))
    return sorted(ways, key=lambda w: w.cells.shape[0])


def _padded(board: tuple[int, int]) -> tuple[int, int]:
    """As large as the plate: what wraps around lies where the shape would stick out, and is not looked at."""
    return fft.next_fast_len(board[0], real=True), fft.next_fast_len(board[1], real=True)


def _laid(board: _Board, ways: Sequence[_Turned]) -> tuple[_Turned, int, int] | None:
    """Of all places of all turns the one that reaches least far back, then least far to the right."""
    if not ways:
        return None
    rows, columns = board.taken.shape
    if board.spectrum is None:
        board.spectrum = fft.rfft2(board.taken.astype(np.float32), _padded((rows, columns)))
    best: tuple[tuple[int, int], _Turned, int, int] | None = None
    for way in ways:
        h, w = way.cells.shape
        if best is not None and h > best[0][0]:
            continue  # wherever it lies, it reaches farther
        over = fft.irfft2(board.spectrum * way.spectrum, _padded((rows, columns)))
        free = over[h - 1 : rows, w - 1 : columns] < 0.5
        lines = np.flatnonzero(free.any(axis=1))
        if not len(lines):
            continue
        i = int(lines[0])
        j = int(np.flatnonzero(free[i])[0])
        reach = (i + h, j + w)
        if best is None or reach < best[0]:
            best = (reach, way, i, j)
    return None if best is None else best[1:]
