"""Ask why: what a board's recommendation rests on, and what would change it."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request

from ..core.contract import SizeChoice
from ..core.contract.why import LearntDoc, WhyDoc
from ..core.machines.fields import words_of
from ..core.plan import kept, spec_of, task_of
from ..core.plan.why import why_of
from ..store import evidence, machines
from ..store.db import Store, StoreError
from ..work.folds import Standing, own_of
from ..work.shelf import StoreShelf
from .models import Id
from .plans import said
from .state import store_of

router = APIRouter(prefix="/api/plans", tags=["plans"])


@router.get("/{number}/why/{fold}")
def why(
    request: Request,
    number: Id,
    fold: str,
    wishes: str | None = None,
    row: Annotated[int | None, Query(ge=0, le=1000)] = None,
) -> WhyDoc:
    """Of a board that is there: why an alternative, the recommended one where none is named, is the one to take."""
    store = store_of(request)
    spec = spec_of(fold)
    standing = Standing.of(store, number)
    if spec is None or spec.task is None:
        raise StoreError("no-fold", f"There is no board '{fold[:40]}'.", "Ask at a fold that compares.", 404)
    given = standing.given(spec.name, said(spec, wishes))
    board = kept(StoreShelf(store), spec.task, given, task_of(spec.task).model)
    if board is None:
        raise StoreError("not-there", f"{spec.title} has not been computed yet.", "Ask when its board is there.", 409)
    return why_of(spec.name, board, given, row).model_copy(update={"learnt": _learnt(store, standing)})


def _learnt(store: Store, standing: Standing) -> list[LearntDoc]:
    """What the machine's own prints have taught and somebody has taken over."""
    size = standing.choice(SizeChoice)
    if size is None:
        return []
    spec = machines.one(store, "printers", size.printer_id)["spec"]
    return [
        LearntDoc(name=words_of(field), value=float(spec[field]), printer_id=size.printer_id)
        for field in evidence.in_force(store, "printers", size.printer_id)
        if isinstance(spec.get(field), int | float) and field not in own_of(standing.plan).get("printers", {})
    ]
