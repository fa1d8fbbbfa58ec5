"""A plate's own file: played back from its bytes, and printed on its simulated machine."""

from __future__ import annotations

import json
from typing import Any, Literal

from fastapi import APIRouter, Request, Response

from ..core.contract import LayerPathDoc, PrintFileDoc, TrialDoc
from ..core.machines import Printer, draws_lines, load_printer, peels
from ..core.plan import Memory, kept, layer_path, layer_picture
from ..core.plan.given import TrialGiven
from ..core.plan.on_plate import PlateGiven
from ..store import blobs, runs
from ..store.db import Store, StoreError
from ..work.folds import Standing
from ..work.shelf import StoreShelf
from .machine import state_at, threats_of
from .machine_models import MachineAsk
from .models import Id
from .plates import begun, file_given, plate_laid
from .plates_models import PlateOnMachine
from .shed import ask, shed
from .state import store_of
from .workshop_models import Started

router = APIRouter(prefix="/api/plates", tags=["plates"])
_files = Memory(2)


def _written(request: Request, number: int, k: int) -> tuple[Store, PlateGiven, PrintFileDoc, Printer]:
    given = file_given(request, number, k)
    store = store_of(request)
    file = kept(StoreShelf(store), "plate", given, PrintFileDoc)
    if file is None:
        raise StoreError("not-computed", "The plate's file has not been written.", "Write it first.", 409)
    return store, given, file, load_printer(given.pieces[0].plan.printer)


@router.get("/{number}/{k}/file/lines/{layer}")
def lines(request: Request, number: Id, k: Id, layer: int) -> LayerPathDoc:
    """A layer's lines over all pieces in the order that they are drawn."""
    store, _, file, printer = _written(request, number, k)
    if not draws_lines(printer):
        raise StoreError("no-lines", "This machine draws no lines.", "Ask for its pictures.", 409)
    text = _files.recall(file.sha, lambda: blobs.get(store, file.sha).decode())
    return layer_path(text, layer, file.layers, printer)


@router.get("/{number}/{k}/file/pixels/{layer}", response_class=Response)
def pixels(request: Request, number: Id, k: Id, layer: int, hangs: bool = False) -> Response:
    """A layer of all pieces as the screen lights it, the whole of it, as a PNG."""
    store, _, file, printer = _written(request, number, k)
    if not peels(printer):
        raise StoreError("no-pixels", "This machine lights no pixels.", "Ask for its lines.", 409)
    data = _files.recall(file.sha, lambda: blobs.get(store, file.sha))
    wide, deep, _ = printer.build_mm
    picture = layer_picture(data, layer, (wide, deep), printer, hangs=hangs)
    heads = {"Cache-Control": "private, max-age=3600", "ETag": f'"{file.sha}-{layer}-{hangs}"'}
    return Response(picture, media_type="image/png", headers=heads)


def _named(number: int, k: int) -> str:
    return f"plate {number} {k}"


def _state(store: Store, number: int, k: int) -> PlateOnMachine:
    port, batch = shed.of(store, _named(number, k))
    return PlateOnMachine.model_validate(
        {name: v for name, v in state_at(port, _named(number, k)).items() if name in PlateOnMachine.model_fields}
        | {"batch": batch}
    )


@router.post("/{number}/{k}/machine")
def print_it(request: Request, number: Id, k: Id, asked: MachineAsk) -> PlateOnMachine:
    """Start a batch of the plate on its printer's simulated machine, with the very file that was written; what any
    piece may fail of may happen to the plate.
    """
    store, given, file, _ = _written(request, number, k)
    _, _, items = plate_laid(request, number, k)
    shelf = StoreShelf(store)
    port = shed.port(("--printer", json.dumps(given.pieces[0].plan.printer, sort_keys=True)), asked.speed)
    ask(port, "PUT", "/file", blobs.get(store, file.sha), _named(number, k))
    threats: list[dict[str, Any]] = []
    for place, (piece, _) in enumerate(items, 1):
        trial = kept(shelf, "trial", Standing.of(store, int(piece.plan)).given("proof").to(TrialGiven), TrialDoc)
        threats += [threat | {"why": f"Piece {place}: {threat['why']}"[:400]} for threat in threats_of(trial)]
    row = plate_laid(request, number, k)[0].row
    ask(
        port,
        "POST",
        "/start",
        json.dumps({"threats": threats, "before": runs.many_on(store, row["printer_id"])}).encode(),
    )
    # Only what the machine has accepted is a batch.
    shed.remember(store, _named(number, k), port, begun(request, number, k, Started(), simulated=True))
    return _state(store, number, k)


@router.get("/{number}/{k}/machine")
def look(request: Request, number: Id, k: Id) -> PlateOnMachine:
    """How far it is, and once it has ended what lies on the plate."""
    return _state(store_of(request), number, k)


@router.post("/{number}/{k}/machine/{turn}")
def turn(request: Request, number: Id, k: Id, turn: Literal["pause", "resume", "cancel"]) -> PlateOnMachine:
    """Hold it, go on, or give it up."""
    store = store_of(request)
    port, _ = shed.of(store, _named(number, k))
    ask(port, "POST", f"/{turn}")
    return _state(store, number, k)
