"""A better version of a sculpt: which earlier plans it may take over from, and the job that does."""

from __future__ import annotations

from difflib import SequenceMatcher

from fastapi import APIRouter, Request
from pydantic import BaseModel

from ..core.plan import FOLDS
from ..store import jobs, plans
from ..store.db import Row, StoreError
from ..work.folds import Standing
from .models import Id
from .state import store_of

router = APIRouter(prefix="/api/plans", tags=["plans"])
MOST = 40
TITLES = {spec.name: spec.title for spec in FOLDS}


class EarlierPlan(BaseModel):
    """A plan of another figure that this one may be a better version of, and which folds of it are settled."""

    plan_id: int
    figure_name: str
    number: int
    settled: list[str]


class TakeOver(BaseModel):
    """From which plan."""

    plan: Id


@router.get("/{number}/earlier")
def earlier(request: Request, number: Id) -> list[EarlierPlan]:
    """The newest plans of other figures, those of a like name first; none where something is decided already."""
    store = store_of(request)
    mine = plans.one(store, number)
    if mine["head_id"] is not None:
        return []
    rows = [row for row in plans.newest_of_each(store) if row["figure_id"] != mine["figure_id"]]
    rows.sort(key=lambda row: (-_like(mine, row), -row["id"]))
    some = rows[:MOST]
    chains = plans.chains(store, [row["id"] for row in some])
    return [
        EarlierPlan(
            plan_id=row["id"],
            figure_name=row["figure_name"],
            number=row["number"],
            settled=list(dict.fromkeys(TITLES[d["fold"]] for d in chains[row["id"]])),
        )
        for row in some
    ]


def _like(mine: Row, other: Row) -> float:
    one, two = (str(row["figure_name"]).lower() for row in (mine, other))
    return SequenceMatcher(None, one, two).ratio()


@router.post("/{number}/earlier")
def take_over(request: Request, number: Id, asked: TakeOver) -> int:
    """Have everything that was decided of an earlier version decided for this one; the number of the job."""
    store = store_of(request)
    here, there = Standing.of(store, number), Standing.of(store, asked.plan)
    if here.plan["figure_id"] == there.plan["figure_id"]:
        raise StoreError("same-figure", "That is a plan of this very figure.", "Go on from it on its line.", 409)
    if here.chain and not jobs.last_of(store, _name(number, asked.plan)):
        what = "Something of this plan is decided already."
        raise StoreError("begun", what, "Take it back first, or begin another plan on the line.", 409)
    if not there.chain:
        raise StoreError("fold-open", "Nothing of that plan is decided.", "Choose one that was planned.", 409)
    title = f"Taking over from {there.plan['figure_name']}"
    given = {"plan": number, "base": asked.plan}
    return jobs.want(
        store, "version", given, key=_name(number, asked.plan), title=title, figure_id=here.plan["figure_id"]
    )


def _name(number: int, base: int) -> str:
    return f"version {number} {base}"
