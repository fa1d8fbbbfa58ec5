"""What goes over the wire of what a machine can do."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, Field

from ..core.contract.learn import CalibrationDoc, CauseLearntDoc, HoursDoc
from ..core.learn import Scatter
from .workshop_models import Machine


class EvidenceRow(BaseModel):
    """One thing that was seen of a capability."""

    id: int
    level: float
    came_out: bool
    source: Literal["run", "series", "word"]
    run_id: int | None
    note: str
    noted_at: datetime


class AbilityRow(BaseModel):
    """A capability: its prior, what was seen, and what that comes to. `set_to`: what folds use now, from the shelf;
    `taken_id`: it was taken over from here. `curve`: (level, chance that it comes out).
    """

    code: str
    title: str
    asks: str
    unit: str
    angle: bool
    up: bool
    prior: float
    prior_spread: float
    value: float
    low: float
    high: float
    safe: float
    seen: int
    words: int
    last: datetime | None
    contradicted: bool
    old: bool
    field: str | None
    set_to: Any
    taken_id: int | None
    evidence: list[EvidenceRow]
    curve: list[tuple[float, float]]


class HandsRow(BaseModel):
    """A kind of work by hand: how many steps were timed, and real over reckoned minutes with 95 % on both sides."""

    kind: str
    steps: int
    times: float
    low: float
    high: float


class MinutesRow(BaseModel):
    """A step that was timed."""

    id: int
    plan_id: int | None
    step: str
    reckoned: float
    took: float
    noted_at: datetime


class HandsPage(BaseModel):
    """How long hands really take in this process: all steps, each kind of work, the latest steps; `set_to` what plans
    count with, `take` what they would, None where too few were timed.
    """

    whole: HandsRow
    kinds: list[HandsRow]
    latest: list[MinutesRow]
    set_to: float
    take: float | None
    taken_id: int | None


class CauseRow(CauseLearntDoc):
    """What came true beside what was told, whether that is sure enough to count with, and the value that is taken over
    where one is: `load`: as a load that is so many times as large, else as a rate.
    """

    sure: bool
    load: float | None
    taken_id: int | None


class MachinePage(BaseModel):
    """A machine in a material: what it can do, how long it takes, what comes true, and how well it was told."""

    printer: Machine
    material: Machine
    materials: list[Machine]
    runs: int
    simulated: int
    abilities: list[AbilityRow]
    hours: HoursDoc
    scatter: Scatter | None
    scatter_set: float
    scatter_taken_id: int | None
    hands: HandsPage
    causes: list[CauseRow]
    causes_from: int
    calibration: CalibrationDoc


class EvidenceAsk(BaseModel):
    """What was seen: made at `level`, it came out or did not; `word`: nobody printed it for this, somebody knows."""

    material_id: int = Field(ge=1, le=2**32 - 1)
    ability: str = Field(max_length=16)
    level: float = Field(allow_inf_nan=False)
    came_out: bool = True
    word: bool = False
    run_id: int | None = Field(None, ge=1, le=2**32 - 1)
    note: str = Field("", max_length=200)


class TakeAsk(BaseModel):
    """Take a learned value over: of a capability by its code, `scatter`, `hands_times`, or `cause` and its code."""

    material_id: int = Field(ge=1, le=2**32 - 1)
    what: str = Field(max_length=32)
