"""What a decision holds, by fold: frozen models, told apart by the fold's name. Fields that an older version kept
besides are let go.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import ConfigDict, Field

from .asks import EditAsk, HoleAsk, HollowAsk, PoseAsk, SupportsAsk, WallsAsk, WishAsk
from .base import Document, Place, Sha

Process = str


class Choice(Document):
    """A choice; `fold` says of which."""

    model_config = ConfigDict(extra="ignore")


class SizeChoice(Choice):
    """Which copy of the figure is worked on, how large, which way up and facing where, on which machine in which
    material.
    """

    fold: Literal["size"] = "size"
    sha: str
    factor: float
    height_mm: float
    printer_id: int
    material_id: int
    printer: str = ""
    material: str = ""
    process: Process | None = None
    preview_sha: str | None = None
    mesh: str = "ready"
    up: Place = (0.0, 0.0, 1.0)
    front: Place | None = None
    eye_z: float | None = None
    crown_z: float | None = None


class StrokeDoc(Document):
    """One deed of marking (see `core.marks.Stroke`)."""

    tool: Literal["brush", "fill", "flat", "propose", "file", "clear"]
    kind: Literal["show", "hidden", "fit", "keep_out", "hold", "none"] = "none"
    points: list[Place] | None = Field(None, max_length=4000)
    radius: float | None = None
    crease: float | None = None
    what: str | None = Field(None, max_length=64)
    mirror: bool | None = None


class MarksChoice(Choice):
    """Strokes in the file's frame; `bare`: what the figure says of itself does not count; `faceless`: what is taken for
    a face is none; `wish`: what poses are ranked by until their board says otherwise.
    """

    fold: Literal["marks"] = "marks"
    strokes: list[StrokeDoc] = Field(default_factory=list)
    kinds: list[str] = Field(default_factory=list)
    bare: bool = False
    faceless: bool = False
    wish: WishAsk | None = None


class BoardChoice(Choice):
    """An alternative of a board, by its index when it was taken."""

    option: int = 0


class PoseChoice(BoardChoice):
    """The direction that points at the plate, in the file's frame; a plinth's side in mm where it stands on one."""

    fold: Literal["pose"] = "pose"
    down: Place
    plinth: float | None = None
    recommended: bool = False
    wishes: PoseAsk | None = None


class HollowChoice(BoardChoice):
    """Wall and struts in mm, and holes as they are cut; a wall of None is solid, of 0 as it came, below 0 filled."""

    fold: Literal["hollow"] = "hollow"
    wall: float | None = None
    lattice: float | None = None
    holes: list[HoleAsk] = Field(default_factory=list)
    preview_sha: Sha | None = None
    wishes: HollowAsk | None = None


class WallsChoice(BoardChoice):
    """What the machine is set to for its walls."""

    fold: Literal["walls"] = "walls"
    perimeters: int
    roof_mm: float
    infill: float
    wishes: WallsAsk | None = None


class SupportsChoice(BoardChoice):
    """A support set by its risk, style and changes by hand; how many tips it came to."""

    fold: Literal["supports"] = "supports"
    risk: float
    style: str
    tips: int = 0
    edits: list[EditAsk] = Field(default_factory=list)
    wishes: SupportsAsk | None = None


class BandsTaken(Document):
    """Bands by the step that is accepted, and their thickest layer, mm."""

    limit_mm: float
    most_mm: float


class LayersChoice(BoardChoice):
    """A layer height and how many there are, or bands over it."""

    fold: Literal["layers"] = "layers"
    layer_height_mm: float
    layers: int = 0
    bands: BandsTaken | None = None


class ProofChoice(BoardChoice):
    """What was proved."""

    fold: Literal["proof"] = "proof"
    islands: int = 0
    hazards: int = 0
    layer_height_mm: float = 0.0


Choices = Annotated[
    SizeChoice | MarksChoice | PoseChoice | HollowChoice | WallsChoice | SupportsChoice | LayersChoice | ProofChoice,
    Field(discriminator="fold"),
]
