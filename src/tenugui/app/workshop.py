"""Printers, materials, runs and the log."""

from __future__ import annotations

from datetime import datetime

from fastapi import APIRouter, Request

from ..core.machines import Material, cautions, load_printer
from ..core.machines.printer import from_dict
from ..store import machines, plans, runs
from ..store.db import StoreError
from .models import Document, Machine, Outcome, Run, Started
from .state import store_of

router = APIRouter(prefix="/api", tags=["workshop"])


@router.get("/printers")
def printers(request: Request) -> list[Machine]:
    """All printers."""
    return [Machine(**row) for row in machines.every(store_of(request), "printers")]


@router.put("/printers")
def keep_printer(request: Request, spec: Document) -> int:
    """Add a printer, or replace the one of the same name; checked by the core."""
    load_printer(spec)
    return machines.keep(store_of(request), "printers", spec)


@router.get("/materials")
def materials(request: Request) -> list[Machine]:
    """All materials."""
    return [Machine(**row) for row in machines.every(store_of(request), "materials")]


@router.put("/materials")
def keep_material(request: Request, spec: Document) -> int:
    """Add a material, or replace the one of the same name; checked by the core."""
    from_dict(Material, spec, "material")
    return machines.keep(store_of(request), "materials", spec)


@router.get("/cautions/{process}")
def cautions_for(process: str) -> list[str]:
    """The usual cautions of a process."""
    if process not in ("resin", "filament"):
        raise StoreError("no-process", f"There is no process '{process}'.")
    return cautions(process)


@router.get("/runs")
def log(request: Request) -> list[Run]:
    """The log, newest first."""
    return [Run(**row) for row in runs.every(store_of(request))]


@router.get("/plans/{number}/runs")
def runs_of(request: Request, number: int) -> list[Run]:
    """Runs of one plan."""
    plans.one(store_of(request), number)
    return [Run(**row) for row in runs.of_plan(store_of(request), number)]


@router.post("/plans/{number}/runs")
def start(request: Request, number: int, started: Started) -> int:
    """Record that the plan as it stands was started; the proof must be settled."""
    store = store_of(request)
    chain = plans.chain(store, number)
    plans.one(store, number)
    newest = {row["fold"]: row for row in chain}
    if not chain or chain[-1]["fold"] != "proof":
        raise StoreError("not-proved", "The plan as it stands has not been accepted in the fold Proof.", "Accept the proof first.", 409)
    numbers, size = chain[-1]["evidence"]["numbers"], newest["size"]["choice"]
    when = (started.started_at or datetime.now()).replace(tzinfo=None)
    return runs.start(
        store,
        number,
        chain[-1]["id"],
        size["printer_id"],
        size["material_id"],
        (numbers["time_s"], numbers["mass_g"], numbers["risk"]),
        when,
    )


@router.put("/runs/{number}/outcome")
def outcome(request: Request, number: int, what: Outcome) -> None:
    """Record or correct what became of a run."""
    runs.end(store_of(request), number, what.model_dump())
