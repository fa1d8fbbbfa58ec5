"""The figure laid on its side: what the ribbon at the bottom of every fold draws, by height."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..hazards import Hazard
from ..layers import Proof, is_slight
from ..machines import Context
from ..process import Use, process_of
from ..supports import Tip
from .base import Document

MOST = 600


class IslandMark(Document):
    """Something that starts in mid air, and until which layer it is alone."""

    layer: int
    until: int
    area_mm2: float
    x_mm: float
    y_mm: float


class SealedMark(Document):
    """Sealed space."""

    layer: int
    until: int
    volume_mm3: float


class HazardMark(Document):
    """A hazard's height."""

    code: str
    layer: int
    severity: str


class StripDoc(Document):
    """At most MOST columns from the plate up; each column is the largest of the layers it stands for, so that no peak
    is lost. `bands`: where each band ends in mm, and the height of its layers; none where all have one.
    """

    layer_height_mm: float
    layers: int
    layers_per_column: int
    area_mm2: list[float]
    sealed_mm2: list[float]
    overhang_mm2: list[float]
    pull_n: list[float]
    has_pull: bool
    clock_s: list[float]
    time_s: float
    tip_layers: list[int]
    islands: list[IslandMark]
    slight_islands: int
    sealed: list[SealedMark]
    hazards: list[HazardMark]
    bands: list[tuple[float, float]] = Field(default_factory=list)


def strip_document(
    proof: Proof, use: Use, hazards: Sequence[Hazard], tips: Sequence[Tip], context: Context
) -> StripDoc:
    """The ribbon of a proved figure."""
    grid = proof.stack.grid
    width = max(1, -(-grid.layers // MOST))
    process = process_of(context.printer)

    def columns(values: NDArray[np.float64]) -> list[float]:
        padded = np.pad(values, (0, -len(values) % width))
        return [round(v, 4) for v in padded.reshape(-1, width).max(axis=1).tolist()]

    lasting = [i for i in proof.islands if not is_slight(i, grid.height)]
    return StripDoc(
        layer_height_mm=grid.height,
        layers=grid.layers,
        layers_per_column=width,
        area_mm2=columns(proof.areas),
        sealed_mm2=columns(proof.voids.sealed_area),
        overhang_mm2=columns(proof.hang.by_layer),
        pull_n=columns(process.pull(proof, context)),
        has_pull=process.pulls,
        clock_s=columns(use.clock_s),
        time_s=use.time_s,
        tip_layers=sorted(int(t.z / grid.height) for t in tips),
        islands=[IslandMark(layer=i.layer, until=i.until_layer, area_mm2=i.area, x_mm=i.x, y_mm=i.y) for i in lasting],
        slight_islands=len(proof.islands) - len(lasting),
        sealed=[
            SealedMark(layer=s.first_layer, until=s.last_layer + 1, volume_mm3=s.volume) for s in proof.voids.sealed
        ],
        hazards=[HazardMark(code=h.code, layer=h.layer, severity=h.severity) for h in hazards],
    )
