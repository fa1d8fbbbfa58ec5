"""Layers of more than one height: the law of the step, the quickest way through, and what must stay thin."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.layers.bands import Banding, _quickest
from tenugui.core.layers.steps import cusp_quantiles
from tenugui.core.mesh import Mesh
from tests.shapes import ball, box, cone

HEIGHTS = (0.08, 0.12, 0.16, 0.2)
LONG = 1000.0


def clocks(start: float = 60.0, a_layer: float = 10.0) -> list[tuple[np.ndarray, np.ndarray]]:
    """Every layer takes as long, however thick."""
    found = []
    for h in HEIGHTS:
        at = np.arange(int(LONG / h) + 1) * h
        found.append((at, start + a_layer * np.arange(len(at))))
    return found


def banding(mesh: Mesh, begins: tuple[float, ...] = (), reach: float = 0.21) -> Banding:
    return Banding(mesh, None, HEIGHTS, reach_mm=reach, begins_mm=np.array(begins, float), clocks=clocks())


def test_an_upright_wall_is_laid_as_thick_as_may_be_and_a_cone_as_its_law_says() -> None:
    tall = banding(box((0, 0, 10), (10, 10, 20))).within(0.03)
    assert tall.runs() == [(0.2, 100)] and tall.time_s == pytest.approx(60 + 100 * 10) and tall.cusp[1] == 0
    # A cone's flank leans by r / slant: h times that is its step, at every height.
    steep = cone(5, 20)
    lean = 5 / math.hypot(5, 20)
    for limit, height in ((0.08 * lean, 0.08), (0.121 * lean, 0.12), (0.17 * lean, 0.16), (1.0, 0.2)):
        found = banding(steep).within(limit + 1e-3)
        # The last layer ends where the figure does, and may be a thinner one.
        assert set(found.heights[:-1].round(6)) == {height}
        assert found.cusp[1] == pytest.approx(height * lean, rel=0.02)


def test_a_ball_is_thick_at_its_waist_thin_at_its_crown_and_keeps_the_limit_slab_by_slab() -> None:
    figure, limit = ball(15, (0, 0, 15), 5), 0.11
    bands = banding(figure).within(limit)
    tops = np.cumsum(bands.heights)
    assert bands.heights[np.searchsorted(tops, 15.0)] == 0.2 and bands.heights[-1] == 0.08
    assert (np.abs(np.diff(bands.heights)) <= 0.04 + 1e-9).all(), "from one height to the next, never over one"
    middles = tops - bands.heights / 2
    lean = np.abs(middles - 15) / 15
    thick = bands.heights > 0.08
    assert (bands.heights * lean)[thick].max() <= limit * 1.02
    # What could be thicker and is not would break the limit there, or begins beside what does.
    assert (bands.heights == 0.2).mean() > 0.3 and len(bands.heights) < 30 / 0.08
    # Of one height the quantiles are those of the whole figure's leans.
    plain = banding(figure).within(0.0)
    assert {h for h, _ in plain.runs()} == {0.08}
    assert plain.cusp[1] == pytest.approx(0.08 * cusp_quantiles(figure)[1], abs=0.001)


def test_where_something_begins_or_reaches_out_the_layers_stay_thin() -> None:
    tower = box((0, 0, 10), (10, 10, 20))
    free = banding(tower).within(0.05)
    begun = banding(tower, begins=(8.03,)).within(0.05)
    assert len(begun.heights) > len(free.heights)
    tops = np.cumsum(begun.heights)
    at = int(np.searchsorted(tops, 8.03))
    assert begun.heights[at] == 0.08 and begun.heights.max() == 0.2
    # A flare of 50° from the upright is laid in thin layers by itself and hangs out too far in thick ones.
    flare = cone(8, 8 / math.tan(math.radians(60)))
    upside = Mesh(flare.vertices * [1, -1, -1] + [0, 0, float(flare.upper[2])], flare.faces)
    run = math.tan(math.radians(60))
    allowed = max(h for h in HEIGHTS if h * run <= 0.21)
    assert set(banding(upside).within(1.0).heights[:-1].round(6)) == {allowed}


@settings(deadline=None)
@given(st.integers(1, 14), st.integers(0, 2**32 - 1))
def test_the_quickest_way_is_the_quickest_of_all(slabs: int, seed: int) -> None:
    rng = np.random.default_rng(seed)
    thick = np.array([1, 2, 3])
    may = rng.random((3, slabs)) < 0.6
    may[0] = True
    seconds = rng.integers(1, 30, (3, slabs)).astype(float)

    def cost(kinds: tuple[int, ...]) -> float:
        at, total = 0, 0.0
        for before, kind in zip((None, *kinds), kinds, strict=False):
            if at >= slabs or not may[kind, at] or (before is not None and abs(before - kind) > 1):
                return math.inf
            total += seconds[kind, at]
            at += int(thick[kind])
        return total if at >= slabs else math.inf

    found = tuple(_quickest(may, seconds, thick).tolist())
    if slabs <= 8:
        best = min(cost(kinds) for n in range(1, slabs + 1) for kinds in itertools.product(range(3), repeat=n))
        assert cost(found) == pytest.approx(best)
    assert cost(found) < math.inf


@settings(deadline=None)
@given(st.floats(0.02, 0.2), st.floats(0.02, 0.2))
def test_a_looser_limit_never_takes_longer(one: float, other: float) -> None:
    prepared = banding(ball(6, (0, 0, 6), 3))
    strict, loose = (prepared.within(limit) for limit in sorted((one, other)))
    assert loose.time_s <= strict.time_s + 1e-9
    assert sum(loose.heights) >= 12 - 0.05 and sum(strict.heights) >= 12 - 0.05
