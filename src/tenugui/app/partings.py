"""Cutting a figure into a kit: places, a look at both parts, and the job that makes them figures of their own."""

from __future__ import annotations

import hashlib
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel, Field

from ..core.contract import SizeChoice
from ..core.contract.parting import CutAsk, CutsDoc, PartedDoc
from ..core.learn import BY_CODE
from ..core.names import Name
from ..core.plan.parting import CutsGiven
from ..store import evidence, jobs, kits
from ..store.db import Store, StoreError
from ..work.folds import Standing
from ..work.partings import CutGiven, part_given
from .able import reading_of
from .models import Computation, Id
from .state import computation, store_of

router = APIRouter(prefix="/api/plans", tags=["kits"])


class CutsAsk(CutAsk):
    """Where to cut, with or without a peg, and what the body and the limb are called."""

    names: tuple[Name, Name] = Field(default=("Body", "Limb"))


class FitKnown(BaseModel):
    """How pegs fit on a machine."""

    clearance: float
    least: float
    known: bool


def _fit(store: Store, standing: Standing) -> FitKnown:
    """By what the machine was seen to do: nine of ten come out; by priors where nothing was seen."""
    size = standing.choice(SizeChoice)
    if size is None:
        raise StoreError("fold-open", "The figure has no size yet.", "Settle its size first.", 409)
    seen = evidence.of_machine(store, size.printer_id, size.material_id)
    told = {}
    for code in ("clearance", "peg"):
        rows = [row for row in seen if row["ability"] == code]
        told[code] = (BY_CODE[code].at, False) if not rows else (reading_of(code, rows, datetime.now()).safe, True)
    (clearance, one), (least, other) = told["clearance"], told["peg"]
    return FitKnown(clearance=round(clearance, 3), least=round(least, 3), known=one or other)


def _cuts(store: Store, number: int) -> tuple[Standing, CutsGiven]:
    standing = Standing.of(store, number)
    fit = _fit(store, standing)
    return standing, standing.given("pose").to(CutsGiven, **fit.model_dump())


@router.get("/{number}/cuts", response_model=Computation[CutsDoc])
def look_at_cuts(request: Request, number: Id) -> Response:
    """Places where the figure may be parted, where they have been looked for."""
    store = store_of(request)
    return computation(store, "cuts", _cuts(store, number)[1])


@router.post("/{number}/cuts", response_model=Computation[CutsDoc])
def start_cuts(request: Request, number: Id) -> Response:
    """Start looking for them."""
    store = store_of(request)
    standing, given = _cuts(store, number)
    title, figure = f"Where {standing.plan['figure_name']} may be cut", standing.plan["figure_id"]
    return computation(store, "cuts", given, start=True, title=title, figure_id=figure)


@router.post("/{number}/cuts/look", response_model=Computation[PartedDoc])
def look_at_parts(request: Request, number: Id, asked: CutAsk, start: Annotated[bool, Query()] = True) -> Response:
    """Both parts of a cut, computed where they are not at hand."""
    store = store_of(request)
    standing = Standing.of(store, number)
    fit = _fit(store, standing)
    given = part_given(standing, asked, fit.clearance, fit.least)
    title, figure = f"Cutting {standing.plan['figure_name']}", standing.plan["figure_id"]
    return computation(store, "parted", given, start=start, title=title, figure_id=figure)


class KitCut(BaseModel):
    """A kit that the figure was cut into."""

    id: int
    name: str


@router.get("/{number}/cuts/kits")
def kits_cut(request: Request, number: Id) -> list[KitCut]:
    """Kits that the figure was cut into, the newest first."""
    return [KitCut(**row) for row in kits.cut_from(store_of(request), number)]


@router.post("/{number}/cuts/kit")
def make_kit(request: Request, number: Id, asked: CutsAsk) -> int:
    """Make both parts figures of a kit; the number of the job."""
    store = store_of(request)
    standing = Standing.of(store, number)
    fit = _fit(store, standing)
    given = CutGiven(
        plan=number, cut=CutAsk(point=asked.point, normal=asked.normal, peg=asked.peg),
        clearance=fit.clearance, least=fit.least, names=asked.names,
    )  # fmt: skip
    key = hashlib.sha256(f"cut {given.model_dump_json()}".encode()).hexdigest()
    title, figure = f"Cutting {standing.plan['figure_name']} into a kit", standing.plan["figure_id"]
    return jobs.want(store, "cut", given.plain() | {"plan": number}, key=key, title=title, figure_id=figure)
