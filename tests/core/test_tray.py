"""Steps off the plate: a tray in step, hands that take longer than is reckoned, and what their minutes teach."""

from __future__ import annotations

import itertools
import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tenugui.core.finish import Finishing, Step, ends_by, in_step, steps_of
from tenugui.core.finish.tray import work_of
from tenugui.core.learn.minutes import MOST_TIMES, NOISE, PRIOR, Timed, by_kind, minutes_of, times_of

PLAIN = Finishing("resin", (("front", 3, 4.0), ("left", 2, 2.0)), 1.2, 30.0, 0, False, 0.0)
HOLLOW = replace(PLAIN, groups=(("back", 5, 6.0),), holes=2, plugs=True)


def test_a_tray_is_washed_once_and_cut_one_after_the_other() -> None:
    one, other = steps_of(PLAIN, "before"), steps_of(HOLLOW, "before")
    tray = {t.step.name: t for t in in_step([("warden", one), ("abbot", other)])}
    alone = {s.name: s for s in one}
    assert tray["first bath"].step.minutes == alone["first bath"].minutes, "all in one bath"
    assert tray["first bath"].parts == ()
    assert tray["supports off"].step.minutes == pytest.approx(12.0)
    assert tray["supports off"].parts == ("warden: 3 tips, 2 tips, 6 min", "abbot: 5 tips, 6 min")
    assert tray["flush the cavity"].step.minutes == 3.0 and tray["flush the cavity"].parts == ()
    names = [t.step.name for t in in_step([("warden", one), ("abbot", other)])]
    assert names.index("flush the cavity") < names.index("dry in the air") < names.index("supports off")
    assert names.index("cure the cavity") < names.index("plug the holes") < names.index("prime")


works = st.builds(
    Finishing,
    st.just("resin"),
    st.lists(st.tuples(st.sampled_from(["front", "left"]), st.integers(1, 9), st.floats(0.5, 9)), max_size=3).map(
        tuple
    ),
    st.floats(0, 9),
    st.floats(15, 60),
    st.integers(0, 3),
    st.booleans(),
    st.just(0.0),
)


@given(st.lists(works, min_size=1, max_size=4), st.sampled_from(["before", "after"]))
def test_no_hand_is_lost_and_nothing_waits_that_need_not(each: list[Finishing], school: str) -> None:
    figures = [(f"figure {k}", steps_of(work, school)) for k, work in enumerate(each)]  # type: ignore[arg-type]
    tray = in_step(figures)
    hands = sum(t.step.minutes for t in tray if t.step.hands)
    assert hands == pytest.approx(sum(s.minutes for _, steps in figures for s in steps if s.hands), abs=0.3)
    slowest = max(ends_by(steps) for _, steps in figures)
    assert ends_by([t.step for t in tray]) >= slowest - 0.3
    kinds = [work_of(t.step) for t in tray]
    assert len(kinds) == len(set(kinds)), "each kind of work is begun once"
    for _, steps in figures:
        order = [kinds.index(work_of(s)) for s in steps]
        assert order == sorted(order), "each figure goes through its own steps in their order"
    for before, after in itertools.pairwise(tray):
        assert after.step.start == pytest.approx(before.step.start + before.step.minutes, abs=0.11)


def test_slow_hands_take_longer_and_lamps_do_not() -> None:
    slow = replace(PLAIN, times=2.0)
    for usual, now in zip(steps_of(PLAIN, "before"), steps_of(slow, "before"), strict=True):
        assert now.name == usual.name
        assert now.minutes == pytest.approx(usual.minutes * (2.0 if usual.hands else 1.0), abs=0.11)


def test_minutes_are_learned_by_students_law() -> None:
    """By hand: the mean of n logarithms l with prior N(0, PRIOR) and noise NOISE: n l / (n + (NOISE / PRIOR)^2)."""
    steps = [Timed("prime", 4.0, 6.0)] * 5
    learnt = minutes_of(steps)
    weight = (NOISE / PRIOR) ** 2
    assert math.log(learnt.ratio) == pytest.approx(5 * math.log(1.5) / (5 + weight))
    assert learnt.low < learnt.ratio < learnt.high and learnt.timed == 5
    assert minutes_of([]).ratio == 1.0 and minutes_of([Timed("prime", 0.0, 5.0)]).timed == 0
    kinds = by_kind([*steps, Timed("supports off, 1 of 2, from its left", 2, 2), Timed("supports off, 2 of 2", 2, 4)])
    assert [(kind, ratio.timed) for kind, ratio in kinds.items()] == [("prime", 5), ("supports off", 2)]
    assert times_of(minutes_of([Timed("prime", 1.0, 1000.0)] * 40)) == MOST_TIMES


def test_the_interval_of_hands_holds_the_truth() -> None:
    rng = np.random.default_rng(5)
    held = 0
    for _ in range(400):
        truth = float(np.exp(rng.normal(0, PRIOR)))
        real = truth * np.exp(rng.normal(0, NOISE, 12))
        learnt = minutes_of([Timed("prime", 5.0, 5.0 * float(r)) for r in real])
        held += learnt.low <= truth <= learnt.high
    assert 0.93 <= held / 400 <= 0.985


def test_a_step_alone_keeps_its_name() -> None:
    step = Step("supports off, 1 of 1, from below", 0.0, 3.0, True, "2 tips", "cutters", "")
    (one,) = in_step([("warden", [step])])
    assert one.step == step and one.parts == ()
