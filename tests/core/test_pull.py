"""What pulls while resin is printed: which layers, why, and what a remedy leaves of it."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.contract import HollowChoice
from tenugui.core.layers import prove
from tenugui.core.machines import USUAL_RISK, Context, as_resin, load_material, load_printer
from tenugui.core.mesh import Mesh
from tenugui.core.plan import run_chain
from tenugui.core.plan.pull import MILD_N, pull_of, tilted
from tenugui.core.supports import RAFT_MM, safety_factor, tip_hold, usual_tip
from tenugui.core.supports.holds import PLATE_KPA
from tenugui.core.vat import film_wear, peaks, slower
from tests.core.test_hollow_fold import chain_of
from tests.shapes import ball, box, cup, cylinder

PRINTER = as_resin(load_printer("heron"))
DOWN = (0.0, 0.0, -1.0)
HEIGHT = 0.1
PEEL_KPA = Context.of(PRINTER, load_material(None, PRINTER), HEIGHT).peel_kpa


def read(mesh: Mesh):  # type: ignore[no-untyped-def]
    context = Context.of(PRINTER, load_material(None, PRINTER), HEIGHT)
    return prove(mesh.dropped(), HEIGHT, context.reach), context


def pulled(mesh: Mesh):  # type: ignore[no-untyped-def]
    proof, context = read(mesh)
    found = pull_of(proof, mesh, mesh, context=context, down=DOWN, printer=PRINTER, film=0.01)
    assert found is not None
    return found


def test_a_plate_on_a_post_is_a_shelf_and_pulls_by_its_area() -> None:
    post = Mesh.joined([box((0, 0, 10), (6, 6, 20)), box((0, 0, 22), (30, 30, 4))])
    (worst, *_) = pulled(post).peaks
    assert worst.cause == "shelf" and worst.z_mm == pytest.approx(20.0, abs=0.2)
    assert worst.pull_n == pytest.approx(PEEL_KPA * 30 * 30 * 1e-3, rel=0.02)
    assert worst.suction_n == 0


def test_a_tumbler_upside_down_is_a_cup_and_sucks_by_its_inner_section() -> None:
    tumbler = cup(10, 2, 3, 24)
    turned = Mesh(tumbler.vertices * [1, -1, -1], tumbler.faces)
    found = pulled(turned)
    inner = math.pi * 10**2
    assert found.peaks[0].cause == "cup"
    assert found.peaks[0].sealed_mm2 == pytest.approx(inner, rel=0.03)
    assert found.peaks[0].suction_n == pytest.approx(PRINTER.suction_kpa * inner * 1e-3, rel=0.03)
    hole = next(r for r in found.remedies if r.kind == "hole")
    solid = math.pi * 12**2 * PEEL_KPA * 1e-3
    assert hole.pull_n == pytest.approx(solid, rel=0.03), "with air in it only the closed end pulls, or the ring"


def test_a_slab_lying_flat_is_told_to_tilt_and_the_tilt_is_cut_anew() -> None:
    slab = box((0, 0, 0), (40, 30, 6))
    found = pulled(slab)
    flat = 40 * 30 * PEEL_KPA * 1e-3
    tilt = next(r for r in found.remedies if r.kind == "tilt")
    assert found.peaks[0].pull_n == pytest.approx(flat, rel=0.02)
    assert tilt.down is not None
    lean = math.acos(-tilt.down[2])
    # A slab on its edge is as wide as its thickness over the sine of its lean, along the side that stays level.
    level = 30 if abs(tilt.down[0]) > abs(tilt.down[1]) else 40
    if min(abs(tilt.down[0]), abs(tilt.down[1])) < 1e-6:
        assert tilt.pull_n == pytest.approx(level * 6 / math.sin(lean) * PEEL_KPA * 1e-3, rel=0.05)
    assert tilt.pull_n < 0.35 * flat


def test_half_the_speed_leaves_what_the_power_law_says_and_takes_what_the_formula_says() -> None:
    slab = box((0, 0, 0), (40, 30, 6))
    found = pulled(slab)
    lift = next(r for r in found.remedies if r.kind == "lift")
    assert lift.pull_n == pytest.approx(found.peaks[0].pull_n * 0.5 ** (1 / 3), rel=1e-6)
    assert lift.longer_min == pytest.approx(60 * PRINTER.lift_mm[0] / PRINTER.lift_mm_s[0] / 60, rel=1e-6), "60 layers"


def test_what_hardly_pulls_wants_no_remedy_and_holds_are_told_by_their_own_formulas() -> None:
    rod = pulled(cylinder(3, 30))
    assert rod.peaks[0].pull_n < MILD_N and rod.remedies == []
    slab = pulled(box((0, 0, 0), (40, 30, 6)))
    _, context = read(cylinder(3, 30))
    margin = slab.peaks[0].pull_n * safety_factor(USUAL_RISK)
    assert slab.tips == math.ceil(margin / tip_hold(context, usual_tip(context)))
    assert slab.plate_mm2 == pytest.approx(margin / PLATE_KPA * 1e3)


def test_every_peak_is_on_a_hill_of_its_own() -> None:
    areas = np.full(1000, 50.0)
    areas[200:210] = np.linspace(900, 800, 10)
    areas[600], areas[620], areas[900] = 700.0, 690.0, 100.0
    areas[601:620] = 600.0
    found = peaks(PRINTER, areas, np.zeros(1000), height=0.05)
    assert [p.layer for p in found] == [200, 600], (
        "flanks are no peaks, nor is a rise after no valley, nor what is slight"
    )
    areas[601:620] = 300.0
    assert [p.layer for p in peaks(PRINTER, areas, np.zeros(1000), height=0.05)] == [200, 600, 620]
    assert peaks(PRINTER, np.zeros(10), np.zeros(10), height=0.05) == []


def test_a_raft_that_pulls_hardest_is_named_by_its_height_alone() -> None:
    areas = np.r_[np.full(12, 800.0), np.full(100, 20.0), np.full(50, 500.0)]
    found = peaks(PRINTER, areas, np.zeros(len(areas)), height=0.05, raft_mm=0.6)
    assert [(p.layer, p.cause) for p in found] == [(0, "raft"), (112, "shelf")]
    assert found[0].newtons == pytest.approx(PRINTER.peel_kpa * 0.8)
    assert [p.cause for p in peaks(PRINTER, areas, np.zeros(len(areas)), height=0.05)] == ["wide", "shelf"]


def test_the_proof_of_a_ball_on_supports_tells_its_raft_and_its_middle() -> None:
    shelf, base, choices = chain_of(ball(9, fineness=4).dropped())
    choices |= {"hollow": HollowChoice()}
    proof = run_chain(shelf, base, choices, until="proof").boards["proof"].proof  # type: ignore[attr-defined]
    middle = next(p for p in proof.peaks if p.cause == "wide")
    kpa = Context.of(PRINTER, load_material(None, PRINTER), proof.layers.height_mm).peel_kpa
    assert middle.pull_n == pytest.approx(kpa * math.pi * 81 * 1e-3, rel=0.03)
    assert all(p.z_mm < RAFT_MM for p in proof.peaks if p.cause == "raft")


@settings(max_examples=30, deadline=None)
@given(st.floats(0.05, 1.0), st.floats(0.05, 1.0))
def test_slower_never_pulls_more(a: float, b: float) -> None:
    low, high = sorted((a, b))
    assert slower(PRINTER, low).peel_kpa <= slower(PRINTER, high).peel_kpa <= PRINTER.peel_kpa
    assert slower(PRINTER, low).suction_kpa <= PRINTER.suction_kpa


@given(st.integers(1, 3000), st.floats(0, 5000))
def test_a_film_wears_by_layers_and_by_area(layers: int, area: float) -> None:
    one = film_wear(PRINTER, np.full(layers, area))
    assert film_wear(PRINTER, np.full(2 * layers, area)) == pytest.approx(2 * one)
    assert one >= film_wear(PRINTER, np.full(layers, area / 2)) >= 0.5 * layers / PRINTER.film_layers


@given(st.floats(1, 89), st.floats(0, 6.28), st.floats(-1, 1), st.floats(-1, 1))
def test_a_tilt_leans_by_its_angle(degrees: float, around: float, x: float, y: float) -> None:
    down = np.array([x, y, -1.2])
    way = tilted(down.tolist(), degrees, around)
    assert np.linalg.norm(way) == pytest.approx(1.0)
    assert math.degrees(math.acos(float(np.clip(way @ down / np.linalg.norm(down), -1, 1)))) == pytest.approx(
        degrees, abs=1e-4
    )
