"""Components of the solid, islands, and where they merge.

Each layer's components come from one sweep over neighbouring scan lines with a union-find; what touches what between
layers from a second. Then the components are read upwards as a merge tree: a body is born where a component has nothing
below it, and bodies merge where a component rests on several.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import CORES, both_cores, njit
from ..mesh.shells import find, join
from .grid import LayerGrid
from .runs import F8, I4, I8, LayerStack


@njit()
def _label(row_start: I8, x_in: I4, x_out: I4, rows: int, first: int, last: int, parent: I4, touch: int) -> int:
    """Unite runs of neighbouring scan lines that overlap by more than -touch; returns the number of components."""
    count = 0
    for layer in range(first, last):
        for j in range(1, rows):
            r = layer * rows + j
            a, a_end = row_start[r - 1], row_start[r]
            b, b_end = a_end, row_start[r + 1]
            while a < a_end and b < b_end:
                if min(x_out[a], x_out[b]) - max(x_in[a], x_in[b]) > -touch:
                    join(parent, a, b)
                if x_out[a] < x_out[b]:
                    a += 1
                else:
                    b += 1
        for q in range(row_start[layer * rows], row_start[(layer + 1) * rows]):
            if parent[q] == q:
                count += 1
    return count


@njit()
def _describe(
    row_start: I8,
    x_in: I4,
    x_out: I4,
    rows: int,
    first: int,
    last: int,
    parent: I4,
    name: int,
    component: I4,
    stats: F8,
    box: I4,
) -> None:
    """Name components from `name` on. stats: layer, area, moments x, y; box: x0, x1, j0, j1, longest run's x middle and
    j, its length.
    """
    for layer in range(first, last):
        for j in range(rows):
            r = layer * rows + j
            for q in range(row_start[r], row_start[r + 1]):
                root = find(parent, q)
                if root == q:  # roots are the smallest index of their set, so they come first
                    component[q] = name
                    stats[name, 0] = layer
                    box[name, 0], box[name, 1], box[name, 2], box[name, 3] = x_in[q], x_out[q], j, j
                    name += 1
                c = component[root]
                component[q] = c
                length = x_out[q] - x_in[q]
                stats[c, 1] += length
                stats[c, 2] += float(length) * (float(x_in[q]) + float(x_out[q])) / 2
                stats[c, 3] += float(length) * (j + 0.5)
                box[c, 0], box[c, 1] = min(box[c, 0], x_in[q]), max(box[c, 1], x_out[q])
                box[c, 3] = j
                if length > box[c, 6]:
                    box[c, 4], box[c, 5], box[c, 6] = (x_in[q] + x_out[q]) // 2, j, length


PAIRS_EACH = 4
"""Room for so many overlaps a component; noise that has more is read twice."""


@njit()
def _links(
    row_start: I8,
    x_in: I4,
    x_out: I4,
    rows: int,
    first: int,
    last: int,
    component: I4,
    met_a: I4,
    met_b: I4,
    out: I4,
) -> int:
    """Pairs (component above, component below) that overlap; those that `out` has no room for are only counted.

    `met_a` and `met_b` (components,) remember the last partner of each, which leaves out nearly all repeats.
    """
    n = 0
    met_a[:] = -1
    met_b[:] = -1
    for layer in range(max(first, 1), last):
        for j in range(rows):
            r = layer * rows + j
            a, a_end = row_start[r], row_start[r + 1]
            b, b_end = row_start[r - rows], row_start[r - rows + 1]
            while a < a_end and b < b_end:
                if min(x_out[a], x_out[b]) > max(x_in[a], x_in[b]):
                    ca, cb = component[a], component[b]
                    if met_a[ca] != cb and met_b[cb] != ca:
                        if n < len(out):
                            out[n, 0], out[n, 1] = ca, cb
                        n += 1
                    met_a[ca] = cb
                    met_b[cb] = ca
                if x_out[a] < x_out[b]:
                    a += 1
                else:
                    b += 1
    return n


@dataclass(frozen=True)
class Components:
    """Components in layer order. `layer`, `area` (mm²), `centre` (c, 2), `inside` (c, 2): a point inside, all mm.

    `of_run` (runs,) names each run's component. `links` (l, 2): (component, a component it overlaps in the layer
    below), sorted.
    """

    layer: I4
    area: F8
    centre: F8
    inside: F8
    width: F8
    of_run: I4
    links: I4


def _scaled(grid: LayerGrid, stats: F8, box: I4) -> tuple[F8, F8, F8, F8]:
    full = np.where(stats[:, 1] > 0, stats[:, 1], 1.0)
    centre = np.stack([grid.x0 + stats[:, 2] / full * grid.unit, grid.y0 + stats[:, 3] / full * grid.pitch], axis=1)
    inside = np.stack([grid.x0 + box[:, 4] * grid.unit, grid.y0 + (box[:, 5] + 0.5) * grid.pitch], axis=1)
    width = np.stack([(box[:, 1] - box[:, 0]) * grid.unit, (box[:, 3] - box[:, 2] + 1) * grid.pitch], axis=1)
    return stats[:, 1] * grid.unit * grid.pitch, centre, inside, width


def solid_components(stack: LayerStack) -> Components:
    """Components of every layer's solid (runs that touch, corners included) and their overlaps with the layer below."""
    grid = stack.grid
    parent = np.arange(len(stack.x_in), dtype=np.int32)
    data = (stack.row_start, stack.x_in, stack.x_out, grid.rows)
    parts = _even(grid.layers)
    counts = both_cores(lambda a, b: int(_label(*data, a, b, parent, 1)), parts)
    total = sum(counts)
    component = np.empty(len(parent), np.int32)
    stats, box = np.zeros((total, 4)), np.zeros((total, 7), np.int32)
    names = np.cumsum([0, *counts])
    both_cores(
        lambda a, b, n: _describe(*data, a, b, parent, n, component, stats, box),
        [(a, b, int(n)) for (a, b), n in zip(parts, names[:-1], strict=True)],
    )
    area, centre, inside, width = _scaled(grid, stats, box)
    return Components(
        stats[:, 0].astype(np.int32),
        area,
        centre,
        inside,
        width,
        component,
        _link_pairs(data, component, total, grid.layers),
    )


def _link_pairs(data: tuple[I8, I4, I4, int], component: I4, components: int, layers: int) -> I4:
    """Sorted, unique (component above, component below) pairs of runs that overlap between neighbouring layers."""

    def one(first: int, last: int, room: int) -> I4:
        met_a, met_b = np.empty(components, np.int32), np.empty(components, np.int32)
        out = np.empty((room, 2), np.int32)
        links = int(_links(*data, first, last, component, met_a, met_b, out))
        return out[:links] if links <= room else one(first, last, links)

    out = np.concatenate(both_cores(one, [(a, b, PAIRS_EACH * components + 1) for a, b in _even(layers)]))
    keys = np.unique(out[:, 0].astype(np.int64) << 32 | out[:, 1])
    return np.ascontiguousarray(np.stack([keys >> 32, keys & 0xFFFFFFFF], axis=1).astype(np.int32))


def _even(layers: int) -> list[tuple[int, int]]:
    marks = np.linspace(0, layers, CORES + 1).astype(int)
    return [(int(a), int(b)) for a, b in itertools.pairwise(marks) if b > a]


@dataclass(frozen=True)
class Island:
    """A part that starts in mid air. Lengths in mm, area in mm².

    (`x`, `y`) lies inside the island's first layer. `merge_layer` is where it first unites with another separately
    grown part, `joins_layer` where it unites with an older part or one that stands on the plate (the elder rule of
    merge trees), and `ground_layer` where what it belongs to first unites with something that stands on the plate; None
    for never. It is alone below `until_layer`: where it joins, or one above the last layer of what it grew into.
    """

    layer: int
    z: float
    x: float
    y: float
    area: float
    merge_layer: int | None
    joins_layer: int | None
    ground_layer: int | None
    until_layer: int
    component: int


@njit()
def _merge(layer: I4, link_start: I8, links: I4, body: I4, merge: I4, joins: I4, ground: I4) -> None:
    """Read the components upwards and fill `merge`, `joins` and `ground` (layer or -1) at the components that are
    islands.

    A body (a root of the union-find) is either grounded or keeps a chain of its islands that are not: head, next, tail.
    """
    n = len(layer)
    grounded = np.zeros(n, np.bool_)
    elder = np.full(n, -1, np.int32)  # the oldest island of a body that does not stand on the plate
    head, following, tail = np.full(n, -1, np.int32), np.full(n, -1, np.int32), np.full(n, -1, np.int32)
    for c in range(n):
        begin, end = link_start[c], link_start[c + 1]
        if begin == end:
            grounded[c] = layer[c] == 0
            if layer[c] > 0:
                head[c] = tail[c] = elder[c] = c
            continue
        one = find(body, links[begin, 1])
        several, any_ground = False, False
        oldest = n
        for q in range(begin, end):
            root = find(body, links[q, 1])
            several = several or root != one
            any_ground = any_ground or grounded[root]
            if elder[root] >= 0:
                oldest = min(oldest, elder[root])
        first_head, first_tail = -1, -1
        top = c
        for q in range(begin, end):
            root = find(body, links[q, 1])
            if several and head[root] >= 0 and merge[head[root]] < 0:
                merge[head[root]] = layer[c]  # a body with more than one island has merged before
            if elder[root] >= 0 and (any_ground or elder[root] != oldest):
                joins[elder[root]] = layer[c]
            elder[root] = -1
            if any_ground:
                here = head[root]
                while here >= 0:
                    ground[here] = layer[c]
                    here = following[here]
            elif head[root] >= 0:
                if first_head < 0:
                    first_head, first_tail = head[root], tail[root]
                else:
                    following[first_tail] = head[root]
                    first_tail = tail[root]
            head[root] = tail[root] = -1  # taken up: a second link to the same body adds nothing
            top = join(body, top, root)
        grounded[top] = any_ground
        head[top], tail[top] = first_head, first_tail
        elder[top] = -1 if any_ground or oldest == n else oldest


@njit()
def _tops(layer: I4, body: I4, top: I4) -> None:
    """Last layer of each component's body."""
    for c in range(len(layer)):
        root = find(body, c)
        top[root] = max(top[root], layer[c])
    for c in range(len(layer)):
        top[c] = top[find(body, c)]


GRAIN_MM2 = 0.004
"""Prior: an island of a smaller first layer than this is the grain of the scan lines when it joins or ends within two
layers.
"""
GRAIN_LAYERS = 2


def find_islands(stack: LayerStack, parts: Components, *, grain_mm2: float = 0.0) -> list[Island]:
    """Every island of a stack, lowest first. What starts in layer 0 stands on the plate and is none; nor is, below
    `grain_mm2`, an effect of the cut.
    """
    n = len(parts.layer)
    link_start = np.searchsorted(parts.links[:, 0], np.arange(n + 1)).astype(np.int64)
    merge, joins, ground = (np.full(n, -1, np.int32) for _ in range(3))
    body, top = np.arange(n, dtype=np.int32), np.zeros(n, np.int32)
    _merge(parts.layer, link_start, parts.links, body, merge, joins, ground)
    _tops(parts.layer, body, top)
    until = np.where(joins >= 0, joins, top + 1)
    grain = (parts.area < grain_mm2) & (until - parts.layer <= GRAIN_LAYERS)
    starts = np.flatnonzero((np.diff(link_start) == 0) & (parts.layer > 0) & ~grain)
    point = middles(stack, parts, starts)

    def or_none(value: np.int32) -> int | None:
        return int(value) if value >= 0 else None

    return [
        Island(
            layer=int(parts.layer[c]),
            z=float(parts.layer[c] * stack.grid.height),
            x=float(x),
            y=float(y),
            area=float(parts.area[c]),
            merge_layer=or_none(merge[c]),
            joins_layer=or_none(joins[c]),
            ground_layer=or_none(ground[c]),
            until_layer=int(until[c]),
            component=int(c),
        )
        for c, (x, y) in zip(starts, point, strict=True)
    ]


def runs_of(stack: LayerStack, parts: Components, component: int) -> F8:
    """(n, 3): y, first and last x in mm of one component's runs."""
    rows = stack.grid.rows
    layer = int(parts.layer[component])
    span = slice(int(stack.row_start[layer * rows]), int(stack.row_start[(layer + 1) * rows]))
    return np.asarray(stack.layer_runs(layer)[parts.of_run[span] == component])


@njit()
def _holds_centre(
    wanted: I8,
    layer: I4,
    centre: F8,
    row_start: I8,
    of_run: I4,
    x_in: I4,
    x_out: I4,
    rows: int,
    held: NDArray[np.bool_],
) -> None:
    """Whether each wanted component's centre (in scan lines and units) lies in one of its runs on a scan line that
    passes by it.
    """
    for k in range(len(wanted)):
        c = wanted[k]
        at = centre[k, 1] - 0.5
        for j in range(max(0, int(np.ceil(at - 0.5 - 1e-9))), min(rows - 1, int(np.floor(at + 0.5 + 1e-9))) + 1):
            r = layer[c] * rows + j
            for q in range(row_start[r], row_start[r + 1]):
                if of_run[q] == c and x_in[q] <= centre[k, 0] <= x_out[q]:
                    held[k] = True


def middles(stack: LayerStack, parts: Components, wanted: I8) -> F8:
    """(n, 2) mm: each component's centroid where that lies in it, else the middle of its longest run."""
    g = stack.grid
    centre = parts.centre[wanted]
    at = np.stack([(centre[:, 0] - g.x0) / g.unit, (centre[:, 1] - g.y0) / g.pitch], axis=1)
    held = np.zeros(len(wanted), np.bool_)
    _holds_centre(
        wanted.astype(np.int64), parts.layer, at, stack.row_start, parts.of_run, stack.x_in, stack.x_out, g.rows, held
    )
    return np.where(held[:, None], centre, parts.inside[wanted])
