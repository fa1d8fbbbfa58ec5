"""What each tip bears and is needed for: by hand, against the whole load path, and by laws."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.layers import prove
from tenugui.core.machines import Context, default_height
from tenugui.core.mesh import Mesh
from tenugui.core.plan import held_of
from tenugui.core.plan.given import SupportsGiven
from tenugui.core.plan.inputs import Inputs
from tenugui.core.plan.what_if import kept_set, needed_of, what_if_of
from tenugui.core.supports import Tip, body_loads, make_supports, safety_factor, tip_hold
from tenugui.core.supports.load import GRIP_MM
from tenugui.core.supports.margins import MOST_MARGIN, Carrying, TipLoads, needed, surface_margins, tip_loads, what_if
from tenugui.core.supports.reach import reachable
from tests.core.test_hollow_fold import chain_of, inputs
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import ball, box, knobbly

CONTEXT = Context.of(HERON, RESIN, 0.05)
PEEL = HERON.peel_kpa * 1e-3  # type: ignore[union-attr]
WANTED = safety_factor(0.05)


def tip(x: float, y: float, z: float, wide: float = 0.35) -> Tip:
    return Tip(x, y, z, wide, (1.0,), "load", "plate", ((x, y, 0.0), (x, y, z)))


@dataclass(frozen=True)
class Told(TipLoads):
    """What tips bear, and which are needed."""

    needed: np.ndarray


def read(mesh: Mesh, tips: list[Tip], context: Context = CONTEXT) -> tuple[Carrying, Told]:
    proof = prove(mesh, context.height, context.reach)
    carrying = Carrying.of(proof, context, reachable(mesh, proof, context))
    loads = tip_loads(carrying, proof, tips, context)
    return carrying, Told(loads.on, loads.margin, needed(carrying, loads.on, *arrays(tips, context), WANTED))


def arrays(tips: list[Tip], context: Context = CONTEXT) -> tuple[np.ndarray, np.ndarray]:
    points = np.array([[t.x, t.y, t.z] for t in tips]).reshape(-1, 3)
    return points, np.array([float(tip_hold(context, t.diameter)) for t in tips])


@pytest.mark.parametrize("e", [0.0, 2.0])
def test_two_tips_share_a_pull_as_a_beam_does(e: float) -> None:
    a = 4.0
    plate = box((e, 0, 6), (20, 6, 2))
    _, told = read(plate, [tip(-a, 0, 5.0), tip(a, 0, 5.0)])
    each = PEEL * 120 / (2 * float(tip_hold(CONTEXT, 0.35)))
    turn = e / (a**2 + GRIP_MM**2)
    by_hand = [each * (1 + turn * (side * a + GRIP_MM)) for side in (-1, 1)]
    assert 1 / told.margin == pytest.approx(by_hand, rel=0.02)


def test_the_only_tip_under_what_starts_in_mid_air_is_needed_and_its_neighbours_are_not() -> None:
    """A table on its leg with a drop hanging from its rim: the drop's one tip is needed; of many under the table none
    is.
    """
    drop = Mesh(ball(1.2, fineness=3).vertices + [11, 0, 9], ball(1.2, fineness=3).faces)
    table = Mesh.joined([box((0, 0, 5), (12, 12, 10)), box((0, 0, 11), (26, 14, 2)), drop])
    crowd = [tip(x, y, 10.0, 0.5) for x in (-12, -9, 9, 12) for y in (-5, 0, 5)]
    _, told = read(table, [tip(11, 0, 7.8), *crowd])
    assert told.needed[0] and not told.needed[1:].any()
    assert (told.margin >= WANTED).all(), "a foot of 144 mm² and twelve stout tips"


def test_what_if_says_what_the_whole_load_path_says() -> None:
    figure = knobbly(9).dropped()
    raised = Mesh(figure.vertices + [0, 0, 5], figure.faces)
    made = make_supports(raised, CONTEXT)
    carrying, told = read(made.figure, made.tips)
    points, strength = arrays(made.tips)
    wide = np.array([t.diameter for t in made.tips])
    for k in range(0, len(made.tips), 7):
        rest = np.delete(np.arange(len(made.tips)), k)
        loads = body_loads(made.before, points[rest], wide[rest], CONTEXT, below=WANTED)
        found = what_if(carrying, told.on, points, strength, gone=[k], wanted=WANTED)
        assert len(found.margins) == len(rest)
        for change in found.worse:
            twin = min(loads, key=lambda b: abs(b.margin - change.after) + abs(b.z - change.z))
            assert change.after == pytest.approx(twin.margin) and change.z == pytest.approx(twin.z)
            assert change.pull == pytest.approx(twin.pull) and change.share == pytest.approx(twin.share)
            assert change.after < change.before
        assert bool(found.worse) == bool(told.needed[k])


def test_a_tip_put_under_what_hangs_strengthens_it_and_one_in_the_air_is_told() -> None:
    plate = box((0, 0, 6), (20, 6, 2))
    tips = [tip(-4, 0, 5.0)]
    carrying, told = read(plate, tips)
    points, strength = arrays(tips)
    alone = what_if(carrying, told.on, points, strength, wanted=WANTED)
    two = what_if(
        carrying, told.on, points, strength, put=np.array([[4.0, 0, 5.0]]), put_strength=strength[0], wanted=WANTED
    )
    assert two.vain == 0 and len(two.margins) == 2 and two.margins[0] > 2 * alone.margins[0]
    away = what_if(carrying, told.on, points, strength, put=np.array([[40.0, 0, 5.0]]), put_strength=1.0, wanted=WANTED)
    assert away.vain == 1 and away.margins[0] == alone.margins[0]


def test_where_nothing_is_peeled_a_tip_is_needed_only_under_what_starts_in_mid_air() -> None:
    context = Context.of(KESTREL, FILAMENT, 0.12)
    gate = Mesh.joined([box((-8, 0, 10), (4, 4, 20)), box((8, 0, 12), (4, 4, 16)), box((0, 0, 19), (20, 4, 2))])
    tips = [tip(8, 0, 4.0), tip(0, 0, 18.0)]
    carrying, told = read(gate, tips, context)
    assert not carrying.peeled
    assert told.needed.tolist() == [True, False], "the hanging leg; the lintel has the other one"
    points, strength = arrays(tips, context)
    assert [c.after for c in what_if(carrying, told.on, points, strength, gone=[0], wanted=1.0).worse] == [0.0]


def test_a_load_path_is_kept_to_the_precision_of_its_numbers() -> None:
    tips = [tip(-4, 0, 5.0), tip(4, 1, 5.0)]
    carrying, told = read(box((1, 0, 6), (20, 6, 2)), tips)
    again = Carrying.unpack(carrying.pack())
    points, strength = arrays(tips)
    assert again.peeled and again.height == carrying.height
    one, other = (c.walk(told.on, points, strength)[1] for c in (carrying, again))
    assert one == pytest.approx(other, rel=1e-5)


@settings(max_examples=12, deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_without_a_needed_tip_something_falls_and_without_comfort_nothing_does(seed: int) -> None:
    rng = np.random.default_rng(seed)
    plate = box((0, 0, 6), (24, 10, 2))
    many = int(rng.integers(1, 7))
    tips = [
        tip(float(x), float(y), 5.0, float(w))
        for x, y, w in zip(
            rng.uniform(-11, 11, many), rng.uniform(-4, 4, many), rng.uniform(0.3, 1.2, many), strict=True
        )
    ]
    carrying, told = read(plate, tips)
    points, strength = arrays(tips)
    before = carrying.walk(told.on, points, strength)[0].rows[:, 3].min()
    for k in range(many):
        found = what_if(carrying, told.on, points, strength, gone=[k], wanted=WANTED)
        if told.needed[k]:
            assert found.worse[0].after < min(WANTED, found.worse[0].before)
        else:
            rest = np.delete(np.arange(many), k)
            left = carrying.walk(told.on[rest], points[rest], strength[rest])[0].rows[:, 3].min()
            assert left >= min(WANTED, before) * (1 - 1e-5)
    assert math.isfinite(told.margin.min())


def test_the_page_is_answered_from_what_was_kept() -> None:
    shelf, base, choices = chain_of(ball(8, fineness=4).dropped())
    given_ = inputs("supports", base, choices).to(SupportsGiven)
    assert kept_set(shelf, given_, 0.05, "pillars", []) is None, "nothing has been made yet"
    row = held_of(shelf, given_, height=default_height(Inputs(shelf, given_).printer), risk=0.05).row
    made = kept_set(shelf, given_, 0.05, "pillars", [])
    assert made is not None
    everything = what_if_of(made, risk=0.05, gone=list(range(len(row.spots))), put=[])
    assert everything.worse[0].after == 0 and everything.worse[0].share == pytest.approx(1, abs=0.01)
    nothing = what_if_of(made, risk=0.05, gone=[], put=[])
    assert nothing.worse == []
    assert [m for m in nothing.margins if m] == pytest.approx([s.margin for s in row.spots if s.margin], rel=1e-4)
    for k, is_needed in enumerate(needed_of(made, 0.05).needed):
        assert bool(what_if_of(made, risk=0.05, gone=[k], put=[]).worse) == is_needed


def test_the_margin_map_is_hold_over_pull_of_the_layer_at_every_place() -> None:
    """A plate on four tips, with a post on it: the plate's layers pull on all of its area, the post's on theirs, and
    both hang on the same tips.
    """
    figure = Mesh.joined([box((0, 0, 6), (10, 10, 2)), box((0, 0, 11), (4, 4, 8))])
    tips = [tip(x, y, 5.0) for x in (-3, 3) for y in (-3, 3)]
    proof = prove(figure, CONTEXT.height, CONTEXT.reach)
    carrying = Carrying.of(proof, CONTEXT, reachable(figure, proof, CONTEXT))
    at = np.array([[5.0, 0, 6.0], [2.0, 0, 12.0], [40.0, 0, 6.0]])
    plate, post, nowhere = surface_margins(carrying, proof, tips, CONTEXT, at).tolist()
    hold = 4 * float(tip_hold(CONTEXT, 0.35))
    assert plate == pytest.approx(hold / (PEEL * 100), rel=0.02)
    assert post == pytest.approx(hold / (PEEL * 16), rel=0.02)
    assert nowhere == MOST_MARGIN
    bare, _, _ = surface_margins(carrying, proof, [], CONTEXT, at).tolist()
    assert bare == 0.0, "nothing holds it"
