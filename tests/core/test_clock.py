"""Clocks that change: what runs at night ends by the hours that pass, and hands are wanted by the wall."""

from __future__ import annotations

import json
from datetime import datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tenugui.core.plan.week import woven
from tenugui.core.week import Clocks, WeekError, evened, read_week

PLACE = "Europe/Berlin"
AUTUMN, SPRING = datetime(2026, 10, 25), datetime(2027, 3, 28)
"""Sundays: at 3:00 it is 2:00 again; at 2:00 it is 3:00."""


def night(sunday: datetime, zone: str | None, comes: str) -> dict[str, object]:
    """A print of eight hours that can only be begun at ten the evening before, and lifted off within 20 minutes."""
    eve = sunday - timedelta(hours=2)
    hands = [[f"{eve - timedelta(minutes=15):%Y-%m-%dT%H:%M}", f"{eve + timedelta(minutes=5):%Y-%m-%dT%H:%M}"]]
    lift = f"{sunday:%Y-%m-%d}T{comes}"
    until = (datetime.fromisoformat(lift) + timedelta(minutes=20)).isoformat(timespec="minutes")
    late = sunday + timedelta(hours=20)
    evening = [f"{late:%Y-%m-%dT%H:%M}", f"{late + timedelta(hours=1):%Y-%m-%dT%H:%M}"]
    return {
        "from": f"{sunday - timedelta(hours=4):%Y-%m-%dT%H:%M}",
        "to": f"{sunday + timedelta(days=2):%Y-%m-%dT%H:%M}",
        "machines": [{"name": "heron"}],
        "people": [{"name": "Aki", "hours": [*hands, [lift, until], evening]}],
        "jobs": [{"name": "warden", "machines": ["heron"], "hours": 8.0, "spread": 0.0}],
        "zone": zone,
    }


def planned(asked: dict[str, object]):  # type: ignore[no-untyped-def]
    return woven(read_week(json.dumps(asked).encode(), "week"), 0.5).week


@pytest.mark.parametrize(
    ("sunday", "hours"), [(AUTUMN, 7), (SPRING, 9), (datetime(2026, 11, 29), 8)], ids=["autumn", "spring", "plain"]
)
def test_a_night_has_as_many_hours_as_pass_in_it(sunday: datetime, hours: int) -> None:
    (run,) = planned(night(sunday, PLACE, "09:00")).runs
    assert run.start.date() == (sunday - timedelta(hours=2)).date()
    assert run.end - run.start == timedelta(hours=hours), "by the wall"
    assert next(one.at for one in run.attend if one.what == "lift off") >= sunday + timedelta(hours=9)


def test_who_comes_an_hour_too_soon_by_the_wall_lifts_nothing_off() -> None:
    """Begun at ten, eight hours are over at six; where the clocks jump it is seven: at five past six nobody lifts."""
    (naive,) = planned(night(SPRING, None, "06:05")).runs
    (told,) = planned(night(SPRING, PLACE, "06:05")).runs
    lifted = [next(one.at for one in run.attend if one.what == "lift off") for run in (naive, told)]
    assert lifted[0].hour == 6 and lifted[1].hour == 20


@given(st.datetimes(datetime(2026, 1, 1), datetime(2027, 12, 31)), st.sampled_from([PLACE, "UTC", "Asia/Tokyo"]))
def test_wall_times_come_back(at: datetime, zone: str) -> None:
    clocks = Clocks(zone, datetime(2026, 10, 20))
    back = clocks.wall(clocks.even(at))
    skipped = zone == PLACE and at.month == 3 and at.hour == 2
    assert back == at or (skipped and back == at + timedelta(hours=1))


@given(st.datetimes(datetime(2026, 1, 1), datetime(2027, 12, 31)), st.floats(0, 240))
def test_hours_that_pass_are_counted_as_they_pass(at: datetime, hours: float) -> None:
    clocks = Clocks(PLACE, at)
    later = clocks.wall(clocks.even(at) + timedelta(hours=hours))
    off = abs(clocks.even(later) - clocks.even(at) - timedelta(hours=hours))
    assert off in (timedelta(0), timedelta(hours=1)), "but in the hour that comes twice"


def test_a_week_without_a_change_is_as_it_was_and_a_place_that_is_none_is_refused() -> None:
    plain = read_week(json.dumps(night(datetime(2026, 11, 29), None, "09:00")).encode(), "week")
    assert evened(plain, Clocks(PLACE, plain.start)) == plain
    assert not Clocks(PLACE, plain.start).change(plain.end)
    with pytest.raises(WeekError, match="'Ashiwara/Marsh' is no time zone") as refused:
        planned(night(AUTUMN, "Ashiwara/Marsh", "09:00"))
    assert refused.value.code == "bad-zone"
    for name in ("../../etc/passwd", "", "\x00"):
        if name:
            with pytest.raises(WeekError):
                Clocks(name, AUTUMN)


def test_an_hour_that_is_skipped_is_nobodys() -> None:
    asked = night(SPRING, PLACE, "09:00")
    asked["people"] = [{"name": "Aki", "hours": [["2027-03-28T02:00", "2027-03-28T03:00"]]}]
    ask = read_week(json.dumps(asked).encode(), "week")
    assert evened(ask, Clocks(PLACE, ask.start)).people[0].hours == []
