"""The shelf's stock by lot: what is left, what runs out when, and before which plate."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Request
from pydantic import BaseModel, Field

from ..core.learn.lots import Did, Lasts, Use, lasts, levels
from ..core.names import Name
from ..store import lots, machines, plates
from ..store.db import Row, Store, StoreError
from .counted import KNOWN, standings
from .left import lot_of, uses_by_material
from .models import Id
from .plate_view import Sight, made_of
from .plates_models import Body
from .state import store_of

router = APIRouter(prefix="/api/stock", tags=["stock"])
Kind = Literal["material", "fluid", "filters", "gloves", "film"]
UNITS: dict[Kind, str] = {"material": "g", "fluid": "ml", "filters": "pieces", "gloves": "pairs", "film": "pieces"}
Amount = Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)]


class LotAsk(BaseModel):
    """A lot that is opened: how much it holds, in the unit of its kind."""

    kind: Kind
    material_id: Id | None = None
    name: Annotated[Name, Field(max_length=80)]
    amount: Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False)]


class StepAsk(BaseModel):
    """What was counted of a lot, used or wasted by hand."""

    did: Did
    amount: Amount
    note: str = Field("", max_length=200)


class StepRow(BaseModel):
    """A step of a lot."""

    id: int
    did: Did
    amount: float
    note: str
    at: datetime


class LotRow(BaseModel):
    """A lot and what is left of it; `short`: what was taken beyond what it can have held."""

    id: int
    name: str
    amount: float
    opened_at: datetime
    left: float
    used: float
    wasted: float
    short: float
    steps: list[StepRow]


class StockRow(BaseModel):
    """A material or another kind of stock with its lots: what is left in all, what a day uses, in how many days it runs
    out at that, and before which plate, None where it is enough for all that wait.
    """

    kind: Kind
    material_id: int | None
    name: str
    unit: str
    left: float
    a_day: float
    days: float | None
    before: str | None
    needed: float
    lots: list[LotRow]


@router.get("")
def stock(request: Request) -> list[StockRow]:
    """All stock there is lots of."""
    store, now = store_of(request), datetime.now()
    by_kind: dict[tuple[Kind, int | None], list[Row]] = {}
    for row in lots.every(store):
        by_kind.setdefault((row["kind"], row["material_id"]), []).append(row)
    taken = uses_by_material(store)
    waiting = _waiting(store) if any(kind == "material" for kind, _ in by_kind) else {}
    return [
        _row(
            kind,
            material,
            rows,
            uses=taken.get(material or 0, []),
            planned=waiting.get(rows[0]["material_name"] or "", []),
            now=now,
        )
        for (kind, material), rows in by_kind.items()
    ]


def _row(
    kind: Kind,
    material: int | None,
    rows: list[Row],
    *,
    uses: list[Use],
    planned: list[tuple[str, float]],
    now: datetime,
) -> StockRow:
    held = [lot_of(row) for row in rows]
    since = min(lot.opened_at for lot in held)
    late = [use for use in uses if use.at >= since]
    by_hand = [Use(s.amount, s.at) for lot in held for s in lot.steps if s.did == "used"]
    read = levels(held, late)
    left = sum(level.left for level in read)
    told: Lasts = lasts(left, [*late, *by_hand], [grams for _, grams in planned], now)
    return StockRow(
        kind=kind,
        material_id=material,
        name=rows[0]["material_name"] or kind,
        unit=UNITS[kind],
        left=left,
        a_day=told.a_day,
        days=told.days,
        before=None if told.before is None else planned[told.before][0],
        needed=sum(grams for _, grams in planned),
        lots=[
            LotRow(
                **{k: row[k] for k in ("id", "name", "amount", "opened_at")},
                **vars(level),
                steps=[StepRow(**{k: s[k] for k in StepRow.model_fields}) for s in row["steps"]],
            )
            for row, level in zip(rows, read, strict=True)
        ],
    )


def _waiting(store: Store) -> dict[str, list[tuple[str, float]]]:
    """Plates that are laid out and not begun, by material: what each needs, the oldest first."""
    needs: dict[str, list[tuple[str, float]]] = {}
    for row in reversed(plates.every(store)):
        if row["begun"]:
            continue
        body = Body.model_validate(row["body"])
        sight = Sight.of(row, body, standings(store, KNOWN, body.pieces, row["printer_id"], start=False))
        for k, plate in made_of(sight).items():
            needs.setdefault(sight.material(plate)[0], []).append((f"{row['name']}, plate {k + 1}", plate.grams))
    return needs


@router.post("")
def open_lot(request: Request, asked: LotAsk) -> int:
    """Put a lot on the shelf; its number."""
    store = store_of(request)
    if (asked.kind == "material") != (asked.material_id is not None):
        raise StoreError("which-material", "A spool or bottle is of a material, and only that.", "Say which.", 422)
    if asked.material_id is not None:
        machines.one(store, "materials", asked.material_id)
    return lots.add(
        store, asked.kind, asked.material_id, asked.name.strip(), amount=asked.amount, opened_at=datetime.now()
    )


@router.post("/{number}/steps")
def step(request: Request, number: Id, asked: StepAsk) -> int:
    """Count a lot, or note what was used or wasted of it."""
    return lots.step(
        store_of(request), number, asked.did, amount=asked.amount, note=asked.note.strip(), at=datetime.now()
    )


@router.delete("/{number}/steps/{entry}")
def unstep(request: Request, number: Id, entry: Id) -> None:
    """Take such a note back."""
    lots.unstep(store_of(request), number, entry)


@router.delete("/{number}")
def delete(request: Request, number: Id) -> None:
    """Take a lot off the shelf with what was noted of it."""
    lots.delete(store_of(request), number)
