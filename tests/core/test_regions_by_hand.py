"""Regions changed by hand: left, carried on one body, ended at another gap; what a gap does by its prior; the order in
which tips may go; the same changes again elsewhere.
"""

from __future__ import annotations

import math
from statistics import NormalDist

import manifold3d
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from tenugui.core.contract import EditAsk
from tenugui.core.layers import prove
from tenugui.core.machines import SPREAD, Context
from tenugui.core.marks import Plane
from tenugui.core.mesh import Mesh
from tenugui.core.paths.lines import pitch_of
from tenugui.core.plan import at_size, mirrored, without_twins
from tenugui.core.plan.beside import alone
from tenugui.core.risk import ledger
from tenugui.core.risk.meeting import FUSES, MENDED_MM2, SAGS, SAGS_MM, carries_mm2
from tenugui.core.supports import Carrying, Edit, SupportSet, Tip, back_off, make_supports, reachable, tip_hold, what_if
from tenugui.core.supports.body import printed
from tenugui.core.supports.byhand import changed
from tenugui.core.supports.manner import BRIDGE_MM
from tenugui.core.supports.margins import tip_loads
from tests.core.test_supports_checked import manifold, solid
from tests.core.test_worth import tip
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import ball, box

CONTEXT = Context.of(KESTREL, FILAMENT, 0.2)
LEFT, RIGHT = (-26.0, 0.0, 12.0), (26.0, 0.0, 12.0)


def two_eaves() -> Mesh:
    """A wall with an eave of 18 by 16 mm on either side, 12 mm up: two regions far apart."""
    return Mesh.joined([box((0, 0, 8), (26, 16, 16)), box((-22, 0, 13), (18, 16, 2)), box((22, 0, 13), (18, 16, 2))])


def made(*edits: Edit, style: str = "pillars") -> SupportSet:
    return make_supports(two_eaves(), CONTEXT, style=style, edits=edits)


def side(held: SupportSet, sign: int) -> list[Tip]:
    return [t for t in held.tips if np.sign(np.mean([x for x, _, _ in t.contacts])) == sign]


def test_a_region_that_is_left_loses_its_tips_and_no_other_does() -> None:
    plain, left = made(), made(Edit("leave", LEFT))
    assert len(side(plain, -1)) > 3 and not side(left, -1)
    assert side(left, 1) == side(plain, 1)
    assert left.after.hang.total > plain.after.hang.total + 100, "an eave of 18 by 16 mm hangs"
    missed = made(Edit("leave", (0.0, 0.0, 60.0)))
    assert [f.code for f in missed.findings if f.count == 1 and f.code == "hand-missed"] and missed.tips == plain.tips


def test_a_region_is_carried_on_one_body_that_meets_nothing() -> None:
    held = made(Edit("carry", LEFT))
    (body,) = side(held, -1)
    assert body.cells and side(held, 1) == side(made(), 1)
    cells = np.array(body.cells)
    assert cells[:, 3] == pytest.approx(12 - body.gap) and 150 < len(cells) * body.cell**2 < 18 * 16
    columns = printed(body, False)
    parts = [Mesh(columns.vertices[8 * k : 8 * k + 8], columns.faces[:12]) for k in range(len(columns.vertices) // 8)]
    whole = manifold3d.Manifold.batch_boolean([manifold(one) for one in parts], manifold3d.OpType.Add)
    assert (solid(held.figure) ^ whole).volume() < 1e-6
    assert held.islands == [] and held.after.hang.total < made(Edit("leave", LEFT)).after.hang.total - 100
    resin = make_supports(two_eaves(), Context.of(HERON, RESIN, 0.1), edits=[Edit("carry", LEFT)])
    assert "hand-missed" in {f.code for f in resin.findings}, "where tips grip nothing is carried so"


@pytest.mark.parametrize("layers", [0, 1, 3])
@pytest.mark.parametrize("style", ["pillars", "areas"])
def test_a_region_ends_as_many_layers_short_as_it_is_told_to(style: str, layers: int) -> None:
    plain, held = made(style=style), made(Edit("gap", LEFT, gap_layers=layers), style=style)
    assert [t.gap for t in side(held, 1)] == [t.gap for t in side(plain, 1)]
    assert [t.gap for t in side(held, -1)] == pytest.approx([layers * 0.2] * len(side(plain, -1)))
    for area in (t for t in side(held, -1) if t.cells):
        assert [top for _, _, _, top in area.cells] == pytest.approx([12 - layers * 0.2] * len(area.cells))
    assert all(not t.cap for t in side(held, -1)) or layers, "what grips has no interface"


def test_fusing_and_sagging_by_their_prior() -> None:
    """By hand: at a gap of one layer every print's spread over half a layer, at six over four."""
    for layers in (1, 6):
        held = made(*[Edit("gap", at, gap_layers=layers) for at in (LEFT, RIGHT)], style="areas")
        told = {h.code: h for h in ledger(held.after, CONTEXT, tips=held.tips, own=held.before)}
        gap, under = layers * 0.2, sum(map(carries_mm2, held.tips))
        shown = 1 - math.exp(-under / MENDED_MM2)
        fuse = NormalDist().cdf(-math.log(gap / (FUSES * 0.2)) / SPREAD) * shown
        apart = pitch_of(KESTREL.line_mm, 0.2) / KESTREL.support_density
        droop = 0.2 * (apart / BRIDGE_MM) ** 2 / 2**KESTREL.interface_layers
        sag = NormalDist().cdf(-math.log(max(SAGS * 0.2, SAGS_MM) / (gap + droop)) / SPREAD) * shown
        assert 0.99 < shown < 1
        for code, by_hand in (("fused", fuse), ("gap-sags", sag)):
            assert (code in told) == (by_hand > 0.02)
            if code in told:
                assert told[code].chance == pytest.approx(by_hand, rel=1e-3)
        assert ("fused" in told) == (layers == 1) and (layers == 1 or told["gap-sags"].chance > 0.5)


def drop_and_crowd() -> tuple[Carrying, np.ndarray, np.ndarray, np.ndarray]:
    """A table on its leg, a drop hanging from its rim on one tip, and a crowd under the table."""
    context = Context.of(HERON, RESIN, 0.1)
    drop = Mesh(ball(1.2, fineness=3).vertices + [11, 0, 9], ball(1.2, fineness=3).faces)
    figure = Mesh.joined([box((0, 0, 5), (3, 3, 10)), box((0, 0, 11), (26, 14, 2)), drop])
    tips = [tip(11, 0, 7.8), *[tip(x, y, 10.0, mm=0.5) for x in (-12, -9, 9, 12) for y in (-5, 0, 5)]]
    before = prove(figure, context.height, context.reach)
    carrying = Carrying.of(before, context, reachable(figure, before, context))
    on = tip_loads(carrying, before, tips, context).on
    points = np.array([[t.x, t.y, t.z] for t in tips])
    return carrying, on, points, np.array([float(tip_hold(context, t.diameter)) for t in tips])


def test_tips_go_until_the_next_would_leave_something_held_by_less() -> None:
    carrying, on, points, strength = drop_and_crowd()
    for wanted in (1.5, 3.0):
        way = back_off(carrying, on, points, strength, wanted=wanted, stays=np.zeros(len(on), np.bool_))
        assert sorted(way.order.tolist()) == list(range(len(on))) and 0 < way.free < len(on)
        assert 0 not in way.order[: way.free], "the drop hangs on it alone"

        def weak(gone: list[int], wanted: float = wanted) -> int:
            return len(what_if(carrying, on, points, strength, gone=gone, wanted=wanted).worse)

        order = way.order.tolist()
        assert not weak(order[: way.free]), "all of them at once"
        assert all(weak([*order[: way.free], k]) for k in order[way.free :]), "and not one more"
        assert way.least[: way.free].min() >= wanted * (1 - 1e-5) and way.least[way.free] < wanted
    assert back_off(carrying, on, points, strength, wanted=1.5, stays=np.ones(len(on), np.bool_)).order.tolist() == []


def test_more_may_go_where_less_is_wanted() -> None:
    carrying, on, points, strength = drop_and_crowd()
    stays = np.zeros(len(on), np.bool_)
    free = [back_off(carrying, on, points, strength, wanted=w, stays=stays).free for w in (1.2, 2.0, 4.0)]
    assert free[0] >= free[1] >= free[2]


def test_a_tip_is_put_on_the_surface_that_has_moved_a_little_and_none_into_the_air() -> None:
    near, far = Edit("add", (-26.0, 2.0, 11.2)), Edit("add", (-26.0, 2.0, 7.0))
    (put,) = [t for t in made(near).tips if t.reason == "hand"]
    assert (put.x, put.y, put.z) == pytest.approx((-26, 2, 12))
    astray = made(far)
    assert not [t for t in astray.tips if t.reason == "hand"]
    assert [f.count for f in astray.findings if f.code == "hand-missed"] == [1]


PLACE = st.tuples(*[st.floats(-50, 50, allow_nan=False) for _ in range(3)])


@settings(max_examples=40)
@given(PLACE, st.floats(0.1, 9), st.floats(-20, 20))
def test_the_image_of_an_image_is_the_change_itself(
    at: tuple[float, float, float], factor: float, offset: float
) -> None:
    mirror = Plane((0.6, 0.0, 0.8), offset, 0.0)
    edits = [EditAsk(op="foot", at=at, to=at), EditAsk(op="raft", raft="feet")]
    (image,) = mirrored(edits, mirror, factor)
    assert np.dot(np.add(image.at, at) / 2, mirror.normal) == pytest.approx(offset * factor, abs=2e-3), "midway on it"
    (back,) = mirrored([image], mirror, factor)
    assert back.at == pytest.approx(at, abs=4e-3) and back.to == pytest.approx(at, abs=4e-3)


def test_changes_come_at_another_size_and_none_comes_twice() -> None:
    edits = [EditAsk(op="add", at=(1.0, 2.0, 3.0)), EditAsk(op="gap", at=(4.0, 0.0, 0.0), gap_layers=3)]
    twice = at_size(edits, 2.0)
    assert [e.at for e in twice] == [(2.0, 4.0, 6.0), (8.0, 0.0, 0.0)] and twice[1].gap_layers == 3
    known = [EditAsk(op="add", at=(2.0, 4.0, 6.01))]
    assert [e.op for e in without_twins(twice, known)] == ["gap"]
    assert without_twins(known, [EditAsk(op="remove", at=(2.0, 4.0, 6.0))]) == known, "another change at that place"


def test_two_sets_differ_by_what_only_one_of_them_has() -> None:
    one, other = made(), made(Edit("leave", LEFT), Edit("add", (24.0, 7.5, 12.0)))
    here, there = alone(one.tips, other.tips), alone(other.tips, one.tips)
    assert sum(here) == len(side(one, -1)) and sum(there) == 1
    assert not any(alone(one.tips, one.tips)) and all(alone(one.tips, []))
    thicker = [tip(t.x, t.y, t.z, mm=2 * t.diameter) for t in one.tips]
    assert all(alone(thicker, one.tips)), "of another width is another"


def test_a_gap_is_asked_for_in_layers_and_within_bounds() -> None:
    gaps = ({"op": "gap"}, {"op": "leave", "gap_layers": 1}, {"op": "gap", "gap_layers": 7})
    lines = ({"op": "density"}, {"op": "density", "density": 0.95}, {"op": "leave", "density": 0.3})
    for wrong in (*gaps, *lines):
        with pytest.raises(ValidationError):
            EditAsk.model_validate({"at": (0.0, 0.0, 0.0), **wrong})


def test_many_changes_are_made_at_once() -> None:
    """Taken away by their places, whichever order they come in; a place where one was finds its neighbour."""
    tips = [tip(2.0 * x, 2.0 * y, 9.0) for x in range(40) for y in range(30)]
    edits = [Edit("remove", (t.x + 0.2, t.y - 0.1, t.z)) for t in tips[::-1] if t.x > 20]
    left = changed(tips, edits, 0.3, pitch=2.5)
    assert left.kept == [t for t in tips if t.x <= 20] and left.missed == 0
    again = changed(left.kept, [Edit("remove", (22.0, 0.0, 9.0)), Edit("remove", (26.0, 0.0, 9.0))], 0.3, pitch=2.5)
    gone = [t for t in left.kept if t not in again.kept]
    assert [(t.x, t.y) for t in gone] == [(20.0, 0.0)] and again.missed == 1
    many = [EditAsk(op="remove", at=e.at) for e in edits]
    assert without_twins(many, many[:500]) == many[500:]
