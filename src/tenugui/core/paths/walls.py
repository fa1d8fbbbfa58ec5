"""Walls of a filament figure: which slopes its perimeters and roofs leave open, and what its necks bear.

Terms. *Step*: how far a layer's outline retreats from the one below it on a slope, h / tan α, α above the horizontal.
*Open*: n perimeters of width w do not cover the step (n w < h / tan α) and what is left of it is narrower than a line,
so that no roof line can be drawn there either. *Neck*: the section of a figure that a push at the far end of what it
carries breaks first.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from ..layers import Proof
from ..mesh import Mesh

F8 = NDArray[np.float64]
I8 = NDArray[np.int64]
I4 = NDArray[np.int32]
MOST_PERIMETERS = 8
BOND_MPA = 20.0
"""Prior: what the weld between two layers takes in tension; the weakest part of most filament prints."""
NECK_SHARE = 0.002
"""Prior: what carries less than this share of the figure is a detail and no part."""
CURED_SHARE = 0.2
"""Prior: slopes count as closed where so much of what was open is left."""
STUB = 2.0
"""Prior: a neck carries something at least so many times as tall as it is wide, or it is no neck."""


@dataclass(frozen=True)
class Walls:
    """Perimeters, thickness of roofs and floors in mm, and the share of the inside that is filled."""

    perimeters: int
    roof_mm: float
    infill: float


@dataclass(frozen=True)
class Slopes:
    """Areas in mm², plain and by what a mark makes of them: `open_mm2` and `open_weighed`; `roofed_mm2` that roof lines
    close; and |n_z| between which it opens.
    """

    open_mm2: float
    open_weighed: float
    roofed_mm2: float
    lean: tuple[float, float]


@dataclass(frozen=True)
class Weakest:
    """The neck that breaks first: its place in mm, its width, how tall what it carries is, the push in N at its end
    that breaks it, and solid the same.
    """

    x: float
    y: float
    z: float
    width_mm: float
    carries_mm: float
    bears_n: float
    solid_n: float


def lean_of(step_mm: float, height: float) -> float:
    """|n_z| of the slope whose step is so long at a layer height: tan α = h / s, and |n_z| = cos α.

    >>> round(lean_of(1.0, 1.0), 6)
    0.707107
    """
    return step_mm / math.hypot(step_mm, height)


def open_lean(walls: Walls, line_mm: float, height: float) -> tuple[float, float]:
    """|n_z| between which slopes open; both alike where everything inside is filled anyway."""
    low = lean_of(walls.perimeters * line_mm, height)
    if walls.infill >= 1:
        return low, low
    return low, lean_of((walls.perimeters + 1) * line_mm, height) if walls.roof_mm >= height else 1.0


def slopes(mesh: Mesh, weights: F8 | None, walls: Walls, line_mm: float, height: float) -> Slopes:
    """What stays open of a posed figure, and what its roofs and floors must close; `weights` (n,) of its faces by their
    marks.
    """
    normal, area = mesh.normals_and_areas()
    lean = np.abs(normal[:, 2])
    low, high = open_lean(walls, line_mm, height)
    gap = (lean > low) & (lean < high)
    light = np.ones(len(area)) if weights is None else weights
    roofed = (lean >= high) & (normal[:, 2] > 0)
    return Slopes(float(area[gap].sum()), float((area * light)[gap].sum()), float(area[roofed].sum()), (low, high))


def cure(mesh: Mesh, weights: F8 | None, walls: Walls, line_mm: float, height: float) -> int:
    """The fewest perimeters, no fewer than there are, that leave at most CURED_SHARE of the open surface, by its marks;
    as many where more do not help.
    """
    now = slopes(mesh, weights, walls, line_mm, height).open_weighed
    for n in range(walls.perimeters + 1, MOST_PERIMETERS + 1):
        more = Walls(n, walls.roof_mm, walls.infill)
        if slopes(mesh, weights, more, line_mm, height).open_weighed <= CURED_SHARE * now:
            return n
    return walls.perimeters


def solid_share(width: F8, walls: Walls, line_mm: float) -> F8:
    """The share of a round section's strength in bending that n perimeters and infill leave it: 1 - (1 - f) (1 - 2 n w
    / D)⁴.

    >>> solid_share(np.array([2.0, 10.0]), Walls(2, 0.8, 0.0), 0.5).round(4).tolist()
    [1.0, 0.5904]
    """
    inner = np.clip(1 - 2 * walls.perimeters * line_mm / np.maximum(width, 1e-9), 0.0, 1.0)
    return np.asarray(1 - (1 - min(walls.infill, 1.0)) * inner**4)


@njit()
def _carried(links: I4, link_start: I8, layer: I4, area: F8, top: I4, volume: F8, rooted: NDArray[np.bool_]) -> None:
    """The highest layer and the volume (in area) that rest on each component through nothing else, and whether it
    stands on the plate itself.

    What stands on two is carried by neither alone; the underside of what starts in mid air hangs from above.
    """
    n = len(layer)
    for c in range(n):
        top[c], volume[c] = layer[c], area[c]
        rooted[c] = layer[c] == layer[0]
        for q in range(link_start[c], link_start[c + 1]):
            rooted[c] |= rooted[links[q, 1]]
    for c in range(n - 1, -1, -1):
        if link_start[c + 1] - link_start[c] != 1:
            continue
        below = links[link_start[c], 1]
        top[below] = max(top[below], top[c])
        volume[below] += volume[c]


def necks_of(proof: Proof) -> F8:
    """Sections that carry a part of the figure (k, 6): x, y, z, width, height of what they carry in mm, area in mm²;
    `proof` is the figure's own.
    """
    parts, height = proof.components, proof.stack.grid.height
    n = len(parts.layer)
    if not n:
        return np.empty((0, 6))
    link_start = np.searchsorted(parts.links[:, 0], np.arange(n + 1)).astype(np.int64)
    top, volume, rooted = np.zeros(n, np.int32), np.zeros(n), np.zeros(n, np.bool_)
    _carried(parts.links, link_start, parts.layer, parts.area, top, volume, rooted)
    narrow = np.minimum(parts.width.min(axis=1), np.sqrt(parts.area) * 1.13)
    tall = (top - parts.layer) * height
    # The last layers over a neck are no lever, and a crumb is no part.
    part = rooted & (volume > NECK_SHARE * parts.area.sum()) & (tall > STUB * narrow) & (parts.layer > parts.layer[0])
    return np.column_stack([parts.centre[part], parts.layer[part] * height, narrow[part], tall[part], parts.area[part]])


def weakest(necks: F8, walls: Walls, line_mm: float) -> Weakest | None:
    """Of `necks_of`, the one that the least push breaks: σ A D / 8 over the height of what it carries, less what its
    inside lacks; None for none.
    """
    if not len(necks):
        return None
    x, y, z, width, tall, area = necks.T
    solid = BOND_MPA * area * width / 8 / tall
    bears = solid * solid_share(width, walls, line_mm)
    k = int(np.argmin(bears))
    return Weakest(*(float(v[k]) for v in (x, y, z, width, tall, bears, solid)))
