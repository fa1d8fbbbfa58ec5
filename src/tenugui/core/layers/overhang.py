"""Overhang: what each layer puts outside the layer below grown by the allowed step."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np

from ..compiled import CORES, both_cores, njit
from .bridges import rise_of, spanned
from .runs import F8, I4, I8, LayerStack

LANDS_MM = 1.0
"""Prior: what hangs no higher over something solid sags onto it."""
SAMPLE = 2
"""Scan lines from one place that is asked for a bridge to the next."""


@njit()
def _lies_below(row_start: I8, x_in: I4, x_out: I4, rows: int, layer: int, j: int, x: float, drop: int) -> bool:
    """Whether a place of a layer has anything below it within `drop` layers."""
    for k in range(max(0, layer - drop), layer):
        r = k * rows + j
        for q in range(row_start[r], row_start[r + 1]):
            if x_in[q] <= x < x_out[q]:
                return True
    return layer - drop <= 0


@njit()
def _lies_in(held: F8, x: float, y: float) -> bool:
    """Whether a place lies in any of some discs."""
    for k in range(len(held)):
        dx, dy = x - held[k, 0], y - held[k, 1]
        if dx * dx + dy * dy <= held[k, 2] * held[k, 2]:
            return True
    return False


@njit()
def _hang(
    row_start: I8,
    x_in: I4,
    x_out: I4,
    rows: int,
    first: int,
    last: int,
    reach: I4,
    bridges: tuple[float, int],
    scale: float,
    drop: int,
    component: I4,
    by_layer: F8,
    by_component: F8,
    lands: F8,
    longest: F8,
    held: F8,
) -> None:
    """reach[d]: half width, in run units, of the allowed disc d scan lines from its centre; lengths left over are
    summed, but for what `bridges` (a span in scan lines of `scale` run units each, a rise in layers) from bank to bank,
    and for what lies in discs that hold it: `held` (h, 3), middles and radius in scan lines. `longest` (components, 3):
    the longest piece of each and its middle, in run units and scan lines.
    """
    cells = len(reach)
    span, rise = bridges
    piece_in, piece_out = np.empty(4096, np.int32), np.empty(4096, np.int32)
    for layer in range(max(first, 1), last):
        for j in range(rows):
            r = layer * rows + j
            for q in range(row_start[r], row_start[r + 1]):
                piece_in[0], piece_out[0] = x_in[q], x_out[q]
                pieces = 1
                for step in range(2 * cells - 1):
                    # 0, +1, -1, +2, -2 ...: the row straight below covers nearly everything at once
                    d = (step + 1) // 2
                    jj = j + d if step % 2 else j - d
                    if jj < 0 or jj >= rows:
                        continue
                    s = (layer - 1) * rows + jj
                    for u in range(row_start[s], row_start[s + 1]):
                        lo, hi = x_in[u] - reach[d], x_out[u] + reach[d]
                        if hi <= piece_in[0] or lo >= piece_out[pieces - 1]:
                            continue
                        kept = pieces
                        p = 0
                        while p < kept:
                            a, b = piece_in[p], piece_out[p]
                            if hi <= a or lo >= b:
                                p += 1
                            elif lo <= a and hi >= b:
                                for m in range(p, kept - 1):
                                    piece_in[m], piece_out[m] = piece_in[m + 1], piece_out[m + 1]
                                kept -= 1
                            elif lo <= a:
                                piece_in[p] = hi
                                p += 1
                            elif hi >= b:
                                piece_out[p] = lo
                                p += 1
                            else:
                                if kept < 4096:
                                    for m in range(kept, p, -1):
                                        piece_in[m], piece_out[m] = piece_in[m - 1], piece_out[m - 1]
                                    piece_out[p], piece_in[p + 1] = lo, hi
                                    kept += 1
                                p += 2
                        pieces = kept
                        if pieces == 0:
                            break
                    if pieces == 0:
                        break
                length, low = 0.0, 0.0
                for p in range(pieces):
                    wide = piece_out[p] - piece_in[p]
                    samples = max(1, int(wide / (SAMPLE * scale)))
                    mine, middle = 0.0, 0.0
                    for k in range(samples):
                        x = piece_in[p] + (k + 0.5) * wide / samples
                        if span > 0 and spanned(row_start, x_in, x_out, rows, layer, x, j, scale, span, rise):
                            continue
                        if len(held) and _lies_in(held, x / scale, float(j)):
                            continue
                        mine += wide / samples
                        middle += x * wide / samples
                        if _lies_below(row_start, x_in, x_out, rows, layer, j, x, drop):
                            low += wide / samples
                    length += mine
                    c = component[q]
                    if mine > longest[c, 0]:
                        longest[c, 0], longest[c, 1], longest[c, 2] = mine, middle / mine, j
                lands[component[q]] += low
                if length:
                    by_layer[layer] += length
                    by_component[component[q]] += length


@dataclass(frozen=True)
class Overhang:
    """mm² beyond the allowed step that no bridge spans: `by_layer` (layers,), `by_component` (components,); of that,
    what has something solid or the plate within LANDS_MM below it: `lands` (components,); `places` (components, 2):
    where each hangs over most, in build coordinates. Islands count with their whole area. `step_mm`, `bridge_mm`: by
    which it was read.
    """

    by_layer: F8
    by_component: F8
    lands: F8
    places: F8
    step_mm: float
    bridge_mm: float

    @property
    def total(self) -> float:
        """mm² over all layers."""
        return float(self.by_layer.sum())


NOTHING_HELD = np.empty((0, 3))


def _summed(
    stack: LayerStack,
    component: I4,
    components: int,
    *,
    step_mm: float,
    bridge_mm: float,
    low: int,
    high: int,
    held: F8,
) -> tuple[F8, F8, F8, F8]:
    """mm² by layer and by component of layers low to high, of these what has something closely below it, and where each
    component hangs over most.
    """
    grid = stack.grid
    cells = int(step_mm / grid.pitch) + 1
    offsets = np.arange(cells) * grid.pitch
    reach = (np.sqrt(np.maximum(step_mm**2 - offsets**2, 0)) / grid.unit).astype(np.int32)
    by_layer = np.zeros(grid.layers)
    marks = np.linspace(low, high, CORES + 1).astype(int)
    shares = [(np.zeros(components), np.zeros(components), np.zeros((components, 3))) for _ in range(CORES)]
    drop = max(1, round(LANDS_MM / grid.height))
    jobs = [(int(a), int(b), *shares[i]) for i, (a, b) in enumerate(itertools.pairwise(marks))]
    scale = grid.pitch / grid.unit
    both_cores(
        lambda a, b, out, low, longest: _hang(
            stack.row_start,
            stack.x_in,
            stack.x_out,
            grid.rows,
            a,
            b,
            reach,
            (bridge_mm / grid.pitch, rise_of(grid.height)),
            scale,
            drop,
            component,
            by_layer,
            out,
            low,
            longest,
            held,
        ),
        jobs,
    )
    area = grid.unit * grid.pitch
    # A component lies in one layer, and each layer is read by one core.
    whole, lands, longest = (np.sum([s[k] for s in shares], axis=0) for k in range(3))
    places = np.column_stack([grid.x0 + longest[:, 1] * grid.unit, grid.y0 + (longest[:, 2] + 0.5) * grid.pitch])
    return by_layer * area, whole * area, lands * area, places


def overhang(stack: LayerStack, component: I4, components: int, step_mm: float, bridge_mm: float = 0.0) -> Overhang:
    """Area of each layer outside the layer below grown by a disc of `step_mm`, but for what lines of at most
    `bridge_mm` bridge; layer 0 rests on the plate.
    """
    summed = _summed(
        stack,
        component,
        components,
        step_mm=step_mm,
        bridge_mm=bridge_mm,
        low=0,
        high=stack.grid.layers,
        held=NOTHING_HELD,
    )
    return Overhang(*summed, step_mm, bridge_mm)


def left_over(
    stack: LayerStack, component: I4, hang: Overhang, *, layers: tuple[int, int], points: F8, radius_mm: F8
) -> tuple[F8, F8, F8]:
    """What was read as `hang`, by component (components,) of some layers, less what lies within `radius_mm` (n,) of
    contacts (n, 2) in build coordinates, cell by cell; of that what has something closely below it; and where it hangs
    over most (components, 2).
    """
    grid = stack.grid
    holds = np.empty((len(points), 3))
    holds[:, 0], holds[:, 1] = (points[:, 0] - grid.x0) / grid.pitch, (points[:, 1] - grid.y0) / grid.pitch - 0.5
    holds[:, 2] = radius_mm / grid.pitch
    many = len(hang.by_component)
    _, *left = _summed(
        stack,
        component,
        many,
        step_mm=hang.step_mm,
        bridge_mm=hang.bridge_mm,
        low=layers[0],
        high=layers[1],
        held=holds,
    )
    return left[0], left[1], left[2]
