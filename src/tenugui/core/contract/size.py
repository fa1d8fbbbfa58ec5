"""Documents of the fold Size and of Marks: what came in, mended copies, thin parts, proposals."""

from __future__ import annotations

from dataclasses import asdict
from typing import Literal

from ..machines import Weak
from ..marks import Plane
from ..mesh import Mesh, fits, flat_faces
from ..repair import Props
from .base import Document, Finding, Place, Refusal, Sha
from .health import HealthDoc, RepairDoc, StepDoc
from .hollow import ShellDoc
from .look import FaceDoc

Way = Literal["ready", "whole", "original", "united", "remeshed", "bare", "floored", "filled"]
"""Which copy of a figure is worked on. `ready`: mended where it is broken, specks left out; `whole`: mended, specks
kept; `original`: as it came; `floored`, `filled`: an open shell closed with a floor, or made solid.
"""


class FitDoc(Document):
    """A peg or a socket."""

    kind: Literal["peg", "socket"]
    reach: float
    place: Place
    faces: int


class CutDoc(Document):
    """A flat cut face and the fits on it."""

    area: float
    normal: Place
    place: Place
    faces: int
    fits: list[FitDoc]


class PropsDoc(Document):
    """Supports that a figure came with."""

    count: int
    raft: bool
    told_by: str


class ReadyDoc(Document):
    """What every fold works on. `sha` null: the file's own mesh; `refused`: why it cannot be worked on as it is."""

    sha: Sha | None
    size_mm: Place
    lower: Place
    volume_mm3: float
    watertight: bool
    steps: list[StepDoc]
    specks: int
    refused: Refusal | None = None


class UpDoc(Document):
    """A direction of the file's frame that may be the figure's up, its height along it in the file's numbers, where it
    faces then, and what speaks for it.
    """

    up: Place
    height: float
    front: Place
    why: str


class UprightDoc(Document):
    """What may be up, the likeliest first, and whether the first is clearly so."""

    ups: list[UpDoc]
    sure: bool


class IntakeDoc(Document):
    """What came in: health of the file, the mesh to work on, the preview the page turns, pictures, and what it brought
    with it; `shell`: what it is where it is an open one, its wall in the file's units.
    """

    health: HealthDoc
    ready: ReadyDoc
    upright: UprightDoc
    preview_sha: Sha
    picture_sha: Sha
    silhouette_sha: Sha
    props: PropsDoc | None
    cuts: list[CutDoc]
    hull: list[Place]
    shell: ShellDoc | None


class SectionsDoc(Document):
    """Section by height of a figure as it stands in its file, in the file's units."""

    layer_height_mm: float
    area_mm2: list[float]
    base: float


class MendDoc(Document):
    """Another copy of the figure, and what was changed."""

    upright: UprightDoc

    way: Way
    repair: RepairDoc
    before: SectionsDoc
    after: SectionsDoc
    findings: list[Finding]
    sha: Sha
    preview_sha: Sha
    changed_sha: Sha | None
    taken_sha: Sha | None
    lower: Place


class WeakPartDoc(Document):
    """A part thinner than its limit, in the file's frame at the printed size; `scale` would cure it."""

    x: float
    y: float
    z: float
    thickness: float
    extent: float
    width: float
    kind: Literal["rod", "sheet"]
    axis: Place
    limit: float
    scale: float
    remedies: list[str]


class WeakDoc(Document):
    """Parts too thin to survive, the limits, how many edges are sharper and come out rounded, the scale that cures
    all, and the thickness that the turntable dyes.
    """

    limits: dict[Literal["sheet", "rod"], float]
    parts: list[WeakPartDoc]
    edges: int = 0
    cure: float
    thickness_sha: Sha


class PlaneDoc(Document):
    """A mirror plane: normal · p = offset."""

    normal: Place
    offset: float
    error: float


class ProposalDoc(Document):
    """What might be marked: its share of the surface, and whether it counts softly by itself."""

    name: str
    kind: str
    share: float
    soft: bool


class ProposalsDoc(Document):
    """Proposals, a bit each in the labels of the preview's faces; the mirror; what the file itself marks; the faces
    that were found, where it faces, and how little people look at each of the preview's corners: 1 less its importance.
    """

    proposals: list[ProposalDoc]
    plane: PlaneDoc | None
    preview_sha: Sha
    labels_sha: Sha
    file_sha: Sha | None
    faces: list[FaceDoc]
    front: Place
    overlooked_sha: Sha


def triple(values: object) -> Place:
    """Three plain floats of an array."""
    x, y, z = (float(v) for v in values)  # type: ignore[attr-defined]
    return x, y, z


def cuts_of(mesh: Mesh) -> list[CutDoc]:
    """Flat cut faces, and the pegs and sockets on them."""
    rows = []
    for flat in flat_faces(mesh):
        cuts = [
            FitDoc(kind=f.kind, reach=f.reach, place=triple(f.centre), faces=len(f.faces)) for f in fits(mesh, flat)
        ]  # type: ignore[arg-type]
        rows.append(
            CutDoc(
                area=flat.area, normal=triple(flat.normal), place=triple(flat.centre), faces=len(flat.faces), fits=cuts
            )
        )
    return rows


def props_of(props: Props | None) -> PropsDoc | None:
    """Supports that came along."""
    return None if props is None else PropsDoc(count=props.count, raft=props.raft, told_by=props.told_by)


def plane_of(plane: Plane | None) -> PlaneDoc | None:
    """A mirror."""
    return None if plane is None else PlaneDoc(**asdict(plane))


def weak_of(weak: Weak) -> WeakPartDoc:
    """A weak part."""
    return WeakPartDoc(**asdict(weak.place), limit=weak.limit, scale=weak.scale, remedies=list(weak.remedies))
