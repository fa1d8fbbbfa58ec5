"""What goes over the wire besides the core's own documents."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Generic, Literal, TypeVar

from pydantic import BaseModel, Field, SerializeAsAny

from ..core.contract import (
    Ask,
    Asks,
    Choice,
    Choices,
    EditAsk,
    HoleAsk,
    Numbers,
    Place,
    Refusal,
    Risk,
    StrokeDoc,
    Style,
    Way,
    WishAsk,
    WishDoc,
    WorthDoc,
)
from ..core.contract.asks import MOST_EDITS
from ..core.contract.parting import PegDoc
from ..core.names import Name
from ..core.supports import MAX_TIPS

T = TypeVar("T")
Id = Annotated[int, Field(ge=1, le=2**32 - 1)]
Head = Annotated[
    int | None, Field(description="The decision at the plan's head as the page has seen it; null where there was none.")
]
Reason = Annotated[str, Field(max_length=500)]


class FoldInfo(BaseModel):
    """A fold as the page names it; `free`: it may stay open, of figures below `from_mm` it is passed over; `process`:
    the only one that it is for.
    """

    name: str
    title: str
    question: str
    free: bool = False
    from_mm: float = 0.0
    process: str | None = None


class FigureRow(BaseModel):
    """A figure on the bench: where its plan stands, the newest that was proved or else the newest of `plans`, or why it
    could not be examined.
    """

    id: int
    name: str
    file_name: str
    triangles: int
    kit_id: int | None = None
    kit_name: str | None = None
    created_at: datetime
    plan_id: int | None = None
    plans: int = 1
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


ByHand = Literal["nothing", "dry-fitted", "painted"]
PartState = Literal[
    "to plan", "planned", "on a plate", "printing", "failed", "printed", "mended", "dry-fitted", "painted"
]


class KitPart(BaseModel):
    """A part of a kit: where its plan stands, its preview, in place where the file places it, how far it has come, how
    many of it are wanted and how many there are, and on which machine.
    """

    figure_id: int
    plan_id: int
    name: str
    triangles: int
    preview_sha: str | None
    next: FoldInfo | None
    state: PartState
    wanted: int
    whole: int
    failed: int
    by_hand: ByHand
    process: str | None
    up: Place | None


class PartAsk(BaseModel):
    """How many of a part are wanted, and what was done with it by hand."""

    wanted: int = Field(ge=1, le=1000)
    by_hand: ByHand


class JointRow(BaseModel):
    """A joint of a kit that was cut: between which parts, its area, seam and minutes, and its peg."""

    names: tuple[str, str]
    area_mm2: float
    seam_mm: float
    seen: float
    minutes: float
    peg: PegDoc | None
    pegless: str | None


class WayTaken(BaseModel):
    """A figure in one piece, or its kit with its joints: minutes by hand, hours of machines one after another, coins at
    the usual rates, the chance that all of it comes out whole at the first print; how many of its plans are not
    supported yet, so that nothing of them is in it.
    """

    hands_min: float
    machine_h: float
    coins: float
    whole: float
    open: int


class Kit(BaseModel):
    """Parts that belong together and share one scale factor; joints and both ways where it was cut out of a figure."""

    id: int
    name: str
    placed: bool
    parts: list[KitPart]
    cut_of: int | None = None
    joints: list[JointRow] = Field(default_factory=list)
    ways: tuple[WayTaken, WayTaken] | None = None


class Fit(BaseModel):
    """The largest factor at which a figure fits a printer in some pose, and the layer that the printer starts from."""

    printer_id: int
    factor: float
    layer_mm: float


class SetAsk(BaseModel):
    """A support set by its risk, style and changes so far."""

    risk: Risk
    style: Style
    edits: list[EditAsk] = Field(default_factory=list, max_length=MOST_EDITS)


class RiskAsk(BaseModel):
    """An accepted risk a tip."""

    risk: Risk


class WhatIfAsk(SetAsk):
    """Tips of a set by their number that would go, and places in the build where one would be put."""

    gone: list[int] = Field(default_factory=list, max_length=MAX_TIPS)
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


class FoldState(BaseModel):
    """One fold of the band. `said`: its choice in a few words; `asked`: what is asked of its board where nothing else
    is said; `key`: of what its decision would rest on today; `waits`: the fold that keeps it from being ready; `next`:
    the one that follows its decision.
    """

    name: str
    title: str
    question: str
    state: Literal["open", "settled", "stale"]
    ready: bool
    choice: Choices | SerializeAsAny[Choice] | None
    asked: Asks | SerializeAsAny[Ask] | None = None
    waits: str | None = None
    next: str | None = None
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
    """A document at hand, the job that will bring it with what is known of it so far, or why the last one failed; none
    of these where nobody has asked for it yet.
    """

    key: str
    document: T | None = None
    draft: T | None = None
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


class SizeDecision(Seen):
    """Height in mm along the figure's own up, or a factor by which the file's numbers become mm; printer and material.

    `up`: a direction of the file's frame, the guess where there is none; `front`: where it faces. `eye_z` and `crown_z`
        are heights along `up` in the file's numbers.
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
    """One direction to weigh, as `PoseAsk.pinned`; with the wish that its cost is told by."""

    down: Place
    wish: WishAsk | None = None


class Weighed(BaseModel):
    """A direction and its aims, the turn that brings it to the plate (column-major 4 x 4 from the file's frame), and
    what it costs beside the recommended one.
    """

    down: Place
    aims: dict[str, float]
    matrix: list[float]
    worth: WorthDoc
    why: list[str]
    fits: bool


class Ranked(BaseModel):
    """What the search says of a wish at once: the candidates' directions and aims, the directions no other beats, each
    one's merit in coins, and the hard wishes that no direction meets.
    """

    candidates: list[Weighed]
    recommended: int
    front: list[int]
    merit: list[float]
    wish: WishDoc
    unmet: list[str]


class MarksDecision(Seen):
    """Strokes in the file's frame (see `core.marks`), and the wish that poses are ranked by until the board says
    otherwise.

    `bare`: what the figure says of itself does not count; `faceless`: what is taken for a face is none.
    """

    strokes: list[StrokeDoc] = Field(max_length=5000)
    bare: bool = False
    faceless: bool = False
    wish: WishAsk | None = None
    reason: Reason = ""


class OptionDecision(Seen):
    """An alternative of the board that the page shows, by its index and the board's key, and what was asked of that
    board; where nothing is said of it, what was asked before. The server takes the numbers from its own result.
    """

    key: str = Field(pattern=r"^[0-9a-f]{64}$")
    option: int = Field(ge=0, lt=64)
    wishes: Asks | dict[str, Any] | None = None
    reason: Reason = ""


class NewName(BaseModel):
    """Another name for a figure."""

    name: Name
