"""What a log teaches: closed forms, simulated machines, and a score that adds up."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import gamma
from scipy.stats import t as student

from tenugui.core.contract.learn import learnt_of
from tenugui.core.learn import Logged, Told, calibration_of, ratio_of
from tenugui.core.learn.causes import CAUSE_RUNS, SURE_RUNS
from tenugui.core.learn.hours import NOISE, PRIOR


def test_hours_by_students_law() -> None:
    logs = [0.05, 0.12, 0.08, 0.2]
    told = ratio_of([Logged(100, 0.1, 100 * math.exp(v), "good") for v in logs])
    weight, n = (NOISE / PRIOR) ** 2, len(logs)
    mean = sum(logs) / (n + weight)
    rest = float(np.var(logs) * n + weight * n / (weight + n) * np.mean(logs) ** 2)
    spread = math.sqrt((SURE_RUNS * NOISE**2 + rest) / (SURE_RUNS + n) / (n + weight))
    wide = float(student.ppf(0.975, SURE_RUNS + n)) * spread
    assert (told.ratio, told.low, told.high) == pytest.approx(
        (math.exp(mean), math.exp(mean - wide), math.exp(mean + wide))
    )
    assert told.next_low < told.low < told.high < told.next_high
    lost = ratio_of([Logged(100, 0.1, 20.0, "print lost")])
    assert lost == ratio_of([]), "one that ended before its time says nothing"


def test_hours_hold_the_truth_of_made_up_machines_and_their_next_print() -> None:
    rng, own, after = np.random.default_rng(3), 0, 0
    for _ in range(500):
        truth, noise = rng.normal(0, 0.15), 0.06 * math.exp(rng.normal(0, 0.3))
        runs = [Logged(3600, 0.1, 3600 * math.exp(truth + rng.normal(0, noise)), "good") for _ in range(6)]
        told = ratio_of(runs)
        own += told.low <= math.exp(truth) <= told.high
        after += told.next_low <= math.exp(truth + rng.normal(0, noise)) <= told.next_high
    assert 0.92 < own / 500 < 0.975 and 0.92 < after / 500 < 0.975


def test_rare_causes_by_the_gamma_law() -> None:
    runs = [Told({"pull": 0.001, "island": 0.0002}, "pull" if k < 3 else None) for k in range(2000)]
    pull, island = learnt_of(runs)
    expected = -2000 * math.log(0.999)
    law = gamma(CAUSE_RUNS + 3, scale=1 / (CAUSE_RUNS + expected))
    assert pull.cause == "pull" and pull.mean == pytest.approx(law.mean(), rel=0.01)
    assert (pull.low, pull.high) == pytest.approx(tuple(law.ppf([0.025, 0.975])), rel=0.02)
    assert (pull.seen, pull.runs, pull.effective) == (3, 2000, pytest.approx(expected))
    assert island.mean < 1 and learnt_of([]) == []
    (unheard,) = learnt_of([Told({}, "spill")])
    assert unheard.cause == "spill" and unheard.mean > 1


def test_a_cause_is_found_where_it_differs_and_seldom_where_none_does() -> None:
    rng, found, wrong, held = np.random.default_rng(5), 0, 0, 0
    for world in range(400):
        times = 4.0 if world % 2 else 1.0
        runs = []
        for _ in range(60):
            comes = rng.random() < 1 - 0.9**times
            runs.append(Told({"pull": 0.1}, "pull" if comes else None))
        (told,) = learnt_of(runs)
        held += told.low <= times <= told.high
        found += world % 2 and told.low > 1
        wrong += not world % 2 and not told.low <= 1 <= told.high
    assert found > 0.9 * 200 and wrong < 0.06 * 200 and held > 0.92 * 400


@settings(max_examples=60)
@given(st.lists(st.tuples(st.sampled_from([0.01, 0.03, 0.07, 0.15, 0.5]), st.booleans()), min_size=1, max_size=60))
def test_briers_score_is_the_sum_of_its_parts(rows: list[tuple[float, bool]]) -> None:
    """One told risk a bin, so that nothing is left over within one."""
    told = calibration_of([Logged(1, risk, None, "print lost" if lost else "good") for risk, lost in rows])
    assert None not in (told.brier, told.reliability, told.resolution, told.uncertainty)
    assert told.brier == pytest.approx(told.reliability - told.resolution + told.uncertainty)  # type: ignore[operator]
    assert sum(b.runs for b in told.bins) == len(rows)
    for b in told.bins:
        assert b.low <= b.seen <= b.high


def test_hours_said_before_hold_the_next_as_often_as_they_say() -> None:
    rng = np.random.default_rng(11)
    runs = [Logged(100, 0.1, 100 * math.exp(0.1 + rng.normal(0, 0.06)), "good") for _ in range(300)]
    covered = calibration_of(runs).hours_coverage
    assert covered is not None and 0.9 < covered < 0.99
    assert calibration_of([]).brier is None and calibration_of([]).hours_coverage is None
