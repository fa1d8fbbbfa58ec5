"""From triangles to runs: cut at every layer's middle, inside by the non-zero winding number.

How it is made exact. Whether a vertex lies above a cut is decided once, by an integer per vertex; a cut edge is always
interpolated from its lower to its upper vertex, and the direction of each segment follows from the faces' turning. So
the two faces at an edge agree to the last bit, every closed surface gives closed contours, and the winding numbers of
every scan line sum to zero whatever the rounding. Contours need no sorting or chaining: each segment drops its
crossings into its scan lines.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import CORES, both_cores, njit
from ..mesh import Mesh
from .grid import SUB, LayerError, LayerGrid, covering

MAX_CROSSINGS = 120_000_000
"""Of scan lines with the surface: a figure of a million triangles has some 20 million. Beyond it a tangle would fill
the memory, and is refused.
"""
I4 = NDArray[np.int32]
I8 = NDArray[np.int64]
F4 = NDArray[np.float32]
F8 = NDArray[np.float64]


@njit()
def _count_segments(level: I4, faces: I4, layers: int, change: I8) -> None:
    for f in range(len(faces)):
        a, b, c = level[faces[f, 0]], level[faces[f, 1]], level[faces[f, 2]]
        low = max(min(a, b, c), -1)
        high = min(max(a, b, c), layers - 1)
        if high > low:
            change[low + 1] += 1
            change[high + 1] -= 1


@njit()
def _fill_segments(
    v: F8,
    faces: I4,
    level: I4,
    grid: tuple[float, float, float, float],
    first: int,
    last: int,
    at: I8,
    segments: F4,
    crossings: I8,
) -> None:
    """Segments of layers [first, last): ends as (x in run units, y in scan lines), directed with the solid on
    the left.
    """
    height, x0, y0, pitch = grid
    for f in range(len(faces)):
        i, j, k = faces[f, 0], faces[f, 1], faces[f, 2]
        a, b, c = level[i], level[j], level[k]
        if a == b and b == c:
            continue
        # Turn the face, keeping its orientation, until i is strictly lowest or strictly highest alone on its side.
        low, high = min(a, b, c), max(a, b, c)
        for layer in range(max(low + 1, first), min(high, last - 1) + 1):
            z = (layer + 0.5) * height
            # The vertex that is alone on its side of the cut, and the other two in the face's order.
            ua, ub, uc = a >= layer, b >= layer, c >= layer
            if ub == uc:
                s, t, u, alone_up = i, j, k, ua
            elif ua == uc:
                s, t, u, alone_up = j, k, i, ub
            else:
                s, t, u, alone_up = k, i, j, uc
            if alone_up:
                w = (z - v[t, 2]) / (v[s, 2] - v[t, 2])
                px, py = v[t, 0] + w * (v[s, 0] - v[t, 0]), v[t, 1] + w * (v[s, 1] - v[t, 1])
                w = (z - v[u, 2]) / (v[s, 2] - v[u, 2])
                qx, qy = v[u, 0] + w * (v[s, 0] - v[u, 0]), v[u, 1] + w * (v[s, 1] - v[u, 1])
            else:
                w = (z - v[s, 2]) / (v[u, 2] - v[s, 2])
                px, py = v[s, 0] + w * (v[u, 0] - v[s, 0]), v[s, 1] + w * (v[u, 1] - v[s, 1])
                w = (z - v[s, 2]) / (v[t, 2] - v[s, 2])
                qx, qy = v[s, 0] + w * (v[t, 0] - v[s, 0]), v[s, 1] + w * (v[t, 1] - v[s, 1])
            n = at[layer]
            at[layer] = n + 1
            ya, yb = np.float32((py - y0) / pitch - 0.5), np.float32((qy - y0) / pitch - 0.5)
            segments[n, 0] = np.float32((px - x0) / pitch * SUB)
            segments[n, 1] = ya
            segments[n, 2] = np.float32((qx - x0) / pitch * SUB)
            segments[n, 3] = yb
            crossings[layer] += abs(int(np.floor(yb)) - int(np.floor(ya)))


@njit()
def _sweep(segments: F4, start: I8, first: int, last: int, rows: int, base: I8, counts: I4, x_in: I4, x_out: I4) -> int:
    """Runs of layers [first, last), each layer's from base[layer] on; counts per scan line. Returns the scan lines left
    open.
    """
    fill = np.zeros(rows + 1, np.int32)
    keys = np.empty(16, np.int32)
    open_rows = 0
    for layer in range(first, last):
        fill[:] = 0
        for s in range(start[layer], start[layer + 1]):
            ja, jb = int(np.floor(segments[s, 1])), int(np.floor(segments[s, 3]))
            for j in range(min(ja, jb) + 1, max(ja, jb) + 1):
                fill[j + 1] += 1
        for j in range(rows):
            fill[j + 1] += fill[j]
        total = fill[rows]
        if total > len(keys):
            keys = np.empty(total * 2, np.int32)
        for s in range(start[layer], start[layer + 1]):
            xa, ya, xb, yb = segments[s, 0], segments[s, 1], segments[s, 2], segments[s, 3]
            ja, jb = int(np.floor(ya)), int(np.floor(yb))
            if ja == jb:
                continue
            slope = (xb - xa) / (yb - ya)
            lowest, highest = min(xa, xb), max(xa, xb)
            # Going down in y with the solid on the left means entering it along +x.
            bit = 0 if jb < ja else 1
            for j in range(min(ja, jb) + 1, max(ja, jb) + 1):
                x = min(max(xa + (np.float32(j) - ya) * slope, lowest), highest)
                keys[fill[j]] = (np.int32(np.floor(x + np.float32(0.5))) << 1) | bit
                fill[j] += 1
        n = base[layer]
        begin = 0
        for j in range(rows):
            end = fill[j]
            if end - begin > 48:
                keys[begin:end].sort()
            else:
                for q in range(begin + 1, end):
                    key = keys[q]
                    r = q - 1
                    while r >= begin and keys[r] > key:
                        keys[r + 1] = keys[r]
                        r -= 1
                    keys[r + 1] = key
            winding = 0
            row_start = n
            for q in range(begin, end):
                x = keys[q] >> 1
                before = winding
                winding += 1 - 2 * (keys[q] & 1)
                if before == 0:
                    if n > row_start and x_out[n - 1] == x:
                        n -= 1  # abutting runs are one
                    else:
                        x_in[n] = x
                elif winding == 0:
                    x_out[n] = x
                    if x > x_in[n]:
                        n += 1
            if winding != 0:
                open_rows += 1
            counts[layer * rows + j] = n - row_start
            begin = end
    return open_rows


@njit()
def _compact(base: I8, counts: I4, rows: int, x_in: I4, x_out: I4, row_start: I8) -> int:
    n = 0
    for layer in range(len(base) - 1):
        source = base[layer]
        for j in range(rows):
            row_start[layer * rows + j] = n
            for _ in range(counts[layer * rows + j]):
                x_in[n], x_out[n] = x_in[source], x_out[source]
                n += 1
                source += 1
    row_start[-1] = n
    return n


@njit()
def _layer_sums(row_start: I8, x_in: I4, x_out: I4, rows: int, out: F8) -> None:
    """Per layer: total run length, first moments in x and y, in run units and scan lines."""
    for layer in range(len(out)):
        for j in range(rows):
            r = layer * rows + j
            for q in range(row_start[r], row_start[r + 1]):
                length = float(x_out[q] - x_in[q])
                out[layer, 0] += length
                out[layer, 1] += length * (float(x_out[q]) + float(x_in[q])) / 2
                out[layer, 2] += length * (j + 0.5)


@njit()
def _laid(
    layers: int,
    rows: int,
    a: tuple[I8, I4, I4],
    b: tuple[I8, I4, I4],
    b_size: tuple[int, int],
    shift: tuple[int, int],
    row_start: I8,
    x_in: I4,
    x_out: I4,
) -> int:
    """The union of two stacks' runs, line by line; `a` lies on the grid itself, `b` of (layers, rows) is shifted by
    (run units, lines).
    """
    n = 0
    for layer in range(layers):
        for j in range(rows):
            r = layer * rows + j
            begin = n
            row_start[r] = n
            p, p_end = a[0][r], a[0][r + 1]
            k = j - shift[1]
            if layer < b_size[0] and 0 <= k < b_size[1]:
                q, q_end = b[0][layer * b_size[1] + k], b[0][layer * b_size[1] + k + 1]
            else:
                q, q_end = 0, 0
            while p < p_end or q < q_end:
                if q >= q_end or (p < p_end and a[1][p] <= b[1][q] + shift[0]):
                    first, last = a[1][p], a[2][p]
                    p += 1
                else:
                    first, last = b[1][q] + shift[0], b[2][q] + shift[0]
                    q += 1
                if n > begin and first <= x_out[n - 1]:
                    x_out[n - 1] = max(x_out[n - 1], last)
                else:
                    x_in[n], x_out[n] = first, last
                    n += 1
    row_start[layers * rows] = n
    return n


@dataclass(frozen=True)
class LayerStack:
    """Runs of every layer. Scan line j of layer k is row r = k * rows + j, with runs row_start[r] to row_start[r + 1].

    `x_in`, `x_out` are int32 in steps of `grid.unit` from `grid.x0`. `contour_mm` (layers,) is the length of the cut
    surfaces. `open_rows` counts scan lines on which a surface with holes left the winding number open; their unfinished
    run is dropped.
    """

    grid: LayerGrid
    row_start: I8
    x_in: I4
    x_out: I4
    contour_mm: F8
    open_rows: int

    def sums(self) -> F8:
        """(layers, 3): area in mm², centroid x and y in mm (0 where the layer is empty)."""
        g = self.grid
        out = np.zeros((g.layers, 3))
        _layer_sums(self.row_start, self.x_in, self.x_out, g.rows, out)
        full = np.where(out[:, 0] > 0, out[:, 0], 1.0)
        return np.stack(
            [
                out[:, 0] * g.unit * g.pitch,
                np.where(out[:, 0] > 0, g.x0 + out[:, 1] / full * g.unit, 0),
                np.where(out[:, 0] > 0, g.y0 + out[:, 2] / full * g.pitch, 0),
            ],
            axis=1,
        )

    def areas(self) -> F8:
        """(layers,) area of each layer in mm²."""
        return np.asarray(self.sums()[:, 0])

    def volume(self) -> float:
        """Volume in mm³."""
        return float(self.areas().sum() * self.grid.height)

    def layer_runs(self, layer: int) -> NDArray[np.float64]:
        """(n, 3): scan line's y, first and last x in mm of every run of one layer."""
        g = self.grid
        rows = self.row_start[layer * g.rows : (layer + 1) * g.rows + 1]
        span = slice(int(rows[0]), int(rows[-1]))
        line = np.repeat(np.arange(g.rows), np.diff(rows))
        return np.stack(
            [g.y0 + (line + 0.5) * g.pitch, g.x0 + self.x_in[span] * g.unit, g.x0 + self.x_out[span] * g.unit], axis=1
        )


def segments_of(mesh: Mesh, grid: LayerGrid) -> tuple[I8, F4]:
    """The cut of a mesh at every layer's middle: where each layer's segments begin (layers + 1,), and their ends (n, 4)
    as (x in run units, y in scan lines) twice, the solid on the left.
    """
    start, segments, _ = _segments(mesh, grid)
    return start, segments


def _segments(mesh: Mesh, grid: LayerGrid) -> tuple[I8, F4, I8]:
    v = np.ascontiguousarray(mesh.vertices)
    level = np.floor(v[:, 2] / grid.height - 0.5).clip(-2, grid.layers).astype(np.int32)
    change = np.zeros(grid.layers + 1, np.int64)
    _count_segments(level, mesh.faces, grid.layers, change)
    start = np.zeros(grid.layers + 1, np.int64)
    np.cumsum(np.cumsum(change)[:-1], out=start[1:])
    segments = np.empty((int(start[-1]), 4), np.float32)
    crossings = np.zeros(grid.layers, np.int64)
    at = start[:-1].copy()
    frame = (grid.height, grid.x0, grid.y0, grid.pitch)
    parts = _shares(start, grid.layers)
    both_cores(lambda a, b: _fill_segments(v, mesh.faces, level, frame, a, b, at, segments, crossings), parts)
    return start, segments, crossings


def cut(mesh: Mesh, grid: LayerGrid) -> LayerStack:
    """Cut a mesh in build coordinates into runs: O(triangles + crossings), both cores, memory of a few times the runs.

    Raises:
        LayerError: `too-intricate`.
    """
    start, segments, crossings = _segments(mesh, grid)
    if (many := int(crossings.sum())) > MAX_CROSSINGS:
        raise LayerError(
            "too-intricate",
            f"The layers cross the surface {many:,} times; this engine proves {MAX_CROSSINGS:,} at once.",
            f"{len(mesh.faces):,} faces at {grid.height:g} mm",
            "Decimate the figure, make it smaller, or choose a coarser height.",
        )
    parts = _shares(start, grid.layers)
    base = np.zeros(grid.layers + 1, np.int64)
    np.cumsum(crossings // 2 + 1, out=base[1:])
    counts = np.zeros(grid.layers * grid.rows, np.int32)
    x_in, x_out = np.empty(int(base[-1]), np.int32), np.empty(int(base[-1]), np.int32)
    open_rows = sum(
        both_cores(lambda a, b: int(_sweep(segments, start, a, b, grid.rows, base, counts, x_in, x_out)), parts)
    )
    row_start = np.empty(len(counts) + 1, np.int64)
    used = int(_compact(base, counts, grid.rows, x_in, x_out, row_start))
    lengths = np.hypot(
        (segments[:, 2] - segments[:, 0]) * np.float32(grid.unit),
        (segments[:, 3] - segments[:, 1]) * np.float32(grid.pitch),
    )
    total = np.concatenate([[0.0], np.cumsum(lengths, dtype=np.float64)])
    return LayerStack(grid, row_start, x_in[:used], x_out[:used], total[start[1:]] - total[start[:-1]], open_rows)


def cut_onto(stack: LayerStack, mesh: Mesh) -> LayerStack:
    """A stack with another mesh in it too: only the mesh is cut. What either holds is held; contours inside the other
    count as well.
    """
    grid = covering(stack.grid, mesh)
    new = cut(mesh, grid)
    dx, dy = grid.offset(stack.grid)
    room = len(stack.x_in) + len(new.x_in)
    row_start, x_in, x_out = np.empty(len(new.row_start), np.int64), np.empty(room, np.int32), np.empty(room, np.int32)
    used = _laid(
        grid.layers,
        grid.rows,
        (new.row_start, new.x_in, new.x_out),
        (stack.row_start, stack.x_in, stack.x_out),
        (stack.grid.layers, stack.grid.rows),
        (dx * SUB, dy),
        row_start,
        x_in,
        x_out,
    )
    contours = new.contour_mm.copy()
    contours[: stack.grid.layers] += stack.contour_mm
    return LayerStack(grid, row_start, x_in[:used], x_out[:used], contours, stack.open_rows + new.open_rows)


def _shares(start: I8, layers: int) -> list[tuple[int, int]]:
    """Split the layers into one share a core with equal numbers of segments."""
    marks = np.searchsorted(start, np.linspace(0, start[-1], CORES + 1)).clip(0, layers)
    marks[0], marks[-1] = 0, layers
    return [(int(a), int(b)) for a, b in itertools.pairwise(marks) if b > a]
