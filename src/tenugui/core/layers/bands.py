"""Layers of more than one height: thick where no step is seen, thin where it would be.

Terms. *Grain*: the motor's step of which every height is a whole number; *slab*: a grain of the figure's height.
*Band*: neighbouring layers of one height. *Limit*: the height of step that is accepted on all but a twentieth of what
is seen within a layer. A layer may be thick only where its steps keep the limit, where what looks down does not reach
out farther than a line holds, and where nothing new begins: what was proved in thin layers stays true.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from ..mesh import Mesh
from .steps import FLAT, lean_of

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
I8 = NDArray[np.int64]
B1 = NDArray[np.bool_]
BINS = 256
"""Leans are told apart to one part in so many."""
ALL_BUT = 0.95
ROUGH_MM2 = 0.5
"""Prior: less of a layer that reaches out too far is the grain of the surface."""

SAME_S = 1e-3


@dataclass(frozen=True)
class Bands:
    """`heights` (layers,) mm from the plate up, and the `seconds` (layers,) of each after `start_s`; steps (median,
    95th percentile, max) in mm on what is seen, and the mean step above `hidden_mm` over all of it.
    """

    limit_mm: float
    heights: F8
    seconds: F8
    start_s: float
    cusp: tuple[float, float, float]
    above_hidden_mm: float

    @property
    def time_s(self) -> float:
        """From the start to the last layer."""
        return self.start_s + float(self.seconds.sum())

    def runs(self) -> list[tuple[float, int]]:
        """Height and number of layers of each band."""
        runs: list[tuple[float, int]] = []
        for height in self.heights.round(6).tolist():
            if runs and runs[-1][0] == height:
                runs[-1] = (height, runs[-1][1] + 1)
            else:
                runs.append((height, 1))
        return runs


@njit()
def _leans(vertices: F8, faces: I4, weights: F8, grain: float, seen: F8, down: F8, level: F8) -> None:
    """Area of every slab by lean: of what is seen, by weight (`seen`, and `level` where it is flat), and of what looks
    down (`down`). A face is spread evenly over its height.
    """
    slabs, bins = seen.shape
    for f in range(len(faces)):
        z, area = lean_of(vertices, faces, f)
        if area <= 0.0:
            continue
        lean, corners = abs(z), vertices[faces[f], 2]
        weight = weights[f] if len(weights) else 1.0
        at = min(int(lean * bins), bins - 1)
        low, high = corners.min() / grain, corners.max() / grain
        first, last = max(0, min(int(low), slabs - 1)), max(0, min(int(high), slabs - 1))
        for s in range(first, last + 1):
            share = 1.0 if first == last else (min(high, s + 1.0) - max(low, float(s))) / (high - low)
            if lean < FLAT:
                seen[s, at] += weight * area * share
            else:
                level[s] += weight * area * share
            if z < 0.0 and s > 0:
                down[s, at] += area * share


@njit()
def _quickest(may: B1, seconds: F8, thick: I8) -> I8:
    """Of (heights, slabs): which height each layer has, from the plate up, so that all take the least time and
    neighbours differ by one height at most.

    The shortest path from slab to slab (Bellman 1958), from the top down.
    """
    kinds, slabs = may.shape
    cost, to = np.full((slabs + 1, kinds), np.inf), np.zeros((slabs + 1, kinds), np.int64)
    cost[slabs] = 0.0
    for s in range(slabs - 1, -1, -1):
        for i in range(kinds):
            if not may[i, s]:
                continue
            up = min(slabs, s + thick[i])
            for j in (i, i + 1, i - 1):  # of what takes as long, what does not change
                if 0 <= j < kinds and seconds[i, s] + cost[up, j] < cost[s, i] - SAME_S:
                    cost[s, i], to[s, i] = seconds[i, s] + cost[up, j], j
    heights, n, s = np.empty(slabs, np.int64), 0, 0
    i = kinds - 1
    for j in range(kinds - 2, -1, -1):
        if cost[0, j] < cost[0, i] - SAME_S:
            i = j
    while s < slabs:
        heights[n] = i
        n += 1
        i, s = to[s, i], min(slabs, s + thick[i])
    return heights[:n]


class Banding:
    """A figure in build coordinates, prepared to be cut in bands of some heights.

    `weights` (faces,): how much a step counts there; `heights` finest first, whole numbers of one grain; `reach_mm`:
        what a layer may reach beyond the one below; `begins_mm` (n,): where something new begins, or is held; `clocks`:
        for each height, seconds by height in mm, as (n,) and (n,).
    """

    def __init__(
        self,
        figure: Mesh,
        weights: F8 | None,
        heights: Sequence[float],
        *,
        reach_mm: float,
        begins_mm: F8,
        clocks: Sequence[tuple[F8, F8]],
    ) -> None:
        whole = np.round(np.asarray(heights) * 1e6).astype(np.int64)
        grain = int(np.gcd.reduce(whole))
        self.grain, self.thick, self.heights = grain / 1e6, whole // grain, np.asarray(heights, float)
        slabs = max(1, int(np.ceil(float(figure.upper[2]) / self.grain - 1e-6)))
        self.seen, down, self.level = np.zeros((slabs, BINS)), np.zeros((slabs, BINS)), np.zeros(slabs)
        light = np.empty(0) if weights is None else np.asarray(weights, float)
        _leans(figure.vertices, figure.faces, light, self.grain, self.seen, down, self.level)
        # The first of the bins holds what is upright.
        self.lean = (np.arange(BINS) + 0.5) / BINS * (np.arange(BINS) > 0)
        self.seconds = np.empty((len(heights), slabs))
        self.may = np.ones((len(heights), slabs), np.bool_)
        self.steps = np.zeros((len(heights), slabs))
        begun = np.zeros(slabs)
        begun[np.clip((np.asarray(begins_mm) / self.grain).astype(int), 0, slabs - 1)] = 1
        bottoms = np.arange(slabs)
        run = self.lean / np.sqrt(1 - self.lean**2)
        for i, (height, thick) in enumerate(zip(self.heights, self.thick.tolist(), strict=True)):
            at, clock = clocks[i]
            self.seconds[i] = np.diff(
                np.interp([bottoms * self.grain, (bottoms + thick) * self.grain], at, clock), axis=0
            )
            if (bottoms[-1] + thick) * self.grain > at[
                -1
            ]:  # the last layer is a whole one, wherever the figure ends in it
                self.seconds[i, max(0, slabs - thick) :] = self.seconds[i, max(0, slabs - thick - 1)]
            self.steps[i] = height * _high(_window(self.seen, thick), self.lean)
            reaches = _window(down[:, height * run > reach_mm].sum(axis=1), thick)
            beginning = _window(begun, thick)
            self.may[i] = (i == 0) | ((reaches <= ROUGH_MM2) & (beginning == 0))
        self.start_s = float(clocks[0][1][0])

    def within(self, limit_mm: float, hidden_mm: float = 0.0) -> Bands:
        """The quickest bands whose steps keep a limit; where the finest layer breaks it, the finest."""
        may = self.may & ((self.steps <= limit_mm) | (np.arange(len(self.heights)) == 0)[:, None])
        kinds = _quickest(may, self.seconds, self.thick)
        bottoms = np.cumsum(self.thick[kinds]) - self.thick[kinds]
        each, seconds = self.heights[kinds], self.seconds[kinds, bottoms]
        by_slab = np.repeat(each, self.thick[kinds])[: len(self.seen)]
        cusp = (by_slab[:, None] * self.lean).ravel()
        mass = self.seen.ravel()
        order = np.argsort(cusp)
        total = np.cumsum(mass[order])
        if total[-1] <= 0:
            return Bands(limit_mm, each, seconds, self.start_s, (0.0, 0.0, 0.0), 0.0)
        median, high = (float(cusp[order[np.searchsorted(total, share * total[-1])]]) for share in (0.5, ALL_BUT))
        above = float(
            (mass * np.maximum(0.0, by_slab - hidden_mm).repeat(BINS) * np.tile(self.lean, len(by_slab))).sum()
        )
        return Bands(
            limit_mm,
            each,
            seconds,
            self.start_s,
            (median, high, float(cusp[mass > 0].max())),
            above / float(mass.sum() + self.level.sum()),
        )


def _window(values: F8, thick: int) -> F8:
    """For each slab the sum over it and those above it within a layer."""
    total = np.concatenate([np.zeros((1, *values.shape[1:])), np.cumsum(values, axis=0)])
    ends = np.minimum(np.arange(len(values)) + thick, len(values))
    return np.asarray(total[ends] - total[: len(values)])


def _high(mass: F8, lean: F8) -> F8:
    """(slabs,) the lean that all but a twentieth of each slab's mass keeps; 0 where nothing is seen."""
    total = np.cumsum(mass, axis=1)
    at = (total < ALL_BUT * total[:, -1:] - 1e-12).sum(axis=1)
    return np.where(total[:, -1] > 1e-9, lean[np.minimum(at, len(lean) - 1)], 0.0)
