"""Everything that was learned, out and back in: runs with their outcomes, what was seen of machines, series. What is
brought in is taken whole or not at all; what is there already is not taken twice.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Sequence
from typing import Any

import orjson
from fastapi import APIRouter, Request, Response
from pydantic import BaseModel
from starlette.concurrency import run_in_threadpool

from ..core.contract.brought import RunLine, SeenLine, SeriesFile
from ..core.errors import CoreError
from ..core.hazards import kinds
from ..core.series import SeriesError, read_results
from ..core.series.results import table_of
from ..core.table import MOST_LIST_BYTES, read_records
from ..store import evidence, figures, machines, runs, series
from ..store.db import Row, Store
from .able import ability_by
from .bodies import body_within
from .downloads import cell, download
from .models import Id
from .state import store_of

router = APIRouter(prefix="/api", tags=["out and in"])
MOST_OUT = 100_000
SEEN = ("printer_name", "material_name", "ability", "level", "came_out", "source", "noted_at", "note")
PASSED_OVER = ("id",)


class Brought(BaseModel):
    """How many were taken, and how many were there already."""

    taken: int
    there: int


def _refused(code: str) -> Callable[[str, str], CoreError]:
    return lambda what, remedy: CoreError(code, what, "what was brought in", remedy)


@router.get("/runs.json", response_class=Response)
def every_run(request: Request) -> Response:
    """All runs with what they froze and what their proofs told, oldest first, as another bench takes them."""
    rows = runs.whole_log(store_of(request), MOST_OUT)
    known = [{k: row[k] for k in RunLine.model_fields if row[k] is not None} for row in rows]
    lines = [RunLine(**row).model_dump(mode="json") for row in known]
    return download(orjson.dumps(lines, option=orjson.OPT_INDENT_2), "application/json", "tenugui-runs.json")


@router.post("/runs")
async def bring_runs(request: Request) -> Brought:
    """Runs as CSV or JSON in the request's body."""
    return await run_in_threadpool(_runs, store_of(request), await body_within(request, MOST_LIST_BYTES))


def _runs(store: Store, body: bytes) -> Brought:
    refuse = _refused("bad-runs")
    lines = read_records(body, RunLine, refuse, PASSED_OVER)
    shelf, known = _shelf(store), kinds()
    for k, line in enumerate(lines):
        if line.cause is not None and line.cause not in known:
            raise refuse(f"Run {k + 1}: '{line.cause}' is no cause.", f"Give one of {', '.join(sorted(known))}.")
    placed = [_placed(shelf, line.printer_name, line.material_name, k, refuse) for k, line in enumerate(lines)]
    taken = runs.bring(store, [(*at, line.model_dump(mode="json")) for at, line in zip(placed, lines, strict=True)])
    return Brought(taken=taken, there=len(lines) - taken)


@router.get("/seen.csv", response_class=Response)
def seen_csv(request: Request) -> Response:
    """What was seen of all machines as a table, oldest first."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow(SEEN)
    for row in evidence.every(store_of(request)):
        table.writerow([cell(row[name]) for name in SEEN])
    return download(out.getvalue().encode(), "text/csv; charset=utf-8", "tenugui-seen.csv")


@router.get("/seen.json", response_class=Response)
def seen_json(request: Request) -> Response:
    """What was seen of all machines, oldest first."""
    lines = [SeenLine(**{k: row[k] for k in SEEN}).model_dump(mode="json") for row in evidence.every(store_of(request))]
    return download(orjson.dumps(lines, option=orjson.OPT_INDENT_2), "application/json", "tenugui-seen.json")


@router.post("/seen")
async def bring_seen(request: Request) -> Brought:
    """What was seen of machines as CSV or JSON in the request's body."""
    return await run_in_threadpool(_seen, store_of(request), await body_within(request, MOST_LIST_BYTES))


def _seen(store: Store, body: bytes) -> Brought:
    refuse = _refused("bad-seen")
    lines = read_records(body, SeenLine, refuse, PASSED_OVER)
    shelf = _shelf(store)
    rows = []
    for k, line in enumerate(lines):
        ability = ability_by(line.ability)
        if not ability.least <= line.level <= ability.most:
            what = f"Line {k + 1} of what was seen: {line.level:g} {ability.unit} is no level of '{line.ability}'."
            raise refuse(what, f"Give {ability.least:g} to {ability.most:g}.")
        rows.append((*_placed(shelf, line.printer_name, line.material_name, k, refuse), line.model_dump(mode="json")))
    taken = evidence.bring(store, rows)
    return Brought(taken=taken, there=len(lines) - taken)


@router.get("/series/{number}/whole.json", response_class=Response)
def whole_series(request: Request, number: Id) -> Response:
    """A series with all that was found of it."""
    store = store_of(request)
    row = series.one(store, number)
    whole = {
        "name": row["name"],
        "spec": row["spec"],
        "figure_name": row["figure_name"],
        "specimens": [{k: r[k] for k in ("name", "levels", "found")} for r in series.specimens(store, number)],
    }
    return download(orjson.dumps(whole, option=orjson.OPT_INDENT_2), "application/json", f"series-{number}.json")


@router.post("/series/bring")
def bring_series(request: Request, whole: SeriesFile) -> int:
    """A series from another bench, with what was found; its number here."""
    store = store_of(request)
    rows = []
    for k, one in enumerate(whole.specimens):
        try:
            rows.append({"name": one.name, "levels": whole.levels_of(k), "found": one.found})
        except ValueError as reason:
            raise SeriesError("bad-series", f"Specimen '{one.name}': {reason}.", whole.name) from reason
        if strange := set(one.found) - set(whole.spec.responses):
            raise SeriesError("bad-series", f"Specimen '{one.name}': '{min(strange)[:40]}' is no response.", whole.name)
    read_results(table_of(whole.spec, rows), whole.spec, whole.name)
    return series.add(store, whole.name, whole.spec.model_dump(mode="json"), _figure(store, whole.figure_name), rows)


def _figure(store: Store, name: str | None) -> int | None:
    """The figure of that name, where there is exactly one."""
    named = [row["id"] for row in figures.every(store) if row["name"] == name]
    return int(named[0]) if len(named) == 1 else None


Shelf = tuple[dict[str, Row], dict[str, Row]]


def _shelf(store: Store) -> Shelf:
    printers, materials = (
        {row["name"]: row for row in machines.every(store, table, retired=True)} for table in ("printers", "materials")
    )
    return printers, materials


def _placed(
    shelf: Shelf, printer: str, material: str, k: int, refuse: Callable[[str, str], CoreError]
) -> Sequence[Any]:
    """The ids of a machine and a material by their names."""
    printers, materials = shelf
    for table, name, what in ((printers, printer, "printer"), (materials, material, "material")):
        if name not in table:
            raise refuse(
                f"Entry {k + 1}: no {what} on the shelf is called '{name[:60]}'.", "Put it on the shelf first."
            )
    if printers[printer]["process"] != materials[material]["process"]:
        raise refuse(f"Entry {k + 1}: '{material[:60]}' is no material for '{printer[:60]}'.", "Name another.")
    return printers[printer]["id"], materials[material]["id"]
