"""The week as an iCalendar file: times are of the place, without a zone, as people wrote their hours."""

from __future__ import annotations

import hashlib
from datetime import datetime, timedelta

from icalendar import Alarm, Calendar, Event

from ..core.contract.week import WeekDoc
from ..core.names import plain

WARN = timedelta(minutes=10)


def calendar_of(week: WeekDoc, woven_at: datetime) -> bytes:
    """An entry for whatever wants hands, with a reminder, and one for each run from its start to its end."""
    calendar = Calendar()
    calendar.add("prodid", "-//Tenugui//The week//EN")
    calendar.add("version", "2.0")
    for run in week.runs:
        called = plain(run.job)
        event = _entry(f"run {run.job} {run.start}", f"{called} on {plain(run.machine)}", run.start, run.end, woven_at)
        event.add("description", f"Ended by {run.end_95:%a %H:%M} in 19 of 20 cases; done {run.done:%a %d %b, %H:%M}.")
        event.add("transp", "TRANSPARENT")
        calendar.add_component(event)
        for one in run.attend:
            until = one.at + timedelta(minutes=one.minutes)
            task = _entry(f"{one.what} {run.job} {one.at}", f"{plain(one.what)}: {called}", one.at, until, woven_at)
            task.add("description", f"{plain(run.machine)}; {one.by or 'nobody'}, {one.minutes} min.")
            alarm = Alarm()
            alarm.add("action", "DISPLAY")
            alarm.add("description", f"{plain(one.what)}: {called}")
            alarm.add("trigger", -WARN)
            task.add_component(alarm)
            calendar.add_component(task)
    return bytes(calendar.to_ical())


def _entry(of: str, title: str, begin: datetime, end: datetime, woven_at: datetime) -> Event:
    event = Event()
    event.add("uid", f"{hashlib.sha256(of.encode()).hexdigest()[:24]}@tenugui")
    event.add("dtstamp", woven_at)
    event.add("dtstart", begin)
    event.add("dtend", max(end, begin + timedelta(minutes=1)))
    event.add("summary", title)
    return event
