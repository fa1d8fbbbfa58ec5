"""What a week is asked with: machines, stations, people, quiet hours and jobs, as JSON."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any

import orjson
from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError, model_validator

from ..errors import CoreError
from ..names import Name

MOST_DAYS, MOST_JOBS, MOST_MACHINES, MOST_PEOPLE, MOST_STEPS, MOST_SPANS = 62, 200, 40, 20, 40, 400


class WeekError(CoreError):
    """A week that cannot be planned as it is asked."""


def _without_zone(at: datetime) -> datetime:
    if at.tzinfo is not None:
        raise ValueError("times are of the place, without a zone")
    return at


Time = Annotated[datetime, AfterValidator(_without_zone)]
Span = tuple[Time, Time]
Spans = Annotated[list[Span], Field(max_length=MOST_SPANS)]


class _Model(BaseModel):
    model_config = ConfigDict(frozen=True, extra="ignore", allow_inf_nan=False, populate_by_name=True)


def _checked(spans: list[Span], what: str) -> None:
    for a, b in spans:
        if b <= a:
            raise ValueError(f"{what}: {a:%Y-%m-%d %H:%M} to {b:%Y-%m-%d %H:%M} ends before it begins")


class MachineAsk(_Model):
    """A machine: when it is `free` (always, where nothing is said); `setup`: minutes to change what a job names by that
    word, such as a material, a nozzle, a film; `has`: what is in it now.
    """

    name: Name
    free: Spans | None = None
    setup: dict[str, float] = Field(default_factory=dict, max_length=20)
    has: dict[str, str] = Field(default_factory=dict, max_length=20)

    @model_validator(mode="after")
    def _sound(self) -> MachineAsk:
        _checked(self.free or [], f"{self.name} is free")
        for what, minutes in self.setup.items():
            if not 0 <= minutes <= 1440:
                raise ValueError(f"{self.name}: changing {what[:40]} takes 0 to 1,440 minutes")
        return self


class StationAsk(_Model):
    """A station: of which kind, and how many loads it takes at once."""

    name: Name
    kind: str = Field("", max_length=40)
    capacity: int = Field(1, ge=1, le=100)


class PersonAsk(_Model):
    """Somebody, and when they are there and awake."""

    name: Name
    hours: Spans

    @model_validator(mode="after")
    def _sound(self) -> PersonAsk:
        _checked(self.hours, self.name)
        return self


class StepAsk(_Model):
    """What comes after lifting off: at a station by its name or kind, or none; by hand, or alone."""

    step: str = Field(min_length=1, max_length=60)
    station: str | None = Field(None, max_length=120)
    minutes: float = Field(ge=0, le=20_160)
    hands: bool = False


class JobAsk(_Model):
    """A print: the machines that it may run on, its hours and by how much they vary (of their logarithm), the chance
    that it fails, its steps afterwards, the date; a first look after so many minutes; when it may start at the
    earliest; `weight`: by how much sooner it is wanted than others. What else it names by a word of a machine's `setup`
    is what that must have in it.
    """

    model_config = ConfigDict(frozen=True, extra="allow", allow_inf_nan=False)

    name: Name
    machines: list[str] = Field(min_length=1, max_length=MOST_MACHINES)
    hours: float = Field(gt=0, le=500)
    spread: float = Field(0.06, ge=0, le=2)
    risk: float = Field(0.0, ge=0, le=0.95)
    after: list[StepAsk] = Field(default_factory=list, max_length=MOST_STEPS)
    due: Time | None = None
    first_look_min: float | None = Field(None, ge=0, le=6000)
    not_before: Time | None = None
    weight: int = Field(1, ge=1, le=1000)

    def needs(self, what: str) -> str | None:
        """What it must find in a machine of this kind, where it says so."""
        held = (self.model_extra or {}).get(what)
        return None if held is None else str(held)


class WeekAsk(_Model):
    """A week from `start` to `end`; `zone`: the place whose clocks they are, by its name in the zone database (IANA),
    where these change.
    """

    start: Time = Field(alias="from")
    end: Time = Field(alias="to")
    machines: list[MachineAsk] = Field(min_length=1, max_length=MOST_MACHINES)
    stations: list[StationAsk] = Field(default_factory=list, max_length=MOST_MACHINES)
    people: list[PersonAsk] = Field(max_length=MOST_PEOPLE)
    quiet: Spans = Field(default_factory=list)
    jobs: list[JobAsk] = Field(max_length=MOST_JOBS)
    zone: str | None = Field(None, max_length=64)

    @model_validator(mode="after")
    def _sound(self) -> WeekAsk:
        if self.end <= self.start:
            raise ValueError("the week ends before it begins")
        if (self.end - self.start).days > MOST_DAYS:
            raise ValueError(f"{(self.end - self.start).days} days; {MOST_DAYS} are planned at most")
        _checked(self.quiet, "quiet")
        for what, named in (("machine", self.machines), ("station", self.stations), ("person", self.people)):
            _once([one.name for one in named], what)
        _once([job.name for job in self.jobs], "job")
        machines = {m.name for m in self.machines}
        stations = {s.name for s in self.stations} | {s.kind for s in self.stations if s.kind}
        for job in self.jobs:
            for name in job.machines:
                if name not in machines:
                    raise ValueError(f"the job '{job.name}' may run on '{name[:60]}', which is no machine of the week")
            for step in job.after:
                if step.station is not None and step.station not in stations:
                    said = f"'{step.step}' of '{job.name}' wants the station '{step.station[:60]}'"
                    raise ValueError(f"{said}, which is not there")
        return self


def _once(names: list[str], what: str) -> None:
    twice = {name for name in names if names.count(name) > 1}
    if twice:
        raise ValueError(f"the {what} '{min(twice)}' is there twice")


def read_week(data: bytes, where: str) -> WeekAsk:
    """A week from JSON.

    Raises:
        WeekError: `bad-week`: in one line which part, and what is wrong with it.
    """
    how = 'Give {"from", "to", "machines", "stations", "people", "quiet", "jobs"}; times as 2026-11-30T18:00.'
    try:
        read: Any = orjson.loads(data)
        return WeekAsk.model_validate(read)
    except orjson.JSONDecodeError as reason:
        raise WeekError("bad-week", f"The week cannot be read: {reason}.", where, how) from reason
    except ValidationError as reason:
        first = reason.errors()[0]
        at = ".".join(str(part) for part in first["loc"])
        said = str(first["msg"]).removeprefix("Value error, ")
        raise WeekError("bad-week", f"{at + ': ' if at else ''}{said}.", where, how) from reason
