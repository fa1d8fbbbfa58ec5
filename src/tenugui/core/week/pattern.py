"""Hours that come again every week, as spans of a certain one."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, time, timedelta
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from .ask import Span
from .spans import joined

Clock = Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$")]


class WeeklyHours(BaseModel):
    """On these days of the week, Monday 0, from a time to another; past midnight where that is not later."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    days: Annotated[list[Annotated[int, Field(ge=0, le=6)]], Field(min_length=1, max_length=7)]
    begin: Clock
    end: Clock


def spans_of(hours: Sequence[WeeklyHours], start: datetime, end: datetime) -> list[Span]:
    """When they come from `start` to `end`: sorted, cut to these, joined where they meet.

    >>> evening = WeeklyHours(days=[0, 1], begin="22:00", end="01:00")
    >>> [(a.day, a.hour, b.day, b.hour) for a, b in spans_of([evening], datetime(2026, 11, 30), datetime(2026, 12, 7))]
    [(30, 22, 1, 1), (1, 22, 2, 1)]
    """
    found: list[Span] = []
    # What began the evening before may still go on.
    day = start.date() - timedelta(days=1)
    while day <= end.date():
        for one in hours:
            if day.weekday() not in one.days:
                continue
            a = datetime.combine(day, time.fromisoformat(one.begin))
            b = datetime.combine(day, time.fromisoformat(one.end))
            found.append((a, b if b > a else b + timedelta(days=1)))
        day += timedelta(days=1)
    return joined((max(a, start), min(b, end)) for a, b in found)
