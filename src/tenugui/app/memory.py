"""Runs as they are remembered: what was set, what changed since, what was seen, and what it may come from."""

from __future__ import annotations

import csv
import io
from itertools import zip_longest
from typing import Annotated, get_args

import orjson
from fastapi import APIRouter, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from ..core.contract import FrozenLine, ToldHazard
from ..core.contract.learn import learnt_of
from ..core.formats import Label, read_photo, write_labels
from ..core.formats.photo import MOST_BYTES
from ..core.learn import BY_CUE, CUES, Cue, Near, suspects_of
from ..core.plan import changed
from ..core.plan.frozen import layers_in
from ..store import blobs, evidence, runs, seen
from ..store.db import Row, Store, StoreError
from .downloads import cell, download
from .logged import real, tales_of
from .memory_models import (
    CueRow,
    DeskDoc,
    PhotoAsk,
    PhotoPair,
    PhotoRow,
    Pin,
    PinAsk,
    RunsBeside,
    RunWhole,
    Seen,
    Since,
    Stage,
    SuspectRow,
)
from .models import Id
from .state import store_of
from .workshop import run_row

router = APIRouter(prefix="/api", tags=["memory"])


@router.get("/runs/find")
def find(request: Request, text: Annotated[str, Query(max_length=200)]) -> int:
    """The run of a label: its number, typed, or what its code holds."""
    digits = text.strip().rstrip("/").rsplit("/", 1)[-1].lower().removeprefix("run").strip(" #.")
    if not digits.isdecimal() or len(digits) > 9:
        raise StoreError(
            "no-run", f"'{text.strip()[:40]}' is no number of a run.", "Type the number of its label.", 404
        )
    return int(runs.one(store_of(request), int(digits))["id"])


@router.get("/runs/beside")
def beside(request: Request, a: Annotated[Id, Query()], b: Annotated[Id, Query()]) -> RunsBeside:
    """Two runs beside each other, of whatever figures."""
    store = store_of(request)
    one, other = runs.one(store, a), runs.one(store, b)
    lines = [[FrozenLine(**line) for line in run["frozen"]] for run in (one, other)]
    mine = {(line.where, line.name): line.value for line in lines[0]}
    shown = [_by_sight(seen.photos(store, number)) for number in (a, b)]
    return RunsBeside(
        runs=(run_row(one), run_row(other)),
        changed=changed(lines[1], lines[0]) if all(lines) else [],
        alike=sum(mine.get((line.where, line.name)) == line.value for line in lines[1]),
        pins=([_pin(row) for row in seen.of_run(store, a)], [_pin(row) for row in seen.of_run(store, b)]),
        pairs=[
            PhotoPair(stage=sight[0], side=sight[1], photos=(first, second))
            for sight in sorted({*shown[0], *shown[1]}, key=lambda s: (STAGES.index(s[0]), SIDES.index(s[1])))
            for first, second in zip_longest(shown[0].get(sight, []), shown[1].get(sight, []))
        ],
    )


STAGES: tuple[Stage, ...] = get_args(Stage)
SIDES: tuple[Seen, ...] = get_args(Seen)


def _by_sight(photos: list[Row]) -> dict[tuple[Stage, Seen], list[int]]:
    sights: dict[tuple[Stage, Seen], list[int]] = {}
    for row in photos:
        sights.setdefault((row["stage"], row["side"]), []).append(row["id"])
    return sights


@router.get("/runs/{number}")
def whole(request: Request, number: Id) -> RunWhole:
    """A run with everything."""
    store = store_of(request)
    run = runs.one(store, number)
    frozen = [FrozenLine(**line) for line in run["frozen"]]
    since: list[Since] = []
    for same, other in runs.before(store, run).items():
        if any(s.run_id == other["id"] for s in since):
            continue  # said already, of what is more alike
        lines = changed(frozen, [FrozenLine(**line) for line in other["frozen"]])
        since.append(
            Since(
                same=same,  # type: ignore[arg-type]
                run_id=other["id"],
                figure_name=other["figure_name"],
                started_at=other["started_at"],
                result=other["result"],
                changed=lines,
            )
        )
    return RunWhole(
        run=run_row(run),
        frozen=frozen,
        since=since,
        told=[ToldHazard(**h) for h in run["told"]],
        pins=[_pin(row) for row in seen.of_run(store, number)],
        photos=[PhotoRow(**{k: row[k] for k in PhotoRow.model_fields}) for row in seen.photos(store, number)],
        layers=layers_in(frozen),
    )


def _pin(row: Row) -> Pin:
    place = None if row["x_mm"] is None else (row["x_mm"], row["y_mm"], row["z_mm"])
    cue = BY_CUE.get(row["cue"])
    return Pin(
        id=row["id"],
        cue=row["cue"],
        words=cue.words if cue else row["cue"],
        layer=row["layer"],
        place=place,
        note=row["note"],
    )


@router.get("/runs/{number}/label", response_class=Response)
def label(request: Request, number: Id) -> Response:
    """The label of a run as PDF, with its number and a code that opens it."""
    run = runs.one(store_of(request), number)
    height = next((line["value"] for line in run["frozen"] if line["where"] == "plan" and "mm" in line["value"]), "")
    lines = (height, f"{run['printer_name']}, {run['material_name']}", f"{run['started_at']:%Y-%m-%d}")
    out = io.BytesIO()
    write_labels([Label(number, run["figure_name"], lines, f"{request.base_url}run/{number}")], out)
    name = f"run-{number}-label.pdf"
    return Response(
        out.getvalue(), media_type="application/pdf", headers={"Content-Disposition": f'inline; filename="{name}"'}
    )


@router.post("/runs/{number}/pins")
def pin(request: Request, number: Id, what: PinAsk) -> int:
    """Pin what was seen."""
    _cue(what.cue)
    return seen.add(store_of(request), number, what.model_dump())


@router.delete("/runs/{number}/pins/{pin}")
def unpin(request: Request, number: Id, pin: Id) -> None:
    """Take a pin away."""
    seen.remove(store_of(request), number, pin)


@router.post("/runs/{number}/photos")
async def add_photo(request: Request, number: Id, stage: Stage = "bare", side: Seen = "not said") -> int:
    """A photo as the request's body."""
    announced = request.headers.get("content-length", "")
    if not announced.isdecimal() or int(announced) > MOST_BYTES:
        what = f"A photo comes with its length, and is at most {MOST_BYTES >> 20} MB."
        raise StoreError("photo-too-large", what, "Make it smaller first.", 413)
    body = await request.body()
    return await run_in_threadpool(_kept_photo, store_of(request), number, PhotoAsk(stage=stage, side=side), body)


def _kept_photo(store: Store, number: int, shows: PhotoAsk, body: bytes) -> int:
    runs.one(store, number)
    photo = read_photo(body)
    row = {
        **shows.model_dump(),
        "sha256": blobs.put_bytes(store, photo.whole),
        "small_sha": blobs.put_bytes(store, photo.small),
        "width": photo.width,
        "height": photo.height,
    }
    return seen.add_photo(store, number, row)


@router.get("/runs/{number}/photos/{photo}", response_class=Response)
def photo(request: Request, number: Id, photo: Id, small: bool = False) -> Response:
    """A photo, whole or small."""
    store = store_of(request)
    row = next((p for p in seen.photos(store, number) if p["id"] == photo), None)
    if row is None:
        raise StoreError("no-photo", "There is no such photo.", "Load the page anew.", 404)
    data = blobs.get(store, row["small_sha" if small else "sha256"])
    return Response(data, media_type="image/jpeg", headers={"Cache-Control": "private, max-age=86400"})


@router.put("/runs/{number}/photos/{photo}")
def say_photo(request: Request, number: Id, photo: Id, shows: PhotoAsk) -> None:
    """Say what a photo shows."""
    seen.say_photo(store_of(request), number, photo, shows.stage, shows.side)


@router.delete("/runs/{number}/photos/{photo}")
def no_photo(request: Request, number: Id, photo: Id) -> None:
    """Take a photo away."""
    seen.remove_photo(store_of(request), number, photo)


@router.get("/cues/{process}")
def cues(process: str) -> list[CueRow]:
    """What may be seen on prints of a process."""
    return [CueRow(code=cue.code, words=cue.words) for cue in CUES if process in cue.process]


def _cue(code: str) -> Cue:
    if code not in BY_CUE:
        raise StoreError("no-cue", f"'{code[:24]}' is nothing that is looked for.", "Choose from the list.", 422)
    return BY_CUE[code]


@router.get("/runs/{number}/desk")
def desk(
    request: Request,
    number: Id,
    cue: Annotated[str, Query(max_length=24)],
    layer: Annotated[int | None, Query(ge=0, le=1_000_000)] = None,
) -> DeskDoc:
    """What something that was seen may come from, by this run's proof and this machine's log."""
    store, wanted = store_of(request), _cue(cue)
    run = runs.one(store, number)
    learnt, logged = learnt_causes(store, run["printer_id"], run["material_id"])
    near = [Near(h["code"], h["layer"], h["chance"]) for h in run["told"]]
    found = suspects_of(wanted, near, layer, learnt, proved=bool(run["told"]))
    return DeskDoc(
        cue=wanted.code,
        words=wanted.words,
        held=found.held,
        next=found.next,
        proved=bool(run["told"]),
        learnt_from=logged,
        suspects=[
            SuspectRow(
                code=s.suspect.code,
                words=s.suspect.words,
                chance=s.chance,
                told=s.told,
                times=s.times,
                test=s.suspect.test,
                minutes=s.suspect.minutes,
                series=s.suspect.series,
            )
            for s in found.suspected
        ],
    )


def learnt_causes(store: Store, printer_id: int, material_id: int) -> tuple[dict[str, float], int]:
    """How many times as often as told each kind of hazard comes true on a machine, and from how many runs."""
    ever = evidence.history(store, "printers", printer_id)
    tales = tales_of(real(runs.told_on(store, printer_id, material_id)), ever)
    return {c.cause: c.mean for c in learnt_of(tales)}, len(tales)


COLUMNS = (
    "id", "figure_name", "plan_number", "printer_name", "material_name", "started_at", "simulated", "planned_s",
    "real_s", "planned_g", "real_g", "planned_risk", "result", "failed_layer", "cause", "removal", "note",
)  # fmt: skip
MOST_OUT = 100_000


@router.get("/log.csv", response_class=Response)
def as_csv(request: Request) -> Response:
    """The whole log as a table, oldest first."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow(COLUMNS)
    for row in reversed(runs.every(store_of(request), MOST_OUT)):
        table.writerow([cell(row[name]) for name in COLUMNS])
    return download(out.getvalue().encode(), "text/csv; charset=utf-8", "tenugui-log.csv")


@router.get("/log.json", response_class=Response)
def as_json(request: Request) -> Response:
    """The log of real machines as `learn` reads it, oldest first, with what each run froze and what its proof told."""
    store = store_of(request)
    listed = [
        {
            "run": row["id"],
            "figure": row["figure_name"],
            "machine": row["printer_name"],
            "material": row["material_name"],
            "started_at": f"{row['started_at']:%Y-%m-%dT%H:%M:%S}",
            "planned_s": row["planned_s"],
            "planned_risk": row["planned_risk"],
            "real_s": row["real_s"],
            "result": row["result"],
            "failed_layer": row["failed_layer"],
            "cause": row["cause"],
            "frozen": row["frozen"],
            "plan": {"proof": {"hazards": row["told"]}} if row["told"] else None,
        }
        for row in real(runs.whole_log(store, MOST_OUT))
    ]
    return download(orjson.dumps(listed, option=orjson.OPT_INDENT_2), "application/json", "tenugui-log.json")
