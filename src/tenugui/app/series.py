"""Series: planned, graded, read, and let tell of a machine."""

from __future__ import annotations

import csv
import io
import itertools
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from ..core.contract import Refusal
from ..core.contract.series import series_document
from ..core.formats import write_stl
from ..core.machines import load_material, load_printer, printer_heights
from ..core.pieces import piece
from ..core.plan.settable import by_hand, set_in_plans, wanted
from ..core.series import Results, SeriesError, Spec, cells_of, read_results
from ..core.series.results import table_of
from ..core.series.shipped import shipped
from ..core.series.spec import as_told
from ..core.table import MOST_BYTES
from ..store import evidence, figures, jobs, machines, plans, series
from ..store.db import Row, Store, StoreError, alone
from ..work.cells import LATER
from ..work.folds import Standing
from ..work.own import own_beside
from .able import ability_by
from .bodies import body_within
from .models import Id
from .series_models import (
    CellsPlanned,
    CellTroubled,
    FoundAsk,
    SeriesAsk,
    SeriesRow,
    SeriesWhole,
    ShippedRow,
    SpecimenRow,
    TellsAsk,
)
from .state import store_of

router = APIRouter(prefix="/api/series", tags=["series"])
MOST_SPECIMENS = 2000


@router.get("")
def every(request: Request) -> list[SeriesRow]:
    """All series, newest first."""
    return [SeriesRow(**{k: row[k] for k in SeriesRow.model_fields}) for row in series.every(store_of(request))]


@router.get("/shipped")
def offers(request: Request, printer_id: Id, material_id: Id) -> list[ShippedRow]:
    """Series that ship, about what a machine and a material are set to now."""
    store = store_of(request)
    printer, material = machines.one(store, "printers", printer_id), machines.one(store, "materials", material_id)
    machine = load_printer(printer["spec"])
    heights = printer_heights(machine, load_material(material["spec"], machine))
    return [
        ShippedRow(
            code=s.code,
            title=s.title,
            asks=s.asks,
            spec=s.spec,
            piece=s.piece,
            ability=s.ability[0] if s.ability else None,
        )
        for s in shipped(printer["spec"], material["spec"], heights)
    ]


@router.get("/pieces/{name}", response_class=Response)
def test_piece(name: str, levels: Annotated[list[float] | None, Query(max_length=20)] = None) -> Response:
    """A test piece as STL, at its usual levels or these."""
    if levels is not None and not all(0 < level <= 200 for level in levels):
        raise SeriesError("bad-levels", "Levels of a piece are above 0 and at most 200.", name[:40])
    out = io.BytesIO()
    write_stl(piece(name, levels), out)
    called = name.replace(" ", "-")
    return Response(
        out.getvalue(),
        media_type="model/stl",
        headers={"Content-Disposition": f'attachment; filename="{called}.stl"'},
    )


@router.post("")
def plan(request: Request, asked: SeriesAsk) -> int:
    """Plan a series: specimens of all its cells."""
    store = store_of(request)
    if asked.figure_id is not None:
        figures.one(store, asked.figure_id)
    names = list(asked.spec.factors)
    every_levels = []
    for cell in cells_of(asked.spec, None):
        levels = {name: asked.spec.factors[name][k] for name, k in zip(names, cell.levels, strict=True)}
        every_levels += [levels] * cell.runs
    if len(every_levels) > MOST_SPECIMENS:
        said = f"{len(every_levels):,} specimens; {MOST_SPECIMENS:,} are planned at most."
        raise SeriesError("too-many", said, asked.name, "Fewer levels, cells or repeats.")
    rows = [{"name": str(k + 1), "levels": levels, "found": {}} for k, levels in enumerate(every_levels)]
    return series.add(store, asked.name, asked.spec.model_dump(mode="json"), asked.figure_id, rows)


def _spec(row: Row) -> Spec:
    return Spec.model_validate(row["spec"])


def _read(spec: Spec, rows: list[Row]) -> Results | None:
    """What was found so far; None before anything was."""
    graded = [row for row in rows if any(str(v).strip() for v in row["found"].values())]
    return read_results(table_of(spec, graded), spec, "series") if graded else None


@router.get("/{number}")
def one(request: Request, number: Id) -> SeriesWhole:
    """A series with its specimens, and what they say."""
    store = store_of(request)
    row, rows = series.one(store, number), series.specimens(store, number)
    spec = _spec(row)
    doc = series_document(spec, _read(spec, rows))
    places = {tuple(as_told(cell.factors[name]) for name in spec.factors): k for k, cell in enumerate(doc.cells)}
    specimens = [
        SpecimenRow(
            id=r["id"],
            name=r["name"],
            levels=r["levels"],
            cell=places.get(tuple(as_told(r["levels"][name]) for name in spec.factors), -1),
            found=r["found"],
            run_id=r["run_id"],
            plan_id=r["plan_id"],
            version=r["version"],
        )
        for r in rows
    ]
    return SeriesWhole(
        id=number,
        name=row["name"],
        figure_id=row["figure_id"],
        figure_name=row["figure_name"],
        created_at=row["created_at"],
        spec=spec,
        doc=doc,
        set_in_plans=set_in_plans(spec),
        by_hand=by_hand(spec),
        specimens=specimens,
        troubled=_troubled(store, sorted({s.plan_id for s in specimens if s.plan_id is not None})),
    )


def _troubled(store: Store, numbers: list[int]) -> list[CellTroubled]:
    last = {plan: jobs.last_of(store, _cell_job(plan)) for plan in numbers}
    return [
        CellTroubled(plan_id=plan, problem=Refusal(**job["problem"]))
        for plan, job in last.items()
        if job is not None and job["state"] == "failed" and job["problem"]
    ]


def _cell_job(plan: int) -> str:
    return f"cell {plan}"


@router.put("/{number}/specimens/{specimen}")
def grade(request: Request, number: Id, specimen: Id, asked: FoundAsk) -> int:
    """What was found of a specimen, checked as a table's line would be; its new version."""
    store = store_of(request)
    spec = _spec(series.one(store, number))
    rows = series.specimens(store, number)
    mine = next((r for r in rows if r["id"] == specimen), None)
    if mine is None:
        raise StoreError("no-specimen", "There is no such specimen in this series.", "Load the page anew.", 404)
    if strange := set(asked.found) - set(spec.responses):
        raise SeriesError("bad-results", f"'{min(strange)[:40]}' is no response of this series.")
    found = {name: text.strip() for name, text in asked.found.items() if text.strip()}
    # With the others, since a preference names them.
    others = [r for r in rows if r["id"] != specimen and r["found"]]
    named = [{"name": r["name"], "levels": r["levels"], "found": {}} for r in rows if r["id"] != specimen]
    checked = [*others, *[r for r in named if r["name"] not in {o["name"] for o in others}]]
    read_results(table_of(spec, [mine | {"found": found}, *checked]), spec, f"specimen {mine['name']}")
    return series.keep_found(store, number, specimen, found, asked.version)


@router.post("/{number}/next")
def more(request: Request, number: Id) -> int:
    """One more specimen of the cell from which most is to be learned; how many there are then."""
    store = store_of(request)
    row, rows = series.one(store, number), series.specimens(store, number)
    if len(rows) >= MOST_SPECIMENS:
        raise SeriesError("too-many", f"A series keeps {MOST_SPECIMENS:,} specimens at most.")
    spec = _spec(row)
    doc = series_document(spec, _read(spec, rows))
    if doc.next is None:
        raise SeriesError("no-next", "There is no next cell.", row["name"])
    taken = {r["name"] for r in rows}
    name = next(str(k) for k in itertools.count(len(rows) + 1) if str(k) not in taken)
    series.add_specimens(store, number, [(name, doc.next.factors)])
    return len(rows) + 1


@router.post("/{number}/plans")
def plan_cells(request: Request, number: Id) -> CellsPlanned:
    """Have a plan made of every cell that has none yet: the newest proved plan of the figure, at the cell's levels. Two
    who ask at once get the same plans; one that could not be made is tried again.
    """
    store = store_of(request)
    with alone(store, f"cells {number}"):
        return _plan_cells(request, number)


def _plan_cells(request: Request, number: int) -> CellsPlanned:
    store, held = store_of(request), one(request, number)
    if held.figure_id is None:
        raise SeriesError("no-figure", "This series is of a test piece, not of a figure.", held.name)
    if not held.set_in_plans:
        what = f"Nothing of {', '.join(held.by_hand)} is set in a plan."
        raise SeriesError("nothing-to-set", what, held.name, "Set it on the machine before each print.")
    base = plans.newest_proved(store, held.figure_id)
    if base is None:
        raise SeriesError("no-plan", f"{held.figure_name} has no proved plan yet.", held.name, "Prove one first.")
    made = {wanted(s.levels): s.plan_id for s in held.specimens if s.plan_id is not None}
    for trouble in held.troubled:
        last = jobs.last_of(store, _cell_job(trouble.plan_id))
        assert last is not None  # it is what the trouble is of
        jobs.want(store, "cell", last["input"], key=last["result_key"], title=last["title"], figure_id=held.figure_id)
    every, standing = plans.of_figure(store, held.figure_id), Standing.of(store, base)
    open_cells = [k for k, _ in enumerate(held.doc.cells) if any(s.plan_id is None for s in _of_cell(held, k))]
    fresh = {wanted(held.doc.cells[k].factors) for k in open_cells} - set(made)
    own = {levels: own_beside(standing, levels.as_own) for levels in fresh}
    if len(every) + len(fresh) > plans.MOST_PLANS:
        what = f"{len(fresh)} more plans of {held.figure_name} would be more than {plans.MOST_PLANS}."
        raise SeriesError("too-many", what, held.name, "Plan fewer cells.")
    for k in open_cells:
        levels = wanted(held.doc.cells[k].factors)
        if levels not in made:
            # Until it is supported and proved at its own levels it is no plan of the cell: those are left open.
            made[levels] = plans.branch(store, base, standing.head, without=LATER, own=own[levels])
            given = {"plan": made[levels], "base": base, "height": levels.height, "risk": levels.risk}
            title = f"{held.name}: {', '.join(f'{n} {as_told(v)}' for n, v in held.doc.cells[k].factors.items())}"
            jobs.want(store, "cell", given, key=_cell_job(made[levels]), title=title, figure_id=held.figure_id)
        series.give_plan(store, number, [s.id for s in _of_cell(held, k)], made[levels])
    by_cell = {k: made[wanted(held.doc.cells[k].factors)] for k in open_cells}
    return CellsPlanned(plans=by_cell, set_in_plans=held.set_in_plans, by_hand=held.by_hand)


def _of_cell(held: SeriesWhole, k: int) -> list[SpecimenRow]:
    return [s for s in held.specimens if s.cell == k]


@router.get("/{number}/results.csv", response_class=Response)
def results(request: Request, number: Id) -> Response:
    """All specimens as a table, to be filled in and brought back."""
    store = store_of(request)
    spec = _spec(series.one(store, number))
    headers = {"Content-Disposition": f'attachment; filename="series-{number}.csv"'}
    return Response(
        table_of(spec, series.specimens(store, number)), media_type="text/csv; charset=utf-8", headers=headers
    )


@router.post("/{number}/results")
async def bring_results(request: Request, number: Id) -> int:
    """Results as a table in the request's body, taken whole or not at all; how many specimens it has."""
    body = await body_within(request, MOST_BYTES)
    return await run_in_threadpool(_bring, request, number, body)


def _bring(request: Request, number: int, body: bytes) -> int:
    store = store_of(request)
    spec = _spec(series.one(store, number))
    read = read_results(body, spec, "results")
    if len(read.names) > MOST_SPECIMENS:
        raise SeriesError("too-many", f"A series keeps {MOST_SPECIMENS:,} specimens at most.")
    # Kept as they were written, so that they read the same again.
    text = body.decode("utf-8-sig")
    first = text.partition("\n")[0]
    lines = csv.DictReader(io.StringIO(text), delimiter=";" if first.count(";") > first.count(",") else ",")
    written = [{(k or "").strip(): (v or "").strip() for k, v in line.items() if k is not None} for line in lines]
    written = [line for line in written if any(line.values())]
    rows: list[tuple[str, dict[str, Any], dict[str, Any]]] = []
    for name, at, line in zip(read.names, read.levels.tolist(), written, strict=True):
        levels = {factor: spec.factors[factor][k] for factor, k in zip(spec.factors, at, strict=True)}
        rows.append((name[:60], levels, {r: line[r] for r in spec.responses if line.get(r)}))
    series.replace(store, number, rows)
    return len(rows)


@router.post("/{number}/tells")
def tells(request: Request, number: Id, asked: TellsAsk) -> int:
    """Its yes and no become evidence of what a machine can do; how many pieces."""
    store = store_of(request)
    row = series.one(store, number)
    spec = _spec(row)
    ability = ability_by(asked.ability)
    if spec.responses.get(asked.response) != "yesno" or asked.factor not in spec.factors:
        raise SeriesError("nothing-told", "Only a yes or no by a factor tells what a machine can do.", row["name"])
    printer, material = (
        machines.one(store, table, key)
        for table, key in (("printers", asked.printer_id), ("materials", asked.material_id))
    )
    if printer["process"] != material["process"]:
        raise StoreError("wrong-process", "This material is not for this machine.", "Choose another.", 409)
    read = _read(spec, series.specimens(store, number))
    if read is None:
        raise SeriesError("nothing-told", "Nothing of it was graded yet.", row["name"], "Grade its specimens first.")
    at = list(spec.factors).index(asked.factor)
    seen = [
        (float(spec.factors[asked.factor][k]), bool(v))
        for k, v in zip(read.levels[:, at].tolist(), read.found[asked.response].tolist(), strict=True)
        if v == v and not isinstance(spec.factors[asked.factor][k], str)
    ]
    note = f"series {number}: {row['name']}"[:200]
    evidence.retell(store, asked.printer_id, asked.material_id, ability.code, seen=seen, note=note)
    return len(seen)


@router.delete("/{number}")
def delete(request: Request, number: Id) -> None:
    """Delete a series; runs stay in the log."""
    series.delete(store_of(request), number)
