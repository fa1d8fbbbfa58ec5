"""Stock by lot: what is left adds up, whatever the order of opening, using, counting and wasting."""

from __future__ import annotations

from datetime import datetime, timedelta

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.learn.lots import Lot, Step, Use, lasts, levels

DAY = datetime(2026, 11, 1)


def at(days: float) -> datetime:
    return DAY + timedelta(days=days)


def test_a_run_is_taken_out_of_the_bottle_that_it_names() -> None:
    lots = [Lot("A", 500, at(0)), Lot("B", 1000, at(1))]
    a, b = levels(lots, [Use(100, at(2), "B"), Use(50, at(3)), Use(20, at(4), "C")])
    assert (a.left, b.left) == (430, 900), "what names none, or one that is not there, comes from the oldest"
    assert (a.used, b.used, a.short + b.short) == (70, 100, 0)


def test_a_bottle_that_is_empty_is_followed_by_the_next_and_nothing_is_lost() -> None:
    lots = [Lot("A", 100, at(0)), Lot("B", 1000, at(1))]
    a, b = levels(lots, [Use(80, at(2)), Use(80, at(3))])
    assert (a.left, b.left, a.used, b.used) == (0, 940, 100, 60)
    (only,) = levels([Lot("A", 100, at(0))], [Use(80, at(1)), Use(80, at(2))])
    assert (only.left, only.short) == (0, 60), "it cannot have held that much: count it"
    (early,) = levels([Lot("A", 100, at(5))], [Use(80, at(1))])
    assert early.left == 100, "what was printed before it was opened came from elsewhere"


def test_a_count_forgets_what_was_reckoned() -> None:
    steps = (Step("wasted", 30, at(2)), Step("counted", 400, at(3)), Step("used", 50, at(4)))
    (lot,) = levels([Lot("A", 500, at(0), steps)], [Use(60, at(1)), Use(10, at(5))])
    assert lot.left == 340 and lot.wasted == 30 and lot.used == 120
    (short,) = levels([Lot("A", 50, at(0), (Step("counted", 45, at(2)),))], [Use(60, at(1))])
    assert (short.left, short.short) == (45, 0), "whoever counts knows better"


WHEN = st.floats(0, 30, allow_nan=False)
AMOUNT = st.floats(0, 200, allow_nan=False)
BY_HAND = st.tuples(st.sampled_from(["used", "wasted"]), AMOUNT, WHEN)


@settings(max_examples=200, deadline=None)
@given(
    st.lists(st.tuples(st.floats(1, 1000), st.lists(BY_HAND)), min_size=1, max_size=4),
    st.lists(st.tuples(AMOUNT, WHEN, st.sampled_from(["", "lot 0", "lot 1", "lot 9"])), max_size=20),
)
def test_a_month_adds_up(
    opened: list[tuple[float, list[tuple[str, float, float]]]], taken: list[tuple[float, float, str]]
) -> None:
    lots = [
        Lot(f"lot {k}", amount, at(0), tuple(Step(did, much, at(day)) for did, much, day in steps))  # type: ignore[arg-type]
        for k, (amount, steps) in enumerate(opened)
    ]
    uses = [Use(much, at(day), name) for much, day, name in taken]
    read = levels(lots, uses)
    whole = sum(lot.amount for lot in lots)
    gone = sum(use.amount for use in uses) + sum(step.amount for lot in lots for step in lot.steps)
    assert all(level.left >= 0 and level.short >= 0 for level in read)
    assert sum(v.left - v.short for v in read) == pytest.approx(whole - gone, abs=1e-6)
    assert sum(v.used + v.wasted for v in read) == pytest.approx(gone, abs=1e-6)
    assert sum(v.wasted for v in read) == pytest.approx(
        sum(s.amount for lot in lots for s in lot.steps if s.did == "wasted"), abs=1e-6
    )


def test_what_runs_out_is_told_by_days_and_by_the_plate_that_would_not_be_whole() -> None:
    uses = [Use(30, at(day)) for day in range(0, 20)]
    told = lasts(300, uses, [100, 150, 60, 10], at(20))
    assert told.a_day == pytest.approx(30) and told.days == pytest.approx(10) and told.before == 2
    assert lasts(300, [], [100, 150], at(20)).before is None and lasts(300, [], [], at(20)).days is None
    old = [Use(1000, at(-100))]
    assert lasts(10, old, [], at(20)).days is None, "what was long ago says nothing of today"
    assert lasts(100, [Use(50, at(19.9))], [], at(20)).a_day == pytest.approx(50 / 7), "one day is no rate"
