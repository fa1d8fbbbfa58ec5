"""The inputs of tasks: frozen models, so that one that is forgotten is an error of its type. As dicts they exist only
where a key is hashed and where a job waits.

Inputs of a later task hold those of the tasks that it rests on, so that they are handed on as they are (`to`).
"""

from __future__ import annotations

from typing import Any, TypeVar

from pydantic import BaseModel, ConfigDict

from ..contract import EditAsk, HoleAsk, OwnHollow, OwnSupports, OwnWalls, StrokeDoc, Way, WishAsk
from ..pose import Z_UP, Direction

G = TypeVar("G", bound="Given")
Spec = dict[str, Any]
"""A machine or a material as JSON, as it stands on the shelf: its process says which model it is."""
Priced = str | dict[str, float] | None
"""Rates by a preset's name or by value; None for the usual ones."""


class Given(BaseModel):
    """What a task is given. Nothing said is the default, and is no part of a key."""

    model_config = ConfigDict(defer_build=True, frozen=True, extra="forbid")

    def plain(self) -> dict[str, Any]:
        """As JSON, without what is not said."""
        return self.model_dump(mode="json", exclude_defaults=True)

    def to(self, kind: type[G], **more: Any) -> G:
        """The inputs of another task: those of the same name, and `more`.

        Raises:
            ValidationError: where it needs one that is in neither.
        """
        if type(self) is kind and not more:
            return self  # type: ignore[return-value]
        same = {name: getattr(self, name) for name in kind.model_fields if name in type(self).model_fields}
        return kind(**(same | more))

    @property
    def mesh(self) -> str | None:
        """The mesh that a result belongs to; None where it belongs to none alone."""
        return None


class MeshGiven(Given):
    """`sha`: the mesh on the shelf."""

    sha: str

    @property
    def mesh(self) -> str | None:
        """The mesh itself."""
        return self.sha


class OvernightGiven(MeshGiven):
    """`worked`: the mesh that is worked on; `machines`: a printer and a material each; `height`: in mm, None as its
    file has it.
    """

    worked: str
    machines: tuple[tuple[Spec, Spec], ...]
    height: float | None = None


class UpGiven(MeshGiven):
    """`up`: the direction of its frame in which it stands."""

    up: Direction = Z_UP


class FacedGiven(UpGiven):
    """`faceless`: a person's word that what is taken for a face is none."""

    faceless: bool = False


class LookGiven(FacedGiven):
    """`front`: where it faces, where somebody said so."""

    front: Direction | None = None


class MarkGiven(LookGiven):
    """`marks`: labels that its file gave; `marks_of`: the mesh that they belong to."""

    marks: str | None = None
    marks_of: str | None = None


class SizedGiven(MeshGiven):
    """`factor`: from its numbers to mm."""

    factor: float = 1.0


class ThinGiven(SizedGiven):
    """`widest`: the largest thickness that is asked for, mm."""

    widest: float


class WeakGiven(SizedGiven, UpGiven):
    """The figure at its size on its machine."""

    printer: Spec


class MendGiven(MeshGiven):
    """`way`: how it is mended."""

    way: Way


class HollowedGiven(SizedGiven):
    """`wall` in mm; `lattice`: the pitch of its struts, where it has any."""

    wall: float
    lattice: float | None = None


class Cut(Given):
    """How a body is hollow: its wall, struts and holes; `plugs`: holes are countersunk."""

    wall: float
    lattice: float | None = None
    holes: tuple[HoleAsk, ...] = ()
    plugs: bool = False


class BodyGiven(SizedGiven):
    """`hollow`: how it is cut."""

    hollow: Cut


class FigureGiven(SizedGiven, LookGiven):
    """The figure at its size on its machine, with its marks.

    `strokes`: marks by hand; `marks_of`: the mesh that a file's own marks belong to; `bare`: what the figure says of
    itself does not count.
    """

    printer: Spec
    material: Spec
    strokes: tuple[StrokeDoc, ...] = ()
    marks_of: str | None = None
    bare: bool = False


class BareGiven(FigureGiven):
    """`height` of a layer; `as_is`: at the height above the plate that its file gives it."""

    height: float
    as_is: bool = False


class HeightsGiven(FigureGiven):
    """`heights`: of layers that are compared."""

    heights: tuple[float, ...]
    rates: Priced = None


class PoseGiven(FigureGiven):
    """What is wished of a pose, ways that were pinned (in the file's frame), and how many are offered."""

    wish: WishAsk | None = None
    pinned: tuple[Direction, ...] = ()
    count: int = 4


class HollowGiven(FigureGiven):
    """`down`: the direction to the plate, where the pose is settled; `own`: a row of one's own."""

    down: Direction | None = None
    rates: Priced = None
    own: OwnHollow | None = None


class WayGiven(FigureGiven):
    """One alternative: solid where `wall` is None; `holes` None for the suggested ones; `asked`: by a person."""

    down: Direction | None = None
    wall: float | None = None
    lattice: float | None = None
    holes: tuple[HoleAsk, ...] | None = None
    asked: bool = False


class PosedGiven(FigureGiven):
    """The figure in its pose: `down` the direction to the plate, `plinth` the side of what it stands on, and how it is
    hollow, where it is.
    """

    down: Direction
    plinth: float = 0.0
    hollow: Cut | None = None


class WallsGiven(PosedGiven):
    """`own`: walls of one's own."""

    rates: Priced = None
    own: OwnWalls | None = None


class SupportsGiven(PosedGiven):
    """`came`: settings of the plan's own file that it came with; `own`: a set of one's own."""

    came: str | None = None
    rates: Priced = None
    own: OwnSupports | None = None


class SupportedGiven(PosedGiven):
    """`risk` that a tip may have, `style` of supports, changes by hand, and what it came with."""

    risk: float
    style: str = "pillars"
    edits: tuple[EditAsk, ...] = ()
    came: str | None = None


class LayersGiven(SupportedGiven):
    """What is weighed at the rates that its pose was weighed by."""

    rates: Priced = None


class HeldGiven(SupportedGiven):
    """`height` of a layer."""

    height: float


class TrialGiven(HeldGiven):
    """What is tried at the rates that its pose was weighed by."""

    rates: Priced = None


class BandedGiven(HeldGiven):
    """`bands`: the step within which layers may be thicker than the height, where they are in bands."""

    bands: float | None = None


class ProofGiven(BandedGiven, TrialGiven):
    """A plan that is settled: what all its files and its trial are made from."""


class OtherMachine(Given):
    """Another machine with a material of its own."""

    printer: Spec
    material: Spec


class OthersGiven(HeldGiven):
    """`machines`: those to compare with."""

    machines: tuple[OtherMachine, ...] = ()
