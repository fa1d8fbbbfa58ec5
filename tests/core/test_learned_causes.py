"""What was learned of causes and taken over: chances by their rates, loads by their margins, and back again."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tenugui.core.contract.proof import hazard_from, hazard_of
from tenugui.core.hazards import kinds
from tenugui.core.hazards.hazard import CAP, Arises, as_often, chance
from tenugui.core.hazards.learned import before_taking, field_of, load_times
from tenugui.core.learn import Told, causes_of
from tenugui.core.machines import MachineError, load_printer
from tenugui.core.prints.draw import Draws
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
        for learnt in causes_of(runs):
            sure[learnt.cause] += learnt.sure
            if learnt.cause == "sway":
                assert learnt.told == pytest.approx(0.12, abs=0.05)
    assert sure["sway"] >= 0.75 * worlds and sure["knock"] <= 0.1 * worlds, sure
