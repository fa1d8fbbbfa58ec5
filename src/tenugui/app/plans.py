"""Plans: their folds and computations."""

from __future__ import annotations

from typing import Any

import orjson
from fastapi import APIRouter, Request, Response
from pydantic import ValidationError

from ..core.contract import (
    Ask,
    BackOffDoc,
    DemandDoc,
    DialDoc,
    HollowAsk,
    IntakeDoc,
    JudgedDoc,
    NeededDoc,
    NoAsk,
    PoseAsk,
    SizeChoice,
    SupportsAsk,
    WhatIfDoc,
)
from ..core.plan import FOLDS, FoldSpec, kept, model_of, next_of
from ..core.plan.given import FigureGiven, HollowGiven, MeshGiven, SupportsGiven
from ..core.pose import unit
from ..store import plans
from ..store.db import Store, StoreError
from ..work.folds import Standing, running, want
from ..work.shelf import StoreShelf
from . import live
from .models import (
    Computation,
    Direction,
    FoldState,
    HolesAsk,
    PlanState,
    Ranked,
    RiskAsk,
    SetAsk,
    Weighed,
    WhatIfAsk,
)
from .state import computation, store_of

router = APIRouter(prefix="/api/plans", tags=["plans"])


def plan_state(store: Store, number: int) -> PlanState:
    """A plan with its folds and running figures."""
    standing = Standing.of(store, number)
    plan, chain = standing.plan, standing.chain
    newest = {row["fold"]: row for row in chain}
    numbers, before = running(standing.chain, standing.folds)
    following = plans.next_of(store, number)
    intake = kept(StoreShelf(store), "intake", MeshGiven(sha=plan["mesh_sha"]), IntakeDoc)
    size = standing.choice(SizeChoice)
    titles = {spec.name: spec.title for spec in FOLDS}
    return PlanState(
        id=plan["id"],
        number=plan["number"],
        head=standing.head,
        figure_id=plan["figure_id"],
        figure_name=plan["figure_name"],
        file_name=plan["file_name"],
        triangles=plan["triangles"],
        preview_sha=(size.preview_sha if size else None) or (intake.preview_sha if intake else plan["sight_sha"]),
        unit=plan["unit"],
        kit_id=plan["kit_id"],
        thinned=orjson.loads(plan["thinned"]) if plan["thinned"] else None,
        folds=[
            FoldState(
                name=f.name,
                title=f.spec.title,
                question=f.spec.question,
                state=f.state,
                ready=f.ready,
                choice=f.choice,  # type: ignore[arg-type]
                asked=None if f.spec.ask is NoAsk else f.asked,  # type: ignore[arg-type]
                waits=f.waits,
                next=f.next,
                said=None if f.choice is None else f.spec.worded(f.choice),
                reason=newest[f.name]["reason"] if f.name in newest else None,
                numbers=newest[f.name]["evidence"].get("numbers") if f.name in newest else None,
                key=f.key,
            )
            for f in standing.folds
        ],
        numbers=numbers,
        before=before,
        can_undo=titles[chain[-1]["fold"]] if chain else None,
        can_redo=titles[following["fold"]] if following else None,
        next_fold=next_of(standing.folds),
    )


@router.get("/{number}")
def one(request: Request, number: int) -> PlanState:
    """A plan as it stands."""
    return plan_state(store_of(request), number)


def said(spec: FoldSpec, asked: Ask | dict[str, Any] | str | None) -> Ask | None:
    """What somebody asks of a fold's board, by its own model; None where nothing is said.

    Raises:
        StoreError: `bad-request`: it cannot be read, or is another fold's.
    """
    if asked is None or isinstance(asked, spec.ask):
        return asked
    try:
        if isinstance(asked, str):
            return spec.ask.model_validate_json(asked)
        return spec.ask.model_validate(asked.model_dump() if isinstance(asked, Ask) else asked)
    except ValidationError as reason:
        first = reason.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise StoreError(
            "bad-request", f"What is asked of {spec.title} cannot be read: {where} {first['msg']}.", status=422
        ) from reason


def _asked(store: Store, number: int, spec: FoldSpec, wishes: str | None) -> tuple[str, FigureGiven, Standing]:
    standing = Standing.of(store, number)
    assert spec.task is not None
    return spec.task, standing.given(spec.name, said(spec, wishes)), standing


def _serve(router: APIRouter, spec: FoldSpec) -> None:
    """Two addresses a board: GET looks, POST starts. `wishes` is the JSON of the fold's own `Ask`; where it is missing,
    what was asked before holds.
    """

    def look(request: Request, number: int, wishes: str | None = None) -> Response:
        task, given, _ = _asked(store_of(request), number, spec, wishes)
        return computation(store_of(request), task, given)

    def start(request: Request, number: int, wishes: str | None = None) -> Response:
        task, given, standing = _asked(store_of(request), number, spec, wishes)
        title = f"{spec.title} of {standing.plan['figure_name']}"
        return computation(
            store_of(request), task, given, start=True, title=title, figure_id=standing.plan["figure_id"]
        )

    model: Any = Computation.__class_getitem__(model_of(spec))
    look.__doc__ = f"The board of the fold {spec.title} for the plan as it stands."
    start.__doc__ = f"Start the computation of {spec.title}, or start it again."
    path = f"/{{number}}/compute/{spec.name}"
    router.add_api_route(path, look, methods=["GET"], response_model=model, name=f"look_{spec.name}")
    router.add_api_route(path, start, methods=["POST"], response_model=model, name=f"start_{spec.name}")


def boards() -> APIRouter:
    """The boards of all folds there are."""
    router = APIRouter(prefix="/api/plans", tags=["plans"])
    for spec in FOLDS:
        if spec.task:
            _serve(router, spec)
    return router


@router.post("/{number}/hollow/judge")
def judge(request: Request, number: int, asked: HolesAsk) -> JudgedDoc:
    """Holes as they are set, at once: what stays, how it runs out, in which order to turn it, and a cut to look
    into.
    """
    store = store_of(request)
    given = Standing.of(store, number).given("hollow", HollowAsk()).to(HollowGiven)
    return live.judged(store, given, asked)


@router.post("/{number}/supports/what-if")
def what_if(request: Request, number: int, asked: WhatIfAsk) -> WhatIfDoc:
    """What would be weaker without some tips and with others, at once and before anything is placed."""
    store = store_of(request)
    return live.what_if(store, Standing.of(store, number).given("supports", SupportsAsk()).to(SupportsGiven), asked)


@router.post("/{number}/supports/needed")
def needed(request: Request, number: int, asked: SetAsk) -> NeededDoc:
    """Which tips of a set are needed; the others are comfort."""
    store = store_of(request)
    return live.needed(store, Standing.of(store, number).given("supports", SupportsAsk()).to(SupportsGiven), asked)


@router.post("/{number}/supports/back-off")
def back_off(request: Request, number: int, asked: SetAsk) -> BackOffDoc:
    """The order in which tips of a set may go, what bears least first, and from where on something would be held by
    less than is asked.
    """
    store = store_of(request)
    return live.back_off(store, Standing.of(store, number).given("supports", SupportsAsk()).to(SupportsGiven), asked)


@router.post("/{number}/supports/demand")
def demand(request: Request, number: int, asked: RiskAsk) -> DemandDoc:
    """How many tips the figure asks for at a risk, while a hand turns the dial: counted by a worker once, at the first
    turn.
    """
    store, standing = store_of(request), Standing.of(store_of(request), number)
    given = standing.given("supports", SupportsAsk()).to(SupportsGiven)
    stops = kept(StoreShelf(store), "dial", given, DialDoc)
    if stops is None:
        want(store, "dial", given, f"Counting tips of {standing.plan['figure_name']}", standing.plan["figure_id"])
        return DemandDoc(risk=asked.risk, tips=None, reasons={})
    return stops.at(asked.risk)


@router.post("/{number}/pose/weigh")
def weigh_one(request: Request, number: int, asked: Direction) -> Weighed:
    """What one direction costs, at once: for turning the figure by hand, and for 'why not this way?'."""
    store = store_of(request)
    return live.weighed(store, Standing.of(store, number).given("pose", PoseAsk()), unit(asked.down), asked.wish)


@router.post("/{number}/pose/rank")
def rank(request: Request, number: int, asked: PoseAsk) -> Ranked:
    """The poses ranked anew by another wish, at once and without a new search; the board with its layers follows by
    `compute`.
    """
    store = store_of(request)
    return live.ranked(store, Standing.of(store, number).given("pose", PoseAsk()), asked.wish)
