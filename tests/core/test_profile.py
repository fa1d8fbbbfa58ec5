"""Profiles drawn to scale and lost detail: wedges and plates, whose steps and thickness are known."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.layers.detail import MOST_MM, detail_of, draws_mm
from tenugui.core.layers.profile import WINDOW_MM, profile_at
from tenugui.core.mesh import Mesh
from tests.presets import HERON, KESTREL
from tests.shapes import ball, box


def wedge(degrees: float) -> Mesh:
    """A block 20 mm wide whose one side leans by so much from the upright, outwards below."""
    made = box((0, 0, 10), (20, 20, 20))
    lean = np.tan(np.radians(degrees)) * made.vertices[:, 2]
    right = made.vertices[:, 0] > 0
    return Mesh(np.column_stack([made.vertices[:, 0] - lean * right, made.vertices[:, 1:]]), made.faces)


@settings(max_examples=20, deadline=None)
@given(st.floats(5, 40), st.sampled_from([0.05, 0.1, 0.2]))
def test_a_wedges_step_is_the_height_by_the_cosine_of_its_slope(degrees: float, height: float) -> None:
    """c = h |n_z|, and every layer ends one run farther in than the one below: h tan of the lean from the upright."""
    lean = np.radians(degrees)
    found = profile_at(wedge(degrees), (10 - 10 * np.tan(lean), 0, 10), KESTREL, [height])
    (stair,) = found.stairs
    assert found.lean_deg == pytest.approx(degrees, abs=1e-6)
    assert stair.cusp == pytest.approx(height * np.sin(lean)) and stair.run == pytest.approx(height * np.tan(lean))
    ends = stair.rows[np.argsort(stair.rows[:, 0]), 3]
    within = ends < WINDOW_MM - 1e-6
    assert np.diff(ends[within]) == pytest.approx(-height * np.tan(lean), abs=1e-6)
    middles = stair.rows[:, :2].mean(axis=1)
    assert stair.rows[within, 3] == pytest.approx(-middles[within] * np.tan(lean), abs=1e-6)


def test_an_upright_wall_has_no_step_and_a_screen_draws_whole_pixels() -> None:
    for printer in (KESTREL, HERON):
        (stair,) = profile_at(box((0, 0, 10), (20, 20, 20)), (10, 0, 10), printer, [0.05]).stairs
        assert stair.cusp == 0 and stair.run == 0 and np.ptp(stair.rows[:, 3]) == 0
        assert stair.rows[:, 1] - stair.rows[:, 0] == pytest.approx(0.05)
    leaning = profile_at(wedge(20), (10 - 10 * np.tan(np.radians(20)), 0, 10), HERON, [0.05])
    ends = leaning.stairs[0].rows[:, 3]
    ends = ends[ends < WINDOW_MM - 1e-6] / HERON.pixel_mm
    assert np.abs(ends - np.round(ends)).max() < 1e-6 and leaning.round is False


def test_shells_that_overlap_are_one_solid_in_a_profile() -> None:
    """Two blocks one in the other, whose inner walls no layer ends at."""
    both = Mesh.joined([box((0, 0, 10), (20, 20, 20)), box((-0.5, 0, 10), (20, 20, 20))])
    (stair,) = profile_at(both, (10, 0, 10), KESTREL, [0.2]).stairs
    at = np.round(stair.rows[:, 0] / 0.2)
    assert len(np.unique(at)) == len(at), "one stretch a layer"
    assert stair.rows[:, 2] == pytest.approx(-WINDOW_MM) and stair.rows[:, 3] == pytest.approx(0, abs=1e-9)


@settings(max_examples=20, deadline=None)
@given(st.floats(0.1, 2.0))
def test_a_fin_is_lost_to_lines_that_are_wider_than_it_is(thick: float) -> None:
    block, fin = box((0, 0, 5), (10, 10, 10)), box((20, 0, 5), (thick, 10, 10))
    sides = 2 * 10 * 10
    detail = detail_of(Mesh.joined([block, fin]))
    whole = detail.weight.sum()
    assert detail.lost(thick * 0.98, 0.1) == 0
    assert detail.lost(thick * 1.02, 0.1) == pytest.approx(sides / whole)
    assert draws_mm(KESTREL) == KESTREL.line_mm and draws_mm(HERON) == HERON.pixel_mm


def test_a_leaf_is_lost_to_layers_that_are_higher_and_marks_weigh_what_is_lost() -> None:
    leaf, block = box((0, 0, 3), (8, 8, 0.15)), box((30, 0, 5), (10, 10, 10))
    figure = Mesh.joined([leaf, block])
    detail = detail_of(figure)
    assert detail.lost(0.1, 0.12) == 0 and detail.lost(0.1, 0.2) == pytest.approx(2 * 64 / detail.weight.sum())
    heavy = np.where(np.arange(len(figure.faces)) < len(leaf.faces), 10.0, 1.0)
    assert detail_of(figure, heavy).lost(0.1, 0.2) > detail.lost(0.1, 0.2)


def test_walls_inside_a_figure_of_several_shells_do_not_thin_it() -> None:
    both = Mesh.joined([box((0, 0, 5), (10, 10, 10)), box((4, 0, 5), (10.2, 9.8, 9.8))])
    assert (detail_of(both).across[:] == MOST_MM).all()
    across = detail_of(ball(2, (0, 0, 3), 4)).across
    assert across[across < MOST_MM].max() == pytest.approx(4, rel=0.05)


@given(st.floats(0.05, 2), st.floats(0.05, 2), st.floats(0.02, 0.4), st.floats(0.02, 0.4))
def test_finer_never_loses_more(a: float, b: float, h: float, k: float) -> None:
    detail = DETAIL
    assert detail.lost(min(a, b), min(h, k)) <= detail.lost(max(a, b), max(h, k))


DETAIL = detail_of(Mesh.joined([ball(0.8, (0, 0, 2), 3), box((3, 0, 1), (0.3, 2, 2)), box((0, 4, 1), (2, 2, 0.1))]))
