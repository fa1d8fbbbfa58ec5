"""Laws of the pose search: the fast pass against the layer stack, the front against its definition, ranks against rescaling."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.contract import map_document, pose_document
from tenugui.core.layers import prove
from tenugui.core.machines import Context, allowed_step, default_height, limit_angle, load_material
from tenugui.core.mesh import Mesh
from tenugui.core.pose import (
    AIMS,
    NAMES,
    PRIORITIES,
    PoseTable,
    Scale,
    posed,
    rank_poses,
    search_poses,
    spread_directions,
    thin_rods,
    weigh,
    wish_of,
)
from tenugui.core.pose.choose import GOOD, POOR, _pick, front, plinth_side
from tenugui.core.pose.minutes import minutes
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import ball, box, cone, cylinder, knobbly, mesh_of


def bowl(depth: float = 10.0) -> Mesh:
    """A round bowl in one piece."""
    outer = trimesh.creation.cylinder(
        9, depth + 2, sections=64, transform=trimesh.transformations.translation_matrix((0, 0, depth / 2 + 1))
    )
    inner = trimesh.creation.cylinder(
        7, depth + 1, sections=64, transform=trimesh.transformations.translation_matrix((0, 0, depth / 2 + 2.5))
    )
    return mesh_of(trimesh.boolean.difference([outer, inner]))


def leaned(degrees: float) -> tuple[float, float, float]:
    a = np.radians(degrees)
    return (float(np.sin(a)), 0.0, float(-np.cos(a)))


@pytest.mark.parametrize("degrees", [0, 20, 40, 75, 90, 130, 180])
def test_a_hollow_that_holds_resin_is_what_the_stack_calls_sealed(degrees: float) -> None:
    """Mouth up it fills; leaned past the angle at which its wall looks down it runs empty. The stack, which also knows the plate, agrees."""
    figure, down = bowl(), leaned(degrees)
    cups = dict(zip(AIMS, weigh(figure, np.array([down]), 1.0).aims[0], strict=True))["cups"]
    assert (cups > 0) == (degrees < 90)
    lifted = posed(figure, down)
    proof = prove(Mesh(lifted.vertices + [0, 0, 3.0], lifted.faces), 0.1, 0.2)
    sealed = max((s.volume for s in proof.voids.sealed), default=0.0)
    assert (sealed > 20) == (degrees < 90)


@pytest.mark.parametrize("seed", range(4))
def test_support_area_agrees_with_the_layer_stacks_overhang_in_rank(seed: int) -> None:
    """The fast aim is an area of faces, the stack's an area of layers: they order directions alike (Spearman above 0.6)."""
    stone = knobbly(9, 4)
    downs = np.random.default_rng(seed).normal(size=(14, 3))
    downs /= np.linalg.norm(downs, axis=1, keepdims=True)
    height = default_height(KESTREL)
    step = allowed_step(KESTREL, FILAMENT, height)
    fast = weigh(stone, downs, limit_angle(KESTREL, FILAMENT, height)).column("support_area_mm2")
    slow = np.array(
        [prove(posed(stone, (float(d[0]), float(d[1]), float(d[2]))), height, step).hang.total for d in downs]
    )
    ranks = np.argsort(np.argsort(fast)), np.argsort(np.argsort(slow))
    assert np.corrcoef(*ranks)[0, 1] > 0.6


def test_downward_points_agree_with_islands_on_a_rounded_figure() -> None:
    fused = trimesh.boolean.union(
        [
            trimesh.Trimesh(b.vertices, b.faces)
            for b in (ball(4, c, 4) for c in ((0, 0, 4), (6.5, 0, 6.5), (-6.5, 0, 6.8), (0, 6.5, 7.1)))
        ]
    )
    figure = mesh_of(fused)
    counted = weigh(figure, np.array([[0, 0, -1.0]]), 1.0).column("minima")[0]
    assert counted == len(prove(figure.dropped(), 0.1, 0.2).islands) == 3


costs = st.lists(st.lists(st.integers(0, 6), min_size=3, max_size=3), min_size=1, max_size=40)


@settings(max_examples=120, deadline=None)
@given(costs)
def test_the_front_is_what_nobody_beats(rows: list[list[int]]) -> None:
    table = np.array(rows, float)
    on_front = front(table)

    def beats(a: np.ndarray, b: np.ndarray) -> bool:
        return bool((a <= b).all() and (a < b).any())

    for i, row in enumerate(table):
        assert on_front[i] == (not any(beats(other, row) for other in table))


@pytest.mark.parametrize("printer", [HERON, KESTREL], ids=["resin", "filament"])
def test_every_candidate_is_good_company(printer) -> None:  # type: ignore[no-untyped-def]
    stone = knobbly(10, 4)
    material = load_material(None, printer)
    wish = wish_of(printer, None)
    search = search_poses(stone, Context.of(printer, material), directions=300, wish=wish)
    choice = rank_poses(stone, search, Context.of(printer, load_material(None, printer)), wish=wish)
    assert choice.evaluated == len(search.table.down) >= 300 and choice.on_front.any()
    for candidate in choice.candidates:
        assert np.linalg.norm(candidate.down) == pytest.approx(1) and np.linalg.norm(
            candidate.quaternion
        ) == pytest.approx(1)
        assert set(AIMS) <= set(candidate.metrics) and candidate.why.endswith(".")
        assert all(np.isfinite(v) for v in candidate.metrics.values())
    best = search.best(wish)
    assert search.merit(wish)[best] == pytest.approx(search.merit(wish).min())


def test_aims_are_added_as_minutes() -> None:
    """Doubling all that a person makes of the aims changes no ranking, and a dearer scar never makes a scarred direction better."""
    stone = knobbly(10, 4)
    wish = wish_of(HERON, None)
    search = search_poses(stone, Context.of(HERON, RESIN), directions=200, wish=wish)
    merit = search.merit(wish)
    assert search.merit({aim: 2 * weight for aim, weight in wish.items()}) == pytest.approx(2 * merit)
    dearer = search.merit(wish | {"scar_area_mm2": 3.0})
    assert dearer - merit == pytest.approx(2 * 0.05 * search.table.column("scar_area_mm2"))


def test_what_another_beats_is_offered_only_where_too_few_are_unbeaten() -> None:
    """Minutes alone do not carry a beaten direction onto the board, which says that no other beats its rows."""
    down = spread_directions(60)
    aims = np.zeros((60, len(AIMS)))
    aims[:, AIMS.index("height_mm")] = 50.0
    unbeaten = np.zeros(60, np.bool_)
    unbeaten[[0, 20, 40, 59]] = True
    aims[unbeaten, AIMS.index("height_mm")] = 200.0
    picked = _pick(PoseTable(down, aims), {"height_mm": 1.0}, np.ones(60, np.bool_), unbeaten, 4)
    assert unbeaten[picked].all()


def test_what_falls_costs_a_print() -> None:
    """By hand: a lean of LEAN_MM falls in 63 of 100 prints, a figure SLENDER_AT feet tall in every second one."""
    aims = {"lean": np.array([0.0, 1.5, 50.0]), "slender": np.array([1.0, 9.0, 40.0])}
    fell = minutes({"lean": aims["lean"]}, {"lean": 1.0})
    assert fell.tolist() == pytest.approx([0.0, 90 * (1 - np.exp(-1)), 90.0], abs=1e-6)
    knocked = minutes({"slender": aims["slender"]}, {"slender": 1.0})
    assert knocked[0] < 1 and knocked[1] == pytest.approx(45.0) and knocked[2] == pytest.approx(90.0, abs=1e-3)


def test_what_does_not_fit_is_not_offered() -> None:
    mast = box((0, 0, 150), (6, 6, 300))
    search = search_poses(mast, Context.of(HERON, RESIN), directions=300)
    choice = rank_poses(mast, search, Context.of(HERON, load_material(None, HERON)))
    assert not search.fits[0], "upright it is taller than the machine"
    assert all(c.metrics["height_mm"] <= HERON.build_mm[2] for c in choice.candidates)
    assert not choice.on_front[~search.fits].any()


def test_a_heavier_scar_never_makes_a_direction_better() -> None:
    stone = knobbly(9, 4)
    downs = spread_directions(60)
    weights = np.random.default_rng(4).uniform(1, 9, len(stone.faces))
    plain, marked = weigh(stone, downs, 1.0), weigh(stone, downs, 1.0, weights)
    assert (marked.column("scar_area_mm2") >= plain.column("scar_area_mm2") - 1e-4).all()
    for aim in ("support_area_mm2", "height_mm", "minima", "cups", "peak_section_mm2"):
        assert marked.column(aim) == pytest.approx(plain.column(aim), rel=1e-5, abs=1e-4)


@settings(max_examples=20, deadline=None)
@given(st.floats(0.4, 3.0))
def test_aims_grow_with_the_figure_by_their_dimension(factor: float) -> None:
    stone = box((0, 0, 0), (8, 5, 12))
    downs = spread_directions(20)
    here, there = weigh(stone, downs, 1.0), weigh(stone.scaled(factor), downs, 1.0)
    for aim, power in (("height_mm", 1), ("peak_section_mm2", 2), ("step_cost", 0)):
        assert there.column(aim) == pytest.approx(factor**power * here.column(aim), rel=1e-3, abs=1e-4)


def test_a_scale_kept_weighs_as_one_made_anew() -> None:
    stone = knobbly(9, 4)
    scale, downs = Scale(stone, 1.0), spread_directions(24)
    once = scale.weigh(downs).aims
    assert (scale.weigh(downs[::-1]).aims[::-1] == once).all() and (scale.weigh(downs[5:6]).aims[0] == once[5]).all()


def test_thin_rods_have_the_length_and_the_way_of_the_rod() -> None:
    rod = mesh_of(
        trimesh.creation.cylinder(
            0.5, 24, sections=24, transform=trimesh.transformations.rotation_matrix(np.pi / 2, (0, 1, 0))
        ).subdivide_to_size(0.8)
    )
    (found,) = thin_rods(rod)
    assert np.linalg.norm(found) == pytest.approx(24, rel=0.1) and abs(found[0]) / np.linalg.norm(found) > 0.99
    table = weigh(rod, np.array([[1.0, 0, 0], [0, 0, -1.0]]), 1.0, rods=np.array([found]))
    assert table.column("weak_mm") == pytest.approx([np.linalg.norm(found), 0])


def test_a_plinth_reaches_under_the_centre_of_mass() -> None:
    on_its_point = cone(10, 30).transformed(np.diag([1.0, -1.0, -1.0]))
    metrics = dict(zip(AIMS, map(float, weigh(on_its_point, np.array([[0, 0, -1.0]]), 0.8).aims[0]), strict=True))
    side = plinth_side(metrics)
    assert side >= 30 / 8 and side >= 2 * metrics["lean"]
    stood = Mesh.joined(
        [
            Mesh(on_its_point.vertices - [0, 0, on_its_point.lower[2] - 4], on_its_point.faces),
            box((0, 0, 2), (side, side, 4.2)),
        ]
    )
    after = dict(zip(AIMS, map(float, weigh(stood, np.array([[0, 0, -1.0]]), 0.8).aims[0]), strict=True))
    assert after["lean"] == 0 and after["slender"] < 10


@pytest.mark.parametrize("process", ["resin", "filament"])
def test_every_aim_of_a_wish_has_its_words(process: str) -> None:
    for aim in PRIORITIES[process]:
        assert aim in AIMS and aim in NAMES and aim in GOOD and aim in POOR


def test_the_map_tells_what_the_search_found() -> None:
    stone = knobbly(9, 4)
    wish = wish_of(HERON, None)
    search = search_poses(stone, Context.of(HERON, RESIN), directions=200, wish=wish)
    choice = rank_poses(stone, search, Context.of(HERON, load_material(None, HERON)), wish=wish)
    told = map_document(search, choice.on_front, wish)
    assert len(told.down) == len(told.merit) == choice.evaluated and set(told.aims) == set(AIMS)
    assert min(told.merit) > 0 and told.front == np.flatnonzero(choice.on_front).tolist()
    assert 0 < told.limit < 1 and told.aims["height_mm"][0] == pytest.approx(stone.size[2], rel=1e-3)
    row = pose_document(choice).candidates[choice.recommended]
    assert row.down == pytest.approx(list(choice.candidates[choice.recommended].down))
    assert weigh(cylinder(3, 9), np.array([[0, 0, -1.0]]), 1.0).column("slender")[0] == pytest.approx(1.5, rel=0.01)
