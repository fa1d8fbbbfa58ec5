"""The load path: what hangs on what, by hand."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.hazards import combined
from tenugui.core.layers import prove
from tenugui.core.machines import Context
from tenugui.core.mesh import Mesh
from tenugui.core.risk import ledger
from tenugui.core.supports import body_loads, make_supports, safety_factor, tip_hold
from tenugui.core.supports.demand import load_points
from tenugui.core.supports.holds import PLATE_KPA
from tenugui.core.supports.load import GRIP_MM, body_at
from tenugui.core.supports.reach import reachable
from tenugui.core.supports.touch import touched
from tests.presets import HERON, RESIN
from tests.shapes import ball, box, cylinder

CONTEXT = Context.of(HERON, RESIN, 0.05)
PEEL = HERON.peel_kpa * 1e-3  # type: ignore[union-attr]
NONE = np.empty((0, 3))


def loads(mesh: Mesh, points: list[tuple[float, float, float]], tip: float = 0.35):  # type: ignore[no-untyped-def]
    proof = prove(mesh, CONTEXT.height, CONTEXT.reach)
    return proof, body_loads(proof, np.array(points).reshape(-1, 3), np.full(len(points), tip), CONTEXT)


def test_a_ball_on_one_tip_hangs_by_its_section_against_the_widest_circle() -> None:
    figure = Mesh(ball(10, fineness=5).vertices + [0, 0, 15], ball(10, fineness=5).faces)
    _, (body,) = loads(figure, [(0, 0, 5.0)])
    assert body.pull == pytest.approx(PEEL * math.pi * 100, rel=0.01)
    assert body.hold == pytest.approx(RESIN.green_strength_mpa * math.pi * 0.35**2 / 4)  # type: ignore[union-attr]
    assert body.z == pytest.approx(15, abs=1.0) and body.share == pytest.approx(1) and body.tips == 1


def test_a_tip_above_the_worst_layer_does_not_hold_it() -> None:
    cross = Mesh.joined([box((0, 0, 6), (12, 12, 2)), box((0, 0, 12), (2, 2, 12)), box((0, 0, 17), (32, 2, 2))])
    _, low = loads(cross, [(0, 0, 5.0)])
    _, both = loads(cross, [(0, 0, 5.0), (15, 0, 16.0)])
    assert min(b.margin for b in both) == pytest.approx(min(b.margin for b in low)), (
        "the wide plate is below the second tip"
    )
    assert max(b.tips for b in both) == 1, "nor is it told to have held it"


@pytest.mark.parametrize("e", [0.0, 1.5, 6.0])
def test_a_pull_beside_the_middle_of_two_tips_strains_the_nearer_one_as_a_beam_is_strained(e: float) -> None:
    a = 4.0
    plate = Mesh(box((e, 0, 6), (20, 6, 2)).vertices, box((e, 0, 6), (20, 6, 2)).faces)
    _, (body,) = loads(plate, [(-a, 0, 5.0), (a, 0, 5.0)])
    force = PEEL * 120
    by_hand = force / (2 * tip_hold(CONTEXT, 0.35)) * (1 + e * (a + GRIP_MM) / (a**2 + GRIP_MM**2))
    assert 1 / body.margin == pytest.approx(by_hand, rel=0.02)
    assert body.lever == pytest.approx(e, abs=0.06)


def test_what_leans_out_beside_its_foot_pulls_the_foot_off() -> None:
    upright = Mesh.joined([box((0, 0, 1), (6, 6, 2)), box((0, 0, 12), (6, 6, 20))])
    gallows = Mesh.joined([upright, box((12, 0, 23), (30, 6, 2))])
    _, (stands,) = loads(upright, [])
    _, leans = loads(gallows, [])
    hold, beam = 36 * PLATE_KPA * 1e-3, PEEL * 180
    by_hand = beam / hold * (1 + 12 * (3 + GRIP_MM) / (36 / 12 + GRIP_MM**2))
    assert stands.margin == pytest.approx(PLATE_KPA / HERON.peel_kpa, rel=0.02)  # type: ignore[union-attr]
    assert 1 / leans[0].margin == pytest.approx(by_hand, rel=0.05)


def test_two_prongs_are_held_each_alone_until_they_merge() -> None:
    prongs = Mesh.joined([box((-8, 0, 10), (4, 4, 10)), box((8, 0, 13), (2, 2, 4)), box((0, 0, 16), (20, 4, 2))])
    proof, found = loads(prongs, [(-8, 0, 5.0), (8, 0, 11.0)])
    by_share = sorted(found, key=lambda b: b.share)
    small, whole = by_share[0], by_share[-1]
    assert small.pull == pytest.approx(PEEL * 4, rel=0.01) and small.tips == 1
    assert whole.pull == pytest.approx(PEEL * 80, rel=0.01) and whole.tips == 2
    assert whole.hold == pytest.approx(2 * tip_hold(CONTEXT, 0.35))
    assert (
        body_at(proof, whole.component).sum()
        == len(proof.components.layer) - (proof.components.layer > whole.layer).sum()
    )


def test_tips_go_under_every_leg_of_what_is_pulled_between_its_legs() -> None:
    """A trough whose two legs rise from a bar: the pull of both passes through the middle, where there is nothing to
    hold.
    """
    legs = [box((x, 7, 16), (8, 30, 16)) for x in (-16, 16)]
    trough = Mesh.joined([box((0, -6, 7), (40, 4, 2)), *legs])
    proof, (body,) = loads(trough, [(x, -6, 6.0) for x in (-12, 0, 12)])
    layer = proof.components.layer
    assert len(layer[layer == body.layer]) == 2 and body.x == pytest.approx(0, abs=0.1)
    assert body_at(proof, body.component)[layer == body.layer].all(), "both legs are one piece with the bar"
    where = reachable(trough, proof, CONTEXT)
    held = (np.array([[x, -6.0, 6.0] for x in (-12, 0, 12)]), np.full(3, 0.35))
    more, _ = load_points(where, proof, CONTEXT, held, held[0], risk=0.05)
    assert (more[:, 0] < -11).any() and (more[:, 0] > 11).any() and (more[:, 1] > 0).all()
    set_ = make_supports(trough, CONTEXT, risk=0.05)
    points = np.array([[t.x, t.y, t.z] for t in set_.tips])
    worst = body_loads(set_.before, points, np.array([t.diameter for t in set_.tips]), CONTEXT)[0]
    assert worst.margin >= 0.95 * safety_factor(0.05)


def test_a_thick_body_hangs_on_few_stout_tips_and_a_shown_one_on_many_fine() -> None:
    """The same hold at the same margin: a tip of 0.6 mm holds what three of 0.35 do."""
    globe = ball(12, (0, 0, 18), fineness=4)
    shown = Context(HERON, RESIN, 0.05, weights=np.full(len(globe.faces), 5.0))
    plain, fine = (make_supports(globe, context, risk=0.05) for context in (CONTEXT, shown))
    load = [t for t in plain.tips if t.reason == "load"]
    assert load and all(t.diameter == pytest.approx(0.6) for t in load if t.z > 7), "the ball is thick there"
    assert all(t.diameter <= 0.35 + 1e-9 for t in fine.tips)
    assert len(load) <= 0.6 * sum(t.reason == "load" for t in fine.tips)
    for made, context in ((plain, CONTEXT), (fine, shown)):
        points, wide = np.array([[t.x, t.y, t.z] for t in made.tips]), np.array([t.diameter for t in made.tips])
        assert min(b.margin for b in body_loads(made.before, points, wide, context)) >= 0.95 * safety_factor(0.05)


def test_what_stands_on_the_plate_is_held_by_its_first_layer() -> None:
    _, (body,) = loads(cylinder(5, 10), [])
    first = math.pi * 25
    assert body.hold == pytest.approx(first * PLATE_KPA * 1e-3, rel=0.01)
    assert body.margin == pytest.approx(PLATE_KPA / HERON.peel_kpa, rel=0.01)  # type: ignore[union-attr]


def test_a_contact_finds_what_it_touches_and_nothing_else() -> None:
    proof = prove(box((0, 0, 10), (4, 4, 4)), CONTEXT.height, CONTEXT.reach)
    at = touched(proof, np.array([[0, 0, 8.0], [2.1, 0, 8.0], [3.0, 0, 8.0], [0, 0, 4.0], [0, 0, 11.0]]))
    assert at[0] >= 0 and at[1] == at[0], "just beside it still touches"
    assert at[2] == -1 and at[3] == -1 and at[4] > at[0]


@pytest.mark.parametrize("risk", [0.01, 0.05, 0.2])
def test_every_body_of_a_supported_ball_is_carried_at_the_accepted_risk(risk: float) -> None:
    made = make_supports(ball(10, fineness=5).dropped(), CONTEXT, risk=risk)
    points = np.array([[t.x, t.y, t.z] for t in made.tips])
    worst = body_loads(made.before, points, np.array([t.diameter for t in made.tips]), CONTEXT)[0]
    assert worst.margin >= safety_factor(risk) * 0.999
    assert {t.reason for t in made.tips} >= {"load"}
    apart = min(np.linalg.norm(p - q) for i, p in enumerate(points) for q in points[:i])
    assert apart > 0.7, "a cutter gets between"


def test_the_risk_of_a_table_with_tips_is_not_that_of_one_without() -> None:
    table = Mesh.joined([box((0, 0, 5), (4, 4, 10)), box((0, 0, 11), (24, 24, 2))])
    made = make_supports(table, CONTEXT)
    with_tips = combined(ledger(made.after, CONTEXT, tips=made.tips, own=made.before))
    without = combined(ledger(made.before, CONTEXT))
    assert without > 0.9 and with_tips < 0.1


@settings(max_examples=25, deadline=None)
@given(st.lists(st.tuples(st.floats(-5, 5), st.floats(-5, 5)), min_size=1, max_size=8), st.floats(1.1, 3))
def test_more_or_stronger_tips_never_hold_less(spots: list[tuple[float, float]], times: float) -> None:
    plate = box((0, 0, 6), (12, 12, 2))
    proof = prove(plate, CONTEXT.height, CONTEXT.reach)
    # In pairs about the middle of the pull: one more tip at one side alone moves the middle of the holds away from it,
    # and may strain the others more.
    points = np.array([(way * x, way * y, 5.0) for x, y in spots for way in (1, -1)])
    few = body_loads(proof, points[:2], np.full(2, 0.3), CONTEXT)[0]
    many = body_loads(proof, points, np.full(len(points), 0.3), CONTEXT)[0]
    strong = body_loads(proof, points, np.full(len(points), 0.3 * times), CONTEXT)[0]
    assert few.margin <= many.margin + 1e-9
    assert strong.margin == pytest.approx(many.margin * times**2, rel=1e-6)
