"""Poses: metrics against arithmetic, and choices that anyone at the bench would make."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.layers import prove
from tenugui.core.machines import Context, MachineError, default_height, load_material, load_printer
from tenugui.core.machines.kinds import RESIN as KIND_RESIN
from tenugui.core.mesh import Mesh
from tenugui.core.pose import (
    AIMS,
    DirectionError,
    Pace,
    placement,
    posed,
    quaternion_to_plate,
    rank_poses,
    resting_directions,
    rotation_to_plate,
    search_poses,
    spread_directions,
    weigh,
    why_not,
    wish_of,
)
from tenugui.core.pose.choose import front
from tenugui.core.pose.directions import rotation_of
from tenugui.core.pose.price import FINISH_MIN
from tenugui.core.pose.sweep import CONTACT_MM
from tenugui.core.worth import RatesError
from tests.poses import choose_poses
from tests.shapes import ball, box, cone, cylinder, fork, knobbly, mesh_of

HERON, KESTREL = load_printer("heron"), load_printer("kestrel")
RESIN, FILAMENT = load_material(None, HERON), load_material(None, KESTREL)


def aims(mesh: Mesh, down: tuple[float, float, float], angle: float = 1.0) -> dict[str, float]:
    table = weigh(mesh, np.array([down], float), angle)
    return dict(zip(AIMS, table.aims[0], strict=True))


def test_aims_of_a_box_on_its_foot() -> None:
    a = aims(box((0, 0, 0), (10, 20, 30)), (0, 0, -1))
    assert a["height_mm"] == pytest.approx(30) and a["peak_section_mm2"] == pytest.approx(200, rel=0.02)
    assert a["support_area_mm2"] == 0 and a["minima"] == 0 and a["lean"] == 0 and a["foot_mm2"] == pytest.approx(200)


def test_a_mushroom_needs_support_under_its_cap() -> None:
    mushroom = Mesh.joined([cylinder(2, 10), cylinder(8, 3, (0, 0, 10))])
    a = aims(mushroom, (0, 0, -1))
    assert a["support_area_mm2"] == pytest.approx(np.pi * 64, rel=0.01)  # shells count apart, as the docstring says
    assert a["support_volume_mm3"] == pytest.approx(np.pi * 64 * 10, rel=0.01)


def test_hanging_tines_are_minima() -> None:
    # Two tines, and the beam's underside: it is a shell of its own, and shells count apart here; the layer stack has
    # the last word.
    assert aims(fork(), (0, 0, -1))["minima"] == 3


def test_peak_section_agrees_with_the_layer_stack() -> None:
    stone = knobbly()
    rng = np.random.default_rng(1)
    for down in rng.normal(size=(4, 3)):
        down /= np.linalg.norm(down)
        fast = aims(stone, tuple(down))["peak_section_mm2"]
        assert fast == pytest.approx(prove(posed(stone, tuple(down)), 0.1, 0.2).areas.max(), rel=0.02)


def test_a_cone_poses_on_its_foot_on_filament() -> None:
    choice = choose_poses(cone(10, 40), Context.of(KESTREL, FILAMENT))
    best = choice.candidates[choice.recommended]
    assert (
        best.down == pytest.approx((0, 0, -1), rel=1e-5, abs=1e-4)
        and best.stable
        and best.metrics["support_area_mm2"] == 0
    )


def test_a_plate_too_wide_for_its_holds_is_turned_on_edge_on_resin() -> None:
    """A peel of 9.2 N/cm² x 110 cm² tears what supports hold; a small disc lies where it is quickest."""
    wide = box((0, 0, 1.5), (110, 100, 3))
    choice = choose_poses(wide, Context.of(HERON, RESIN))
    best = choice.candidates[choice.recommended]
    assert best.metrics["peak_section_mm2"] < 0.3 * aims(wide, (0, 0, -1))["peak_section_mm2"]
    small = choose_poses(cylinder(8, 3), Context.of(HERON, RESIN))
    assert small.candidates[small.recommended].metrics["height_mm"] < 4


def test_candidates_are_diverse_and_on_the_front() -> None:
    choice = choose_poses(knobbly(), Context.of(HERON, RESIN))
    downs = np.array([c.down for c in choice.candidates])
    assert len(downs) == 4 and choice.evaluated > 500
    others = downs[downs[:, 2] > -0.9999]
    assert len(others) >= 3, "the upright one is there to compare, however near"
    assert (others @ others.T - 2 * np.eye(len(others))).max() < np.cos(np.radians(24))


def test_marked_faces_turn_away_from_the_supports() -> None:
    table = Mesh.joined([box((0, 0, 0), (30, 30, 2)), box((0, 0, 8), (4, 4, 14))])
    normal, _ = table.normals_and_areas()
    weights = np.where(normal[:, 2] > 0.9, 50.0, 1.0)
    choice = choose_poses(table, Context(HERON, RESIN, default_height(HERON), weights=weights))
    best = np.array(choice.candidates[choice.recommended].down)
    assert best[2] < np.sin(1.2), "no marked face is steep enough to need a support"


@pytest.mark.parametrize(("axis", "sign"), [(0, 1), (1, -1), (1, 1), (2, 1)])
@pytest.mark.parametrize("printer", [HERON, KESTREL], ids=["resin", "filament"])
def test_a_marked_side_neither_hangs_on_supports_nor_lies_on_the_plate(printer, axis: int, sign: int) -> None:  # type: ignore[no-untyped-def]
    head = trimesh.creation.box((24, 6, 4), transform=trimesh.transformations.translation_matrix((0, 0, 22)))
    stem = trimesh.creation.box((6, 6, 22), transform=trimesh.transformations.translation_matrix((0, 0, 11)))
    tee = mesh_of(trimesh.boolean.union([head, stem]).subdivide_to_size(1.5))
    normals, area = tee.normals_and_areas()
    side = normals[:, axis] * sign > 0.9
    choice = choose_poses(
        tee, Context(printer, load_material(None, printer), default_height(printer), weights=np.where(side, 5.0, 1.0))
    )
    best = np.array(choice.candidates[choice.recommended].down)
    assert area[side & (normals @ best > 0.9)].sum() == 0


def test_front_keeps_exactly_the_unbeaten() -> None:
    costs = np.array([[1, 5], [2, 2], [5, 1], [3, 3], [2, 2.5]], float)
    assert front(costs).tolist() == [True, True, True, False, False]


@settings(max_examples=50, deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_a_quaternion_brings_down_to_the_plate(seed: int) -> None:
    down = np.random.default_rng(seed).normal(size=3)
    down /= np.linalg.norm(down)
    turn = rotation_of(quaternion_to_plate(down))
    assert turn @ down == pytest.approx([0, 0, -1], abs=1e-9)
    assert turn @ turn.T == pytest.approx(np.eye(3), abs=1e-9) and np.linalg.det(turn) == pytest.approx(1)
    assert rotation_to_plate(down) == pytest.approx(turn)


def test_directions_are_spread_evenly() -> None:
    d = spread_directions(400)
    nearest = np.sort(d @ d.T, axis=1)[:, -2]
    angle = np.degrees(np.arccos(nearest))
    assert np.linalg.norm(d, axis=1) == pytest.approx(np.ones(400)) and angle.min() > 0.55 * angle.mean()
    assert np.allclose(d[:200], -d[200:]), "each with its opposite: they share most of their weighing"


def test_a_box_rests_on_six_sides_and_a_pin_not_on_its_point() -> None:
    rests, areas = resting_directions(box((0, 0, 0), (10, 20, 30)))
    assert len(rests) == 6 and areas.max() == pytest.approx(600)
    assert not any(d[2] > 0.99 for d in resting_directions(cone(5, 40))[0])


def test_a_pose_lands_on_the_plate_and_turns_to_fit() -> None:
    long = box((50, 3, -8), (110, 200, 5))
    here = placement(long, (0, 0, -1), HERON.build_mm).apply(long)
    assert (
        here.lower[2] == pytest.approx(0) and here.size[0] == pytest.approx(200) and here.size[1] == pytest.approx(110)
    )
    with pytest.raises(MachineError, match="does-not-fit|measures"):
        placement(ball(150), (0, 0, -1), HERON.build_mm, "heron")
    with pytest.raises(DirectionError, match="no direction"):
        placement(long, (0, 0, 0))


@settings(max_examples=15, deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_the_fast_aims_agree_with_a_plain_evaluation(seed: int) -> None:
    """Every sum of the compiled pass against numpy, for random directions of a bumpy stone."""

    rng = np.random.default_rng(seed)
    down = rng.normal(size=3)
    down /= np.linalg.norm(down)
    stone = knobbly(9, 4)
    weights = rng.uniform(0.2, 5, len(stone.faces))
    table = weigh(stone, down[None], 1.1, weights)
    normal, area = stone.normals_and_areas()
    level = -(stone.vertices @ down)
    level -= level.min()
    middle = level[stone.faces].mean(axis=1)
    lean = normal @ down
    excess = area * np.clip(weights - 1, 0, 2)
    assert table.column("blur_mm2")[0] == pytest.approx((excess * np.maximum(lean, 0)).sum(), rel=1e-4)
    there = (lean > np.sin(1.1)) & (middle > CONTACT_MM) & (weights > 1.5)
    assert table.column("shown_mm2")[0] == pytest.approx(area[there].sum(), rel=1e-4, abs=1e-4)
    held = (lean > np.sin(1.1)) & (middle > CONTACT_MM)
    assert table.column("support_area_mm2")[0] == pytest.approx(area[held].sum(), rel=1e-5, abs=1e-4)
    on_plate = (lean > np.sin(1.1)) & (middle <= CONTACT_MM)
    scars = (area * weights)[held].sum() + (area * np.maximum(weights - 1, 0))[on_plate].sum()
    assert table.column("scar_area_mm2")[0] == pytest.approx(scars, rel=1e-5, abs=1e-4)
    assert table.column("support_volume_mm3")[0] == pytest.approx(
        (area * lean * middle)[held].sum(), rel=1e-5, abs=1e-4
    )
    assert table.column("height_mm")[0] == pytest.approx(level.max())
    sloped = np.abs(lean) < 0.9999
    assert table.column("step_cost")[0] == pytest.approx(
        (area * weights * np.abs(lean))[sloped].sum() / (area * weights).sum(), rel=1e-5
    )


def test_turning_the_figure_turns_the_answer() -> None:
    stone = knobbly(9, 4)
    turn = rotation_of(np.array([0.8, 0.36, -0.48, 0.0]))
    downs = spread_directions(30)
    here, there = weigh(stone, downs, 1.0), weigh(stone.transformed(turn), downs @ turn.T, 1.0)
    for aim in ("support_area_mm2", "height_mm", "minima", "step_cost", "lean"):
        assert here.column(aim) == pytest.approx(there.column(aim), rel=1e-5, abs=1e-4)


def test_a_tall_rod_does_not_stand_on_its_end_unwarned_on_filament() -> None:
    rod = mesh_of(trimesh.creation.cylinder(0.7, 60, sections=32).subdivide_to_size(1.5))
    upright, lying = aims(rod, (0, 0, -1)), aims(rod, (1, 0, 0))
    assert upright["height_mm"] == pytest.approx(60) and lying["height_mm"] == pytest.approx(1.4, abs=0.01)
    assert upright["slender"] == pytest.approx(60 / 1.4, rel=0.01)
    search = search_poses(rod, Context.of(KESTREL, FILAMENT))
    choice = rank_poses(rod, search, Context.of(KESTREL, FILAMENT), pinned=[(0.0, 0.0, -1.0)])
    asked = choice.candidates[-1]
    assert all(c.metrics["height_mm"] < 55 or "breaks easily" in c.why for c in choice.candidates)
    assert asked.metrics["weak_mm"] == pytest.approx(60, rel=0.1) and not asked.stable and asked.worth.risk > 0.5
    assert "knocked over" in asked.why and "between layers" in asked.why
    assert choice.candidates[choice.recommended].metrics["height_mm"] < 10, "it is laid down"


def test_why_not_tells_the_largest_difference_first_and_is_silent_about_nothing() -> None:
    stone = Mesh.joined([box((0, 0, 1), (30, 30, 2)), box((0, 0, 8), (4, 4, 14))])
    context = Context.of(HERON, RESIN)
    search = search_poses(stone, context)
    pace = Pace.of(context)
    best = 0  # upright, on its broad foot
    rows = [dict(zip(AIMS, row, strict=True)) for row in search.table.aims]
    assert why_not(rows[best], rows[best], pace, search.volume_mm3) == []
    tall = int(np.argmax(search.table.column("height_mm")))
    told = why_not(rows[tall], rows[best], pace, search.volume_mm3)
    assert any(t.startswith("Height") and "worse" in t and "more printing" in t for t in told), told
    largest = max(
        (
            price * (rows[tall][aim] - rows[best][aim])
            for aim, price in (*KIND_RESIN.hands_min.items(), ("step_cost", FINISH_MIN))
        ),
        key=abs,
    )
    if abs(largest) > 2.0 * pace.hours_mm * abs(rows[tall]["height_mm"] - rows[best]["height_mm"]):
        assert f"{abs(largest):.0f} minutes {'more' if largest > 0 else 'less'} by hand" in told[0]


def test_rates_rank_anew_without_a_new_search() -> None:
    """Where only the machine's hours count, the figure lies; where only hands do, it may stand as tall as it likes."""
    long = box((0, 0, 0), (6, 6, 40))
    context = Context.of(HERON, RESIN)
    search = search_poses(long, context)
    quick = rank_poses(long, search, context, wish=wish_of({"rates": {"minute": 0, "hour": 50}}))
    calm = rank_poses(long, search, context, wish=wish_of({"rates": {"minute": 5, "hour": 0}}))
    low, tall = (c.candidates[c.recommended] for c in (quick, calm))
    assert low.metrics["height_mm"] < 8 and low.gift.machine_h < 0.5 * tall.gift.machine_h
    assert tall.gift.hands_min <= low.gift.hands_min
    assert tall.metrics["height_mm"] == pytest.approx(40, abs=1)


def test_hard_wishes_rule_out_and_are_let_go_where_nothing_meets_them() -> None:
    long = box((0, 0, 0), (6, 6, 40))
    context = Context.of(HERON, RESIN)
    search = search_poses(long, context)
    hours = search.takes(context).machine_h
    soon = float(np.quantile(hours, 0.1))
    choice = rank_poses(long, search, context, wish=wish_of({"hours": soon, "rates": {"minute": 5, "hour": 0}}))
    assert not choice.unmet and all(c.gift.machine_h <= soon + 1e-6 for c in choice.candidates)
    never = rank_poses(long, search, context, wish=wish_of({"hours": float(hours.min()) / 2}))
    assert never.unmet == ("hours",) and never.candidates
    free = rank_poses(long, search, context, wish=wish_of({"free": True}))
    assert all(c.metrics["support_area_mm2"] < 0.5 and c.metrics["minima"] == 0 for c in free.candidates)
    marked = np.where(long.normals_and_areas()[0][:, 2] < -0.9, 5.0, 1.0)
    shown = Context(HERON, RESIN, default_height(HERON), weights=marked)
    seen = search_poses(long, shown)
    clean = rank_poses(long, seen, shown, wish=wish_of({"clean": True}))
    assert not clean.unmet and all(c.metrics["shown_mm2"] < 0.5 for c in clean.candidates)


@pytest.mark.parametrize(
    "wish",
    [
        {"beauty": 1},
        {"hours": 0},
        {"hours": "soon"},
        {"rates": "royal"},
        {"rates": {"minute": -1}},
        {"rates": {"minute": 0, "hour": 0}},
        {"rates": {"minute": float("nan")}},
        {"rates": {"gold": 1}},
    ],
)
def test_what_is_no_wish_is_refused_with_what_would_be_one(wish: dict[str, Any]) -> None:
    with pytest.raises(RatesError) as refused:
        wish_of(wish)
    assert refused.value.code in ("bad-wish", "bad-rates") and refused.value.remedy


def test_a_scale_at_hand_ranks_as_the_search_did() -> None:
    stone = knobbly(9, 4)
    context = Context.of(HERON, RESIN)
    search = search_poses(stone, context)
    slow, quick = (
        rank_poses(stone, search, context),
        rank_poses(stone, search, context, scale=search.scale(HERON)),
    )
    assert [c.down for c in slow.candidates] == [
        c.down for c in quick.candidates
    ] and slow.recommended == quick.recommended


def test_a_cup_tilts_so_that_it_drains() -> None:
    hollow = trimesh.creation.cylinder(
        8, 14, sections=64, transform=trimesh.transformations.translation_matrix((0, 0, 8.5))
    )
    bowl = mesh_of(
        trimesh.boolean.difference(
            [
                trimesh.creation.cylinder(
                    9.5, 15, sections=64, transform=trimesh.transformations.translation_matrix((0, 0, 7.5))
                ),
                hollow,
            ]
        )
    )
    standing, tipped = aims(bowl, (0, 0, -1)), aims(bowl, (1, 0, 0))
    assert standing["cups"] == 1 and tipped["cups"] == 0
    choice = choose_poses(bowl, Context.of(HERON, RESIN))
    assert choice.candidates[choice.recommended].metrics["cups"] == 0


def test_a_symmetric_figure_has_a_symmetric_front() -> None:
    tee = Mesh.joined([box((0, 0, 10), (4, 4, 20)), box((0, 0, 21), (24, 4, 2))])
    table = weigh(tee, np.array([[0.6, 0.2, -0.77], [-0.6, 0.2, -0.77], [0.3, -0.5, 0.81], [-0.3, -0.5, 0.81]]), 0.9)
    for aim in AIMS:
        assert table.column(aim)[::2] == pytest.approx(table.column(aim)[1::2], rel=1e-4, abs=1e-3), aim


def test_a_beam_is_never_scarred_on_its_marked_side() -> None:
    tee = Mesh.joined([box((0, 0, 10), (4, 4, 20)), box((0, 0, 21), (24, 4, 2))])
    normal, _ = tee.normals_and_areas()
    weights = np.where((normal[:, 2] > 0.9) & (tee.corners()[:, :, 2].min(axis=1) > 21), 200.0, 1.0)
    choice = choose_poses(tee, Context(HERON, RESIN, default_height(HERON), weights=weights))
    best = choice.candidates[choice.recommended]
    assert best.metrics["scar_area_mm2"] < 200, "nothing of the marked side needs a support"
