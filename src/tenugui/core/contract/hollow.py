"""`tenugui/hollow@1`: what was cut out of a figure, and how it runs empty."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ..hollow import Cavity, Hole, Hollowed, Opened
from .base import Document, Finding, Place


class HoleDoc(Document):
    """A round hole: its middle on the outside, its way in, its width, and the wall that it goes through."""

    x_mm: float
    y_mm: float
    z_mm: float
    axis: Place
    diameter_mm: float
    wall_mm: float


class CavityDoc(Document):
    """A cavity. `retained_ml`: what no path downhill leads out in the best position, `drip_down` (the direction to hold downwards); `clings_ml`: what
    surface tension holds back in its lowest hole; `drain_s`: until the rest is out, null where no air comes in.
    """

    volume_mm3: float
    min_wall_mm: float
    holes: list[HoleDoc]
    retained_ml: float
    clings_ml: float
    drain_s: float | None
    vented: bool
    drip_down: Place | None


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


def _hole_doc(hole: Hole) -> HoleDoc:
    x, y, z = hole.point
    return HoleDoc(x_mm=x, y_mm=y, z_mm=z, axis=hole.axis, diameter_mm=hole.diameter, wall_mm=hole.length)


def _cavity_doc(cavity: Cavity, opened: Opened | None) -> CavityDoc:
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
        holes=[_hole_doc(h) for h in opened.holes],
        retained_ml=opened.drips.retained / 1000,
        clings_ml=opened.drips.clings / 1000,
        drain_s=opened.drips.seconds,
        vented=opened.vented,
        drip_down=opened.gravity,
    )


def hollow_document(made: Hollowed, opened: list[Opened | None], left_mm3: float, findings: list[Finding]) -> HollowDoc:
    """The document of a hollowed figure, of what is open of each cavity, and of the volume that is left of it in mm³."""
    return HollowDoc(
        wall_mm=made.wall,
        solid_volume_mm3=made.solid_volume,
        hollow_volume_mm3=left_mm3,
        saved_ml=(made.solid_volume - left_mm3) / 1000,
        cavities=[_cavity_doc(c, o) for c, o in zip(made.cavities, opened, strict=True)],
        left_solid=made.left_solid,
        findings=findings,
    )
