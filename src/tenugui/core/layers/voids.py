"""The empty space between the runs: what seals against the film while printing, and what stays trapped.

Only gaps between two runs of a scan line need names; everything left of the first run, right of the last, and on empty
scan lines is outside. Gaps are 4-connected. The gap after run q is named by q.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import CORES, both_cores, njit
from ..mesh.shells import find, join
from .runs import F8, I4, I8, LayerStack

MIN_SEALED_MM3 = 0.05
"""Prior: sealed or trapped space below this volume is the grain of the scan lines, not a cup; it is left out of the
lists.
"""

OUTSIDE = -1
FAR = np.int32(2**30)


@njit()
def _label(
    row_start: I8, x_in: I4, x_out: I4, rows: int, first: int, last: int, parent: I4, vented: NDArray[np.bool_]
) -> None:
    """Unite gaps within each layer; a set is vented when any of its gaps lies beside the outside."""
    for layer in range(first, last):
        for j in range(1, rows):
            r = layer * rows + j
            a0, a1 = row_start[r - 1], row_start[r]
            b0, b1 = a1, row_start[r + 1]
            if a1 - a0 <= 1 and b1 - b0 <= 1:
                continue
            a, b = a0 - 1, b0 - 1  # gap a lies between runs a and a + 1; the first and last gaps of a row are outside
            while a < a1 and b < b1:
                a_in = -FAR if a < a0 else x_out[a]
                a_end = FAR if a == a1 - 1 or a1 == a0 else x_in[a + 1]
                b_in = -FAR if b < b0 else x_out[b]
                b_end = FAR if b == b1 - 1 or b1 == b0 else x_in[b + 1]
                if min(a_end, b_end) > max(a_in, b_in):
                    a_free = a < a0 or a_end == FAR
                    b_free = b < b0 or b_end == FAR
                    if not a_free and not b_free:
                        ra, rb = find(parent, a), find(parent, b)
                        free = vented[ra] or vented[rb]
                        vented[join(parent, ra, rb)] = free
                    elif a_free and not b_free:
                        vented[find(parent, b)] = True
                    elif b_free and not a_free:
                        vented[find(parent, a)] = True
                if a_end == FAR and b_end == FAR:
                    break
                if a_end < b_end:
                    a += 1
                else:
                    b += 1


@njit()
def _name(
    row_start: I8, rows: int, layers: int, parent: I4, vented: NDArray[np.bool_], component: I4, layer_of: I4
) -> int:
    """Number the sets that are not vented in their own layer; -1 for the rest."""
    count = 0
    for layer in range(layers):
        for j in range(rows):
            r = layer * rows + j
            for q in range(row_start[r], row_start[r + 1] - 1):
                root = find(parent, q)
                if vented[root]:
                    continue
                if root == q:
                    component[q] = count
                    layer_of[count] = layer
                    count += 1
                component[q] = component[root]
    return count


@njit()
def _areas(row_start: I8, x_in: I4, x_out: I4, component: I4, out: F8) -> None:
    for r in range(len(row_start) - 1):
        for q in range(row_start[r], row_start[r + 1] - 1):
            if component[q] >= 0:
                out[component[q]] += x_in[q + 1] - x_out[q]


@njit()
def _links(row_start: I8, x_in: I4, x_out: I4, rows: int, layers: int, component: I4, out: I4, write: bool) -> int:
    """Overlaps between neighbouring layers' gaps of which at least one is named: (above or -1, below or -1)."""
    n = 0
    pa, pb = -2, -2
    for layer in range(1, layers):
        for j in range(rows):
            r = layer * rows + j
            a0, a1 = row_start[r], row_start[r + 1]
            b0, b1 = row_start[r - rows], row_start[r - rows + 1]
            if a1 - a0 <= 1 and b1 - b0 <= 1:
                continue
            a, b = a0 - 1, b0 - 1
            while a < a1 and b < b1:
                a_in = -FAR if a < a0 else x_out[a]
                a_end = FAR if a == a1 - 1 or a1 == a0 else x_in[a + 1]
                b_in = -FAR if b < b0 else x_out[b]
                b_end = FAR if b == b1 - 1 or b1 == b0 else x_in[b + 1]
                if min(a_end, b_end) > max(a_in, b_in):
                    ca = -1 if a < a0 or a_end == FAR else component[a]
                    cb = -1 if b < b0 or b_end == FAR else component[b]
                    if (ca >= 0 or cb >= 0) and (ca != pa or cb != pb):
                        if write:
                            out[n, 0], out[n, 1] = ca, cb
                        n += 1
                        pa, pb = ca, cb
                if a_end == FAR and b_end == FAR:
                    break
                if a_end < b_end:
                    a += 1
                else:
                    b += 1
    return n


@njit()
def _rise(
    layer_of: I4,
    order: I8,
    links: I4,
    layers: int,
    body: I4,
    open_print: NDArray[np.bool_],
    open_part: NDArray[np.bool_],
    sealed: NDArray[np.bool_],
    cup: I4,
) -> None:
    """Sweep upwards. body: sets of connected empty space; cup: sets of sealed components only."""
    at = 0
    c = 0
    count = len(layer_of)
    for layer in range(layers):
        while at < len(order) and _upper(layer_of, links, order[at]) == layer:
            a, b = links[order[at], 0], links[order[at], 1]
            if a >= 0 and b >= 0:
                ra, rb = find(body, a), find(body, b)
                p, q = open_print[ra] or open_print[rb], open_part[ra] or open_part[rb]
                top = join(body, ra, rb)
                open_print[top], open_part[top] = p, q
            else:
                root = find(body, a if a >= 0 else b)
                open_print[root] = True
                open_part[root] = True
            at += 1
        while c < count and layer_of[c] == layer:
            sealed[c] = not open_print[find(body, c)]
            c += 1
    for i in range(len(order)):
        a, b = links[order[i], 0], links[order[i], 1]
        if a >= 0 and b >= 0 and sealed[a] and sealed[b]:
            join(cup, a, b)


@njit()
def _upper(layer_of: I4, links: I4, i: int) -> int:
    return layer_of[links[i, 0]] if links[i, 0] >= 0 else layer_of[links[i, 1]] + 1


@dataclass(frozen=True)
class SealedSpace:
    """A cup: sealed against the film from `first_layer` to `last_layer`; mm² and mm³. `area` by layer from the first
    on.
    """

    first_layer: int
    last_layer: int
    peak_area: float
    volume: float
    area: F8
    x: float
    y: float


@dataclass(frozen=True)
class TrappedSpace:
    """Empty space with no way out of the finished part: mm³, its lowest and highest mm, and a point (x, y) of its
    widest gap.
    """

    volume: float
    z_low: float
    z_high: float
    x: float
    y: float


@dataclass(frozen=True)
class Voids:
    """Sealed and trapped space, largest first, and `sealed_area` (layers,): mm² sealed at each layer, small ones
    included.
    """

    sealed: list[SealedSpace]
    trapped: list[TrappedSpace]
    sealed_area: F8


def find_voids(stack: LayerStack, smallest_mm3: float = MIN_SEALED_MM3) -> Voids:
    """Sealed space (the plate closes what lies on it) and trapped space (what lay on the plate is open once
    taken off).
    """
    grid = stack.grid
    data = (stack.row_start, stack.x_in, stack.x_out, grid.rows)
    parent, vented = np.arange(len(stack.x_in), dtype=np.int32), np.zeros(len(stack.x_in), np.bool_)
    marks = np.linspace(0, grid.layers, CORES + 1).astype(int)
    both_cores(
        lambda a, b: _label(*data, a, b, parent, vented),
        [(int(a), int(b)) for a, b in itertools.pairwise(marks) if b > a],
    )
    component, layer_of = np.full(len(parent), OUTSIDE, np.int32), np.empty(len(parent), np.int32)
    count = int(_name(stack.row_start, grid.rows, grid.layers, parent, vented, component, layer_of))
    layer_of = layer_of[:count].copy()
    area = np.zeros(count)
    _areas(stack.row_start, stack.x_in, stack.x_out, component, area)
    area *= grid.unit * grid.pitch
    links = np.empty((int(_links(*data, grid.layers, component, np.empty((0, 2), np.int32), False)), 2), np.int32)
    _links(*data, grid.layers, component, links, True)
    upper = np.where(
        links[:, 0] >= 0, layer_of[links[:, 0]] if count else 0, (layer_of[links[:, 1]] if count else 0) + 1
    )
    body, cup = np.arange(count, dtype=np.int32), np.arange(count, dtype=np.int32)
    open_print, open_part = np.zeros(count, np.bool_), (layer_of == 0) | (layer_of == grid.layers - 1)
    sealed = np.zeros(count, np.bool_)
    _rise(layer_of, np.argsort(upper, kind="stable"), links, grid.layers, body, open_print, open_part, sealed, cup)
    roots = np.array([find(cup, i) for i in range(count)], np.int64)
    bodies = np.array([find(body, i) for i in range(count)], np.int64)
    first_gap = np.full(count, -1, np.int64)
    named = np.flatnonzero(component >= 0)[::-1]
    first_gap[component[named]] = named
    cups = _cups(stack, roots, sealed, layer_of=layer_of, area=area, first_gap=first_gap, smallest=smallest_mm3)
    sealed_area = np.bincount(layer_of[sealed], area[sealed], grid.layers).astype(np.float64)
    return Voids(
        cups,
        _trapped(stack, bodies, open_part, layer_of=layer_of, area=area, first_gap=first_gap, smallest=smallest_mm3),
        sealed_area,
    )


def _place(stack: LayerStack, gap: int) -> tuple[float, float]:
    """Middle of the gap after run `gap`, in mm."""
    grid = stack.grid
    row = int(np.searchsorted(stack.row_start, gap, side="right")) - 1
    return float(grid.x0 + (stack.x_out[gap] + stack.x_in[gap + 1]) / 2 * grid.unit), float(
        grid.y0 + (row % grid.rows + 0.5) * grid.pitch
    )


def _cups(
    stack: LayerStack, roots: I8, sealed: NDArray[np.bool_], *, layer_of: I4, area: F8, first_gap: I8, smallest: float
) -> list[SealedSpace]:
    grid = stack.grid
    cups = []
    volume = np.bincount(roots[sealed], area[sealed], len(roots)) * grid.height
    for root in np.flatnonzero(volume >= smallest):
        members = np.flatnonzero((roots == root) & sealed)
        by_layer = np.bincount(layer_of[members], area[members]).astype(np.float64)
        low, high = int(layer_of[members].min()), int(layer_of[members].max())
        x, y = _place(stack, int(first_gap[members[np.argmax(area[members])]]))
        cups.append(SealedSpace(low, high, float(by_layer.max()), float(volume[root]), by_layer[low:], x, y))
    return sorted(cups, key=lambda cup: -cup.volume)


def _trapped(
    stack: LayerStack,
    bodies: I8,
    open_part: NDArray[np.bool_],
    *,
    layer_of: I4,
    area: F8,
    first_gap: I8,
    smallest: float,
) -> list[TrappedSpace]:
    if not len(bodies):
        return []
    height = stack.grid.height
    closed = ~open_part[bodies]
    volume = np.bincount(bodies[closed], area[closed], len(bodies)) * height
    spaces = []
    for root in np.flatnonzero(volume >= smallest):
        members = np.flatnonzero(bodies == root)
        layers = layer_of[members]
        place = _place(stack, int(first_gap[members[np.argmax(area[members])]]))
        spaces.append(
            TrappedSpace(float(volume[root]), float(layers.min() * height), float((layers.max() + 1) * height), *place)
        )
    return sorted(spaces, key=lambda space: -space.volume)
