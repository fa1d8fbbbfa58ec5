"""Where a path will show: strings across open air, loops that begin where it is seen, layers so short that they are
slowed to cool.

Counted from the very moves of the path. How many of them leave something is the machine's and the filament's: no chance
is put on them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .drive import Path
from .inside import Inside
from .lines import OUTER, TRAVEL
from .seams import SHOWS, Seen

F8 = NDArray[np.float64]
I8 = NDArray[np.int64]
AIR_MM = 1.0
"""Prior: across less of open air nothing is drawn out."""
ON_MM = 1.0
"""A move ends on the figure where its surface is so near."""
STRETCH_MM, MOST = 2.0, 6
"""Places are told apart by so much of height, and so many of each kind are named."""


@dataclass(frozen=True)
class Spot:
    """`count` blemishes of a kind within STRETCH_MM of height, most of them in `layer` (from 0), where one is at (x, y)
    mm.
    """

    code: str
    layer: int
    x: float
    y: float
    count: int


@dataclass(frozen=True)
class Blemishes:
    """`strings` drawn across `air_mm` of open air, `near` of them at what is seen; `starts` of outermost lines, `shown`
    of them where it is seen; `slowed` layers; and the worst places, most first.
    """

    strings: int
    air_mm: float
    near: int
    starts: int
    shown: int
    slowed: int
    spots: list[Spot]


def open_air(path: Path, insides: Sequence[Inside]) -> F8:
    """(n,) mm of open air that each move crosses with the filament drawn back, by the figure's own sections (layers,);
    0 for all others.
    """
    lengths = np.zeros(len(path.kind))
    drawn = np.flatnonzero(path.drawn)
    ways = np.hstack([path.points[drawn, :2], path.points[drawn + 1, :2]])
    bounds = np.searchsorted(path.layer[drawn], np.arange(path.layers + 1))
    for inside, first, last in zip(insides, bounds[:-1], bounds[1:], strict=True):
        lengths[drawn[first:last]] = inside.airs(ways[first:last])
    return lengths


def blemishes_of(path: Path, seen: Seen | None, least_layer_s: float) -> Blemishes:
    """Read a path whose `air` is known; `seen` where it is printed."""
    air = np.zeros(len(path.kind)) if path.air is None else path.air
    strings = np.flatnonzero(air > AIR_MM)
    ends = np.stack([path.points[strings], path.points[strings + 1]])
    near = np.zeros(len(strings), np.bool_)
    for points in ends:
        near |= _shown(seen, points)
    # An outermost line begins after the travel to it.
    begins = np.flatnonzero((path.kind[:-1] == TRAVEL) & (path.kind[1:] == OUTER)) if len(path.kind) else strings
    at = path.points[begins + 1]
    shown = _shown(seen, at)
    slowed = (path.unslowed > 0) & (path.unslowed < least_layer_s)
    spots = _worst("string", path, strings[near], ends[1][near]) + _worst("start", path, begins[shown], at[shown])
    runs = np.flatnonzero(np.diff(np.concatenate([[False], slowed, [False]]).astype(np.int8))).reshape(-1, 2)
    for first, last in sorted(runs.tolist(), key=lambda r: r[0] - r[1])[:MOST]:
        x, y, _ = path.points[1 + int(np.searchsorted(path.layer, first))].tolist()
        spots.append(Spot("slowed", int(first), x, y, int(last - first)))
    return Blemishes(
        len(strings),
        float(air[strings].sum()),
        int(near.sum()),
        len(begins),
        int(shown.sum()),
        int(slowed.sum()),
        spots,
    )


def _shown(seen: Seen | None, points: F8) -> NDArray[np.bool_]:
    """Of points (n, 3) those on the figure where it is looked at."""
    if not len(points) or seen is None:
        return np.zeros(len(points), np.bool_)
    cost, far = seen.near(points)
    return np.asarray((far <= ON_MM) & (cost >= SHOWS))


def _worst(code: str, path: Path, moves: I8, at: F8) -> list[Spot]:
    """Where most of some moves are, by stretches of height."""
    if not len(moves):
        return []
    stretch = (at[:, 2] / STRETCH_MM).astype(np.int64)
    spots = []
    for s in np.unique(stretch):
        mine = np.flatnonzero(stretch == s)
        layers = path.layer[moves[mine]]
        layer = int(np.bincount(layers).argmax())
        first = mine[int(np.flatnonzero(layers == layer)[0])]
        spots.append(Spot(code, layer, float(at[first, 0]), float(at[first, 1]), len(mine)))
    return sorted(spots, key=lambda spot: -spot.count)[:MOST]
