"""Trial prints against closed forms: one tip, two bodies, bundles, monotony, what nothing holds; and the walk against
the load path itself.
"""

from __future__ import annotations

import math
from statistics import NormalDist

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.hazards import Arises, Hazard, Loss, kinds
from tenugui.core.layers import prove
from tenugui.core.machines import Context
from tenugui.core.mesh import Mesh
from tenugui.core.prints import Draws, Moments, moments_of, printed, tallied
from tenugui.core.prints.draw import OWN, PEEL, STRENGTH, bodies_of
from tenugui.core.supports import Carrying, make_supports, reachable, tip_hold
from tenugui.core.supports.touch import touched
from tests.presets import HERON, RESIN
from tests.shapes import box, knobbly

PRINTS = 4000


def hung(places: list[tuple[float, float]], on: list[int], pulls: list[float], strength: float) -> Moments:
    """Bodies of ten layers each side by side, one component a layer: tips at their first layers, the pull at the last
    one.
    """
    bodies = len(pulls)
    layer = np.repeat(np.arange(1, 11, dtype=np.int32), bodies)
    n = len(layer)
    links = np.array([(c, c - bodies) for c in range(bodies, n)], np.int32).reshape(-1, 2)
    pull = np.zeros(n)
    pull[-bodies:] = pulls
    x = np.tile(
        np.array([np.mean([p[0] for p, o in zip(places, on, strict=True) if o == b] or [0.0]) for b in range(bodies)]),
        10,
    )
    carrying = Carrying(
        0.05,
        True,
        layer,
        np.ones(n),
        np.column_stack([x, np.zeros(n)]),
        links,
        pull,
        np.empty((0, 3)),
        np.empty(0, np.int32),
        np.empty((0, 3)),
        np.empty(0, np.int32),
    )
    at = np.array([(u, v, 0.05) for u, v in places]).reshape(-1, 3)
    return moments_of(carrying, np.array(on, np.int32), at, np.full(len(on), strength))


def chance(margin: float) -> float:
    """Of a single tip: shared strength, pull, and its own scatter together."""
    return NormalDist().cdf(-math.log(margin) / math.sqrt(STRENGTH**2 + PEEL**2 + OWN**2))


def within(count: int, share: float, prints: int = PRINTS) -> bool:
    """Three standard errors."""
    return abs(count / prints - share) < 3 * math.sqrt(max(share * (1 - share), 1e-4) / prints)


@pytest.mark.parametrize("margin", [0.7, 1.0, 1.5, 2.5])
def test_a_body_on_one_tip_is_lost_as_often_as_the_closed_form_says(margin: float) -> None:
    walked = printed(hung([(0, 0)], [0], [1.0], margin), Draws.of(1, PRINTS))
    lost = walked.moment >= 0
    assert within(int(lost.sum()), chance(margin))
    assert (walked.share[lost] == 1).all() and (walked.torn[lost] == 1).all() and (walked.torn[~lost] == 0).all()


def test_two_bodies_apart_share_the_print_and_not_their_tips() -> None:
    """Given strength and pull, they fail independently: so both survive as often as the square, meant over what is
    shared.
    """
    walked = printed(hung([(0, 0), (40, 0)], [0, 1], [1.0, 1.0], 1.5), Draws.of(2, PRINTS))
    shared = np.linspace(-8, 8, 4001)
    spread = math.hypot(STRENGTH, PEEL)
    alone = np.array([NormalDist().cdf((math.log(1.5) + spread * s) / OWN) for s in shared])
    weight = np.exp(-(shared**2) / 2)
    both = float((alone**2 * weight).sum() / weight.sum())
    assert within(int((walked.moment < 0).sum()), both)
    assert both > (1 - chance(1.5)) ** 2 + 0.02, "what is shared makes them fail together"
    half = walked.share[(walked.lost.sum() > 0) & (walked.moment >= 0)]
    assert set(np.round(half, 6)) == {0.5, 1.0}


def test_a_bundle_of_equal_tips_has_daniels_strength() -> None:
    """Own scatter alone, many tips at one place: the bundle holds max over s of s (1 - F(s)) of its tips' strength
    (Daniels 1945).
    """
    many = 400
    s = np.linspace(0.05, 4, 4000)
    daniels = float((s * (1 - np.array([NormalDist().cdf(math.log(v) / OWN) for v in s]))).max())
    still = np.ones(300)
    own = np.exp(OWN * np.random.default_rng(3).standard_normal((many, 300)))
    for share, lost in ((0.93, False), (1.07, True)):
        made = hung([(0, 0)] * many, [0] * many, [share * daniels * many], 1.0)
        walked = printed(made, Draws(still, still, still, own))
        assert ((walked.moment >= 0).mean() > 0.97) == lost and ((walked.moment >= 0).mean() < 0.03) != lost


@settings(max_examples=30, deadline=None)
@given(st.integers(1, 12), st.floats(0.3, 4), st.integers(0, 2**31))
def test_stronger_tips_never_lose_more(tips: int, margin: float, seed: int) -> None:
    rng = np.random.default_rng(seed)
    places = [(float(x), float(y)) for x, y in rng.uniform(-8, 8, (tips, 2))]
    draws = Draws.of(tips, 200, seed)
    weak, strong = (printed(hung(places, [0] * tips, [1.0], s), draws) for s in (margin / tips, 2 * margin / tips))
    assert (strong.share <= weak.share + 1e-12).all() and (strong.torn <= weak.torn).all()
    again = printed(hung(places, [0] * tips, [1.0], margin / tips), Draws.of(tips, 200, seed))
    assert (again.share == weak.share).all() and (again.moment == weak.moment).all(), "the same seed, the same numbers"
    assert (Draws.of(tips + 2, 200, seed).own[:tips] == draws.own).all(), "more tips leave the draws of the others"


def plainly(moments: Moments, draws: Draws, p: int) -> tuple[int, set[int]]:
    """One print of bodies that join nothing, by the plain rule: the moment of the first loss, and the tips that gave
    way.
    """
    first, torn, lost = -1, set[int](), set[int]()
    for m in range(len(moments.node)):
        node = int(moments.node[m])
        force = float(moments.force[m] * draws.peel[p])
        while node not in lost and force > 0 and moments.high[m] > moments.low[m]:
            left = [k for k in range(moments.low[m], moments.high[m]) if k not in torn]
            if not left:
                lost.add(node)
                first = m if first < 0 else first
                break
            x, y, stiff = moments.holds[left].T
            mean = np.average(moments.holds[left, :2], axis=0, weights=stiff)
            u, v = x - mean[0], y - mean[1]
            spread = np.average([np.outer(w, w) for w in np.column_stack([u, v])], axis=0, weights=stiff) + np.eye(2)
            a = np.linalg.solve(spread, [moments.x[m] - mean[0], moments.y[m] - mean[1]])
            load = force * np.maximum(0, 1 + np.hypot(*a) + a[0] * u + a[1] * v) / stiff.sum()
            strength = draws.strength[p] * draws.own[moments.tip[left], p]
            if (load <= strength).all():
                break
            torn.add(left[int(np.argmax(load / strength))])
    return first, torn


@settings(max_examples=25, deadline=None)
@given(st.integers(2, 14), st.floats(0.2, 3), st.integers(0, 2**31))
def test_a_print_goes_as_the_plain_rule_says(tips: int, margin: float, seed: int) -> None:
    """Whatever bounds spare the walk from looking closely: it loses and tears just what somebody would who looks at
    every hold at every moment.
    """
    rng = np.random.default_rng(seed)
    places = [(float(x), float(y)) for x, y in rng.uniform(-8, 8, (tips, 2))]
    moments = hung(places, rng.integers(0, 2, tips).tolist(), [1.0, 0.6], 2 * margin / tips)
    draws = Draws.of(tips, 30, seed)
    walked = printed(moments, draws)
    for p in range(30):
        first, torn = plainly(moments, draws, p)
        assert (int(walked.moment[p]), int(walked.torn[p])) == (first, len(torn))


def supported() -> tuple[Carrying, np.ndarray, np.ndarray, np.ndarray]:
    figure = Mesh.joined([knobbly(9, 4), box((9, 0, 2), (12, 3, 3)), box((-4, 7, 6), (3, 9, 2))])
    figure = Mesh(figure.vertices - [0, 0, figure.lower[2] - 5.0], figure.faces)
    context = Context.of(HERON, RESIN, 0.1)
    made = make_supports(figure, context, risk=0.05)
    carrying = Carrying.of(made.before, context, reachable(made.figure, made.before, context))
    points = np.array([[t.x, t.y, t.z] for t in made.tips])
    strength = np.array([float(tip_hold(context, t.diameter)) for t in made.tips])
    return carrying, touched(made.before, points), points, strength


def test_an_untouched_print_is_strained_just_as_the_load_path_says() -> None:
    carrying, on, points, strength = supported()
    made, _ = carrying.walk(on, points, strength)
    m = moments_of(carrying, on, points, strength)
    most = bodies_of(m).most
    moment = {(int(layer), int(node)): k for k, (layer, node) in enumerate(zip(m.layer, m.node, strict=True))}
    mine = np.array([most[moment[(int(a), int(b))]] for a, b in zip(carrying.layer, m.of, strict=True)])
    held = made.margins > 0
    assert held.mean() > 0.5 and mine[held] == pytest.approx(1 / made.margins[held], rel=1e-6)
    assert m.volume[m.parent < 0].sum() == pytest.approx(carrying.area.sum())
    assert sorted(m.tip[m.tip >= 0]) == np.flatnonzero(on >= 0).tolist()


def test_a_print_of_everyday_risk_fails_seldom_and_one_of_half_the_strength_often() -> None:
    carrying, on, points, strength = supported()
    draws = Draws.of(len(points))
    whole, half = (
        float((printed(moments_of(carrying, on, points, s), draws).moment < 0).mean()) for s in (strength, strength / 3)
    )
    assert whole > 0.75 > half + 0.2


def hazard(
    code: str, chance: float, loss: Loss, *, layer: int = 5, part: str = "", has: float = 1.0, needs: float = 1.0
) -> Hazard:
    given = None if part else chance
    arises = Arises(given=given, shared=part)  # type: ignore[arg-type]
    return kinds()[code].at(
        layer, (0.0, 0.0, 0.0), has, needs, unit="N", message=code, remedy="", arises=arises, loss=loss
    )  # type: ignore[arg-type]


def test_the_tally_counts_every_print_once_and_names_what_came_first() -> None:
    draws = Draws.of(1, PRINTS)
    moments = hung([(0, 0)], [0], [1.0], 1.2)
    walked = printed(moments, draws)
    hazards = [
        hazard("mishap", 0.1, "print lost", layer=0),
        hazard("thin", 0.2, "part lost", layer=3),
        hazard("overhang", 0.5, "scar"),
        hazard("pull", 0.9, "print lost", layer=9, part="body"),
        hazard("pull", 0.5, "print lost", layer=2, part="plate", has=1.5),
    ]
    found = tallied(moments, walked, draws, hazards, layers=10, height=0.05)
    assert found.whole + found.part + found.all == PRINTS and found.marked <= found.whole
    assert sum(c.count for c in found.causes) == found.part + found.all == sum(found.ribbon)
    plate = NormalDist().cdf(-math.log(1.5) / math.hypot(0.3, PEEL))
    alone = tallied(None, None, draws, hazards[:2], layers=10, height=0.05)
    assert within(alone.whole, 0.9 * 0.8) and within(alone.all, 0.1) and alone.marked == 0
    only = tallied(None, None, draws, [hazards[4]], layers=10, height=0.05)
    assert within(only.all, plate)
    thin = next(c for c in found.causes if c.code == "thin")
    assert within(thin.count, 0.2 * (PRINTS - sum(c.count for c in found.causes if c.code != "thin")) / PRINTS), (
        "last of all"
    )
    assert found.error == pytest.approx(math.sqrt(PRINTS * (found.whole / PRINTS) * (1 - found.whole / PRINTS)))


def test_where_nothing_is_peeled_only_the_ledger_speaks() -> None:
    figure = box((0, 0, 3), (4, 4, 6))
    assert prove(figure, 0.2, 0.4).islands == []
    found = tallied(None, None, Draws.of(0, PRINTS), [], layers=30, height=0.2)
    assert (found.whole, found.marked, found.causes, len(found.freq)) == (PRINTS, 0, [], 0)


def test_what_grew_from_parts_that_are_all_lost_is_lost_with_them() -> None:
    """Two legs on a tip each, joined by a bridge that hangs on nothing else: with one leg the bridge stays, with both
    it goes.
    """
    made = hung([(-6, 0), (6, 0)], [0, 1], [1.0, 1.0], 1.0)
    legs = len(made.of)
    carrying = Carrying(
        0.05,
        True,
        np.concatenate([np.repeat(np.arange(1, 11, dtype=np.int32), 2), np.array([11], np.int32)]),
        np.append(np.ones(legs), 20.0),
        np.append(np.tile([[-6.0, 0.0], [6.0, 0.0]], (10, 1)), [[0.0, 0.0]], axis=0),
        np.array([*((c, c - 2) for c in range(2, legs)), (legs, legs - 2), (legs, legs - 1)], np.int32),
        np.append(np.zeros(legs - 2), [1.0, 1.0, 0.0]),
        np.empty((0, 3)),
        np.empty(0, np.int32),
        np.empty((0, 3)),
        np.empty(0, np.int32),
    )
    moments = moments_of(carrying, np.array([0, 1], np.int32), np.array([[-6, 0, 0.05], [6, 0, 0.05]]), np.ones(2))
    even = np.ones(3)
    own = np.array([[0.5, 0.5, 2.0], [0.5, 2.0, 2.0]])
    walked = printed(moments, Draws(even, even, even, own))
    assert walked.share == pytest.approx([1.0, 10 / 40, 0.0]) and walked.torn.tolist() == [2, 1, 0]
