"""What goes over the wire besides the core's own documents."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Generic, Literal, Self, TypeVar

from pydantic import BaseModel, Field, model_validator

from ..core.contract import Numbers, Place, Refusal, Way, WishDoc, WorthDoc
from ..core.names import Name

T = TypeVar("T")
Id = Annotated[int, Field(ge=1, le=2**32 - 1)]
Head = Annotated[
    int | None, Field(description="The decision at the plan's head as the page has seen it; null where there was none.")
]
Reason = Annotated[str, Field(max_length=500)]


class FoldInfo(BaseModel):
    """A fold as the page names it."""

    name: str
    title: str
    question: str


class FigureRow(BaseModel):
    """A figure on the bench: where its newest plan stands, or why it could not be examined."""

    id: int
    name: str
    file_name: str
    triangles: int
    kit_id: int | None = None
    kit_name: str | None = None
    created_at: datetime
    plan_id: int | None = None
    picture: str | None = None
    next: FoldInfo | None = None
    stale: bool = False
    numbers: Numbers | None = None
    process: Literal["resin", "filament"] | None = None
    problem: Refusal | None = None
    doing: str | None = None


class AwayRow(BaseModel):
    """A figure that was put away."""

    id: int
    name: str
    triangles: int
    put_away_at: datetime


class Imported(BaseModel):
    """A figure that has just come in, with its first plan."""

    figure_id: int
    plan_id: int
    triangles: int
    kit_id: int | None = None
    parts: int = 1


class NewKit(BaseModel):
    """Figures that belong together."""

    name: Name
    figures: list[Id] = Field(min_length=2, max_length=500)


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
    next: FoldInfo | None


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


class Strokes(BaseModel):
    """One deed of marking (see `core.marks.Stroke`)."""

    tool: Literal["brush", "fill", "flat", "propose", "file", "clear"]
    kind: Literal["show", "hidden", "fit", "keep_out", "hold", "none"] = "none"
    points: list[Place] | None = Field(None, max_length=4000)
    radius: float | None = None
    crease: float | None = None
    what: str | None = Field(None, max_length=64)
    mirror: bool | None = None


class PoseWish(BaseModel):
    """What a person wants of a pose: rates (a preset's name, or values over the first preset's), and hard wishes (`core.pose.Wish`)."""

    rates: Annotated[str, Field(max_length=20)] | dict[str, float] | None = None
    hours: float | None = Field(None, gt=0, le=1000)
    clean: bool = False
    free: bool = False


class HoleAsk(BaseModel):
    """A hole as somebody set it: its middle on the outside of the figure at its size, its way in, and its width, all in the file's frame."""

    x_mm: float = Field(ge=-2000, le=2000)
    y_mm: float = Field(ge=-2000, le=2000)
    z_mm: float = Field(ge=-2000, le=2000)
    axis: Place
    diameter_mm: float = Field(ge=0.3, le=20)
    wall_mm: float = Field(default=0.0, ge=0, le=2000)


class HollowAsk(BaseModel):
    """A wall, struts and holes of one's own; `holes` null for the suggested ones. A wall of 0: the cavities that the figure came with."""

    wall_mm: float = Field(ge=0, le=20)
    lattice_mm: float | None = Field(default=None, ge=1, le=100)
    holes: list[HoleAsk] | None = Field(default=None, max_length=64)


class WallsAsk(BaseModel):
    """Perimeters, thickness of roofs and share of infill of one's own."""

    perimeters: int = Field(ge=1, le=50)
    roof_mm: float = Field(ge=0, le=20)
    infill: float = Field(ge=0, le=1)


class EditAsk(BaseModel):
    """A tip to put or to take away, or its foot to be moved to the plate below `to`, or what all stand on, at places of the figure at its size, in its file's frame."""

    op: Literal["add", "remove", "foot", "raft"]
    at: Place = (0.0, 0.0, 0.0)
    to: Place | None = None
    raft: Literal["full", "feet", "none"] | None = None

    @model_validator(mode="after")
    def _goes_somewhere(self) -> Self:
        if (self.op == "foot") != (self.to is not None):
            raise ValueError("a foot that is moved wants `to`, and nothing else does")
        if self.op != "raft" and "at" not in self.model_fields_set:
            raise ValueError("`at` is missing")
        if (self.op == "raft") != (self.raft is not None):
            raise ValueError("a raft that is chosen wants `raft`, and nothing else does")
        return self


class SupportsAsk(BaseModel):
    """A support set at a risk and in a style of one's own, with changes by hand in their order."""

    risk: float = Field(ge=0.0001, le=0.5)
    style: Literal["pillars", "trees", "mixed", "blocks", "came"]
    edits: list[EditAsk] = Field(default_factory=list, max_length=400)


class SetAsk(BaseModel):
    """A support set by its risk, style and changes so far."""

    risk: float = Field(ge=0.0001, le=0.5)
    style: Literal["pillars", "trees", "mixed", "blocks", "came"]
    edits: list[EditAsk] = Field(default_factory=list, max_length=400)


class RiskAsk(BaseModel):
    """An accepted risk a tip."""

    risk: float = Field(ge=0.0001, le=0.5)


class WhatIfAsk(SetAsk):
    """Tips of a set by their number that would go, and places in the build where one would be put."""

    gone: list[int] = Field(default_factory=list, max_length=4000)
    put: list[Place] = Field(default_factory=list, max_length=400)


class ProfileAsk(BaseModel):
    """A place on the figure in its own frame at its size, mm, and heights to draw it at."""

    at: Place
    heights: list[Annotated[float, Field(gt=0, le=2)]] = Field(min_length=1, max_length=6)


class HolesAsk(BaseModel):
    """Holes to be judged, and positions to hold the figure in, one after the other; none for the best one."""

    wall_mm: float = Field(ge=0, le=20)
    lattice_mm: float | None = Field(default=None, ge=1, le=100)
    holes: list[HoleAsk] = Field(max_length=64)
    turns: list[Place] = Field(default_factory=list, max_length=8)


class Wishes(BaseModel):
    """What the user asks of poses: a wish, and directions of their own (in the file's frame, pointing down); of a hollow figure, of walls, or of supports."""

    wish: PoseWish | None = None
    pinned: list[Place] = Field(default_factory=list, max_length=4)
    own: HollowAsk | WallsAsk | SupportsAsk | None = None
    plugs: bool | None = None
    """Drain holes are countersunk, and plugs are among the files."""


class Choice(BaseModel):
    """What a decision holds, by fold: the fields of other folds are null."""

    sha: str | None = None
    preview_sha: str | None = None
    factor: float | None = None
    height_mm: float | None = None
    printer_id: int | None = None
    material_id: int | None = None
    printer: str | None = None
    material: str | None = None
    process: Literal["resin", "filament"] | None = None
    mesh: str | None = None
    up: Place | None = None
    front: Place | None = None
    perimeters: int | None = None
    roof_mm: float | None = None
    infill: float | None = None
    eye_z: float | None = None
    crown_z: float | None = None
    strokes: list[Strokes] | None = None
    kinds: list[str] | None = None
    bare: bool | None = None
    wish: PoseWish | None = None
    down: Place | None = None
    plinth: float | None = None
    option: int | None = None
    recommended: bool | None = None
    wishes: Wishes | None = None
    wall: float | None = None
    lattice: float | None = None
    holes: list[HoleAsk] | None = None
    risk: float | None = None
    edits: list[EditAsk] | None = None
    style: str | None = None
    tips: int | None = None
    layer_height_mm: float | None = None
    layers: int | None = None
    islands: int | None = None
    hazards: int | None = None


class FoldState(BaseModel):
    """One fold of the band. `said`: its choice in a few words; `key`: of what its decision would rest on today."""

    name: str
    title: str
    question: str
    state: Literal["open", "settled", "stale"]
    ready: bool
    choice: Choice | None
    said: str | None = None
    reason: str | None = None
    numbers: Numbers | None = None
    key: str | None = None


class Thinned(BaseModel):
    """A thinner copy: triangles that came in, and how far the surface moved."""

    before: float
    deviation: float
    usual: float


class PlanState(BaseModel):
    """A plan as it stands: folds, the running figures and their change since the decision before."""

    id: int
    number: int
    head: int | None
    figure_id: int
    figure_name: str
    file_name: str
    triangles: int
    preview_sha: str | None
    unit: str | None
    kit_id: int | None
    thinned: Thinned | None = None
    folds: list[FoldState]
    numbers: Numbers | None
    before: Numbers | None
    can_undo: str | None
    can_redo: str | None
    next_fold: str | None = None


class Computation(BaseModel, Generic[T]):
    """A document at hand, the job that will bring it, or why the last one failed; none of these where nobody has asked for it yet."""

    key: str
    document: T | None = None
    job_id: int | None = None
    problem: Refusal | None = None


class JobState(BaseModel):
    """A job as it stands."""

    id: int
    kind: str
    title: str
    figure_id: int | None
    state: Literal["waiting", "running", "done", "failed", "cancelled"]
    share: float
    doing: str
    problem: Refusal | None


class Seen(BaseModel):
    """The head that the page has seen."""

    head: Head


class SizeChoice(Seen):
    """Height in mm along the figure's own up, or a factor by which the file's numbers become mm; printer and material.

    `up`: a direction of the file's frame, the guess where there is none; `front`: where it faces. `eye_z` and `crown_z` are heights along `up` in
    the file's numbers.
    """

    height_mm: float | None = Field(None, gt=0.5, le=2000)
    factor: float | None = Field(None, gt=1e-6, le=1e6)
    mesh: Way = "ready"
    up: Place | None = None
    front: Place | None = None
    eye_z: float | None = Field(None, ge=-1e7, le=1e7)
    crown_z: float | None = Field(None, ge=-1e7, le=1e7)
    printer_id: Id
    material_id: Id
    reason: Reason = ""


class PointedAt(BaseModel):
    """The way a face looks that was pointed at as the figure's foot, in its file's frame."""

    down: Place


class Stand(BaseModel):
    """Which way the figure stands and faces, in its file's frame, and its height then, in the file's numbers."""

    up: Place
    front: Place
    height: float


class Direction(BaseModel):
    """One direction to weigh, as `Wishes.pinned`; with the wish that its cost is told by."""

    down: Place
    wish: PoseWish | None = None


class Weighed(BaseModel):
    """A direction and its aims, the turn that brings it to the plate (column-major 4 x 4 from the file's frame), and what it costs beside the
    recommended one.
    """

    down: Place
    aims: dict[str, float]
    matrix: list[float]
    worth: WorthDoc
    why: list[str]
    fits: bool


class Ranked(BaseModel):
    """What the search says of a wish at once: the candidates' directions and aims, the directions no other beats, each one's merit in coins, and the
    hard wishes that no direction meets.
    """

    candidates: list[Weighed]
    recommended: int
    front: list[int]
    merit: list[float]
    wish: WishDoc
    unmet: list[str]


class MarksChoice(Seen):
    """Strokes in the file's frame (see `core.marks`), and the wish that poses are ranked by until the board says otherwise.

    `bare`: what the figure says of itself does not count.
    """

    strokes: list[Strokes] = Field(max_length=5000)
    bare: bool = False
    wish: PoseWish | None = None
    reason: Reason = ""


class OptionChoice(Seen):
    """An alternative of the board that the page shows, by its index and the board's key; the server takes the numbers from its own result."""

    key: str = Field(pattern=r"^[0-9a-f]{64}$")
    option: int = Field(ge=0, lt=64)
    wishes: Wishes | None = None
    reason: Reason = ""


class NewName(BaseModel):
    """Another name for a figure."""

    name: Name
