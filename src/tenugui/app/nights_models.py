"""What goes over the wire of nights."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from ..core.contract import Refusal
from ..core.contract.night import NightPlate, NightRow
from .models import Id

MOST_FIGURES, MOST_MACHINES = 200, 8


class NightMachine(BaseModel):
    """A printer with what is printed on it."""

    printer_id: Id
    material_id: Id


class NightLimits(BaseModel):
    """What is too risky or takes too long."""

    most_risk: Annotated[float, Field(gt=0, le=1)] = 1.0
    most_hours: Annotated[float, Field(gt=0, le=10_000)] = 10_000.0


class NightAsked(NightLimits):
    """Machines, how tall every figure is to be (None: each as its file has it), and limits."""

    machines: Annotated[list[NightMachine], Field(min_length=1, max_length=MOST_MACHINES)]
    height_mm: Annotated[float, Field(ge=1, le=2000)] | None = None


class NightAsk(NightAsked):
    """Figures of the bench that are to be planned so."""

    figures: Annotated[list[Id], Field(min_length=1, max_length=MOST_FIGURES)]


class NightListed(BaseModel):
    """A night in the list."""

    id: int
    begun_at: datetime
    figures: int


class NightFigureRow(BaseModel):
    """A figure of a night: its row once it is there, the job that makes it, or why there is none."""

    figure_id: int
    name: str
    state: Literal["planned", "running", "waiting", "open", "failed"]
    share: float
    doing: str
    problem: Refusal | None
    row: NightRow | None


class NightState(BaseModel):
    """A night as it stands, its named ways laid on plates."""

    id: int
    begun_at: datetime
    asked: NightAsked
    rows: list[NightFigureRow]
    plates: list[NightPlate]
    unplaced: list[str]
    hours: float
    planned: int
    looked_first: int


class NightTake(BaseModel):
    """A figure's way, by its place in the row, that is to become a plan."""

    figure_id: Id
    way: Annotated[int, Field(ge=0, lt=MOST_MACHINES)]


class NightTaken(BaseModel):
    """The plan that it becomes, and the job that decides it."""

    plan_id: int
    job_id: int
