"""How much a printer's prints differ, by its log: sixty prints of a made-up printer, what few say, and what a
scattering machine is planned with.
"""

from __future__ import annotations

import dataclasses
from statistics import NormalDist

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.hazards import Arises, Hazard, chance
from tenugui.core.layers import prove
from tenugui.core.learn import SCATTERS, Logged, by_risk, scatter_of
from tenugui.core.learn.scatter import PRIOR, whole_at
from tenugui.core.machines import Context
from tenugui.core.prints import OnTrial, tried, whole_by_scatter
from tenugui.core.risk import ledger
from tenugui.core.risk.islands import ISLAND
from tenugui.core.supports import Carrying, make_supports, margin_of, reachable, safety_factor, tip_hold
from tenugui.core.supports.touch import touched
from tests.core.test_trial_plan import hanging
from tests.presets import HERON, RESIN
from tests.shapes import ball, box


def on_trial() -> tuple[Carrying, OnTrial, list[Hazard], int]:
    """A plan that fails now and then on a usual machine."""
    figure = hanging()
    context = Context.of(HERON, RESIN, 0.1)
    made = make_supports(figure, context, risk=0.05)
    carrying = Carrying.of(made.before, context, reachable(made.figure, made.before, context))
    at = np.array([(t.x, t.y, t.z) for t in made.tips])
    strength = np.array([float(tip_hold(context, t.diameter)) for t in made.tips])
    hazards = ledger(made.after, context, tips=made.tips, own=made.before)
    return carrying, OnTrial(at, touched(made.before, at), strength), hazards, made.after.stack.grid.layers


def test_twice_the_scatter_is_recognised_from_sixty_prints_of_one_plan() -> None:
    """Whichever sixty they are: the truth lies in the interval as often as it says, and is told from the usual."""
    carrying, tips, hazards, layers = on_trial()
    whole = whole_by_scatter(carrying, tips, hazards, layers=layers, height=0.1)
    assert whole == sorted(whole, reverse=True), "who scatters more brings fewer home"
    usual, _ = tried(carrying, tips, hazards, layers=layers, height=0.1)
    assert whole[SCATTERS.index(1.0)] == usual.whole / usual.prints
    plan = tuple(zip(SCATTERS, whole, strict=True))
    rng = np.random.default_rng(5)
    for truth in (1.0, 2.0):
        chance_whole = float(np.interp(truth, SCATTERS, whole))
        reads = []
        for _ in range(60):
            outcomes = np.where(rng.random(60) < chance_whole, "good", "part lost")
            reads.append(scatter_of([Logged(3600, 0.1, None, str(o), plan) for o in outcomes]))
        held = np.mean([r.low <= truth <= r.high for r in reads])  # type: ignore[union-attr]
        assert held >= 0.85
        if truth == 2.0:
            assert np.median([r.times for r in reads]) == pytest.approx(2.0, rel=0.25)  # type: ignore[union-attr]
            assert np.mean([r.low > 1.0 for r in reads]) >= 0.65, "told from a usual machine"  # type: ignore[union-attr]


def test_few_prints_say_nothing_and_a_few_more_leave_the_prior() -> None:
    assert scatter_of([Logged(1, 0.1, None, "good")] * 5 + [Logged(1, 0.1)] * 50) is None, "what has no outcome is none"
    ten = scatter_of([Logged(1, 0.01, None, "good")] * 10)
    assert ten is not None and ten.times == pytest.approx(1.0, rel=0.15)
    assert ten.low == pytest.approx(np.exp(-1.96 * PRIOR), rel=0.2), (
        "ten good prints of safe plans tell next to nothing"
    )
    assert (ten.prints, ten.failed) == (10, 0) and ten.feared == pytest.approx(0.1, rel=0.1)


@settings(max_examples=40, deadline=None)
@given(st.integers(10, 60), st.data())
def test_more_failures_never_mean_less_scatter(prints: int, data: st.DataObject) -> None:
    few = data.draw(st.integers(0, prints - 1))
    more = data.draw(st.integers(few + 1, prints))

    def read(failed: int) -> float:
        runs = [Logged(1, 0.08, None, "print lost")] * failed + [Logged(1, 0.08, None, "good")] * (prints - failed)
        found = scatter_of(runs)
        assert found is not None and found.low <= found.times <= found.high
        return found.times

    assert read(more) > read(few)


def test_a_margin_is_feared_by_its_own_machine() -> None:
    """Φ(-ln m / (s σ)), and from one machine to another by the ratio of what they scatter."""
    assert chance(2.0, 2.0) == pytest.approx(NormalDist().cdf(-np.log(2.0) / (2.0 * 0.5)))
    assert chance(2.0) < chance(2.0, 2.0) < 0.5 < chance(0.5, 2.0) < chance(0.5)
    hazard = ISLAND.at(3, (0.0, 0.0, 0.0), 2, 1, unit="", message="", remedy="")
    assert hazard.chance == chance(2.0) and hazard.on(2.0).chance == pytest.approx(chance(2.0, 2.0))
    fixed = dataclasses.replace(hazard, arises=Arises(given=0.03))
    assert fixed.on(2.0).chance == 0.03, "what no margin tells stays"
    knock = dataclasses.replace(hazard, has=1.0, arises=Arises(tried=0.1))
    for scatter in (0.4, 1.0, 4.0):
        assert knock.on(scatter).chance == pytest.approx(0.05), "never more often than it is tried"
    several = dataclasses.replace(hazard, arises=Arises(margins=(2.0, 3.0)))
    by_hand = 1 - (1 - chance(2.0, 2.0)) * (1 - chance(3.0, 2.0))
    assert several.on(2.0).chance == pytest.approx(by_hand), "any of several"
    told = dict(by_risk(chance(2.0), 1.0))
    assert 1 - told[2.0] == pytest.approx(chance(2.0, 2.0)) and dict(by_risk(chance(2.0, 2.0), 2.0))[
        1.0
    ] == pytest.approx(told[1.0])
    assert whole_at(Logged(1, 0.05)).min() >= 0.5


def test_a_scattering_machine_is_planned_with_more_margin() -> None:
    wild = HERON.model_copy(update={"scatter": 2.0})
    usual, wide = Context.of(HERON, RESIN, 0.1), Context.of(wild, RESIN, 0.1)  # type: ignore[arg-type]
    assert margin_of(wide, 0.05) == pytest.approx(safety_factor(0.05) ** 2) and margin_of(usual, 0.05) == safety_factor(
        0.05
    )
    figure = hanging()
    few, many = (len(make_supports(figure, c, risk=0.05).tips) for c in (usual, wide))
    assert many > few
    proof = prove(box((0, 0, 20), (3, 3, 40)), 0.1, 0.1)
    perched = prove(ball(6, (0, 0, 8), 4), 0.1, 0.1)
    for read in (proof, perched):
        calm, rough = (
            sum(h.chance for h in ledger(read, c) if h.chance < 0.5 and h.code != "mishap") for c in (usual, wide)
        )
        assert rough >= calm
