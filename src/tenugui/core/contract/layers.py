"""`tenugui/layers@1`, and the boards of Layers and Proof."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ..choice import HeightChoice, Heights
from ..process import Basis
from .base import Document, Sha
from .proof import ProofDoc
from .removal import RemovalDoc
from .supports import SupportsRow


class CuspDoc(Document):
    """Heights of steps in mm on the figure's slopes, by area."""

    median: float
    p95: float
    max: float


class HeightDoc(Document):
    """One layer height."""

    layer_height_mm: float
    layers: int
    time_s: float
    material_g: float
    material_ml: float
    cost: float
    cusp_mm: CuspDoc
    step_kind: Literal["full", "half", "micro", "none"]
    rounding_mm: float
    risk: float
    blemishes: float
    time_is: Basis


class LayersDoc(Document):
    """Layer heights side by side, finest first."""

    schema_: Literal["tenugui/layers@1"] = Field("tenugui/layers@1", alias="schema")
    choices: list[HeightDoc]
    recommended: int
    why: str


class LayersRow(Document):
    """A height, and the figure held and proved at it."""

    height: HeightDoc
    held: SupportsRow


class LayersBoard(Document):
    """The fold Layers."""

    choices: list[LayersRow]
    recommended: int
    why: str


class FilesDoc(Document):
    """What can be taken away, and the picture of the run sheet."""

    stl: Sha
    package: Sha
    sheet_sha: Sha


class ProofBoard(Document):
    """The fold Proof: the plan as it stands, proved, with its files."""

    proof: ProofDoc
    held: SupportsRow
    files: FilesDoc
    removal: RemovalDoc


def height_of(c: HeightChoice) -> HeightDoc:
    """A height."""
    return HeightDoc(
        layer_height_mm=c.height,
        layers=c.layers,
        time_s=c.time_s,
        material_g=c.mass_g,
        material_ml=c.volume_ml,
        cost=c.cost,
        cusp_mm=CuspDoc(median=c.cusp[0], p95=c.cusp[1], max=c.cusp[2]),
        step_kind=c.step_kind,  # type: ignore[arg-type]
        rounding_mm=c.rounding,
        risk=c.risk,
        blemishes=c.blemishes,
        time_is=c.basis,
    )


def layers_document(heights: Heights) -> LayersDoc:
    """The headless document."""
    return LayersDoc(choices=[height_of(c) for c in heights.choices], recommended=heights.recommended, why=heights.why)
