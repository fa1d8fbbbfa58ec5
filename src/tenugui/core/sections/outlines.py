"""Closed outlines of a mesh at every layer's middle, chained from the very segments that runs are made of.

The two faces at an edge cut it at the same point to the last bit (see `layers.runs`), so ends are matched exactly and
every closed surface gives closed loops. What overlaps is united by the polygon library under the non-zero rule.
"""

from __future__ import annotations

import numpy as np
from manifold3d import CrossSection, FillRule
from numpy.typing import NDArray

from ..compiled import njit
from ..layers import LayerGrid
from ..layers.grid import SUB
from ..layers.runs import F4, F8, I8, segments_of
from ..mesh import Mesh
from .screen import SectionError

OPEN_SHARE = 1e-3
"""Prior: so few edges without an outline are the grain of the cut."""
X_BITS, Y_BITS = 4096.0, 1048576.0
"""Ends of segments as whole numbers: fine enough that what agrees to the last bit stays alike, and only that."""


@njit()
def _chain(
    segments: F4, keys: I8, order: I8, ends: I8, used: NDArray[np.bool_], points: I8, starts: I8
) -> tuple[int, int]:
    """Loops of one layer's segments: `points` names them in order, `starts` (loops + 1,) where each begins. Returns how
    many, and how many segments close to none; what closes to a point or a line is left out.
    """
    loops, n, open_ = 0, 0, 0
    count = len(segments)
    for first in range(count):
        if used[first]:
            continue
        begin, at = n, first
        closed = False
        while True:
            used[at] = True
            points[n] = at
            n += 1
            want = ends[at]
            if want == keys[first]:
                closed = True
                break
            low, high = 0, count
            while low < high:
                mid = (low + high) // 2
                if keys[order[mid]] < want:
                    low = mid + 1
                else:
                    high = mid
            next_one = -1
            while low < count and keys[order[low]] == want:
                if not used[order[low]]:
                    next_one = order[low]
                    break
                low += 1
            if next_one < 0:
                break
            at = next_one
        if closed and n - begin > 2:
            starts[loops] = begin
            loops += 1
            starts[loops] = n
        else:
            if not closed:
                open_ += n - begin
            n = begin
    return loops, open_


def outlines(mesh: Mesh, height: float, only: I8 | None = None) -> list[CrossSection]:
    """The section of a mesh in build coordinates at the middle of every layer, mm; or of the layers `only` (n,), empty
    where there are none.

    Raises:
        SectionError: `open-outline`: the surface has holes, and what they leave open would not be printed.
    """
    layers = int(np.ceil(mesh.upper[2] / height - 1e-9))
    grid = LayerGrid(height, 1.0, float(np.floor(mesh.lower[0])) - 1, float(np.floor(mesh.lower[1])) - 1, layers, 1)
    start, segments = segments_of(mesh, grid)
    sections, dropped, asked = [], 0, 0
    for k in range(layers) if only is None else only.tolist():
        mine = segments[start[k] : start[k + 1]] if 0 <= k < layers else segments[:0]
        section, open_ = _section(mine, grid)
        sections.append(section)
        dropped += open_
        asked += len(mine)
    if dropped > OPEN_SHARE * asked:
        raise SectionError(
            "open-outline",
            f"{dropped:,} of {asked:,} cut edges belong to outlines that do not close: the surface has holes.",
            "all layers",
            "Mend the figure in the fold Size, or make a new surface around it.",
        )
    return sections


GRAINS = 1_000_000
"""Heights of layers are told apart to a millionth of a mm."""


def outlines_at(mesh: Mesh, tops: F8, only: I8 | None = None) -> list[CrossSection]:
    """The section of a mesh at the middle of every layer, where each has a height of its own: whole numbers of one
    grain, `tops` (layers,) mm; or of the layers `only` (n,), the others empty.

    Cut on the grid of that grain: what is an odd number of grains thick at its planes, the others with the mesh moved
    up by half of one.

    Raises:
        SectionError: `open-outline`, as for `outlines`; `no-grain`: heights that have no grain that could be cut.
    """
    heights = np.round(np.diff(tops, prepend=0.0) * GRAINS).astype(np.int64)
    grain = int(np.gcd.reduce(heights)) if len(heights) else GRAINS
    if len(heights) and (grain < LEAST_GRAIN * GRAINS or heights.min() <= 0):
        raise SectionError(
            "no-grain",
            "The heights of layers are no whole numbers of a common step.",
            remedy="Choose heights that are multiples of the motor's step.",
        )
    thick = heights // grain
    middles2 = 2 * np.cumsum(thick) - thick  # in half grains from the plate
    sections = [CrossSection()] * len(heights)
    asked = np.ones(len(heights), np.bool_) if only is None else np.isin(np.arange(len(heights)), only)
    for even in (0, 1):
        mine = np.flatnonzero(((thick % 2 == 0) == bool(even)) & asked)
        if not len(mine):
            continue
        moved = Mesh(mesh.vertices + np.array([0.0, 0.0, even * grain / GRAINS / 2]), mesh.faces)
        cut = outlines(moved, grain / GRAINS, (middles2[mine] - 1 + even) // 2)
        for k, section in zip(mine.tolist(), cut, strict=True):
            sections[k] = section
    return sections


LEAST_GRAIN = 0.002
"""In mm: a finer one would cut a figure in tens of thousands of planes."""


def _section(segments: F4, grid: LayerGrid) -> tuple[CrossSection, int]:
    """The section of one layer, and how many of its segments close to no outline."""
    if not len(segments):
        return CrossSection(), 0
    tails, heads = (_names(segments[:, k : k + 2]) for k in (0, 2))
    order = np.argsort(tails, kind="stable")
    points, starts = np.empty(len(segments), np.int64), np.empty(len(segments) + 1, np.int64)
    loops, open_ = _chain(segments, tails, order, heads, np.zeros(len(segments), np.bool_), points, starts)
    at = np.column_stack([segments[:, 0] / SUB * grid.pitch + grid.x0, (segments[:, 1] + 0.5) * grid.pitch + grid.y0])
    loops_at = [at[points[starts[k] : starts[k + 1]]].astype(float) for k in range(loops)]
    return CrossSection(loops_at, FillRule.NonZero), int(open_)


def _names(ends: F4) -> I8:
    """One whole number for each end (n, 2)."""
    x, y = (np.round(ends[:, k].astype(float) * bits).astype(np.int64) for k, bits in ((0, X_BITS), (1, Y_BITS)))
    return np.asarray((x << 31) + y)


def loops_of(section: CrossSection) -> list[F8]:
    """Closed outlines (n, 2): outer ones counter-clockwise, holes clockwise."""
    return [np.asarray(loop, float) for loop in section.to_polygons()]
