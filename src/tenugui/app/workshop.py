"""Printers, materials, runs and the log."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime, timedelta
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query, Request

from ..core.hazards import kinds
from ..core.learn import LOW_G, Hours, Logged, hours_of, read_log, scatter_of
from ..core.machines import Context, FormField, cautions, form_of, load_material, load_printer, material_from
from ..core.pose import stuff_of
from ..store import machines, plans, runs
from ..store.db import Row, Store, StoreError
from ..work.folds import Standing
from ..work.started import begin
from .left import left_by_material
from .logged import logged_of, real
from .models import Id
from .state import store_of
from .workshop_models import HazardKind, Log, Machine, Outcome, Reading, Run, Started, Took

router = APIRouter(prefix="/api", tags=["workshop"])
Table = Literal["printers", "materials"]


@router.get("/printers")
def printers(request: Request) -> list[Machine]:
    """All printers that are in use, with what their runs have worn of the film."""
    store = store_of(request)
    worn, logged = runs.film_worn(store), _by_printer(runs.every(store, HOURS_FROM))
    return [
        Machine(
            **row,
            film_worn=worn.get(row["id"], 0.0),
            hours=_hours(logged.get(row["id"], [])),
            scatter=scatter_of(logged.get(row["id"], [])),
        )
        for row in machines.every(store, "printers")
    ]


HOURS_FROM = 2000
"""The latest runs of the whole workshop that say how long its printers take."""


def _by_printer(rows: list[Row]) -> dict[int, list[Logged]]:
    """What was printed on real machines."""
    logs: dict[int, list[Logged]] = {}
    for row in real(rows):
        logs.setdefault(row["printer_id"], []).append(logged_of(row))
    return logs


def _hours(logged: list[Logged]) -> Hours | None:
    read = hours_of(logged)
    return read if read.timed else None


@router.get("/form/{table}/{process}")
def form(table: Table, process: Literal["resin", "filament"]) -> list[FormField]:
    """What a printer or material is described by: titles, units, ranges, defaults."""
    return form_of(table, process)


@router.post("/printers/{number}/film")
def new_film(request: Request, number: int) -> None:
    """Note that a printer has a new film from now on."""
    machines.new_film(store_of(request), number)


@router.put("/printers")
def keep_printer(request: Request, spec: dict[str, Any]) -> int:
    """Add a printer, or replace the one of the same name; checked by the core."""
    return machines.keep(store_of(request), "printers", load_printer(spec).model_dump(mode="json"))


@router.get("/materials")
def materials(request: Request) -> list[Machine]:
    """All materials that are in use, with what is left of each."""
    store = store_of(request)
    by_id = left_by_material(store)
    offers = []
    for row in machines.every(store, "materials"):
        left = by_id[row["id"]]
        offers.append(Machine(**row, left_g=left, low=left is not None and left < LOW_G))
    return offers


@router.put("/materials")
def keep_material(request: Request, spec: dict[str, Any]) -> int:
    """Add a material, or replace the one of the same name; checked by the core."""
    return machines.keep(store_of(request), "materials", material_from(spec).model_dump(mode="json"))


@router.get("/stuff")
def stuff(request: Request, printer_id: Id, material_id: Id, mm3: Annotated[float, Query(ge=0, le=1e10)]) -> Took:
    """What a volume takes on a machine in a material, before anything is posed."""
    store = store_of(request)
    printer = load_printer(machines.one(store, "printers", printer_id)["spec"])
    material = load_material(machines.one(store, "materials", material_id)["spec"], printer)
    return Took(**asdict(stuff_of(Context.of(printer, material), mm3)))


@router.delete("/{table}/{number}")
def retire(request: Request, table: Table, number: int) -> None:
    """Take a printer or a material off the shelf; plans and runs that name it keep it."""
    machines.retire(store_of(request), table, number)


@router.get("/hazards")
def hazards() -> list[HazardKind]:
    """Every kind of hazard that the ledger can name, and the pattern that marks it."""
    return [HazardKind(**{k: getattr(kind, k) for k in HazardKind.model_fields}) for kind in kinds().values()]


@router.get("/cautions/{process}")
def cautions_for(process: str) -> list[str]:
    """The usual cautions of a process."""
    return cautions(process)


def run_row(row: Row) -> Run:
    """A run over the wire."""
    known = {name: row[name] for name in Run.model_fields if name in row}
    return Run(**known, ends_at=row["started_at"] + timedelta(seconds=row["planned_s"]))


def _log(rows: list[Row]) -> Log:
    listed = [run_row(row) for row in rows]
    reading = read_log([Logged(r.planned_s, r.planned_risk, r.real_s, r.result) for r in listed if not r.simulated])
    return Log(runs=listed, reading=Reading(**vars(reading)))


@router.get("/runs")
def log(request: Request) -> Log:
    """The log, newest first."""
    return _log(runs.every(store_of(request)))


@router.get("/plans/{number}/runs")
def runs_of(request: Request, number: int) -> Log:
    """Runs of one plan."""
    plans.one(store_of(request), number)
    return _log(runs.of_plan(store_of(request), number))


@router.post("/plans/{number}/runs")
def start(request: Request, number: int, started: Started) -> int:
    """Record that the plan as it stands was started; the proof must be settled."""
    when = (started.started_at or datetime.now()).replace(tzinfo=None)
    store = store_of(request)
    return begin(store, accepted(store, number), when, room=started.room.named())


def accepted(store: Store, number: int) -> Standing:
    """A plan whose proof is settled as it stands.

    Raises:
        StoreError: `not-proved`.
    """
    standing = Standing.of(store, number)
    if standing.fold("proof").state != "settled":
        raise StoreError(
            "not-proved",
            "The plan as it stands has not been accepted in the fold Proof.",
            "Accept the proof first.",
            409,
        )
    return standing


@router.put("/runs/{number}/outcome")
def outcome(request: Request, number: int, what: Outcome) -> None:
    """Record or correct what became of a run."""
    runs.end(store_of(request), number, what.model_dump())
