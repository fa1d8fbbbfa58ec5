"""What goes over the wire of series."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any

from pydantic import BaseModel, Field

from ..core.contract import Refusal
from ..core.contract.series import SeriesDoc
from ..core.names import Name
from ..core.series import Spec
from ..core.series.spec import Level

Number = Annotated[int, Field(ge=1, le=2**32 - 1)]


class ShippedRow(BaseModel):
    """A series that ships, with its levels about what the machine is set to."""

    code: str
    title: str
    asks: str
    spec: Spec
    piece: str | None
    ability: str | None


class SeriesAsk(BaseModel):
    """A series to plan: on a figure, or on a test piece."""

    name: Name
    spec: Spec
    figure_id: Number | None = None


class SeriesRow(BaseModel):
    """A series in the list."""

    id: int
    name: str
    figure_name: str | None
    created_at: datetime
    specimens: int
    looked_at: int


class SpecimenRow(BaseModel):
    """One print of a series: its cell by place in `doc.cells`, and what was found of it, as typed."""

    id: int
    name: str
    levels: dict[str, Level]
    cell: int
    found: dict[str, Any]
    run_id: int | None
    plan_id: int | None
    version: int


class CellTroubled(BaseModel):
    """A cell's plan that could not be made to its end: which, and why."""

    plan_id: int
    problem: Refusal


class SeriesWhole(BaseModel):
    """A series with its specimens, what they say together, and plans of its cells that could not be made."""

    id: int
    name: str
    figure_id: int | None
    figure_name: str | None
    created_at: datetime
    spec: Spec
    doc: SeriesDoc
    set_in_plans: list[str]
    by_hand: list[str]
    specimens: list[SpecimenRow]
    troubled: list[CellTroubled]


class CellsPlanned(BaseModel):
    """Plans that are made of a series' cells, by the place of each in `doc.cells`; `set_in_plans`: factors that they
    differ in, `by_hand`: those that somebody sets on the machine.
    """

    plans: dict[int, int]
    set_in_plans: list[str]
    by_hand: list[str]


class FoundAsk(BaseModel):
    """What was found of a specimen, by response, as typed; `version` that was looked at."""

    found: dict[str, str] = Field(max_length=20)
    version: int = Field(ge=1)


class TellsAsk(BaseModel):
    """Let a series tell of a machine: its yes and no become evidence of what that can do."""

    printer_id: Number
    material_id: Number
    ability: str = Field(max_length=16)
    factor: str = Field(max_length=60)
    response: str = Field(max_length=60)
