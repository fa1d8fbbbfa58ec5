"""Off the plate: the steps of a proved plan, and timers that live in the database."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request
from pydantic import BaseModel, Field

from ..core.contract import HeldDoc, ProofBoard
from ..core.contract.finish import FinishDoc, finish_document
from ..core.finish import steps_of
from ..core.plan import kept
from ..core.plan.given import ProofGiven
from ..core.plan.off_plate import off_plate
from ..store import timers
from ..store.db import StoreError
from ..work.folds import Standing
from ..work.shelf import StoreShelf
from .models import Id
from .state import store_of

router = APIRouter(prefix="/api", tags=["finishing"])


class TimerAsk(BaseModel):
    """A step and its minutes."""

    step: str = Field(min_length=1, max_length=60)
    minutes: float = Field(gt=0, le=20_160)


class Timer(BaseModel):
    """A timer: `left_s` seconds, below 0 where it has rung."""

    id: int
    plan_id: int
    figure_name: str
    step: str
    started_at: datetime
    ends_at: datetime
    left_s: float


@router.get("/plans/{number}/finish")
def finish(
    request: Request, number: Id, school: Annotated[Literal["before", "after"], Query()] = "before"
) -> FinishDoc:
    """What is done with a proved plan's print off the plate, were it begun now."""
    shelf = StoreShelf(store_of(request))
    given = Standing.of(shelf.store, number).given("proof").to(ProofGiven)
    board, held = kept(shelf, "proof", given, ProofBoard), kept(shelf, "held", given, HeldDoc)
    if board is None or held is None:
        what = "The plan as it stands has not been proved."
        raise StoreError("not-computed", what, "Open the fold Proof first.", 409)
    work = off_plate(given, board, held).work
    return finish_document(steps_of(work, school), school, datetime.now().replace(second=0, microsecond=0), None)


@router.get("/timers")
def running(request: Request) -> list[Timer]:
    """All timers, the one that rings first before."""
    return [Timer(**row) for row in timers.every(store_of(request))]


@router.post("/plans/{number}/timers")
def start(request: Request, number: Id, asked: TimerAsk) -> int:
    """Start a step's timer, or start it again."""
    return timers.start(store_of(request), number, asked.step, asked.minutes)


@router.delete("/timers/{number}")
def put_away(request: Request, number: Id) -> None:
    """Put a timer away, rung or not."""
    timers.put_away(store_of(request), number)
