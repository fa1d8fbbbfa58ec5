"""What goes over the wire about plates."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field, model_validator

from ..core.contract.plate import PlateDoc
from ..core.names import Name
from ..core.plate import Look, Spent
from .machine_models import OnMachine
from .models import Id

MOST_PIECES = 120
"""On the plates of one order: what is more is laid out as another."""
Mm = Annotated[float, Field(ge=-2000, le=2000, allow_inf_nan=False)]


class Line(BaseModel):
    """So many copies of a plan."""

    plan_id: Id
    copies: int = Field(ge=1, le=MOST_PIECES)


class BoxAsk(BaseModel):
    """What is kept free on every plate, from its front left corner."""

    x0_mm: Mm
    y0_mm: Mm
    x1_mm: Mm
    y1_mm: Mm

    @model_validator(mode="after")
    def _is_one(self) -> BoxAsk:
        if self.x1_mm <= self.x0_mm or self.y1_mm <= self.y0_mm:
            raise ValueError("a box has two corners, the second behind and to the right of the first")
        return self


class Lying(BaseModel):
    """Where the nth copy of a plan lies: the plate, counted from 0, its origin from the front left corner, its turn,
    and whether somebody put it there for good.
    """

    plan_id: Id
    nth: int = Field(ge=1, le=MOST_PIECES)
    plate: int = Field(ge=0, lt=MOST_PIECES)
    x_mm: Mm
    y_mm: Mm
    turn_deg: float = Field(ge=-360, le=360)
    pinned: bool = False


class PlateAsk(BaseModel):
    """What is to be printed together, on which printer, how far apart, and at whose rates."""

    name: Name
    printer_id: Id
    pieces: list[Line] = Field(min_length=1, max_length=40)
    gap_mm: float = Field(2.0, ge=0, le=50)
    rates: Literal["evening", "order", "army"] = "evening"

    @model_validator(mode="after")
    def _not_too_many(self) -> PlateAsk:
        plans = [line.plan_id for line in self.pieces]
        if len(set(plans)) < len(plans):
            raise ValueError("a plan stands in two lines: add their copies")
        if (many := sum(line.copies for line in self.pieces)) > MOST_PIECES:
            raise ValueError(f"{many} pieces; {MOST_PIECES} are laid out at once: make another plate of the rest")
        return self


class PlateChange(PlateAsk):
    """The same, of a version that somebody looked at, what is kept free, and whether pieces are printed one after the
    other.
    """

    version: int
    free: list[BoxAsk] = Field(default_factory=list, max_length=20)
    in_turn: bool = False


class Seen(BaseModel):
    """The version that somebody looked at."""

    version: int


class Moved(Seen):
    """Pieces that somebody has moved, turned, pinned or let go."""

    moved: list[Lying] = Field(min_length=1, max_length=MOST_PIECES)


class Ticks(Seen):
    """Lines of the card that are ticked off."""

    ticked: list[Annotated[str, Field(max_length=300)]] = Field(max_length=100)


class PieceState(BaseModel):
    """A line of the plate and how its plan stands: `ready` to lie there, its footprint still `counting`, the plan
    `open` (not proved), planned `elsewhere`, or `gone`.
    """

    plan_id: int
    copies: int
    figure_name: str
    plan_number: int
    state: Literal["ready", "counting", "open", "elsewhere", "gone"]
    said: str = ""
    job_id: int | None = None
    accepted: bool = False
    material: str = ""
    layer_mm: float | None = None
    footprint: list[list[tuple[float, float]]] = Field(default_factory=list)


class LeftRow(BaseModel):
    """A piece that lies nowhere, and why."""

    plan_id: int
    copies: int
    why: str


class WrongRow(BaseModel):
    """Something that must not be on a plate: its pieces by their place on it."""

    kind: str
    items: list[int]
    said: str


class SetRow(BaseModel):
    """A support set of a plan: what it asks of hands and risks, how many fit by their boxes, how many at once are best,
    and what a good piece takes then; `taken`: the one that the plan has.
    """

    style: str
    risk: float
    tips: int
    box_mm: tuple[float, float]
    hands_min: float
    lost: float
    fits: int
    best: int
    hours_per_good: float | None
    taken: bool


class BetweenRow(BaseModel):
    """What only a plate knows: how often the nozzle crosses from piece to piece, over how many metres, and minutes of
    hairs; pairs, by their place on it, between which cutters of `cutter_mm` do not reach.
    """

    crossings: int
    metres: float
    hairs_min: float
    tight: list[tuple[int, int]]
    cutter_mm: float


class InTurnRow(BaseModel):
    """Whether a plate's pieces can be printed one after the other, or why not."""

    can: bool
    why: str


class PlateOnMachine(OnMachine):
    """A simulated machine with a plate's file, and its batch in the log."""

    batch: int


class OnePlate(BaseModel):
    """One plate as it lies, by its number from 0: what it takes and risks, what is wrong with it, what it costs, and
    its card.
    """

    number: int
    doc: PlateDoc
    pinned: list[bool]
    wrong: list[WrongRow]
    spent: Spent
    ready: list[str]
    looks: list[Look]
    between: BetweenRow
    in_turn: InTurnRow | None
    vat_ml: float | None
    left_g: float | None


class RunOfBatch(BaseModel):
    """A piece of a batch: a run of its own."""

    id: int
    plan_id: int | None
    figure_name: str
    result: str | None


class Batch(BaseModel):
    """A plate that was begun."""

    id: int
    number: int
    planned_s: float
    started_at: datetime
    runs: list[RunOfBatch]


class PlateWhole(BaseModel):
    """Plates of one order as they stand. `curve`: (so many of the first plan at once, expected hours a good piece)."""

    id: int
    name: str
    version: int
    printer_id: int
    printer_name: str
    process: Literal["resin", "filament"]
    build_mm: tuple[float, float, float]
    gap_mm: float
    rates: str
    pieces: list[PieceState]
    free: list[BoxAsk]
    plates: list[OnePlate]
    unlaid: int
    left: list[LeftRow]
    hours_per_good_piece: float | None
    curve: list[tuple[int, float]]
    in_turn: bool
    ticked: list[str]
    can_undo: str | None
    can_redo: str | None
    batches: list[Batch]


class OfferRow(BaseModel):
    """A plan that can be laid on a printer's plate."""

    plan_id: int
    figure_name: str
    plan_number: int


class PlateRow(BaseModel):
    """Plates of one order in the list."""

    id: int
    name: str
    printer_name: str
    process: Literal["resin", "filament"]
    pieces: int
    plates: int
    begun: int
    created_at: datetime


class Body(BaseModel):
    """What a step of a plate keeps."""

    gap_mm: float
    rates: str
    pieces: list[Line]
    free: list[BoxAsk] = Field(default_factory=list)
    laid: list[Lying] = Field(default_factory=list)
    left: list[LeftRow] = Field(default_factory=list)
    curve: list[tuple[int, float]] = Field(default_factory=list)
    ticked: list[str] = Field(default_factory=list)
    in_turn: bool = False

    def plain(self) -> dict[str, Any]:
        """As JSON."""
        return self.model_dump(mode="json")
