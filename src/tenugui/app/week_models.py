"""What goes over the wire about the week."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from fastapi import Query
from pydantic import AfterValidator, BaseModel, Field, field_validator, model_validator

from ..core.contract import Refusal
from ..core.contract.week import BetterDoc, WeekDoc
from ..core.finish import Until
from ..core.names import Name
from ..core.week import Clocks, WeekError, WeeklyHours
from .models import Id

MOST_COPIES = 60


def _of_the_place(at: datetime) -> datetime:
    if at.tzinfo is not None:
        raise ValueError("times are of the place, without a zone")
    return at.replace(second=0, microsecond=0)


Time = Annotated[datetime, AfterValidator(_of_the_place)]
Now = Annotated[datetime | None, Query(description="As though it were then, of the place; now where nothing is said.")]


class Person(BaseModel):
    """Somebody, and when they are there and awake, week by week."""

    name: Name
    hours: list[WeeklyHours] = Field(max_length=30)


class Station(BaseModel):
    """Where prints go through: of which kind, and how many loads it takes at once."""

    name: Name
    kind: Literal["wash", "drying", "lamp"]
    capacity: int = Field(ge=1, le=50)


class MachineHours(BaseModel):
    """When a machine may print; always where nothing is said."""

    name: Name
    hours: list[WeeklyHours] = Field(max_length=30)


class House(BaseModel):
    """People, stations, machines' own hours, quiet hours, and how many days are looked ahead; `zone`: whose clocks they
    are, where they change in summer.
    """

    people: list[Person] = Field(max_length=20)
    stations: list[Station] = Field(max_length=20)
    machines: list[MachineHours] = Field(max_length=40)
    quiet: list[WeeklyHours] = Field(max_length=10)
    days: int = Field(ge=1, le=28)
    change_min: float = Field(ge=0, le=600)
    zone: str = Field("", max_length=64)

    @field_validator("zone")
    @classmethod
    def _is_one(cls, zone: str) -> str:
        if zone:
            try:
                Clocks(zone, datetime(2026, 1, 1))
            except WeekError as unknown:
                raise ValueError(str(unknown)) from unknown
        return zone

    @model_validator(mode="after")
    def _each_once(self) -> House:
        for what, named in (("person", self.people), ("station", self.stations), ("machine", self.machines)):
            names = [one.name for one in named]
            twice = {name for name in names if names.count(name) > 1}
            if twice:
                raise ValueError(f"the {what} '{min(twice)}' is there twice")
        return self


class HouseAsk(BaseModel):
    """The same, of a version that somebody looked at."""

    version: int
    house: House


class OrderAsk(BaseModel):
    """A plan so many times, or a plate, by a date, with the chance that is wanted; `goes`: how far off the plate."""

    name: Name
    plan_id: Id | None = None
    plate_id: Id | None = None
    copies: int = Field(1, ge=1, le=MOST_COPIES)
    due: Time | None = None
    chance: float = Field(0.9, gt=0, lt=1)
    goes: Until = "primed"

    @model_validator(mode="after")
    def _of_one(self) -> OrderAsk:
        if (self.plan_id is None) == (self.plate_id is None):
            raise ValueError("an order is of a plan or of a plate")
        return self


class OrderChange(BaseModel):
    """What of an order may be changed."""

    name: Name
    copies: int = Field(ge=1, le=MOST_COPIES)
    due: Time | None = None
    chance: float = Field(gt=0, lt=1)
    goes: Until
    made: int = Field(0, ge=0, le=MOST_COPIES)


class WeekPin(BaseModel):
    """When a print of an order starts at the earliest, or whether it goes before all others; neither lets it go."""

    nth: int = Field(ge=1, le=MOST_COPIES)
    not_before: Time | None = None
    first: bool = False


class JobRow(BaseModel):
    """A print of an order by its name in the week, and which of them it is."""

    name: str
    nth: int


class OrderRow(BaseModel):
    """An order as it stands: prints that are to be made, and the chance of its date where it is woven."""

    id: int
    name: str
    plan_id: int | None
    plate_id: int | None
    figure_name: str | None
    plate_name: str | None
    copies: int
    made: int
    due: datetime | None
    chance: float
    goes: Until
    jobs: list[JobRow]
    pinned: list[int]
    ready: bool
    said: str
    sure: float | None = None


class RunningRow(BaseModel):
    """A run that stands on a machine now, until about when."""

    run_id: int
    figure_name: str
    machine: str
    started_at: datetime
    ends_at: datetime


class WeekPage(BaseModel):
    """The week as it was woven last; `stale`: something has changed since. Spans are when somebody is there, and when
    it is quiet.
    """

    house: House
    version: int
    orders: list[OrderRow]
    machines: list[str]
    begin: datetime
    end: datetime
    now: datetime
    awake: list[tuple[datetime, datetime]]
    quiet: list[tuple[datetime, datetime]]
    running: list[RunningRow]
    week: WeekDoc | None
    better: BetterDoc | None
    latest: list[tuple[str, datetime]]
    stations: dict[str, str]
    stale: bool
    nothing: str
    job_id: int | None
    problem: Refusal | None
    feed: str | None


class FitRow(BaseModel):
    """A plan in a slot: hours that it ends within in 19 of 20 cases, and at which of its layer heights and at which
    size it would end in time.
    """

    plan_id: int
    figure_name: str
    plan_number: int
    layer_mm: float
    hours: float
    hours_95: float
    fits: bool
    heights: list[tuple[float, float]]
    size: float
    size_mm: float | None
