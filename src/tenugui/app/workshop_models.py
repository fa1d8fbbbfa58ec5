"""What goes over the wire about the workshop: printers and materials with what the log says of them, runs, and what
became of them.
"""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, Field

from ..core.hazards import Loss, Pattern
from ..core.learn import Hours, Scatter


class Machine(BaseModel):
    """A printer or a material; of a material also what is left, and whether that is little; of a printer the share of
    its film's usual life that is worn since `film_at`, or since its first run, and what its log says of its hours and
    of how its prints differ, where it says anything.
    """

    id: int
    name: str
    process: Literal["resin", "filament"]
    spec: dict[str, Any]
    stock_g: float | None = None
    left_g: float | None = None
    low: bool = False
    film_at: datetime | None = None
    film_worn: float = 0.0
    hours: Hours | None = None
    scatter: Scatter | None = None


class HazardKind(BaseModel):
    """What can go wrong (see `core.hazards.Kind`)."""

    code: str
    name: str
    meaning: str
    loss: Loss
    pattern: Pattern
    strikes: Literal["printing", "handling"]


class Took(BaseModel):
    """ml, g and coins that a volume takes, waste counted."""

    ml: float
    grams: float
    coins: float


class Room(BaseModel):
    """What somebody notes of the day of a run; all of it may stay empty."""

    lot: str = Field("", max_length=60)
    nozzle: str = Field("", max_length=60)
    film: str = Field("", max_length=60)
    room_c: float | None = Field(None, ge=-30, le=60)
    humidity: float | None = Field(None, ge=0, le=100)

    def named(self) -> dict[str, str]:
        """By its names, in words."""
        return {
            "Lot or bottle": self.lot.strip(),
            "Nozzle": self.nozzle.strip(),
            "Film": self.film.strip(),
            "Room": "" if self.room_c is None else f"{self.room_c:g} °C",
            "Humidity": "" if self.humidity is None else f"{self.humidity:g} %",
        }


class Started(BaseModel):
    """A run that was started, and what somebody noted of the day."""

    started_at: datetime | None = None
    room: Room = Field(default_factory=Room)


class Outcome(BaseModel):
    """What became of a run; `cause`: the kind of hazard that came true, where somebody knows."""

    result: Literal["good", "scarred", "part lost", "print lost"]
    real_s: float | None = Field(None, ge=0, le=60 * 86400)
    real_g: float | None = Field(None, ge=0, le=100_000)
    failed_layer: int | None = Field(None, ge=0, le=100_000)
    removal: int | None = Field(None, ge=1, le=5)
    note: str = Field("", max_length=2000)
    cause: str | None = Field(None, max_length=24)


class Run(BaseModel):
    """A run and, once known, its outcome. Its figure and plan may have been deleted since."""

    id: int
    plan_id: int | None
    figure_id: int | None
    figure_name: str
    plan_number: int
    printer_name: str
    material_name: str
    process: Literal["resin", "filament"]
    planned_s: float
    planned_g: float
    planned_risk: float
    started_at: datetime
    ends_at: datetime
    simulated: bool
    result: str | None = None
    real_s: float | None = None
    real_g: float | None = None
    failed_layer: int | None = None
    removal: int | None = None
    note: str | None = None
    cause: str | None = None


class Reading(BaseModel):
    """What some runs say together (see `core.learn.LogReading`)."""

    outcomes: int
    whole: int
    predicted_whole: float
    timed: int
    time_ratio: float | None
    time_spread: float | None
    few: bool


class Log(BaseModel):
    """Runs, newest first, and what they say."""

    runs: list[Run]
    reading: Reading
