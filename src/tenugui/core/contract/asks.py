"""What a person may ask of a fold's board, by fold. Nothing asked is the model's defaults; asked otherwise, it holds
until another is asked.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal, Self

from pydantic import ConfigDict, Field, field_validator, model_validator

from ..supports import LEAST_DENSITY, MOST_DENSITY, MOST_GAP_LAYERS, HandOp
from ..worth import USUAL_RATES
from .base import Document, Place

Risk = Annotated[float, Field(ge=0.0001, le=0.5)]
Style = Literal["pillars", "trees", "mixed", "blocks", "areas", "came"]


class Ask(Document):
    """What is asked of a board; `fold` says of whose."""

    model_config = ConfigDict(defer_build=False)  # a door takes any of them


class NoAsk(Ask):
    """A board of which nothing can be asked."""


class WishAsk(Document):
    """What a person wants of a pose: rates (a preset's name, or values over the first preset's), and hard wishes
    (`core.pose.Wish`).
    """

    rates: Annotated[str, Field(max_length=20)] | dict[str, float] | None = None
    """None for the first preset's, by whichever name it is said: the same wish is the same inputs."""
    hours: float | None = Field(None, gt=0, le=1000)
    clean: bool = False
    free: bool = False

    @field_validator("rates")
    @classmethod
    def _plainly(cls, rates: str | dict[str, float] | None) -> str | dict[str, float] | None:
        return None if rates == USUAL_RATES else rates


class PoseAsk(Ask):
    """A wish, and directions of one's own (in the file's frame, pointing down)."""

    fold: Literal["pose"] = "pose"
    wish: WishAsk = WishAsk()
    pinned: list[Place] = Field(default_factory=list, max_length=4)


class HoleAsk(Document):
    """A hole as somebody set it: its middle on the outside of the figure at its size, its way in, and its width, all in
    the file's frame.
    """

    x_mm: float = Field(ge=-2000, le=2000)
    y_mm: float = Field(ge=-2000, le=2000)
    z_mm: float = Field(ge=-2000, le=2000)
    axis: Place
    diameter_mm: float = Field(ge=0.3, le=20)
    wall_mm: float = Field(default=0.0, ge=0, le=2000)


class OwnHollow(Document):
    """A wall, struts and holes of one's own; `holes` null for the suggested ones. A wall of 0: the cavities that the
    figure came with.
    """

    wall_mm: float = Field(ge=0, le=20)
    lattice_mm: float | None = Field(default=None, ge=1, le=100)
    holes: list[HoleAsk] | None = Field(default=None, max_length=64)


class HollowAsk(Ask):
    """A row of one's own; `plugs`: drain holes are countersunk, and plugs are among the files."""

    fold: Literal["hollow"] = "hollow"
    own: OwnHollow | None = None
    plugs: bool = False


class OwnWalls(Document):
    """Perimeters, thickness of roofs and share of infill of one's own."""

    perimeters: int = Field(ge=1, le=50)
    roof_mm: float = Field(ge=0, le=20)
    infill: float = Field(ge=0, le=1)


class WallsAsk(Ask):
    """A row of one's own."""

    fold: Literal["walls"] = "walls"
    own: OwnWalls | None = None


MOST_EDITS = 1_500
"""Changes by hand stand in an address, which may be no longer than the server's 64 kB: a tip that is taken away may be
said by its place alone.
"""


class EditAsk(Document):
    """A tip to put or to take away, or its foot to be moved to the plate below `to`, or what all stand on; or a region
    of tips to leave to itself, to carry on one body, to end so many layers short, or to draw at a density, a share of
    solid. At places of the figure at its size, in its file's frame. A place alone, `[x, y, z]`, takes a tip away.
    """

    op: HandOp
    at: Place = (0.0, 0.0, 0.0)
    to: Place | None = None
    raft: Literal["full", "feet", "none"] | None = None
    gap_layers: int | None = Field(default=None, ge=0, le=MOST_GAP_LAYERS)
    density: float | None = Field(default=None, ge=LEAST_DENSITY, le=MOST_DENSITY)

    @model_validator(mode="before")
    @classmethod
    def _a_place_alone(cls, given: Any) -> Any:
        return {"op": "remove", "at": given} if isinstance(given, list) else given

    @model_validator(mode="after")
    def _goes_somewhere(self) -> Self:
        if (self.op == "foot") != (self.to is not None):
            raise ValueError("a foot that is moved wants `to`, and nothing else does")
        if self.op != "raft" and "at" not in self.model_fields_set:
            raise ValueError("`at` is missing")
        if (self.op == "raft") != (self.raft is not None):
            raise ValueError("a raft that is chosen wants `raft`, and nothing else does")
        if (self.op == "gap") != (self.gap_layers is not None):
            raise ValueError("a gap that is chosen wants `gap_layers`, and nothing else does")
        if (self.op == "density") != (self.density is not None):
            raise ValueError("lines that are chosen want `density`, and nothing else does")
        return self


class OwnSupports(Document):
    """A support set at a risk and in a style of one's own, with changes by hand in their order."""

    risk: Risk
    style: Style
    edits: list[EditAsk] = Field(default_factory=list, max_length=MOST_EDITS)


class SupportsAsk(Ask):
    """A row of one's own; `may_break`: a person's word that tips may stand on what is marked to fit or to be
    kept free.
    """

    fold: Literal["supports"] = "supports"
    own: OwnSupports | None = None
    may_break: bool = False


Asks = Annotated[PoseAsk | HollowAsk | WallsAsk | SupportsAsk, Field(discriminator="fold")]
