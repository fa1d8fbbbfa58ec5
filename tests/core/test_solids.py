"""Pillars, rafts, routes and manners: closed solids of known volume, rays that let nothing slip through, priors that
keep their order.
"""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.machines import (
    Context,
    MachineError,
    cautions,
    load_material,
    load_printer,
    material_presets,
    printer_presets,
)
from tenugui.core.mesh import Mesh, measure
from tenugui.core.supports import manner_of, safety_factor
from tenugui.core.supports.around import Around
from tenugui.core.supports.columns import RAYS_MM, columns, ring
from tenugui.core.supports.heads import CLEARANCE_MM, HEADS, SHORTEST_MM, first_heads, free_down, free_head
from tenugui.core.supports.route import route, short_or_on_model
from tenugui.core.supports.solids import raft, tube
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import ball, box

FAR_AWAY = ball(1, (500, 500, 500))


@settings(max_examples=50, deadline=None)
@given(
    st.lists(st.tuples(st.floats(0.2, 5), st.floats(0.1, 2)), min_size=2, max_size=6),
    st.sampled_from([4, 8, 10, 24]),
)
def test_a_tube_holds_the_sum_of_its_frusta(steps: list[tuple[float, float]], sides: int) -> None:
    """A frustum of regular polygons: h (A + B + √(AB)) / 3, with A and B the areas of its ends."""
    z = np.cumsum([0.0] + [h for h, _ in steps[1:]])
    radii = np.array([r for _, r in steps])
    made = tube(np.stack([np.zeros(len(z)), np.zeros(len(z)), z], axis=1), radii, sides)
    area = 0.5 * sides * math.sin(2 * math.pi / sides) * radii**2
    exact = sum(
        (b - a) * (p + q + math.sqrt(p * q)) / 3 for (a, b), (p, q) in zip(pairwise(z), pairwise(area), strict=True)
    )
    read = measure(made)
    assert read.watertight and read.volume_mm3 == pytest.approx(exact, rel=1e-6)


@settings(max_examples=30, deadline=None)
@given(st.lists(st.tuples(st.floats(-20, 20), st.floats(-20, 20)), min_size=1, max_size=12))
def test_a_raft_lies_under_every_foot_and_is_closed(feet: list[tuple[float, float]]) -> None:
    made = raft(np.array(feet), 2.5, 0.6)
    read = measure(made)
    assert read.watertight and read.volume_mm3 > 0
    assert made.lower[2] == 0 and made.upper[2] == pytest.approx(0.6)
    low, high = made.lower[:2], made.upper[:2]
    for x, y in feet:
        assert low[0] <= x - 2.5 * 0.98 and x + 2.5 * 0.98 <= high[0]
        assert low[1] <= y - 2.5 * 0.98 and y + 2.5 * 0.98 <= high[1]


def test_a_rafts_edge_slopes_outwards_so_that_a_scraper_gets_under_it() -> None:
    made = raft(np.array([[0.0, 0.0]]), 3.0, 0.6)
    normal, area = made.normals_and_areas()
    side = np.abs(normal[:, 2]) < 0.99
    assert side.any() and (normal[side & (area > 1e-9), 2] < 0).all()


@settings(max_examples=12, deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_the_first_free_head_is_the_first_of_those_that_are_free_each_by_itself(seed: int) -> None:
    """Whether a rod is free is asked of the exact distance of points along it here, one for each tenth of a mm."""
    rng = np.random.default_rng(seed)
    stones = [ball(float(r), tuple(c)) for r, c in zip(rng.uniform(1, 4, 5), rng.uniform(4, 16, (5, 3)), strict=True)]
    around = Around.of(Mesh.joined(stones))
    tips = rng.uniform((2, 2, 1), (18, 18, 24), (12, 3))
    found, hangs = first_heads(around, tips, 0.7, 0.0)
    for tip, one, other in zip(tips, found, hangs, strict=True):
        joints = tip + HEADS
        heads = free_head(around, np.broadcast_to(tip, joints.shape), joints, 0.7)
        high = joints[:, 2] > SHORTEST_MM
        both = heads & high & free_down(around, joints, 0.7, 0.0)
        assert one == (int(np.argmax(both)) if both.any() else -1)
        alone = np.flatnonzero(heads & high)
        assert other == (-1 if not len(alone) else alone[0])
        if one >= 0:
            joint = joints[one]
            shaft = np.linspace(joint - [0, 0, 0.7], [joint[0], joint[1], 0.7], max(2, int(joint[2] * 10)))
            if joint[2] > 1.4:
                assert around.near.of(shaft)[1].min() >= 0.7 - 0.051


@given(st.floats(0.1, 8))
def test_no_rod_thicker_than_the_rays_are_apart_slips_between_them(radius: float) -> None:
    rays = ring(radius)[:, :2]
    assert np.linalg.norm(rays, axis=1).max() == pytest.approx(radius)
    turn = np.linspace(0, 2 * np.pi, 60)
    for share in (0.2, 0.5, 0.8, 1.0):
        asked = share * radius * np.stack([np.cos(turn), np.sin(turn)], axis=1)
        gap = np.linalg.norm(asked[:, None] - rays, axis=2).min(axis=1).max()
        assert gap <= max(0.75 * RAYS_MM, radius * 0.75) + 1e-9


def test_a_flat_top_keeps_its_corners_out_of_what_rises_beside_it() -> None:
    """A step that begins just below the top: a round end would pass it by, a square one would cut in."""
    around = Around.of(Mesh.joined([box((3.5, 0, 9.6), (3, 9, 0.6)), box((0, 0, 12.2), (10, 9, 2))]))
    tip = np.array([[0.0, 0.0, 11.2]])
    assert not columns(around, tip, np.array([0.4]), floor=0.0, side=3.4)[0].square
    assert columns(around, tip - [3.0, 0, 0], np.array([0.4]), floor=0.0, side=3.4)[0].square


def test_a_column_sees_a_rod_that_stands_in_it() -> None:
    rod = box((1.5, 0, 3), (0.9, 0.9, 6))
    rays = Around.of(rod)
    ends = np.array([[0.0, 0, 20], [0.0, 0, 20], [9.0, 0, 20]])
    assert free_down(rays, ends, np.array([3.0, 0.5, 3.0]), 0.0).tolist() == [False, True, True]
    assert free_down(rays, ends[:1], 3.0, 7.0).tolist() == [True], "it ends above the floor asked for"
    assert free_down(rays, np.empty((0, 3)), 1.0, 0.0).tolist() == []


def test_a_head_that_would_cut_through_the_figure_is_not_taken() -> None:
    wall = Around.of(box((2, 0, 8), (0.5, 10, 8)))
    tip = np.array([[0.0, 0, 12]])
    aside, below = np.array([[4.0, 0, 8]]), np.array([[0.0, 0, 8]])
    assert not free_head(wall, tip, aside, 0.3)[0]
    assert free_head(wall, tip, below, 0.3)[0]


def test_heads_are_offered_the_cheapest_first_and_none_is_an_overhang_of_its_own() -> None:
    down = -HEADS[:, 2]
    lean = np.degrees(np.arctan2(np.hypot(HEADS[:, 0], HEADS[:, 1]), down))
    assert (down > 0).all() and lean.max() < 45
    assert lean[0] == 0 and np.linalg.norm(HEADS, axis=1)[0] == np.linalg.norm(HEADS, axis=1).min()


def test_a_lonely_tip_stands_straight_on_the_plate() -> None:
    (way,) = route(Around.of(FAR_AWAY), np.array([[3.0, 4.0, 20.0]]), np.array([0.4]), 0.0, [])
    assert way.on == "plate" and not way.branch
    assert way.joints[0].tolist() == [3.0, 4.0, 0.0] and way.joints[-1].tolist() == [3.0, 4.0, 20.0]


def test_a_lower_tip_leans_on_the_pillar_of_a_higher_one() -> None:
    tips = np.array([[0.0, 0, 30], [2.0, 0, 20]])
    high, low = route(Around.of(FAR_AWAY), tips, np.full(2, 0.4), 0.0, [])
    assert not high.branch and low.branch
    start = low.joints[0]
    assert start[:2].tolist() == [0.0, 0.0] and 0 < start[2] < 20
    assert 20 - start[2] >= 2.0 - 1e-9, "at 45° or steeper"


def test_a_tip_above_the_figure_stands_on_it_and_says_so() -> None:
    rays = Around.of(box((0, 0, 5), (60, 60, 2)))
    (way,) = route(rays, np.array([[0.0, 0, 20]]), np.array([0.4]), 0.0, [])
    assert way.on == "model" and way.joints[0].tolist() == pytest.approx([0.0, 0.0, 6.0], abs=1e-3)


def test_a_tip_on_the_floor_itself_needs_nothing() -> None:
    assert short_or_on_model(Around.of(FAR_AWAY), np.array([0.0, 0, 0.0]), 0.0).on == "none"
    assert short_or_on_model(Around.of(FAR_AWAY), np.array([0.0, 0, 0.4]), 0.0).on == "plate"


def test_pillars_keep_their_clearance() -> None:
    post = box((0, 0, 10), (4, 4, 20))
    radius = 0.5
    tips = np.array([[x, 0.0, 25.0] for x in (2.3, 2.7, 3.0, 4.0)])
    for way in route(Around.of(post), tips, np.full(4, radius), 0.0, []):
        if way.on == "plate" and not way.branch:
            assert abs(way.joints[1][0]) - 2.0 >= radius + CLEARANCE_MM - 0.05


@given(st.floats(0.001, 0.5), st.floats(0.001, 0.5))
def test_a_smaller_risk_asks_for_a_larger_margin(a: float, b: float) -> None:
    low, high = sorted((a, b))
    assert safety_factor(low) >= safety_factor(high) >= 1.0


def test_no_tip_is_thicker_than_what_it_holds() -> None:
    widths = np.array([0.05, 0.2, 0.3, 5.0])
    resin = manner_of(Context.of(HERON, RESIN, 0.05))
    tips = resin.tips_on(widths, 0.35)
    assert tips.tolist() == pytest.approx([0.15, 0.16, 0.24, 0.35])
    filament = manner_of(Context.of(KESTREL, FILAMENT, 0.2))
    assert filament.tips_on(widths, 0.42).tolist() == pytest.approx([0.21, 0.21, 0.3, 0.42])


def test_what_only_has_to_hold_is_stout_where_nobody_looks_and_the_figure_bears_it() -> None:
    resin = manner_of(Context.of(HERON, RESIN, 0.05))
    cost, thick = np.array([1.0, 1.0, 1.0, 5.0, 0.2]), np.array([9.0, 1.2, 0.3, 9.0, 9.0])
    assert resin.holds_by_mm(cost, thick).tolist() == pytest.approx([0.6, 0.5, 0.35, 0.35, 0.6])
    filament = manner_of(Context.of(KESTREL, FILAMENT, 0.2))
    assert filament.holds_by_mm(cost, thick).tolist() == pytest.approx([KESTREL.line_mm] * 5)  # type: ignore[union-attr]


# The shelf of machines that ships.


@pytest.mark.parametrize("name", sorted(printer_presets()))
def test_every_shipped_printer_finds_its_first_material(name: str) -> None:
    printer = load_printer(name)
    material = load_material(None, printer)
    assert material.process == printer.process and material.name in material_presets()
    assert load_printer(printer.model_dump(mode="json")) == printer, "what is stored is read back"
    room = printer.room_mm
    assert all(r <= b for r, b in zip(room, printer.build_mm, strict=True))
    heights = printer.heights(material)
    assert heights == sorted(heights) and len(heights) == 4 and printer.default_height() in heights


@pytest.mark.parametrize(
    ("make", "code"),
    [
        (lambda: load_printer("osprey"), "unknown-printer"),
        (lambda: load_printer({"name": "osprey", "process": "clay"}), "bad-field"),
        (lambda: load_printer({"process": "resin"}), "missing-field"),
        (lambda: load_material("varnish", HERON), "unknown-material"),
        (lambda: load_material("marsh matte", HERON), "wrong-process"),
        (lambda: load_material({"name": "x", "process": "resin", "cost": 1, "density_g_ml": 0}, HERON), "bad-field"),
        (lambda: load_printer({**KESTREL.model_dump(mode="json"), "line_mm": 3.0}), "bad-field"),
        (lambda: load_printer({**HERON.model_dump(mode="json"), "colour": "red"}), "unknown-field"),
    ],
)
def test_what_is_no_machine_is_refused_by_name(make, code: str) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(MachineError) as refused:
        make()
    assert refused.value.code == code and refused.value.what


def test_cautions_defer_to_the_data_sheet_and_name_what_can_hurt() -> None:
    for process, words in (("resin", ("gloves", "drain", "flammable")), ("filament", ("nozzle", "dust", "fumes"))):
        text = " ".join(cautions(process))
        assert "safety data sheet" in text and "local rules" in text
        assert all(word in text for word in words)
