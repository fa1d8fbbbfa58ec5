"""A plan's own file on a simulated machine: a process of its own on loopback, one for each printer of the shelf, spoken
to by its doors (docs/machines.md).
"""

from __future__ import annotations

import json
from datetime import datetime
from typing import Any, Literal

from fastapi import APIRouter, Request

from ..core.contract import PrintFileDoc, SizeChoice, TrialDoc
from ..core.machines import Programme, programmes
from ..core.plan import kept
from ..core.plan.given import ProofGiven
from ..store import blobs, runs
from ..store.db import Store, StoreError
from ..work.folds import Standing
from ..work.shelf import StoreShelf
from ..work.started import begin
from .machine_models import MachineAsk, MachineOfPlan, MachineState, StationOffer, StationState
from .shed import AWAY, NONE, UNDER_WAY, ask, shed
from .state import store_of
from .workshop import accepted

router = APIRouter(prefix="/api/plans", tags=["machine"])
bench = APIRouter(prefix="/api", tags=["machine"])


def threats_of(trial: TrialDoc | None) -> list[dict[str, Any]]:
    """What the plan believes may become of its print: what comes true of it is the machine's own."""
    if trial is None:
        return []
    return [
        {
            "code": cause.code,
            "chance": cause.count / trial.prints,
            "layer": cause.layer + 1,
            "loss": cause.loss,
            "why": cause.message[:400],
        }
        for cause in trial.causes
    ]


def _named(plan: int) -> str:
    """A plan's file as its machine is told."""
    return f"plan {plan}"


def state_at(port: int, named: str) -> dict[str, Any]:
    """How far a machine is with a file, and what lies on its plate once it has ended.

    Raises:
        StoreError: `no-machine` where another file has taken its place.
    """
    state = ask(port, "GET", "/state")
    if state["file"] != named:
        raise NONE
    return state | {"seen": ask(port, "GET", "/look") if state["state"] not in UNDER_WAY else None}


def _state(store: Store, plan: int) -> MachineState:
    port, run = shed.of(store, plan)
    return MachineState.model_validate(state_at(port, _named(plan)) | {"run": run})


@router.post("/{number}/machine")
def print_it(request: Request, number: int, asked: MachineAsk) -> MachineState:
    """Start a run of the accepted plan on its printer's simulated machine, with the very file that was written; what
    becomes of it is drawn by the machine's own nature.
    """
    store: Store = store_of(request)
    standing = accepted(store, number)
    shelf, given = StoreShelf(store), standing.given("proof").to(ProofGiven)
    file = kept(shelf, "printfile", given, PrintFileDoc)
    if file is None:
        raise StoreError("not-computed", "The machine's file has not been written.", "Write it in the fold Proof.", 409)
    port = shed.port(("--printer", json.dumps(given.printer, sort_keys=True)), asked.speed)
    ask(port, "PUT", "/file", blobs.get(store, file.sha), _named(number))
    size = standing.choice(SizeChoice)
    before = 0 if size is None else runs.many_on(store, size.printer_id)
    begun = {"threats": threats_of(kept(shelf, "trial", given, TrialDoc)), "before": before}
    ask(port, "POST", "/start", json.dumps(begun).encode())
    # Only what the machine has accepted is a run.
    run = begin(store, standing, datetime.now(), simulated=True)
    shed.remember(store, number, port, run)
    return _state(store, number)


@bench.get("/machines")
def every(request: Request) -> list[MachineOfPlan]:
    """All plans on simulated machines, and how far they are."""
    store, plans = store_of(request), []
    for plan in shed.plans(store):
        try:
            plans.append(MachineOfPlan(plan_id=plan, state=_state(store, plan)))
        except StoreError as reason:
            if reason is AWAY:
                plans.append(MachineOfPlan(plan_id=plan, state=None))
            elif reason is not NONE:  # another plan's file has taken its place
                raise
    return plans


@router.get("/{number}/machine")
def look(request: Request, number: int) -> MachineState:
    """How far it is, and once it has ended what lies on the plate."""
    return _state(store_of(request), number)


@router.post("/{number}/machine/{turn}")
def turn(request: Request, number: int, turn: Literal["pause", "resume", "cancel"]) -> MachineState:
    """Hold it, go on, or give it up."""
    store = store_of(request)
    port, _ = shed.of(store, number)
    ask(port, "POST", f"/{turn}")
    return _state(store, number)


def _offers(store: Store, number: int) -> list[Programme]:
    standing = Standing.of(store, number)
    given = standing.given("proof").to(ProofGiven)
    return programmes(given.printer["process"], hollow=given.hollow is not None)


@router.get("/{number}/stations")
def stations(request: Request, number: int) -> list[StationOffer]:
    """What the plan's print goes through beside the printer, and how far that is where this plan's load is in a
    simulated station.
    """
    store = store_of(request)
    offers = []
    for programme in _offers(store, number):
        port = shed.running(programme.station)
        state = None if port is None else StationState.model_validate(ask(port, "GET", "/state"))
        mine = state if state and state.load == _named(number) else None
        busy = state is not None and mine is None and state.state in UNDER_WAY
        offers.append(
            StationOffer(
                station=programme.station, steps=list(programme.steps), said=programme.said, state=mine, busy=busy
            )
        )
    return offers


@router.post("/{number}/stations/{station}")
def into(request: Request, number: int, station: Literal["wash", "dry", "cure"], asked: MachineAsk) -> StationState:
    """Put the plan's load into a simulated station, by its programme; a spent bath is filled afresh."""
    programme = next((p for p in _offers(store_of(request), number) if p.station == station), None)
    if programme is None:
        raise StoreError(
            "no-station", f"Nothing of this plan goes into '{station}'.", "See what its process asks.", 404
        )
    port = shed.port(("--station", station), asked.speed)
    state = ask(port, "GET", "/state")
    if state["lasts"] is not None and state["loads"] >= state["lasts"] and state["state"] not in UNDER_WAY:
        ask(port, "POST", "/fresh")
    body = json.dumps({"load": _named(number), "steps": programme.steps}).encode()
    return StationState.model_validate(ask(port, "POST", "/start", body))
