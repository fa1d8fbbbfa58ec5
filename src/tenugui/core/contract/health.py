"""`tenugui/health@1`, and what a repair did."""

from __future__ import annotations

from dataclasses import asdict
from typing import Literal

from pydantic import Field

from ..mesh import Health, Mesh, measure
from ..repair import Repair, Step, solid_volume
from .base import Document, Finding

Unit = Literal["mm", "cm", "m", "in"]


class BasicsDoc(Document):
    """A mesh's basics. `volume_mm3` counts overlapping shells once."""

    triangles: int
    vertices: int
    watertight: bool
    shells: int
    size_mm: tuple[float, float, float]
    volume_mm3: float
    area_mm2: float


class StepDoc(Document):
    """One step of a repair; `volume_mm3` is the change, null where the surface was open before or after."""

    code: str
    message: str
    added: int
    removed: int
    volume_mm3: float | None
    deviation_mm: float


class RepairDoc(BasicsDoc):
    """What a repair did, step by step, and the figure's basics after it."""

    steps: list[StepDoc]
    faces_new: int
    open_left: int


class HealthDoc(BasicsDoc):
    """What the file holds and what is wrong with it."""

    schema_: Literal["tenugui/health@1"] = Field("tenugui/health@1", alias="schema")
    unit_guess: Unit
    up_guess: tuple[float, float, float]
    findings: list[Finding]
    repaired: RepairDoc | None = None


def basics_of(mesh: Mesh) -> BasicsDoc:
    """Measure a mesh."""
    return BasicsDoc(**(asdict(measure(mesh)) | {"volume_mm3": solid_volume(mesh)}))


def steps_of(steps: list[Step]) -> list[StepDoc]:
    """Steps as documents."""
    return [StepDoc(**asdict(step)) for step in steps]


def health_document(
    mesh: Mesh, health: Health, up_guess: tuple[float, float, float], repaired: RepairDoc | None = None
) -> HealthDoc:
    """The examination of a mesh as it came, and what is taken for its up."""
    findings = [Finding(**asdict(f)) for f in health.findings]
    return HealthDoc(
        **basics_of(mesh).model_dump(),
        unit_guess=health.unit_guess,  # type: ignore[arg-type]
        up_guess=up_guess,
        findings=findings,
        repaired=repaired,
    )


def repair_document(done: Repair) -> RepairDoc:
    """What a repair did."""
    return RepairDoc(
        **basics_of(done.mesh).model_dump(),
        steps=steps_of(done.steps),
        faces_new=int(done.new.sum()),
        open_left=done.open_left,
    )
