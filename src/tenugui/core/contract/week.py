"""`tenugui/week@1`: a week planned."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal, TypeVar

from pydantic import Field, PlainSerializer

from ..week import Attended, Clocks, Week
from .base import Document

Minute = Annotated[datetime, PlainSerializer(lambda at: f"{at:%Y-%m-%dT%H:%M}", return_type=str)]


class AttendDoc(Document):
    """Somebody does something at a time, for so many minutes; `by` nobody where it goes alone."""

    what: str
    at: Minute
    by: str | None
    minutes: int

    @staticmethod
    def of(one: Attended) -> AttendDoc:
        """As a document."""
        return AttendDoc(what=one.what, at=one.at, by=one.by, minutes=one.minutes)


class WeekRunDoc(Document):
    """A job on its machine; `end_95`: ended by then in 19 of 20 cases; `done` with all its steps."""

    job: str
    machine: str
    start: Minute
    end: Minute
    end_95: Minute
    done: Minute
    attend: list[AttendDoc]
    alone: list[AttendDoc]


class DateDoc(Document):
    """The chance that a job is done when it is due."""

    job: str
    due: Minute
    chance: float


class UnplacedDoc(Document):
    """A job that found no place, and which rule it cannot meet."""

    job: str
    why: str


class WeekDoc(Document):
    """A week: `optimal` where no plan costs less (unplaced, late, long); `gap`: by which share one might at most."""

    schema_: Literal["tenugui/week@1"] = Field("tenugui/week@1", alias="schema")
    runs: list[WeekRunDoc]
    dates: list[DateDoc]
    unplaced: list[UnplacedDoc]
    optimal: bool
    said: list[str]
    gap: float | None


class BetterDoc(Document):
    """A job put first, and what becomes of dates: (job, chance before, chance after)."""

    first: str
    dates: list[tuple[str, float, float]]


class WovenDoc(Document):
    """A week, which one move would most help the date that is least sure, and (job, time) of the latest start that
    still keeps a date surely.
    """

    week: WeekDoc
    better: BetterDoc | None
    latest: list[tuple[str, Minute]] = Field(default_factory=list)

    @staticmethod
    def of(week: WeekDoc, found: Week) -> WovenDoc:
        """As a document."""
        better = None if found.better is None else BetterDoc(**vars(found.better))
        return WovenDoc(week=week, better=better, latest=list(found.latest))


def week_document(week: Week) -> WeekDoc:
    """As a document."""
    return WeekDoc(
        runs=[
            WeekRunDoc(
                job=run.job,
                machine=run.machine,
                start=run.start,
                end=run.end,
                end_95=run.end_95,
                done=run.done,
                attend=[AttendDoc.of(one) for one in sorted(run.attend, key=lambda a: a.at)],
                alone=[AttendDoc.of(one) for one in run.alone],
            )
            for run in week.runs
        ],
        dates=[DateDoc(job=job, due=due, chance=chance) for job, due, chance in week.dates],
        unplaced=[UnplacedDoc(job=job, why=why) for job, why in week.unplaced],
        optimal=week.optimal,
        said=week.said,
        gap=week.gap,
    )


D = TypeVar("D", bound=Document)


def walled(document: D, clocks: Clocks) -> D:
    """A document whose times are counted by the hours that pass, in times of the wall."""

    def told(value: Any) -> Any:
        if isinstance(value, datetime):
            return clocks.wall(value)
        if isinstance(value, Document):
            return walled(value, clocks)
        return type(value)(told(of) for of in value) if isinstance(value, list | tuple) else value

    return document.model_copy(update={name: told(getattr(document, name)) for name in type(document).model_fields})
