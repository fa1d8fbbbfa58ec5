"""Off the plate: the steps of a proved plan, and timers that live in the database."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request
from pydantic import BaseModel, Field

from ..core.contract import HeldDoc, ProofBoard, ProofDoc, SizeChoice
from ..core.contract.finish import FinishDoc, MendOrPrintDoc, OffPlateDoc, finish_document
from ..core.finish import Failed, in_step, mend_or_print, steps_of
from ..core.plan import kept
from ..core.plan.given import ProofGiven
from ..core.plan.off_plate import off_plate
from ..core.worth import rates_of
from ..store import minutes, plans, runs, timers
from ..store.db import Store, StoreError
from ..work.folds import Standing
from ..work.shelf import StoreShelf
from .models import Id
from .state import store_of

router = APIRouter(prefix="/api", tags=["finishing"])


MOST_ON_A_TRAY = 40
NOBODY: list[Id] = []


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


def _work(store: Store, number: int) -> tuple[OffPlateDoc, ProofDoc]:
    """What a proved plan says of its work, and its proof.

    Raises:
        StoreError: `not-computed`.
    """
    shelf = StoreShelf(store)
    given = Standing.of(store, number).given("proof").to(ProofGiven)
    board, held = kept(shelf, "proof", given, ProofBoard), kept(shelf, "held", given, HeldDoc)
    if board is None or held is None:
        what = "The plan as it stands has not been proved."
        raise StoreError("not-computed", what, "Open the fold Proof first.", 409)
    return off_plate(given, board, held), board.proof


@router.get("/plans/{number}/finish")
def finish(
    request: Request,
    number: Id,
    school: Annotated[Literal["before", "after"], Query()] = "before",
    beside: Annotated[list[Id], Query(max_length=MOST_ON_A_TRAY, alias="with")] = NOBODY,
) -> FinishDoc:
    """What is done with a proved plan's print off the plate, were it begun now; `with` others on one tray, in step."""
    store, begin = store_of(request), datetime.now().replace(second=0, microsecond=0)
    work, _ = _work(store, number)
    others = [one for one in dict.fromkeys(beside) if one != number]
    if not others:
        return finish_document(steps_of(work.work, school), school, begin, None)
    tray = [(number, work), *((one, _work(store, one)[0]) for one in others)]
    if len({one.process for _, one in tray}) > 1:
        what = "Resin and filament are not finished on one tray."
        raise StoreError("two-processes", what, "Take those of one process together.", 409)
    named = [(_called(store, one), steps_of(doc.work, school)) for one, doc in tray]
    return finish_document(in_step(named), school, begin, None)


def _called(store: Store, number: int) -> str:
    plan = plans.one(store, number)
    return f"{plan['figure_name']}, plan {plan['number']}"


class WaysOut(BaseModel):
    """What a failed print may be made good by: mended or printed again, as its plan stands now; and what was chosen."""

    ways: MendOrPrintDoc
    chosen: str | None
    by: str


class WayChosen(BaseModel):
    """How it is made good; null where that is open again."""

    way: Literal["glue", "hide", "apart", "print"] | None


@router.get("/runs/{number}/ways")
def ways(request: Request, number: Id) -> WaysOut:
    """Mend it, or print it again: minutes, hours, coins and how surely it comes out."""
    store = store_of(request)
    run = runs.one(store, number)
    if run["result"] not in ("part lost", "print lost"):
        what = "Nothing of this run is lost, as far as its outcome says."
        raise StoreError("nothing-lost", what, "Log what became of it first.", 409)
    if run["plan_id"] is None:
        raise StoreError("no-plan", "The plan of this run was deleted.", "Plan the figure again.", 409)
    off, proof = _work(store, run["plan_id"])
    layers = proof.layers.count
    layer = min(run["failed_layer"] or layers, layers)
    failed = Failed(run["cause"] or "", layer, layers)
    mended, again = mend_or_print(failed, takes=off.takes(proof.risk), rates=rates_of(None), times=off.times)
    return WaysOut(ways=MendOrPrintDoc.of((mended, again)), chosen=run["mended"], by=mended.way)


@router.put("/runs/{number}/ways")
def choose_way(request: Request, number: Id, asked: WayChosen) -> None:
    """Keep how it is made good: what was mended counts as made in orders."""
    runs.mend(store_of(request), number, asked.way)


class TookAsk(BaseModel):
    """A step by hand, in which school, and the minutes that it took."""

    step: str = Field(min_length=1, max_length=60)
    school: Literal["before", "after"] = "before"
    minutes: float = Field(gt=0, le=1440)


class Took(BaseModel):
    """What was kept: its number, and the minutes that the plan gave it."""

    id: int
    planned: float


@router.post("/plans/{number}/minutes")
def took(request: Request, number: Id, asked: TookAsk) -> Took:
    """Keep how long a step by hand took: from a few of these plans learn how long hands take."""
    store = store_of(request)
    work, _ = _work(store, number)
    step = next((s for s in steps_of(work.work, asked.school) if s.name == asked.step and s.hands), None)
    if step is None:
        raise StoreError("no-step", "This plan has no such step by hand.", "Look at its steps as they stand.", 409)
    size = Standing.of(store, number).choice(SizeChoice)
    assert size is not None  # what is proved has a size
    reckoned = step.minutes / work.times
    kept_as = minutes.keep(store, number, size.printer_id, step.name, reckoned=reckoned, took=asked.minutes)
    return Took(id=kept_as, planned=step.minutes)


@router.delete("/minutes/{number}")
def forget(request: Request, number: Id) -> None:
    """Take kept minutes back."""
    minutes.forget(store_of(request), number)


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
