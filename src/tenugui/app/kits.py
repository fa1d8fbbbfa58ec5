"""Kits: parts that belong together."""

from __future__ import annotations

from fastapi import APIRouter, Request

from ..core.contract import next_of
from ..store import figures, jobs, plans
from ..store.db import StoreError
from ..work.inputs import folds, key_of
from .models import Kit, KitPart, NewKit
from .state import store_of

router = APIRouter(prefix="/api/kits", tags=["kits"])


@router.post("")
def join(request: Request, new: NewKit) -> int:
    """Make a kit of figures that are on the bench, as a folder of files is; returns its number."""
    return figures.join_kit(store_of(request), new.name.strip(), new.figures)


@router.get("/{number}")
def one(request: Request, number: int) -> Kit:
    """A kit and its parts."""
    store = store_of(request)
    rows = figures.of_kit(store, number)
    if not rows:
        raise StoreError("no-kit", f"There is no kit number {number}.", "Go back to the bench.")
    parts = []
    for row in rows:
        document = jobs.result(store, key_of("intake", {"sha": row["mesh_sha"]}))
        states = folds(plans.chain(store, row["plan_id"]))
        parts.append(
            KitPart(
                figure_id=row["id"],
                plan_id=row["plan_id"],
                name=row["name"],
                triangles=row["triangles"],
                preview_sha=document["preview_sha"] if document else row["sight_sha"],
                next_fold=next_of(states),
            )
        )
    return Kit(id=number, name=rows[0]["kit_name"], placed=bool(rows[0]["placed"]), parts=parts)
