"""The bench as the day: what wants hands next, what dries, and what is due."""

from __future__ import annotations

import re
from datetime import datetime, timedelta
from typing import Literal

from fastapi import APIRouter, Request
from pydantic import BaseModel

from ..store import timers
from .state import store_of
from .week import page_of
from .week_models import Now, WeekPage

router = APIRouter(prefix="/api/today", tags=["week"])
AHEAD, DUE_AHEAD = timedelta(hours=20), timedelta(days=3)
"""Of hands so far is looked ahead, of dates farther."""
MOST = 12


class TodayRow(BaseModel):
    """Something of the day: at what time, what, of what; `by` whom, where hands are wanted; `sure`: the chance that a
    date is kept; `plan`: of the steps off the plate.
    """

    kind: Literal["hands", "dries", "due"]
    at: datetime
    what: str
    of: str
    by: str | None = None
    sure: float | None = None
    plan: int | None = None


class TodayDoc(BaseModel):
    """The day, first things first; `stale`: something has changed since the week was woven."""

    now: datetime
    rows: list[TodayRow]
    stale: bool


@router.get("")
def today(request: Request, at: Now = None) -> TodayDoc:
    """What wants hands in the hours to come, timers, and dates of the days to come."""
    store = store_of(request)
    page = page_of(store, at)
    # A timer counts by the database's clock, which is the one that is asked now.
    rows = [
        TodayRow(
            kind="dries",
            at=page.now + timedelta(seconds=row["left_s"]),
            what=row["step"],
            of=row["figure_name"],
            plan=row["plan_id"],
        )
        for row in timers.every(store)
    ]
    rows += [*_hands(page), *_due(page)]
    return TodayDoc(now=page.now, rows=sorted(rows, key=lambda row: row.at)[:MOST], stale=page.stale)


def _hands(page: WeekPage) -> list[TodayRow]:
    """Of the week as it was woven, where that still holds."""
    if page.week is None or page.stale:
        return []
    return [
        TodayRow(kind="hands", at=one.at, what=one.what, of=_called(run.job), by=one.by)
        for run in page.week.runs
        for one in run.attend
        if one.by is not None and one.at + timedelta(minutes=one.minutes) > page.now and one.at <= page.now + AHEAD
    ]


def _called(job: str) -> str:
    """An order's name without the number of its print."""
    return re.sub(r" \(\d+\)$", "", job)


def _due(page: WeekPage) -> list[TodayRow]:
    return [
        TodayRow(kind="due", at=order.due, what=f"{order.made} of {order.copies} made", of=order.name, sure=order.sure)
        for order in page.orders
        if order.due is not None and order.made < order.copies and order.due <= page.now + DUE_AHEAD
    ]
