"""`tenugui/hollow@1`: what was cut out of a figure, and how it runs empty."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ..hollow import Cavity, Hole, Hollowed, Opened
from .base import Document, Finding, Matrix, Numbers, Place, Refusal, Sha
from .pull import PullDoc
from .strip import StripDoc
from .worth import GiftDoc, WorthDoc


class HoleDoc(Document):
    """A round hole: its middle on the outside, its way in, its width, and the wall that it goes through."""

    x_mm: float
    y_mm: float
    z_mm: float
    axis: Place
    diameter_mm: float
    wall_mm: float


class CavityDoc(Document):
    """A cavity. `retained_ml`: what no path downhill leads out in the best position, `drip_down` (the direction to hold
    downwards); `clings_ml`: what surface tension holds back in its lowest hole; `drain_s`: until the rest is out, null
    where no air comes in; `wash_s` and `wash_clings_ml`: the same of the fluid that it is washed with.
    """

    volume_mm3: float
    min_wall_mm: float
    holes: list[HoleDoc]
    retained_ml: float
    clings_ml: float
    drain_s: float | None
    vented: bool
    drip_down: Place | None
    wash_s: float | None = None
    wash_clings_ml: float = 0.0


class HollowDoc(Document):
    """A figure hollowed to a wall: `hollow_volume_mm3` is what is left of it, holes cut."""

    schema_: Literal["tenugui/hollow@1"] = Field("tenugui/hollow@1", alias="schema")
    wall_mm: float
    solid_volume_mm3: float
    hollow_volume_mm3: float
    saved_ml: float
    cavities: list[CavityDoc]
    left_solid: int
    findings: list[Finding]


class HollowedDoc(Document):
    """What was cut out of a figure, kept for rows, holes that are moved, and the body that is printed; or why nothing
    can be.
    """

    sha: Sha | None
    wall_mm: float
    cavities: int
    left_solid: int
    refused: Refusal | None = None


class CreaseDoc(Document):
    """Where detail of the outside cuts in, in build coordinates: `deep_mm` deeper than the surface around it, so that
    the inside keeps clear of it there (`hollow`) or everything between stays solid; `taken_mm3` that would be hollow
    without it.
    """

    place: Place
    deep_mm: float
    taken_mm3: float
    hollow: bool


class HollowRow(Document):
    """An alternative: solid (`wall_mm` null), or hollow at a wall, with struts `lattice_mm` apart where it has them.
    `own` is what the person asked for.
    `wall_sha`: what is solid behind every corner of its preview, mm.
    """

    wall_mm: float | None
    lattice_mm: float | None
    own: bool
    hollow: HollowDoc | None
    holes: int
    retained_ml: float
    drain_s: float | None
    peak_pull_n: float
    pull: PullDoc | None = None
    creases: list[CreaseDoc]
    strip: StripDoc
    numbers: Numbers
    gift: GiftDoc
    worth: WorthDoc | None = None
    matrix: Matrix
    preview_sha: Sha | None
    wall_sha: Sha | None = None


class ShellDoc(Document):
    """It came as a shell of about `wall_mm` that opens at its foot, at its top or at a side."""

    wall_mm: float
    opens: Literal["foot", "top", "side"]


class HollowBoard(Document):
    """The fold Hollow. `usual_wall_mm`: what a figure of this size is usually given; `posed`: whether the pose is
    settled, or it was judged as it stands; `shell`: what it came as, where it is an open shell.
    """

    choices: list[HollowRow]
    recommended: int
    why: str
    usual_wall_mm: float
    posed: bool
    refused: Refusal | None
    layer_height_mm: float
    shell: ShellDoc | None = None


class TurnDoc(Document):
    """Hold it with `down` downwards (the figure's frame); ml that stay then."""

    down: Place
    left_ml: float


class LiquidDoc(Document):
    """A cut through a figure and its cavity held with `down` downwards. Outlines and cells in mm of the cut: x across,
    y against gravity.

    `stays`: cells (x, y) of width `cell_mm` that stay filled; `seconds` and `level_mm`: how the surface falls.
    """

    down: Place
    figure: list[list[tuple[float, float]]]
    cavity: list[list[tuple[float, float]]]
    stays: list[tuple[float, float]]
    cell_mm: float
    seconds: list[float]
    level_mm: list[float]
    retained_ml: float
    drain_s: float | None


class JudgedDoc(Document):
    """Holes as somebody set them: what each cavity does with them, the best order of turns of each, what all of them
    keep after the turns that were asked for, and a cut for the largest.
    """

    cavities: list[CavityDoc]
    turns: list[list[TurnDoc]]
    sequence: list[TurnDoc]
    findings: list[Finding]
    liquid: LiquidDoc | None


def hole_of(hole: Hole) -> HoleDoc:
    """A hole as documents have it."""
    x, y, z = hole.point
    return HoleDoc(x_mm=x, y_mm=y, z_mm=z, axis=hole.axis, diameter_mm=hole.diameter, wall_mm=hole.length)


def hole_from(row: HoleDoc) -> Hole:
    """The inverse of `hole_of`."""
    return Hole((row.x_mm, row.y_mm, row.z_mm), row.axis, row.diameter_mm, row.wall_mm)


def cavity_of(cavity: Cavity, opened: Opened | None) -> CavityDoc:
    if opened is None or not opened.holes:
        return CavityDoc(
            volume_mm3=cavity.volume,
            min_wall_mm=cavity.min_wall,
            holes=[],
            retained_ml=cavity.volume / 1000,
            clings_ml=0.0,
            drain_s=None,
            vented=False,
            drip_down=None,
        )
    return CavityDoc(
        volume_mm3=cavity.volume,
        min_wall_mm=cavity.min_wall,
        holes=[hole_of(h) for h in opened.holes],
        retained_ml=opened.drips.retained / 1000,
        clings_ml=opened.drips.clings / 1000,
        drain_s=opened.drips.seconds,
        vented=opened.vented,
        drip_down=opened.gravity,
        wash_s=opened.washes.seconds,
        wash_clings_ml=opened.washes.clings / 1000,
    )


def hollow_document(
    hollowed: Hollowed, opened: list[Opened | None], left_mm3: float, findings: list[Finding]
) -> HollowDoc:
    """The document of a hollowed figure, of what is open of each cavity, and of the volume that is left of it
    in mm³.
    """
    return HollowDoc(
        wall_mm=hollowed.wall,
        solid_volume_mm3=hollowed.solid_volume,
        hollow_volume_mm3=left_mm3,
        saved_ml=(hollowed.solid_volume - left_mm3) / 1000,
        cavities=[cavity_of(c, o) for c, o in zip(hollowed.cavities, opened, strict=True)],
        left_solid=hollowed.left_solid,
        findings=findings,
    )
