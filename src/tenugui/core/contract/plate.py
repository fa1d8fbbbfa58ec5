"""`tenugui/plate@1`: pieces on plates."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from ..plate import Piece, Plates
from .base import Document
from .on_plate import OnPlateDoc


class ProofOfPlan(BaseModel):
    """What a plate reads of a plan's proof."""

    model_config = ConfigDict(extra="ignore", allow_inf_nan=False)

    printer: str
    material_name: str
    time_s: float = Field(gt=0)
    risk: float = Field(ge=0, le=1)
    material: dict[str, float | None]
    hazards: list[dict[str, Any]]


class PlanOfPlate(BaseModel):
    """What a plate reads of a plan, as `plan` writes it."""

    model_config = ConfigDict(extra="ignore", allow_inf_nan=False)

    layer_height_mm: float = Field(gt=0)
    on_plate: OnPlateDoc
    proof: ProofOfPlan


def piece_of(name: str, plan: PlanOfPlate, copy: int, apart: str = "") -> Piece:
    """One copy of a plan; `apart`: what else it has to share with what lies on its plate."""
    whole = [float(h.get("chance", 0.0)) for h in plan.proof.hazards if h.get("code") == "mishap"]
    mishap = min(max(whole, default=0.0), plan.proof.risk)
    lost = 1 - (1 - plan.proof.risk) / (1 - mishap) if mishap < 1 else 1.0
    on, stuff = plan.on_plate, plan.proof.material
    return Piece(
        name, copy, on.footprint, on.tall_mm, plan.proof.time_s, on.start_s,
        float(stuff.get("volume_ml") or 0.0), float(stuff.get("mass_g") or 0.0),
        max(0.0, lost), mishap, tuple(on.pull_n), on.pull_step_mm,
        f"{plan.proof.material_name} {plan.layer_height_mm:g}{apart}", tuple(on.clock_s),
    )  # fmt: skip


class PlateItemDoc(Document):
    """A piece: its plan's own origin from the plate's front left corner, its turn, and its footprint there."""

    plan: str
    copy_: int = Field(alias="copy")
    x_mm: float
    y_mm: float
    turn_deg: float
    footprint: list[tuple[float, float]]
    more: list[list[tuple[float, float]]]


class EnoughDoc(Document):
    """Whether what the machine holds is enough; where nobody said how much there is, a prior (`vat_ml`) or unknown."""

    vat: bool
    stock: bool


class PlateDoc(Document):
    """A plate: what it takes, and what it risks; `good`: pieces that come off whole on average."""

    items: list[PlateItemDoc]
    time_s: float
    material_ml: float
    material_g: float
    peak_pull_n: float
    risk: float
    good: float
    enough: EnoughDoc


class LeftOutDoc(Document):
    """A piece that fits none."""

    plan: str
    why: str


class BatchDoc(Document):
    """So many at once, and expected hours a good piece."""

    batch: int
    hours_per_good_piece: float


class PlatesDoc(Document):
    """Plates in the order in which they fill; `batch`: how many of the first plan at once are best, by `curve`."""

    schema_: Literal["tenugui/plate@1"] = Field("tenugui/plate@1", alias="schema")
    plates: list[PlateDoc]
    unplaced: list[LeftOutDoc]
    hours_per_good_piece: float | None
    batch: int
    curve: list[BatchDoc]
    vat_ml: float | None


def plates_document(
    laid: Plates, curve: Sequence[tuple[int, float]], *, vat_ml: float | None, stock_g: float | None
) -> PlatesDoc:
    """As a document; what stock there is goes to the plates in their order."""
    plates, left = [], stock_g
    for plate in laid.plates:
        items = []
        for k, (piece, at) in enumerate(plate.items):
            outlines = sorted(plate.footprint(k), key=len, reverse=True)
            items.append(
                PlateItemDoc(
                    plan=piece.plan,
                    copy_=piece.copy,
                    x_mm=at.x_mm,
                    y_mm=at.y_mm,
                    turn_deg=at.turn_deg,
                    footprint=outlines[0],
                    more=outlines[1:],
                )
            )
        enough = EnoughDoc(vat=vat_ml is None or plate.ml <= vat_ml, stock=left is None or plate.grams <= left)
        left = None if left is None else left - plate.grams
        plates.append(
            PlateDoc(
                items=items,
                time_s=plate.time_s,
                material_ml=plate.ml,
                material_g=plate.grams,
                peak_pull_n=plate.peak_pull_n,
                risk=plate.risk,
                good=plate.good,
                enough=enough,
            )
        )
    return PlatesDoc(
        plates=plates,
        unplaced=[LeftOutDoc(plan=piece.plan, why=why) for piece, why in laid.unplaced],
        hours_per_good_piece=laid.hours_per_good,
        batch=min(curve, key=lambda c: c[1])[0] if curve else 0,
        curve=[BatchDoc(batch=n, hours_per_good_piece=h) for n, h in curve],
        vat_ml=vat_ml,
    )
