"""Kits: parts that belong together."""

from __future__ import annotations

from fastapi import APIRouter, Request

from ..core.contract import IntakeDoc
from ..core.plan import kept, next_of, spec_of
from ..core.plan.given import MeshGiven
from ..store import figures, plans
from ..store.db import StoreError
from ..work.folds import Workshop, folds_of
from ..work.shelf import StoreShelf
from .models import Kit, KitPart, NewKit
from .state import info, store_of

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
    chains, workshop, shelf = (
        plans.chains(store, [row["plan_id"] for row in rows]),
        Workshop.of(store),
        StoreShelf(store),
    )
    parts = []
    for row in rows:
        document = kept(shelf, "intake", MeshGiven(sha=row["mesh_sha"]), IntakeDoc)
        states = folds_of(row, chains[row["plan_id"]], workshop)
        parts.append(
            KitPart(
                figure_id=row["id"],
                plan_id=row["plan_id"],
                name=row["name"],
                triangles=row["triangles"],
                preview_sha=document.preview_sha if document else row["sight_sha"],
                next=info(spec_of(next_of(states) or "log")),
            )
        )
    return Kit(id=number, name=rows[0]["kit_name"], placed=bool(rows[0]["placed"]), parts=parts)
