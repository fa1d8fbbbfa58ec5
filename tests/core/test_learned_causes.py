"""What was learned of causes and taken over: chances by their rates, loads by their margins, and back again."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.special import ndtr, ndtri

from tenugui.core.contract.learn import learnt_of
from tenugui.core.contract.proof import hazard_from, hazard_of
from tenugui.core.hazards import kinds
from tenugui.core.hazards.hazard import CAP, Arises, as_often, chance
from tenugui.core.hazards.learned import before_taking, field_of, load_times
from tenugui.core.learn import CauseLearnt, Margin, Told, tale_of
from tenugui.core.learn.causes import LOAD_KNOWN
from tenugui.core.machines import SPREAD, MachineError, load_printer
from tenugui.core.prints.draw import OWN, PEEL, STRENGTH, Draws
from tenugui.core.prints.tally import fails

TIMES = st.floats(0.05, 20)
CHANCE = st.floats(0.001, 0.5)


@given(CHANCE, TIMES, TIMES)
def test_rates_multiply_and_chances_stay_chances(told: float, one: float, other: float) -> None:
    both = as_often(told, one * other)
    assert 0 < both <= CAP
    if as_often(told, one) < CAP and both < CAP:
        assert as_often(as_often(told, one), other) == pytest.approx(both, rel=1e-6)


@given(CHANCE, st.floats(0.2, 5))
def test_a_load_so_much_larger_makes_a_margin_fail_so_much_more_often(told: float, times: float) -> None:
    if as_often(told, times) >= 0.9:
        return
    margins = np.exp(np.linspace(-2, 2, 4001))
    m = float(margins[np.argmin([abs(chance(float(v)) - told) for v in margins])])
    assert chance(m / load_times(told, times)) == pytest.approx(as_often(told, times), abs=0.004)
    assert before_taking("peel_kpa", as_often(told, times), 8.0, 8.0 * load_times(told, times)) == pytest.approx(told)


def test_a_hazard_comes_true_as_often_as_its_machine_has_it() -> None:
    hazard = kinds()["sway"].at(3, (1.0, 2.0, 3.0), 1.0, 1.0, unit="", message="", remedy="", arises=Arises(given=0.1))
    draws = Draws.of(0)
    often = [float(fails(hazard.on(1.0, times), draws).mean()) for times in (0.5, 1.0, 3.0)]
    assert often == pytest.approx([0.05, 0.1, 0.27], abs=0.02) and often == sorted(often)
    kept = hazard_from(hazard_of(hazard.on(1.5, 3.0)))
    assert (kept.times, kept.scatter, kept.chance) == (3.0, 1.5, hazard.on(1.5, 3.0).chance)
    assert hazard.on(1.0, 3.0).on(2.0).times == 3.0, "another scatter leaves what was learned"


def test_a_machine_keeps_them_within_bounds() -> None:
    spec = load_printer("kestrel").model_dump(mode="json")
    assert load_printer(spec | {"cause_times": {"sway": 2.5}}).cause_times == {"sway": 2.5}
    for bad in ({"sway": 0}, {"sway": 99}, {"a b": 2}, {"sway": float("nan")}):
        with pytest.raises(MachineError):
            load_printer(spec | {"cause_times": bad})
    assert field_of("sway", load_printer("kestrel")) == "cause_times.sway"


def test_what_differs_by_three_is_sure_in_time_and_what_does_not_is_not() -> None:
    rng = np.random.default_rng(7)
    sure = {"sway": 0, "knock": 0}
    worlds = 60
    for _ in range(worlds):
        runs = []
        for _ in range(40):
            cause = "sway" if rng.random() < as_often(0.12, 3.0) else "knock" if rng.random() < 0.08 else None
            runs.append(Told({"sway": 0.12, "knock": 0.08}, cause))
        for learnt in learnt_of(runs):
            sure[learnt.cause] += learnt.sure
            if learnt.cause == "sway":
                assert learnt.told == pytest.approx(0.12, abs=0.05)
    assert sure["sway"] >= 0.75 * worlds and sure["knock"] <= 0.1 * worlds, sure


def world(rng: np.random.Generator, loads: dict[str, float], prints: int) -> list[Told]:
    """What a log says of prints whose plans tell each cause by margins, and by a rest that is given: what strikes first
    ends the print. What is pulled gives way where strength, pull and its own tip say so, as trial prints draw them.
    """
    runs = []
    four = [{cause: rng.uniform(0.001, 0.03, rng.integers(1, 4)) for cause in loads} for _ in range(4)]
    for k in range(prints):
        told = four[k % 4]
        lines: list[tuple[str, str, float | Margin]] = [("mishap", "print lost", 0.03)]
        struck = ["mishap"] if rng.random() < 0.03 else []
        strength, peel = np.exp(rng.normal(0, (STRENGTH, PEEL)))
        for cause, load in loads.items():
            lines += [(cause, "part lost", Margin(float(p), cause == "pull")) for p in told[cause]]
            margins = np.exp(-SPREAD * ndtri(told[cause])) / load
            own = np.exp(rng.normal(0, OWN if cause == "pull" else SPREAD, len(margins)))
            gives = margins * own * (strength / peel if cause == "pull" else 1.0) < 1
            struck += [cause] * int(gives.any())
        runs.append(tale_of(lines, str(rng.choice(struck)) if struck else None))
    return runs


def learnt_by(runs: list[Told]) -> dict[str, CauseLearnt]:
    return {c.cause: c for c in learnt_of(runs)}


def test_a_load_of_twice_is_found_in_25_prints_and_none_is_found_where_none_differs() -> None:
    rng = np.random.default_rng(11)
    found, false, asked, worlds = 0, 0, 0, 500
    for _ in range(worlds):
        learnt = learnt_by(world(rng, {"pull": 2.0, "falls": 1.0, "sway": 1.0}, 25))
        found += learnt["pull"].sure and learnt["pull"].load_low is not None and learnt["pull"].load_low > 1
        honest = learnt_of(world(rng, {"pull": 1.0, "falls": 1.0, "sway": 1.0}, 25))
        false += sum(c.sure for c in honest)
        asked += len(honest)
    assert found >= 0.9 * worlds and false <= 0.05 * asked, (found, false, asked)


def test_intervals_of_loads_hold_their_truths() -> None:
    rng = np.random.default_rng(5)
    inside, worlds = 0, 500
    for _ in range(worlds):
        loads = {cause: float(np.exp(rng.normal(0, LOAD_KNOWN))) for cause in ("pull", "falls")}
        learnt = learnt_by(world(rng, loads, 25))
        for cause, load in loads.items():
            c = learnt[cause]
            assert c.load_low is not None and c.load_high is not None
            inside += c.load_low <= load <= c.load_high
    assert 0.93 <= inside / (2 * worlds) <= 0.97, inside / (2 * worlds)


@pytest.mark.parametrize("scatter", [1.0, 1.6])
def test_a_load_is_what_a_grid_of_the_plain_law_says(scatter: float) -> None:
    """Two prints of one plan, one of which came to it, by hand: loads, what a print shares, each tip."""
    chances = (0.02, 0.1)
    lines = [("pull", "part lost", Margin(p, True, scatter)) for p in chances]
    told: list[tuple[str, str, float | Margin]] = [
        *lines,
        ("pull", "print lost", Margin(0.04, False, scatter)),
        ("pull", "part lost", 0.05),
    ]
    (learnt,) = learnt_of([tale_of(told, "pull"), tale_of(told, None)])
    logs, draws = np.linspace(-3, 3, 4001), np.linspace(-7, 7, 2001)
    spread = scatter * math.hypot(STRENGTH, PEEL, OWN)
    both = scatter * math.hypot(STRENGTH, PEEL) * draws[:, None]
    each = [ndtr((-spread * ndtri(p) + both - logs) / (scatter * OWN)) for p in chances]
    together = np.exp(-0.5 * draws**2) @ np.prod(each, axis=0) / np.exp(-0.5 * draws**2).sum()
    holds = 0.95 * together * ndtr(-ndtri(0.04) - logs / (scatter * SPREAD))
    weight = np.exp(-0.5 * (logs / LOAD_KNOWN) ** 2) * (1 - holds) * holds
    assert learnt.load_times == pytest.approx(np.exp((weight * logs).sum() / weight.sum()), rel=3e-3)
    ends = np.interp([0.025, 0.975], np.cumsum(weight) / weight.sum(), logs)
    assert [learnt.load_low, learnt.load_high] == pytest.approx(np.exp(ends).tolist(), rel=0.01)


def test_what_no_margin_told_is_no_load() -> None:
    (learnt,) = learnt_of([tale_of([("mishap", "print lost", 0.03)], "mishap")])
    assert learnt.load_times is None and learnt.sure == (not learnt.low <= 1 <= learnt.high)
