"""Plates: what is printed together, laid out, moved by hand, costed, written and begun."""

from __future__ import annotations

import threading
from collections.abc import Callable
from datetime import datetime
from typing import Literal

from fastapi import APIRouter, Request, Response

from ..core.contract import PrintFileDoc, SupportsBoard, SupportsChoice
from ..core.plan import PieceGiven, PlateGiven, kept
from ..core.plan.given import BandedGiven
from ..core.plate import Nested, Piece, SupportSet, batch_curve, plate_of, plates_of, sets_on_plate
from ..store import blobs, machines, plates
from ..store.db import Store, StoreError
from ..work.folds import Standing
from ..work.shelf import StoreShelf
from ..work.started import begin
from .counted import KNOWN, standings
from .models import Computation, Id
from .plate_files import package_of, sheet_of
from .plate_view import Sight, turns_of, whole_of
from .plates_models import (
    MOST_PIECES,
    Body,
    LeftRow,
    Lying,
    Moved,
    OfferRow,
    OnePlate,
    PlateAsk,
    PlateChange,
    PlateRow,
    PlateWhole,
    Seen,
    SetRow,
    Ticks,
)
from .state import computation, store_of
from .workshop import accepted
from .workshop_models import Started

router = APIRouter(prefix="/api/plates", tags=["plates"])
_nesting = threading.BoundedSemaphore(2)
"""So many plates are laid out at once: each takes a core for a second or two."""
CURVE_PIECES = 24


def _sight(store: Store, number: int, *, start: bool = False) -> Sight:
    row = plates.one(store, number)
    body = Body.model_validate(row["body"])
    return Sight.of(row, body, standings(store, KNOWN, body.pieces, row["printer_id"], start=start))


def _whole(store: Store, number: int, *, start: bool = False) -> PlateWhole:
    return whole_of(store, _sight(store, number, start=start))


@router.get("")
def every(request: Request) -> list[PlateRow]:
    """All plates, newest first."""
    rows = []
    for row in plates.every(store_of(request)):
        body = Body.model_validate(row["body"])
        rows.append(
            PlateRow(
                id=row["id"],
                name=row["name"],
                printer_name=row["printer_name"],
                process=row["process"],
                pieces=sum(line.copies for line in body.pieces),
                plates=len({at.plate for at in body.laid}),
                begun=row["begun"],
                created_at=row["created_at"],
            )
        )
    return rows


@router.get("/offers/{printer_id}")
def offers(request: Request, printer_id: Id) -> list[OfferRow]:
    """Plans that are made for a printer and were accepted."""
    rows = plates.offers(store_of(request), printer_id)
    return [OfferRow(plan_id=r["id"], figure_name=r["figure_name"], plan_number=r["number"]) for r in rows]


@router.post("")
def add(request: Request, asked: PlateAsk) -> int:
    """Make a plate, and have the footprints of its plans drawn; its number."""
    store = store_of(request)
    machines.one(store, "printers", asked.printer_id)
    body = Body(gap_mm=asked.gap_mm, rates=asked.rates, pieces=asked.pieces)
    number = plates.add(store, asked.name, asked.printer_id, body.plain())
    _sight(store, number, start=True)
    return number


@router.get("/{number}")
def one(request: Request, number: Id) -> PlateWhole:
    """A plate as it stands."""
    return _whole(store_of(request), number)


@router.post("/{number}/count")
def count(request: Request, number: Id) -> PlateWhole:
    """Have the footprints drawn that are not there."""
    return _whole(store_of(request), number, start=True)


@router.put("/{number}")
def change(request: Request, number: Id, asked: PlateChange) -> PlateWhole:
    """Other pieces, gap, rates, name or places kept free; what is still there stays where it lies."""
    store = store_of(request)
    row = plates.one(store, number)
    if asked.printer_id != row["printer_id"]:
        raise StoreError(
            "another-printer", "A plate stays on its printer.", "Make another plate for the other machine.", 409
        )
    held = Body.model_validate(row["body"])
    copies = {line.plan_id: line.copies for line in asked.pieces}
    body = held.model_copy(
        update={
            "gap_mm": asked.gap_mm,
            "rates": asked.rates,
            "pieces": asked.pieces,
            "free": asked.free,
            "in_turn": asked.in_turn,
            # How many at once are best is told anew once it is laid out so.
            "curve": held.curve if asked.in_turn == held.in_turn else [],
            "laid": [at for at in held.laid if at.nth <= copies.get(at.plan_id, 0)],
            "left": [],
        }
    )
    plates.step(store, number, asked.version, _changed(held, body), body.plain(), name=asked.name)
    return _whole(store, number, start=True)


def _changed(held: Body, body: Body) -> str:
    """What a step did, in words."""
    if held.pieces != body.pieces:
        return f"now {sum(line.copies for line in body.pieces)} pieces"
    if held.free != body.free:
        return "kept a place free" if len(body.free) > len(held.free) else "gave a place back"
    if held.in_turn != body.in_turn:
        return "one after the other" if body.in_turn else "layer by layer"
    return f"a gap of {body.gap_mm:g} mm" if held.gap_mm != body.gap_mm else "another name or rate"


@router.post("/{number}/lay")
def lay(request: Request, number: Id, asked: Seen) -> PlateWhole:
    """Lay out all that is ready; what is pinned stays."""
    store = store_of(request)
    sight = _sight(store, number, start=True)
    body = sight.body
    if not sight.stand.counted:
        what = "No plan of this plate is proved and its footprint drawn."
        raise StoreError("nothing-ready", what, "See what each line of the plate waits for.", 409)
    pinned = [at for at in body.laid if at.pinned and at.plan_id in sight.stand.counted]
    stay = {(at.plan_id, at.nth) for at in pinned}
    pieces = sight.pieces()
    loose = [piece for key, piece in pieces.items() if key not in stay]
    fixed = [
        (pieces[at.plan_id, at.nth], Nested(0, at.plate, at.x_mm, at.y_mm, at.turn_deg))
        for at in pinned
        if (at.plan_id, at.nth) in pieces
    ]
    size, free = sight.printer.build_mm, sight.free()
    with _nesting:
        laid = plates_of(loose, size, gap=body.gap_mm, hangs=sight.printer.hangs, fixed=fixed, free=free)
        first = next(iter(pieces.values()))
        curve = batch_curve(
            first, size, gap=body.gap_mm, hangs=sight.printer.hangs, most=CURVE_PIECES, takes=sight.takes
        )
    now = [
        Lying(
            plan_id=int(piece.plan),
            nth=piece.copy,
            plate=k,
            x_mm=round(at.x_mm, 3),
            y_mm=round(at.y_mm, 3),
            turn_deg=at.turn_deg,
            pinned=(int(piece.plan), piece.copy) in stay,
        )
        for k, plate in enumerate(laid.plates)
        for piece, at in plate.items
    ]
    left: dict[tuple[int, str], int] = {}
    for piece, why in laid.unplaced:
        left[int(piece.plan), why] = left.get((int(piece.plan), why), 0) + 1
    after = body.model_copy(
        update={
            "laid": now,
            "left": [LeftRow(plan_id=plan, copies=n, why=why) for (plan, why), n in left.items()],
            "curve": [(n, round(h, 3)) for n, h in curve],
            "ticked": [],
        }
    )
    plates.step(store, number, asked.version, "laid out", after.plain())
    return _whole(store, number)


@router.put("/{number}/laid")
def move(request: Request, number: Id, asked: Moved) -> PlateWhole:
    """Move, turn, pin or let go of pieces, wherever that puts them; what is wrong with it is told."""
    store = store_of(request)
    body = Body.model_validate(plates.one(store, number)["body"])
    moved = {(at.plan_id, at.nth): at for at in asked.moved}
    there = {(at.plan_id, at.nth) for at in body.laid}
    if not moved.keys() <= there:
        raise StoreError("no-piece", "There is no such piece on the plate.", "Look at it as it stands now.", 404)
    laid = [moved.get((at.plan_id, at.nth), at) for at in body.laid]
    was = next(at for at in body.laid if (at.plan_id, at.nth) in moved)
    now = moved[was.plan_id, was.nth]
    did = "let go" if was.pinned and not now.pinned else "turned" if was.turn_deg != now.turn_deg else "moved"
    after = body.model_copy(update={"laid": laid})
    plates.step(
        store,
        number,
        asked.version,
        f"{did} {len(moved)} of them" if len(moved) > 1 else f"{did} a piece",
        after.plain(),
    )
    return _whole(store, number)


@router.put("/{number}/ticks")
def tick(request: Request, number: Id, asked: Ticks) -> PlateWhole:
    """Lines of the card that are ticked off."""
    store = store_of(request)
    body = Body.model_validate(plates.one(store, number)["body"])
    plates.amend(store, number, asked.version, body.model_copy(update={"ticked": asked.ticked}).plain())
    return _whole(store, number)


@router.post("/{number}/{turn}")
def turn(request: Request, number: Id, turn: Literal["undo", "redo"], asked: Seen) -> PlateWhole:
    """Take the last change back, or make it again."""
    store = store_of(request)
    plates.turn(store, number, asked.version, -1 if turn == "undo" else 1)
    return _whole(store, number, start=True)


@router.get("/{number}/sets/{plan}")
def sets(request: Request, number: Id, plan: Id) -> list[SetRow]:
    """More supports, or more pieces: every set of a plan's board, and how many of it the plate holds."""
    store = store_of(request)
    sight, standing = _sight(store, number), Standing.of(store, plan)
    board = kept(StoreShelf(store), "supports", standing.given("supports"), SupportsBoard)
    if board is None:
        raise StoreError("not-computed", "Its supports are not at hand.", "Open the plan's fold Supports.", 409)
    held, printer = standing.choice(SupportsChoice), sight.printer
    rows = [
        SupportSet(
            row.footprint_mm,
            row.strip.layers * row.strip.layer_height_mm,
            row.numbers.time_s,
            printer.start_s,
            1 - (1 - row.gift.lost) * (1 - row.gift.part_lost),
        )
        for row in board.choices
    ]
    with _nesting:
        told = sets_on_plate(rows, printer.build_mm, gap=sight.body.gap_mm, hangs=printer.hangs, most=MOST_PIECES)
    return [
        SetRow(
            style=row.style,
            risk=row.risk,
            tips=row.tip_count,
            box_mm=row.footprint_mm,
            hands_min=row.gift.hands_min,
            lost=of.lost,
            **vars(on),
            taken=held is not None and (row.style, row.risk) == (held.style, held.risk) and not row.own,
        )
        for row, of, on in zip(board.choices, rows, told, strict=True)
    ]


@router.delete("/{number}")
def delete(request: Request, number: Id) -> None:
    """Delete a plate; what was begun of it stays in the log."""
    plates.delete(store_of(request), number)


def plate_laid(request: Request, number: int, k: int) -> tuple[Sight, OnePlate, list[tuple[Piece, Nested]]]:
    """A plate of the order, with nothing wrong on it.

    Raises:
        StoreError: `no-such-plate`, `not-computed`, `wrong-plate`.
    """
    store = store_of(request)
    sight = _sight(store, number)
    whole = whole_of(store, sight)
    plate = next((p for p in whole.plates if p.number == k - 1), None)
    if plate is None:
        raise StoreError("no-such-plate", f"There is no plate {k} of it.", "Lay it out first.", 404)
    waits = [row.figure_name for row in whole.pieces if row.state != "ready" and _lies(sight.body, row.plan_id, k - 1)]
    if waits:
        what = f"Not all of it is proved as it stands: {', '.join(waits)}."
        raise StoreError("not-computed", what, "Prove those plans, then lay the plate out again.", 409)
    if plate.wrong:
        raise StoreError("wrong-plate", plate.wrong[0].said, "Move it, or lay the plate out again.", 409)
    return sight, plate, sight.laid()[k - 1]


def _lies(body: Body, plan: int, k: int) -> bool:
    return any(at.plan_id == plan and at.plate == k for at in body.laid)


@router.get("/{number}/{k}/files/{kind}", response_class=Response)
def files(request: Request, number: Id, k: Id, kind: Literal["3mf", "pdf"]) -> Response:
    """All pieces of a plate as a 3MF, each where it lies, or its sheet with a drawing from above and its card."""
    sight, plate, items = plate_laid(request, number, k)
    write: Callable[[], bytes] = (
        (lambda: package_of(StoreShelf(store_of(request)), sight.stand, items, sight.printer))
        if kind == "3mf"
        else (lambda: sheet_of(sight.row["name"], k, plate, items, sight))
    )
    kinds = {"3mf": "model/3mf", "pdf": "application/pdf"}
    name = f'attachment; filename="plate-{number}-{k}.{kind}"'
    return Response(write(), media_type=kinds[kind], headers={"Content-Disposition": name})


def file_given(request: Request, number: int, k: int) -> PlateGiven:
    sight, _, items = plate_laid(request, number, k)
    if sight.body.in_turn:
        order = turns_of(sight, plate_of(items, hangs=sight.printer.hangs)).order
        items = [items[place] for place in order]
    return PlateGiven(
        in_turn=sight.body.in_turn,
        pieces=tuple(
            PieceGiven(
                plan=sight.stand.given[int(piece.plan)].to(BandedGiven),
                x_mm=at.x_mm,
                y_mm=at.y_mm,
                turn_deg=at.turn_deg,
            )
            for piece, at in items
        ),
    )


@router.get("/{number}/{k}/file", response_model=Computation[PrintFileDoc])
def look_at_file(request: Request, number: Id, k: Id) -> Response:
    """The machine's own file of a plate, where it has been written."""
    return computation(store_of(request), "plate", file_given(request, number, k))


@router.post("/{number}/{k}/file", response_model=Computation[PrintFileDoc])
def start_file(request: Request, number: Id, k: Id) -> Response:
    """Start writing it."""
    store = store_of(request)
    title = f"The machine's file of {plates.one(store, number)['name']}"
    return computation(store, "plate", file_given(request, number, k), start=True, title=title)


@router.get("/{number}/{k}/file/content", response_class=Response)
def file_content(request: Request, number: Id, k: Id) -> Response:
    """The archive of layers, or the G-code, of a whole plate."""
    shelf = StoreShelf(store_of(request))
    file = kept(shelf, "plate", file_given(request, number, k), PrintFileDoc)
    if file is None:
        raise StoreError("not-computed", "The plate's file has not been written.", "Write it first.", 409)
    kind, ending = ("application/zip", "-layers.zip") if file.kind == "layers" else ("text/x.gcode", ".gcode")
    name = f'attachment; filename="plate-{number}-{k}{ending}"'
    return Response(blobs.get(shelf.store, file.sha), media_type=kind, headers={"Content-Disposition": name})


@router.post("/{number}/{k}/start")
def start(request: Request, number: Id, k: Id, started: Started) -> int:
    """Start a plate: a run for each piece, so that each has an outcome of its own; the number of the batch."""
    return begun(request, number, k, started)


def begun(request: Request, number: int, k: int, started: Started, *, simulated: bool = False) -> int:
    """A batch with a run for each piece; its number.

    Raises:
        StoreError: what `plate_laid` refuses; `not-accepted`.
    """
    store = store_of(request)
    sight, plate, items = plate_laid(request, number, k)
    when = started.started_at or datetime.now()
    standing = {plan: accepted(store, plan) for plan in {int(piece.plan) for piece, _ in items}}
    rows = [
        begin(store, standing[int(piece.plan)], when, room=started.room.named(), simulated=simulated)
        for piece, _ in items
    ]
    return plates.begin(store, number, sight.row["name"], k, planned_s=plate.doc.time_s, started_at=when, runs=rows)
