"""A plan layer by layer: as it is proved, and as the machine's own file has it, played from its bytes, so that what is
seen is what will be printed.
"""

from __future__ import annotations

from fastapi import APIRouter, Request, Response

from ..core.contract import HeldDoc, LayerDoc, LayerPathDoc, PrintFileDoc, ProofBoard
from ..core.machines import draws_lines, load_printer, peels
from ..core.plan import Memory, Stacked, kept, key_of, layer_of, layer_path, layer_picture
from ..core.plan.given import ProofGiven
from ..core.plan.inputs import PosedInputs
from ..store import blobs
from ..store.db import StoreError
from ..work.folds import Standing
from ..work.shelf import StoreShelf
from .state import store_of

router = APIRouter(prefix="/api/plans", tags=["playback"])
_files = Memory(2)
_stacks = Memory(2)
_figures = Memory(2)


@router.get("/{number}/walk/{layer}")
def walk(request: Request, number: int, layer: int) -> LayerDoc:
    """A layer of the proved plan, from 1, as it is cut: no file need be written."""
    shelf = StoreShelf(store_of(request), _figures)
    given = Standing.of(shelf.store, number).given("proof").to(ProofGiven)
    board, supported = kept(shelf, "proof", given, ProofBoard), kept(shelf, "held", given, HeldDoc)
    if board is None or supported is None:
        raise StoreError("not-computed", "The plan has not been proved yet.", "Wait for the fold Proof.", 409)
    strip = board.held.strip
    key = key_of("proof", given)
    return layer_of(_stacks.recall(key, lambda: Stacked.of(PosedInputs(shelf, given), supported, strip)), layer)


def _written(request: Request, number: int) -> tuple[StoreShelf, Standing, PrintFileDoc]:
    shelf = StoreShelf(store_of(request))
    standing = Standing.of(shelf.store, number)
    file = kept(shelf, "printfile", standing.given("proof"), PrintFileDoc)
    if file is None:
        raise StoreError("not-computed", "The machine's file has not been written.", "Write it in the fold Proof.", 409)
    return shelf, standing, file


@router.get("/{number}/printfile/lines/{layer}")
def lines(request: Request, number: int, layer: int) -> LayerPathDoc:
    """A layer's lines in the order that they are drawn, with their kinds and seconds."""
    shelf, standing, file = _written(request, number)
    printer = load_printer(standing.given("proof").to(ProofGiven).printer)
    if not draws_lines(printer):
        raise StoreError("no-lines", "This machine draws no lines.", "Ask for its pictures.", 409)
    text = _files.recall(file.sha, lambda: blobs.get(shelf.store, file.sha).decode())
    return layer_path(text, layer, file.layers, printer)


@router.get("/{number}/printfile/pixels/{layer}", response_class=Response)
def pixels(request: Request, number: int, layer: int, hangs: bool = False) -> Response:
    """A layer's pixels, grey at its edges, cut to the figure's part of the screen, as a PNG; with `hangs` what is lit
    over nothing is striped.
    """
    shelf, standing, file = _written(request, number)
    printer = load_printer(standing.given("proof").to(ProofGiven).printer)
    supported = kept(shelf, "held", standing.given("proof"), HeldDoc)
    if not peels(printer) or supported is None:
        raise StoreError("no-pixels", "This machine lights no pixels.", "Ask for its lines.", 409)
    data = _files.recall(file.sha, lambda: blobs.get(shelf.store, file.sha))
    picture = layer_picture(data, layer, supported.row.footprint_mm, printer, hangs=hangs)
    return Response(
        picture,
        media_type="image/png",
        headers={"Cache-Control": "private, max-age=3600", "ETag": f'"{file.sha}-{layer}-{hangs}"'},
    )
