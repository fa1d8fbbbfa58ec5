"""Hours that come again, what may not start before, what would help a date, what fits a slot, steps as a week weaves
them.
"""

from __future__ import annotations

import itertools
import json
import math
from datetime import datetime, timedelta
from statistics import NormalDist

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.contract.week import WovenDoc
from tenugui.core.finish import Finishing, steps_of, steps_until
from tenugui.core.plan import MemoryShelf, WeekGiven, computed
from tenugui.core.week import WeeklyHours, better, fit, read_week, rules_of, spans_of, without
from tenugui.core.week.latest import GRAIN_MIN, latest_starts
from tenugui.core.week.rules import NEVER, NOBODY
from tenugui.core.week.simulate import as_planned, chances, planned_times, woven
from tests.core.test_week import Ask, at, breaches, week_of

MONDAY = datetime(2026, 11, 30)
WHOLE = [["2026-11-30T00:00", "2026-12-07T00:00"]]


def simple(jobs: list[Ask], **more: object) -> Ask:
    return {
        "from": "2026-11-30T08:00",
        "to": "2026-12-06T00:00",
        "machines": [{"name": "heron"}],
        "people": [{"name": "Aki", "hours": WHOLE}],
        "jobs": jobs,
    } | more


days = st.lists(st.integers(0, 6), min_size=1, max_size=7, unique=True)
clocks = st.integers(0, 24 * 60 - 1).map(lambda m: f"{m // 60:02d}:{m % 60:02d}")


@settings(max_examples=60, deadline=None)
@given(st.lists(st.builds(lambda d, a, b: WeeklyHours(days=d, begin=a, end=b), days, clocks, clocks), max_size=4))
def test_hours_that_come_again_are_there_in_every_minute_that_they_name_and_in_no_other(
    hours: list[WeeklyHours],
) -> None:
    start, end = MONDAY + timedelta(hours=7), MONDAY + timedelta(days=3, hours=5)
    spans = spans_of(hours, start, end)
    assert all(a < b for a, b in spans) and all(x[1] < y[0] for x, y in itertools.pairwise(spans))

    def named(t: datetime) -> bool:
        for h in hours:
            a, b = (int(v[:2]) * 60 + int(v[3:]) for v in (h.begin, h.end))
            m = t.hour * 60 + t.minute
            if t.weekday() in h.days and m >= a and (m < b or b <= a):
                return True
            if (t.weekday() - 1) % 7 in h.days and b <= a and m < b:
                return True
        return False

    t = start
    while t < end:
        assert named(t) == any(a <= t < b for a, b in spans), t
        t += timedelta(minutes=37)


def test_what_is_taken_out_of_spans_is_in_none_that_are_left() -> None:
    span = (MONDAY, MONDAY + timedelta(hours=10))
    hole = (MONDAY + timedelta(hours=3), MONDAY + timedelta(hours=4))
    assert without([span], [hole]) == [(span[0], hole[0]), (hole[1], span[1])]
    assert without([span], [(MONDAY - timedelta(hours=1), span[1])]) == []


def test_what_may_not_start_before_does_not_in_weave_nor_solver() -> None:
    jobs = [{"name": k, "machines": ["heron"], "hours": 2, "not_before": at(1, 9)} for k in "ab"]
    ask = simple([*jobs, {"name": "c", "machines": ["heron"], "hours": 30}])
    told = week_of(ask)
    assert breaches(ask, told) == [] and not told["unplaced"] and told["optimal"]
    rules = rules_of(read_week(json.dumps(ask).encode(), "week"))
    runs, _ = woven(rules, np.arange(3), np.full(3, NOBODY, np.int64))
    assert (runs[:2, 1] >= 25 * 60).all()
    never = week_of(simple([{"name": "a", "machines": ["heron"], "hours": 2, "not_before": at(20, 9)}]))
    assert "not start before" in never["unplaced"][0]["why"]


def test_the_move_that_helps_is_found_and_no_other_is_spoken_of() -> None:
    """One machine, a long print before a short one that is due: turning them round keeps the date."""
    long, short = {"name": "long", "hours": 20}, {"name": "short", "hours": 4, "due": at(0, 22), "risk": 0.05}
    ask = read_week(json.dumps(simple([j | {"machines": ["heron"]} for j in (long, short)])).encode(), "week")
    rules = rules_of(ask)
    nowhere = np.full(2, NOBODY, np.int64)
    found = better(rules, *woven(rules, np.array([0, 1]), nowhere))
    assert found is not None and found.first == "short"
    assert (
        found.dates[0][0] == "short" and found.dates[0][1] == 0.0 and found.dates[0][2] == pytest.approx(0.99, abs=0.03)
    )
    turned = woven(rules, np.array([1, 0]), nowhere)
    assert better(rules, *turned) is None, "it comes first already"
    assert found.dates[0][2] == pytest.approx(chances(rules, *turned)[1], abs=0.02)


def test_a_plans_chances_follow_its_own_order_of_steps() -> None:
    """Two prints on two machines, an hour of one pair of hands each: whoever is sanded first is done by three."""
    steps = [{"step": "sand", "minutes": 60, "hands": True}]
    jobs = [{"name": k, "machines": [k], "hours": 5, "spread": 0.0, "after": steps, "due": at(0, 14.5)} for k in "ab"]
    rules = rules_of(read_week(json.dumps(simple(jobs, machines=[{"name": "a"}, {"name": "b"}])).encode(), "week"))
    order, nowhere = np.arange(2), np.full(2, NOBODY, np.int64)
    for first in (0, 1):
        plan = woven(rules, order, nowhere, sequence=np.array([first, 1 - first]))
        again = woven(rules, order, nowhere, sequence=as_planned(rules, plan[1]), since=planned_times(*plan))
        assert (again[0] == plan[0]).all() and (again[1] == plan[1]).all(), "it comes out as it was planned"
        assert chances(rules, *plan).tolist() == [float(first == 0), float(first == 1)]


def test_the_task_tells_the_week_and_the_move() -> None:
    ask = simple([{"name": "a", "machines": ["heron"], "hours": 4, "due": at(0, 18)}])
    doc = computed(MemoryShelf(), "week", WeekGiven(ask=ask), WovenDoc)
    assert [run.job for run in doc.week.runs] == ["a"] and doc.better is None and doc.week.dates[0].chance > 0.99


def test_what_fits_a_slot_ends_within_it_in_19_of_20() -> None:
    rng = np.random.default_rng(5)
    read = fit(6.0, 0.1, 7.5, grows=1.0)
    ended = (6.0 * np.exp(0.1 * rng.standard_normal(40_000)) <= read.hours_95).mean()
    assert ended == pytest.approx(0.95, abs=0.005) and read.fits and read.size == pytest.approx(7.5 / read.hours_95)
    small = fit(8.0, 0.0, 4.0, grows=2.5)
    assert not small.fits and 8.0 * small.size**2.5 == pytest.approx(4.0)


@pytest.mark.parametrize("process", ["resin", "filament"])
def test_steps_go_as_far_as_an_order_and_lose_no_minute(process: str) -> None:
    work = Finishing(process, (("front", 9, 4.0), ("left", 3, 2.0)), 3.0, 20.0, 2, True, 900.0)
    steps = steps_of(work, "before")
    by_itself = ("let it drip", "let it cool", "off the plate")
    whole = steps_until(steps, "coated")
    wanted = sum(s.minutes for s in steps if s.name not in by_itself)
    assert sum(s.minutes for s in whole) == pytest.approx(wanted, abs=len(whole))
    assert steps_until(steps, "off the plate") == []
    clean, primed = steps_until(steps, "clean"), steps_until(steps, "primed")
    assert sum(s.minutes for s in clean) < sum(s.minutes for s in primed) < sum(s.minutes for s in whole)
    assert not any("sand" in s.step for s in clean) and not any("first coat" in s.step for s in primed)
    assert any(s.station == "wash" for s in clean) == (process == "resin")
    assert all(math.isfinite(s.minutes) and s.step for s in whole)
    assert not any(a.station == b.station and not a.hands and not b.hands for a, b in itertools.pairwise(whole))


def test_long_work_by_hand_is_laid_into_sittings_and_what_waits_is_not() -> None:
    work = Finishing("resin", (("front", 90, 100.0),), 30.0, 500.0, 0, False, 0.0)
    steps = steps_of(work, "before")
    woven = steps_until(steps, "clean")
    sat = [s for s in woven if s.hands]
    assert max(s.minutes for s in sat) <= 30
    assert [s.step for s in sat] == [f"supports off, {k} of 4" for k in (1, 2, 3, 4)]
    assert sum(s.minutes for s in sat) == pytest.approx(100, abs=2)
    assert len({s.step for s in steps_until(steps, "primed")}) == len(steps_until(steps, "primed"))


def test_what_weighs_more_goes_before_what_is_shorter_and_due_sooner() -> None:
    jobs = [
        {"name": "long", "machines": ["heron"], "hours": 20, "weight": 1000},
        {"name": "short", "machines": ["heron"], "hours": 2, "due": at(0, 14)},
    ]
    starts = {run["job"]: run["start"] for run in week_of(simple(jobs))["runs"]}
    assert starts["long"] < starts["short"]
    plain = {run["job"]: run["start"] for run in week_of(simple([j | {"weight": 1} for j in jobs]))["runs"]}
    assert plain["short"] < plain["long"]


def test_no_date_is_missed_so_that_something_else_is_ready_a_day_sooner() -> None:
    """One pair of hands in the evenings: what is due tomorrow is sanded before what is due the day after."""
    sand = [{"step": f"sand {k}", "minutes": 60, "hands": True} for k in range(5)]
    evenings = [[at(d, 18), at(d, 22)] for d in range(4)]
    jobs = [
        {"name": "ferry", "machines": ["k"], "hours": 6, "after": sand[:3], "due": at(3, 12)},
        {"name": "gate", "machines": ["h"], "hours": 6, "after": sand, "due": at(1, 21.8)},
    ]
    ask = simple(
        jobs,
        machines=[{"name": "k"}, {"name": "h"}],
        people=[{"name": "Aki", "hours": [[at(0, 8), at(0, 9)], *evenings]}],
    )
    told = week_of(ask)
    assert breaches(ask, told) == [] and not told["said"]
    assert {date["job"]: date["chance"] for date in told["dates"]}["gate"] > 0.9


@pytest.mark.parametrize(("spread", "share"), [(0.2, 0.9), (0.2, 0.6), (0.0, 0.9)])
def test_a_start_may_wait_as_long_as_its_date_lets_it(spread: float, share: float) -> None:
    """By hand: one run alone, log-normal hours: it may start its quantile and its lifting before its date."""
    job: Ask = {"name": "a", "machines": ["heron"], "hours": 6, "due": "2026-12-01T12:00", "spread": spread, "risk": 0}
    rules = rules_of(read_week(json.dumps(simple([job])).encode(), "week"))
    runs, hands = woven(rules, np.array([0]), np.array([NOBODY]))
    (latest,) = latest_starts(rules, runs, hands, share)
    rest = int(runs[0, 4] - runs[0, 1]) - 6 * 60  # what hands do before and after
    quantile = 6 * 60 * math.exp(rules.spread[0] * NormalDist().inv_cdf(share))
    assert latest == pytest.approx(int(rules.due[0]) - rest - quantile, abs=GRAIN_MIN + 6 * 60 * rules.spread[0] / 3)
    assert chances(rules, runs, hands)[0] == 1.0


def test_what_follows_on_one_machine_waits_with_it_and_what_has_no_date_has_no_latest_start() -> None:
    jobs: list[Ask] = [
        {"name": name, "machines": ["heron"], "hours": 5, "spread": 0.0, "risk": 0} | more
        for name, more in (("a", {"due": "2026-11-30T22:00"}), ("b", {}), ("c", {"due": "2026-11-30T09:00"}))
    ]
    rules = rules_of(read_week(json.dumps(simple(jobs)).encode(), "week"))
    runs, hands = woven(rules, np.array([0, 1, 2]), np.full(3, NOBODY))
    latest = latest_starts(rules, runs, hands)
    assert latest[1] == latest[2] == NEVER, "no date, and one that is late as it is"
    assert latest[0] >= runs[0, 1] and latest[0] <= rules.due[0] - 5 * 60
