"""`tenugui/proof@1`: every layer read."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Literal

from pydantic import Field

from ..hazards import Arises, Hazard, Loss, Part, combined, kinds
from ..layers import Island, Proof
from ..machines import Context, by_depth, peels
from ..process import Basis, Use
from ..vat import Peak, peaks
from .base import Document
from .health import BasicsDoc
from .pull import PeakDoc, peak_of


class IslandDoc(Document):
    """Something that starts in mid air; layers null for never."""

    layer: int
    z_mm: float
    x_mm: float
    y_mm: float
    area_mm2: float
    merge_layer: int | None
    joins_layer: int | None
    ground_layer: int | None


class SealedDoc(Document):
    """A cup."""

    first_layer: int
    last_layer: int
    peak_area_mm2: float
    volume_mm3: float
    x_mm: float
    y_mm: float


class TrappedDoc(Document):
    """Space with no way out."""

    volume_mm3: float
    z_mm: tuple[float, float]


class HazardDoc(Document):
    """One line of the ledger. How its chance arises is in `given`, `safety`, `margins`, `tried` and `part`
    (`core.hazards.Arises`).
    """

    code: str
    severity: Literal["severe", "warning", "notice"]
    layer: int
    x_mm: float
    y_mm: float
    z_mm: float
    message: str
    remedy: str
    chance: float
    chance_is: Literal["prior"] = "prior"
    loss: Loss
    has: float
    needs: float
    unit: str
    given: float | None = None
    safety: float = 1.0
    margins: list[float] = Field(default_factory=list)
    tried: float = 1.0
    part: Part = ""
    scatter: float = 1.0
    times: float = 1.0

    @property
    def by_margin(self) -> bool:
        """Whether its chance is that of a margin."""
        return self.given is None


class MaterialDoc(Document):
    """Material in all, with waste."""

    volume_ml: float
    mass_g: float
    cost: float


class LayersOf(Document):
    """The stack that was read."""

    height_mm: float
    count: int
    pitch_mm: float


class ProofDoc(Document):
    """Islands, cups, trapped liquid, overhang, time, material, and the ledger; `peaks`: the layers that pull hardest
    where layers are peeled.
    """

    schema_: Literal["tenugui/proof@1"] = Field("tenugui/proof@1", alias="schema")
    model: BasicsDoc
    printer: str
    material_name: str
    layers: LayersOf
    islands: list[IslandDoc]
    sealed: list[SealedDoc]
    trapped: list[TrappedDoc]
    peaks: list[PeakDoc]
    overhang_area_mm2: float
    volume_mm3: float
    time_s: float
    time_is: Basis
    material: MaterialDoc
    risk: float
    risk_is: Literal["prior"] = "prior"
    hazards: list[HazardDoc]


def island_of(i: Island) -> IslandDoc:
    """An island."""
    return IslandDoc(
        layer=i.layer,
        z_mm=i.z,
        x_mm=i.x,
        y_mm=i.y,
        area_mm2=i.area,
        merge_layer=i.merge_layer,
        joins_layer=i.joins_layer,
        ground_layer=i.ground_layer,
    )


def hazard_of(h: Hazard) -> HazardDoc:
    """A hazard."""
    x, y, z = h.place
    return HazardDoc(
        code=h.code,
        severity=h.severity,
        layer=h.layer,
        x_mm=x,
        y_mm=y,
        z_mm=z,
        message=h.message,
        remedy=h.remedy,
        chance=h.chance,
        loss=h.loss,
        has=h.has,
        needs=h.needs,
        unit=h.unit,
        given=h.arises.given,
        safety=h.arises.safety,
        margins=list(h.arises.margins),
        tried=h.arises.tried,
        part=h.part,
        scatter=h.scatter,
        times=h.times,
    )


def hazard_from(d: HazardDoc) -> Hazard:
    """The inverse of `hazard_of`."""
    arises = Arises(d.given, d.safety, tuple(d.margins), d.tried, d.part)
    place = (d.x_mm, d.y_mm, d.z_mm)
    bare = Hazard(kinds()[d.code], d.layer, place, d.has, d.needs, d.unit, d.message, d.remedy, d.loss, arises)
    hazard = bare.on(d.scatter, d.times)
    return replace(hazard, quiet=hazard.severity != d.severity)


def proof_document(
    model: BasicsDoc,
    proof: Proof,
    use: Use,
    *,
    hazards: Sequence[Hazard],
    context: Context,
    raft_mm: float = 0.0,
    risk: float | None = None,
) -> ProofDoc:
    """A proved figure; `model` are the basics of the figure alone, `raft_mm` the height of the raft that it stands on,
    `risk` what trial prints say (that of the hazards taken as independent where there are none).
    """
    grid = proof.stack.grid
    pulls: list[Peak] = []
    if peels(context.printer):
        depth = by_depth(context.material, grid.height)
        pulls = peaks(
            context.printer, proof.areas, proof.voids.sealed_area, height=grid.height, depth=depth, raft_mm=raft_mm
        )
    sealed = [
        SealedDoc(
            first_layer=s.first_layer,
            last_layer=s.last_layer,
            peak_area_mm2=s.peak_area,
            volume_mm3=s.volume,
            x_mm=s.x,
            y_mm=s.y,
        )
        for s in proof.voids.sealed
    ]
    return ProofDoc(
        model=model,
        printer=context.printer.name,
        material_name=context.material.name,
        layers=LayersOf(height_mm=grid.height, count=grid.layers, pitch_mm=grid.pitch),
        islands=[island_of(i) for i in proof.islands],
        sealed=sealed,
        trapped=[TrappedDoc(volume_mm3=t.volume, z_mm=(t.z_low, t.z_high)) for t in proof.voids.trapped],
        peaks=[peak_of(p, proof) for p in pulls],
        overhang_area_mm2=proof.hang.total,
        volume_mm3=proof.stack.volume(),
        time_s=use.time_s,
        time_is=use.basis,
        material=MaterialDoc(volume_ml=use.volume_ml, mass_g=use.mass_g, cost=use.cost),
        risk=combined(list(hazards)) if risk is None else risk,
        hazards=[hazard_of(h) for h in hazards],
    )
