"""Laws of the pose search: the fast pass against the layer stack, the front against its definition, ranks against
rescaling.
"""

from __future__ import annotations

import math
from statistics import NormalDist

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.contract import map_document
from tenugui.core.layers import prove
from tenugui.core.machines import (
    LAYER_MPA,
    SPREAD,
    Context,
    default_height,
    free_reach,
    kind_of,
    limit_angle,
    load_material,
)
from tenugui.core.machines.kinds import RESIN as KIND_RESIN
from tenugui.core.mesh import Mesh
from tenugui.core.mesh.edges import face_volumes
from tenugui.core.pose import (
    AIMS,
    NAMES,
    Pace,
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
from tenugui.core.pose.choose import _pick, front
from tenugui.core.pose.expected import expected
from tenugui.core.pose.place import plinth_under
from tenugui.core.pose.price import PLINTH_MARGIN_MM, PLINTH_MM, falls, foot_hold, overturning, plinths, takes
from tenugui.core.pose.search import TOUCH_N, gives_way
from tenugui.core.pose.words import GOOD, POOR
from tenugui.core.worth import Gift, Rates, least, priced
from tests.poses import choose_poses
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import ball, box, cylinder, knobbly, mesh_of


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
    """Mouth up it fills; leaned past the angle at which its wall looks down it runs empty. The stack, which also knows
    the plate, agrees.
    """
    figure, down = bowl(), leaned(degrees)
    cups = dict(zip(AIMS, weigh(figure, np.array([down]), 1.0).aims[0], strict=True))["cups"]
    assert (cups > 0) == (degrees < 90)
    lifted = posed(figure, down)
    proof = prove(Mesh(lifted.vertices + [0, 0, 3.0], lifted.faces), 0.1, 0.2)
    sealed = max((s.volume for s in proof.voids.sealed), default=0.0)
    assert (sealed > 20) == (degrees < 90)


@pytest.mark.parametrize("seed", range(4))
def test_support_area_agrees_with_the_layer_stacks_overhang_in_rank(seed: int) -> None:
    """The fast aim is an area of faces, the stack's an area of layers: they order directions alike (Spearman above
    0.6).
    """
    stone = knobbly(9, 4)
    downs = np.random.default_rng(seed).normal(size=(14, 3))
    downs /= np.linalg.norm(downs, axis=1, keepdims=True)
    height = default_height(KESTREL)
    step = free_reach(KESTREL, FILAMENT, height)
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


columns = st.lists(st.lists(st.integers(0, 6), min_size=3, max_size=3), min_size=1, max_size=40)


@settings(max_examples=120, deadline=None)
@given(columns)
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
    context = Context.of(printer, material)
    search = search_poses(stone, context, directions=300)
    choice = rank_poses(stone, search, context)
    assert choice.evaluated == len(search.table.down) >= 300 and choice.on_front.any()
    for candidate in choice.candidates:
        assert np.linalg.norm(candidate.down) == pytest.approx(1) and np.linalg.norm(
            candidate.quaternion
        ) == pytest.approx(1)
        assert set(AIMS) <= set(candidate.metrics) and candidate.why.endswith(".")
        assert all(np.isfinite(v) for v in candidate.metrics.values())
        assert candidate.worth.total > 0 and 0 <= candidate.worth.risk <= 1
    least = min(c.worth.total for c in choice.candidates)
    best = choice.candidates[choice.recommended].worth
    assert best.total <= least + 0.5 * max(c.worth.unsure for c in choice.candidates)


@pytest.mark.parametrize("printer", [HERON, KESTREL], ids=["resin", "filament"])
def test_dearer_rates_alike_change_no_ranking(printer) -> None:  # type: ignore[no-untyped-def]
    stone = knobbly(10, 4)
    material = load_material(None, printer)
    context = Context.of(printer, material.model_copy(update={"cost": 0.0}))
    search = search_poses(stone, context, directions=200)
    here = search.merit(context, wish_of({"rates": {"minute": 0.2, "hour": 0.4, "lost": 2.0}}))
    twice = search.merit(context, wish_of({"rates": {"minute": 0.4, "hour": 0.8, "lost": 2.0}}))
    assert twice == pytest.approx(2 * here)


@settings(max_examples=25, deadline=None)
@given(st.floats(0.01, 2), st.floats(1.01, 20), st.floats(0, 3), st.floats(0, 4))
def test_a_dearer_minute_never_asks_for_more_of_them(minute: float, times: float, hour: float, lost: float) -> None:
    """The least of a sum whose weight on one term grows never has more of that term."""
    rng = np.random.default_rng(7)
    gifts = [Gift(*rng.uniform(0, [60, 10, 3, 0.5])) for _ in range(30)]

    def hands(price: float) -> float:
        worths = [priced(g, Rates(price, hour, lost)) for g in gifts]
        return gifts[least(worths)].hands_min + lost * 20 * 1.5 * gifts[least(worths)].lost

    assert hands(minute * times) <= hands(minute) + lost * 20 + 1e-9
    without = [Gift(g.hands_min, g.machine_h, g.material, 0.0) for g in gifts]

    def alone(price: float) -> float:
        return without[least([priced(g, Rates(price, hour, lost)) for g in without])].hands_min

    assert alone(minute * times) <= alone(minute) + 1e-9


def test_the_upright_one_is_taken_where_nobody_could_tell() -> None:
    rates = Rates(1.0, 0.0, 1.0)
    best, near, risky, far = (
        priced(g, rates) for g in (Gift(10, 1, 0, 0), Gift(11, 1, 0, 0), Gift(8, 1, 0, 0.1), Gift(30, 1, 0, 0))
    )
    assert least([best, near]) == 0 and least([best, near], expected=1) == 1
    assert least([best, far], expected=1) == 0, "not at any price"
    assert least([best, risky], expected=1) == 0 or risky.total > best.total, "nor at another chance of losing it"
    assert least([best]) == 0


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10_000))
def test_what_is_looked_for_turns_with_the_figure(seed: int) -> None:
    turn = trimesh.transformations.random_rotation_matrix(np.random.default_rng(seed).random(3))[:3, :3]
    downs = spread_directions(200)
    for hangs in (True, False):
        for faces in ((0.0, -1.0, 0.0), None):
            here = expected(downs, (0, 0, 1), faces, hangs)
            up, ahead = tuple(turn[:, 2]), None if faces is None else tuple(-turn[:, 1])
            assert (expected(downs @ turn.T, up, ahead, hangs) == here).all()
            assert hangs or here.sum() <= 3


def test_where_it_hangs_it_leans_back_and_where_it_stands_it_is_upright() -> None:
    def leaning(degrees: float, to: float) -> np.ndarray:
        """Down of a figure that leans so far, its top towards `to` degrees about z from its front (-y)."""
        a, t = np.radians(degrees), np.radians(to)
        return np.array([-np.sin(a) * np.sin(t), np.sin(a) * np.cos(t), -np.cos(a)])

    for degrees, to, hung in (
        (0, 0, False),
        (10, 0, False),
        (30, 0, True),
        (30, 50, True),
        (30, 180, False),
        (60, 0, False),
    ):
        down = leaning(degrees, to)
        assert expected(down, (0, 0, 1), (0, -1, 0), True)[0] == hung, (degrees, to)
        if hung:
            face = -down @ np.array([0.0, -1.0, 0.0])
            assert face > 0, "its face turns up"


def test_a_lean_that_costs_much_more_is_not_taken_for_custom() -> None:
    """A thin plate on edge: leaning it multiplies what must be held, and nobody would."""
    context = Context.of(HERON, RESIN)
    wide = box((0, 0, 1.5), (50, 50, 3))
    choice = choose_poses(wide, context, directions=300, front=(0.0, -1.0, 0.0))
    totals = [c.worth.total for c in choice.candidates]
    best, least_of_all = choice.candidates[0].worth, min(totals)
    assert best.total - least_of_all <= 0.5 * max(c.worth.unsure for c in choice.candidates) + 1e-9


def test_a_wide_foot_welded_to_the_plate_costs_its_scraping() -> None:
    pace = Pace.of(Context.of(HERON, RESIN))
    aims = {aim: np.zeros(1) for aim in AIMS} | {"height_mm": np.full(1, 30.0)}
    wide = aims | {"contact_mm2": np.full(1, 500.0)}
    none = np.zeros(1, bool)
    more = takes(wide, pace, 1000.0, none).hands_min[0] - takes(aims, pace, 1000.0, none).hands_min[0]
    assert more == pytest.approx(500 * KIND_RESIN.hands_min["contact_mm2"]) and 4 < more < 9


def test_what_another_beats_is_offered_only_where_too_few_are_unbeaten() -> None:
    """Minutes alone do not carry a beaten direction onto the board, which says that no other beats its rows."""
    down = spread_directions(60)
    aims = np.zeros((60, len(AIMS)))
    aims[:, AIMS.index("height_mm")] = 50.0
    unbeaten = np.zeros(60, np.bool_)
    unbeaten[[0, 20, 40, 59]] = True
    aims[unbeaten, AIMS.index("height_mm")] = 200.0
    merit = np.where(unbeaten, 20.0, 5.0)
    merit[0] = 1.0
    picked = _pick(PoseTable(down, aims), merit, able=np.ones(60, np.bool_), on_front=unbeaten, count=4)
    assert unbeaten[picked].all() and picked[0] == 0
    merit[30] = 0.5
    assert _pick(PoseTable(down, aims), merit, able=np.ones(60, np.bool_), on_front=unbeaten, count=4)[0] == 30, (
        "the least of all is on the board"
    )


def test_a_foot_holds_by_the_overturning_law() -> None:
    """By hand: a disc of 10 mm radius under 60 mm, 20 g: 0.1 N/mm² x 314 mm² x 10 mm against 1.5 N x 60 mm, and the
    moving plate's share.
    """
    area = math.pi * 100
    hold = 0.1 * area * 10
    push = 1.5 * 60 + 0.02 * (3.0 * 30 + 9.81 * 0)
    assert foot_hold(area, area) == pytest.approx(hold) and overturning(60.0, 0.0, 0.02) == pytest.approx(push)
    one = np.ones(1)
    chance = float(falls(area * one, area * one, 60 * one, 0 * one, 0.02)[0])
    assert chance == pytest.approx(NormalDist().cdf(-math.log(hold / push) / 0.5), rel=1e-6)
    assert float(falls(0 * one, 0 * one, 60 * one, 0 * one, 0.02)[0]) == pytest.approx(1.0)
    assert overturning(60.0, 5.0, 0.02) - push == pytest.approx(0.02 * 9.81 * 5)


@settings(max_examples=40, deadline=None)
@given(st.floats(1, 2000), st.floats(5, 200), st.floats(1.05, 4))
def test_a_broader_foot_falls_less_and_a_taller_figure_more(area: float, tall: float, times: float) -> None:
    a, h, zero = np.array([area]), np.array([tall]), np.zeros(1)
    here = falls(a, a, h, zero, 0.02)[0]
    assert falls(a * times, a * times, h, zero, 0.02)[0] <= here <= falls(a, a, h * times, zero, 0.02)[0]


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
    leaning = [0.5, 0, -np.sqrt(0.75)]
    table = weigh(rod, np.array([[1.0, 0, 0], leaning, [0, 0, -1.0]]), 1.0, rods=np.array([found]))
    # Standing all of it, at 60 degrees from the vertical a quarter, lying nothing.
    assert table.column("weak_mm") == pytest.approx([24, 6, 0], rel=0.1, abs=0.01)


def test_a_rod_gives_way_by_its_length_over_its_thickness_cubed() -> None:
    # What bears exactly the touch gives way every second time; an eighth of the length with half the thickness too.
    at_even = LAYER_MPA * np.pi * 1.2**3 / 32 / TOUCH_N
    assert gives_way(1.2, at_even) == pytest.approx(0.5) and gives_way(0.6, at_even / 8) == pytest.approx(0.5)
    assert gives_way(1.2, at_even * np.exp(SPREAD)) == pytest.approx(0.841, abs=1e-3)
    wide = mesh_of(trimesh.creation.cylinder(0.78, 7, sections=24).subdivide_to_size(0.6))
    slim = wide.scaled(0.9)
    both = [float(np.linalg.norm(thin_rods(rod))) for rod in (slim, wide)]
    assert both[1] < both[0] < 3, "the same figure made larger breaks no more easily"


def test_a_plinth_is_as_large_as_the_overturning_law_asks() -> None:
    one = np.ones(1)
    side, off = plinths(78 * one, 78 * one, 75 * one, 0 * one, 0.02)
    push = 1.5 * 75 + 0.02 * 3.0 * 75 / 2
    radius = (2.5 * push / (0.1 * math.pi)) ** (1 / 3)
    assert side[0] == math.ceil(math.sqrt(math.pi) * radius), "a square of the disc's area, in whole mm"
    assert off[0] < 0.05
    assert plinths(2000 * one, 2000 * one, 30 * one, 0 * one, 0.02)[0][0] == 0, "what stands by itself gets none"
    edge, lost = plinths(20 * one, 0.2 * one, 75 * one, 0 * one, 0.02)
    assert edge[0] == 0 and lost[0] > 0.9, "what balances on an edge is not helped"


def test_a_plinth_lies_under_the_foot_and_is_printed_with_it() -> None:
    staff = Mesh.joined([cylinder(1.5, 60), ball(3, (0, 0, 61))])
    plate = plinth_under(staff.dropped(), 18.0)
    assert plate.size == pytest.approx([18, 18, PLINTH_MM]) and plate.lower[2] == 0
    assert float(face_volumes(plate).sum()) == pytest.approx(18 * 18 * PLINTH_MM), "its faces look outwards"
    assert (plate.lower + plate.upper)[:2] / 2 == pytest.approx([0, 0], abs=1e-6)
    beast = Mesh.joined([box((0, 0, 12), (40, 8, 4)), box((-15, 0, 5), (4, 4, 10)), box((15, 0, 6), (4, 4, 9))])
    under = plinth_under(beast.dropped(), 18.0)
    assert under.size == pytest.approx([34 + PLINTH_MARGIN_MM, 18, PLINTH_MM]), "under the hoof in the air, too"


@pytest.mark.parametrize("process", ["resin", "filament"])
def test_every_aim_of_a_wish_has_its_words(process: str) -> None:
    for aim in kind_of(process).deciding:
        assert aim in AIMS and aim in NAMES and aim in GOOD and aim in POOR


def test_the_map_tells_what_the_search_found() -> None:
    stone = knobbly(9, 4)
    wish, context = wish_of(None), Context.of(HERON, RESIN)
    search = search_poses(stone, context, directions=200)
    choice = rank_poses(stone, search, context)
    told = map_document(search, context, choice.on_front, wish)
    assert len(told.down) == len(told.merit) == choice.evaluated and set(told.aims) == set(AIMS)
    assert min(told.merit) > 0 and told.front == np.flatnonzero(choice.on_front).tolist()
    assert 0 < told.limit < 1 and told.aims["height_mm"][0] == pytest.approx(stone.size[2], rel=1e-3)
    assert weigh(cylinder(3, 9), np.array([[0, 0, -1.0]]), 1.0).column("slender")[0] == pytest.approx(1.5, rel=0.01)
