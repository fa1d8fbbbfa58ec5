"""The week as a calendar, read back by a library and by a strict reader of lines."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

import icalendar
import pytest

from tenugui.app.calendar import WARN, calendar_of
from tenugui.core.contract.week import AttendDoc, WeekDoc, WeekRunDoc

MONDAY = datetime(2026, 11, 30, 22, 50)


def week(job: str = "Gate, 12 wardens (1)", **more: Any) -> WeekDoc:
    attend = [
        AttendDoc(what="start", at=MONDAY - timedelta(minutes=5), by="Aki", minutes=5),
        AttendDoc(what="lift off", at=MONDAY + timedelta(hours=8), by="Aki", minutes=5),
    ]
    run = WeekRunDoc(
        job=job,
        machine="heron",
        start=MONDAY,
        end=MONDAY + timedelta(hours=4),
        end_95=MONDAY + timedelta(hours=4, minutes=20),
        done=MONDAY + timedelta(hours=9),
        attend=attend,
        alone=[],
    )
    return WeekDoc(runs=[run], dates=[], unplaced=[], optimal=True, said=[], gap=0.0, **more)


def events(data: bytes) -> dict[str, Any]:
    return {str(e["summary"]): e for e in icalendar.Calendar.from_ical(data).walk("VEVENT")}


def test_runs_go_past_midnight_and_hands_are_reminded() -> None:
    found = events(calendar_of(week(), MONDAY))
    run = found["Gate, 12 wardens (1) on heron"]
    assert run["dtstart"].dt == MONDAY and run["dtend"].dt == datetime(2026, 12, 1, 2, 50)
    assert not run.walk("VALARM"), "nobody gets up because a run ends at night"
    lift = found["lift off: Gate, 12 wardens (1)"]
    (alarm,) = lift.walk("VALARM")
    assert alarm["trigger"].dt == -WARN and lift["dtend"].dt - lift["dtstart"].dt == timedelta(minutes=5)
    assert "19 of 20" in str(run["description"]) and "Aki" in str(lift["description"])


def test_a_strict_reader_finds_lines_of_75_octets_and_every_block_closed() -> None:
    data = calendar_of(week("Wardens; of the \\ far gate, with a name that goes on and on and on and on (1)"), MONDAY)
    lines = data.split(b"\r\n")
    assert lines[0] == b"BEGIN:VCALENDAR" and lines[-2] == b"END:VCALENDAR" and lines[-1] == b""
    assert all(len(line) <= 75 for line in lines)
    open_blocks: list[bytes] = []
    for line in lines:
        if line.startswith(b"BEGIN:"):
            open_blocks.append(line[6:])
        if line.startswith(b"END:"):
            assert open_blocks.pop() == line[4:]
    assert open_blocks == []
    unfolded = data.replace(b"\r\n ", b"").split(b"\r\n")
    times = [line for line in unfolded if line.startswith((b"DTSTART", b"DTEND"))]
    assert len(times) == 6 and all(line.endswith(b"00") and b"TZID" not in line and b"Z" not in line for line in times)


@pytest.mark.parametrize("name", ["two\r\nlines", "BEGIN:VALARM\nEND:VALARM", "tab\there"])
def test_no_name_writes_a_line_of_its_own(name: str) -> None:
    data = calendar_of(week(name), MONDAY)
    lines = data.split(b"\r\n")
    assert lines.count(b"BEGIN:VALARM") == 2 and lines.count(b"BEGIN:VEVENT") == 3
    assert len(events(data)) == 3


def test_the_same_week_has_the_same_entries_so_that_a_calendar_replaces_them() -> None:
    one, other = (calendar_of(week(), MONDAY) for _ in range(2))
    assert one == other
    moved = events(calendar_of(week("Other (2)"), MONDAY))
    assert not {str(e["uid"]) for e in moved.values()} & {str(e["uid"]) for e in events(one).values()}
