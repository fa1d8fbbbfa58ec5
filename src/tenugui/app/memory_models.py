"""What goes over the wire of runs as they are remembered: what they froze, what was seen on them, and causes."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from ..core.contract import FrozenLine, LineChanged, Place, ToldHazard
from .workshop_models import Run

Stage = Literal["bare", "primed", "painted"]
Seen = Literal["front", "left", "back", "right", "top", "under", "not said"]
"""From which side a photo was taken."""
Layer = Annotated[int, Field(ge=0, le=1_000_000)]


class Since(BaseModel):
    """What is set otherwise than in an earlier run of the same figure, printer or material."""

    same: Literal["figure", "printer", "material"]
    run_id: int
    figure_name: str
    started_at: datetime
    result: str | None
    changed: list[LineChanged]


class PinAsk(BaseModel):
    """What was seen, and where: at a layer, at a place of the figure as it was printed, mm."""

    cue: str = Field(max_length=24)
    layer: Layer | None = None
    place: Place | None = None
    note: str = Field("", max_length=500)


class Pin(BaseModel):
    """What was seen on a run."""

    id: int
    cue: str
    words: str
    layer: int | None
    place: Place | None
    note: str


class PhotoRow(BaseModel):
    """A photo of a run."""

    id: int
    stage: Stage
    side: Seen
    width: int
    height: int
    created_at: datetime


class PhotoAsk(BaseModel):
    """What a photo shows."""

    stage: Stage
    side: Seen


class PhotoPair(BaseModel):
    """Photos of two runs at one stage from one side, by their ids; None where one has none of it."""

    stage: Stage
    side: Seen
    photos: tuple[int | None, int | None]


class RunsBeside(BaseModel):
    """Two runs beside each other: what was set otherwise in the second, how many settings are alike, what was seen on
    each, and their photos by stage and side.
    """

    runs: tuple[Run, Run]
    changed: list[LineChanged]
    alike: int
    pins: tuple[list[Pin], list[Pin]]
    pairs: list[PhotoPair]


class RunWhole(BaseModel):
    """A run with everything that it froze, what changed, what was told, and what was seen."""

    run: Run
    frozen: list[FrozenLine]
    since: list[Since]
    told: list[ToldHazard]
    pins: list[Pin]
    photos: list[PhotoRow]
    layers: int | None


class CueRow(BaseModel):
    """Something that may be seen on a print."""

    code: str
    words: str


class SuspectRow(BaseModel):
    """What it may come from: its chance among these, what the run's proof told of it there, and how many times as often
    as told it comes true on this machine; the next test, its minutes, and the series that makes it.
    """

    code: str
    words: str
    chance: float
    told: float
    times: float
    test: str
    minutes: float
    series: str | None


class DeskDoc(BaseModel):
    """Causes, the likeliest first; `held`: whether anything held it, where the proof says; `next`: which test first."""

    cue: str
    words: str
    held: bool | None
    suspects: list[SuspectRow]
    next: int
    proved: bool
    learnt_from: int
