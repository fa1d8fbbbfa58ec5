"""Changes of supports by hand that are wanted again: from another plan, or on the other side of the figure; and two
sets beside each other.
"""

from __future__ import annotations

import base64

from fastapi import APIRouter, Request
from pydantic import BaseModel, Field

from ..core.contract import EditAsk, SizeChoice, SupportsAsk, SupportsChoice
from ..core.contract.asks import MOST_EDITS
from ..core.plan import at_size, mirror_of, mirrored, sets_beside, without_twins
from ..core.plan.given import SupportsGiven
from ..store import plans
from ..store.db import StoreError
from ..work.folds import Standing
from ..work.shelf import StoreShelf
from . import live
from .models import Id, SetAsk
from .state import store_of

router = APIRouter(prefix="/api/plans", tags=["plans"])
MOST = 40


class HandsOf(BaseModel):
    """A plan whose supports were changed by hand, how often, and whether its figure is the same mesh."""

    plan_id: int
    figure: str
    edits: int
    same: bool


class AgainAsk(BaseModel):
    """Changes to make again: another plan's, or these; as they are, or `mirrored`. `known` are there already."""

    plan: Id | None = None
    edits: list[EditAsk] = Field(default_factory=list, max_length=MOST_EDITS)
    known: list[EditAsk] = Field(default_factory=list, max_length=MOST_EDITS)
    mirrored: bool = False


class AgainDoc(BaseModel):
    """Changes for this figure at its size."""

    edits: list[EditAsk]


class BesideAsk(BaseModel):
    """Two sets of one pose."""

    one: SetAsk
    other: SetAsk


class BesideDoc(BaseModel):
    """Two sets from the same side, as PNG (base64), what only one of them has dyed; how many supports only the first
    has, only the second, and both.
    """

    pictures: tuple[str, str]
    only: tuple[int, int]
    both: int


@router.get("/{number}/supports/hands")
def hands(request: Request, number: int) -> list[HandsOf]:
    """Other plans whose supports were changed by hand."""
    store = store_of(request)
    mine = plans.one(store, number)
    rows = [row for row in plans.with_choice(store, "supports", "$.edits") if row["id"] != number][:MOST]
    found = [(row, _choice(Standing.of(store, row["id"]))) for row in rows]
    return [
        HandsOf(plan_id=row["id"], figure=row["name"], edits=len(c.edits), same=row["mesh_sha"] == mine["mesh_sha"])
        for row, c in found
        if c is not None and c.edits
    ]


@router.post("/{number}/supports/again")
def again(request: Request, number: int, asked: AgainAsk) -> AgainDoc:
    """Changes made once, for this figure at its size: at places of its surface, wherever that has moved a little."""
    store = store_of(request)
    here = Standing.of(store, number)
    factor = _factor(here)
    edits = list(asked.edits)
    if asked.plan is not None:
        there = Standing.of(store, asked.plan)
        choice = _choice(there)
        edits += at_size(choice.edits if choice else [], factor / _factor(there))
    if asked.mirrored:
        mirror = mirror_of(StoreShelf(store), here.given("supports", SupportsAsk()).sha)
        if mirror is None:
            raise StoreError("no-mirror", "The two sides of this figure differ.", "Put them by hand.", 409)
        edits = mirrored(edits, mirror, factor)
    return AgainDoc(edits=without_twins(edits, asked.known))


@router.post("/{number}/supports/beside")
def beside(request: Request, number: int, asked: BesideAsk) -> BesideDoc:
    """Two sets that have been made, from the same side, with what differs dyed."""
    store = store_of(request)
    given = Standing.of(store, number).given("supports", SupportsAsk()).to(SupportsGiven)
    rows = (live.made_set(store, given, asked.one), live.made_set(store, given, asked.other))
    told = sets_beside(StoreShelf(store), given, rows)
    one, other = (base64.b64encode(png).decode() for png in told.pictures)
    return BesideDoc(pictures=(one, other), only=told.only, both=told.both)


def _choice(standing: Standing) -> SupportsChoice | None:
    return standing.choice(SupportsChoice)


def _factor(standing: Standing) -> float:
    choice = standing.choice(SizeChoice)
    if choice is None:
        raise StoreError("fold-open", "The fold 'Size' is not settled.", "Decide it first.", 409)
    return choice.factor
