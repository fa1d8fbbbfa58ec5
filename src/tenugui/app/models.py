"""What goes over the wire. Documents of the core travel as they are."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, Field

Document = dict[str, Any]


class Machine(BaseModel):
    """A printer or a material."""

    id: int
    name: str
    process: str
    spec: Document
    stock_g: float | None = None


class FigureRow(BaseModel):
    """A figure on the bench."""

    id: int
    name: str
    file_name: str
    triangles: int
    kit_id: int | None = None
    kit_name: str | None = None
    created_at: datetime
    plan_id: int | None = None
    picture: str | None = None
    next_fold: str | None = None
    stale: bool = False
    numbers: Document | None = None


class Imported(BaseModel):
    """A figure that has just come in, with its first plan and the intake's job."""

    figure_id: int
    plan_id: int
    triangles: int
    kit_id: int | None = None
    parts: int = 1


class NewKit(BaseModel):
    """Figures that belong together."""

    name: str = Field(min_length=1, max_length=120)
    figures: list[int] = Field(min_length=2, max_length=500)


class IntakeLimits(BaseModel):
    """Sizes past which a file is refused (see `core.formats.Limits`)."""

    file_bytes: int = Field(ge=2**20, le=2**34)
    triangles: int = Field(ge=1_000, le=50_000_000)
    thinned_from: int = Field(ge=1_000, le=200_000_000)
    unpacked_bytes: int = Field(ge=2**20, le=2**35)
    entries: int = Field(ge=1, le=10_000)


class KitPart(BaseModel):
    """A part of a kit: where its plan stands, and its preview, in place where the file places it."""

    figure_id: int
    plan_id: int
    name: str
    triangles: int
    preview_sha: str | None
    next_fold: str | None


class Kit(BaseModel):
    """Parts that belong together and share one scale factor."""

    id: int
    name: str
    placed: bool
    parts: list[KitPart]


class Fit(BaseModel):
    """The largest factor at which a figure fits a printer in some pose, and the layer that the printer starts from."""

    printer_id: int
    factor: float
    layer_mm: float


class FoldState(BaseModel):
    """One fold of the band."""

    name: str
    state: Literal["open", "settled", "stale"]
    ready: bool
    choice: Document | None
    reason: str | None = None
    numbers: Document | None = None


class PlanState(BaseModel):
    """A plan as it stands: folds, the running figures and their change since the decision before."""

    id: int
    number: int
    figure_id: int
    figure_name: str
    file_name: str
    triangles: int
    preview_sha: str | None
    unit: str | None
    kit_id: int | None
    thinned: Document | None = None
    folds: list[FoldState]
    numbers: Document | None
    before: Document | None
    can_undo: str | None
    can_redo: str | None
    next_fold: str | None = None
    cost_unit: str = ""


class Computation(BaseModel):
    """Either the document at hand or the job that will bring it."""

    key: str
    document: Document | None = None
    job_id: int | None = None


class JobState(BaseModel):
    """A job as it stands."""

    id: int
    kind: str
    state: Literal["waiting", "running", "done", "failed", "cancelled"]
    share: float
    doing: str
    problem: Document | None


class SizeChoice(BaseModel):
    """Height in mm along the file's z, or a factor by which the file's numbers become mm; printer and material."""

    height_mm: float | None = Field(None, gt=0.5, le=2000)
    factor: float | None = Field(None, gt=1e-6, le=1e6)
    mesh: Literal["original", "repaired", "united", "remeshed", "bare"] = "original"
    eye_z: float | None = None
    crown_z: float | None = None
    printer_id: int
    material_id: int
    reason: str = Field("", max_length=500)


class Wishes(BaseModel):
    """What the user asks of poses: weights of aims over the process's own, and directions of their own (in the file's frame, pointing down)."""

    priorities: dict[str, float] = Field(default_factory=dict, max_length=20)
    pinned: list[tuple[float, float, float]] = Field(default_factory=list, max_length=4)


class Direction(BaseModel):
    """One direction to weigh, as `Wishes.pinned`; with the priorities that its cost is told by."""

    down: tuple[float, float, float]
    priorities: dict[str, float] = Field(default_factory=dict, max_length=20)


class Weighed(BaseModel):
    """A direction and its aims, the turn that brings it to the plate (column-major 4 x 4 from the file's frame), and what it costs beside the recommended one."""

    down: tuple[float, float, float]
    aims: dict[str, float]
    matrix: list[float]
    why: list[str]
    fits: bool


class Ranked(BaseModel):
    """What the search says of a wish at once: the candidates' directions and aims, the directions no other beats, each one's merit by rank."""

    candidates: list[Weighed]
    recommended: int
    front: list[int]
    merit: list[float]
    wish: dict[str, float]


class MarksChoice(BaseModel):
    """Strokes in the file's frame (see `core.marks`), and the priorities that poses are ranked by until the board says otherwise."""

    strokes: list[Document] = Field(max_length=5000)
    priorities: dict[str, float] = Field(default_factory=dict, max_length=20)
    reason: str = Field("", max_length=500)


class OptionChoice(BaseModel):
    """An alternative of the fold's board by its index; the server takes the numbers from its own result."""

    option: int = Field(ge=0, lt=64)
    wishes: Wishes | None = None
    reason: str = Field("", max_length=500)


class Started(BaseModel):
    """A run that was started."""

    started_at: datetime | None = None


class Outcome(BaseModel):
    """What became of a run."""

    result: Literal["good", "scarred", "part lost", "print lost"]
    real_s: float | None = Field(None, ge=0, le=60 * 86400)
    real_g: float | None = Field(None, ge=0, le=100_000)
    failed_layer: int | None = Field(None, ge=0, le=100_000)
    removal: int | None = Field(None, ge=1, le=5)
    note: str = Field("", max_length=2000)


class Run(BaseModel):
    """A run and, once known, its outcome."""

    id: int
    plan_id: int
    figure_id: int
    figure_name: str
    plan_number: int
    printer_name: str
    material_name: str
    process: str
    planned_s: float
    planned_g: float
    planned_risk: float
    started_at: datetime
    result: str | None = None
    real_s: float | None = None
    real_g: float | None = None
    failed_layer: int | None = None
    removal: int | None = None
    note: str | None = None


class NewName(BaseModel):
    """Another name for a figure."""

    name: str = Field(min_length=1, max_length=120)
