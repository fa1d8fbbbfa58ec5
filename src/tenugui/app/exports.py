"""What can be taken away: model files and the run sheet of a proved plan."""

from __future__ import annotations

import io
import re
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel

from ..core.contract import HeldDoc, HoleDoc, HollowChoice, PrintFileDoc, ProofBoard, SlicesDoc, TrialDoc, hole_from
from ..core.formats import write_3mf, write_offer, write_run_sheet
from ..core.hollow import plugs_of
from ..core.plan import MOST_PIECES, beams_3mf, kept, offer_sheet, run_sheet, stand_of
from ..core.plan.given import ProofGiven
from ..store import blobs
from ..store.db import Row, StoreError
from ..work.folds import Standing
from ..work.shelf import StoreShelf
from .models import Computation
from .state import computation, store_of

router = APIRouter(prefix="/api/plans", tags=["exports"])
UNPROVED = ("The plan as it stands has not been proved.", "Open the fold Proof first.")
KINDS = {"stl": "model/stl", "3mf": "model/3mf", "pdf": "application/pdf"}


@router.get("/{number}/plugs", response_class=Response)
def plugs(request: Request, number: int) -> Response:
    """A plug for every drain hole that the plan cuts, as parts of a 3MF."""
    standing = Standing.of(store_of(request), number)
    standing.fold("hollow")  # it is asked of this plan
    choice = standing.choice(HollowChoice)
    holes = [hole_from(HoleDoc(**row.model_dump())) for row in choice.holes] if choice else []
    if choice is None or not holes or not (choice.wishes and choice.wishes.plugs):
        what = "The plan cuts no holes that are to be plugged."
        raise StoreError("no-plugs", what, "Take a hollow figure with plugs in the fold Hollow.", 409)
    out = io.BytesIO()
    write_3mf(plugs_of(holes), out)
    return _file(out.getvalue(), KINDS["3mf"], f"{_named(standing.plan)}-plugs.3mf")


@router.get("/{number}/stand", response_class=Response)
def stand(request: Request, number: int) -> Response:
    """The supports alone as a 3MF, a little short of the figure: printed by themselves they are a stand that cradles
    it.
    """
    shelf = StoreShelf(store_of(request))
    standing = Standing.of(shelf.store, number)
    mesh = stand_of(_proved(shelf, standing))
    if mesh is None:
        raise StoreError("no-supports", "The plan has no supports.", "Nothing holds it: it stands by itself.", 409)
    out = io.BytesIO()
    write_3mf({"stand": mesh}, out)
    return _file(out.getvalue(), KINDS["3mf"], f"{_named(standing.plan)}-stand.3mf")


@router.get("/{number}/beams", response_class=Response)
def beams(request: Request, number: int) -> Response:
    """The supports alone as a 3MF of beams (the published lattice extension): small, and still struts where it
    is read.
    """
    shelf = StoreShelf(store_of(request))
    standing = Standing.of(shelf.store, number)
    data = beams_3mf(_proved(shelf, standing))
    if data is None:
        raise StoreError("no-supports", "The plan has no supports.", "Nothing holds it: it stands by itself.", 409)
    return _file(data, KINDS["3mf"], f"{_named(standing.plan)}-beams.3mf")


@router.get("/{number}/files/{kind}", response_class=Response)
def export(request: Request, number: int, kind: Literal["stl", "3mf", "pdf"]) -> Response:
    """The posed and supported figure as STL or 3MF, or the run sheet as PDF, of the proof as the plan stands."""
    store = store_of(request)
    shelf = StoreShelf(store)
    standing = Standing.of(store, number)
    given = standing.given("proof").to(ProofGiven)
    board = _board(shelf, given)
    if kind == "pdf":
        out = io.BytesIO()
        write_run_sheet(run_sheet(standing.plan["figure_name"], board, given, shelf.get(board.files.sheet_sha)), out)
        data = out.getvalue()
    else:
        data = blobs.get(store, board.files.stl if kind == "stl" else board.files.package)
    return _file(data, KINDS[kind], f"{_named(standing.plan)}.{kind}")


@router.get("/{number}/offer", response_class=Response)
def offer(
    request: Request,
    number: int,
    pieces: Annotated[int, Query(ge=1, le=MOST_PIECES)] = 1,
    more: Annotated[float, Query(ge=0, le=10)] = 0.0,
    unit: Annotated[str, Query(min_length=1, max_length=12)] = "coins",
) -> Response:
    """What the plan as it stands costs, for somebody who orders it, as PDF: so many pieces, a share `more` on top."""
    shelf = StoreShelf(store_of(request))
    standing = Standing.of(shelf.store, number)
    given = standing.given("proof").to(ProofGiven)
    board = _board(shelf, given)
    picture, name = shelf.get(board.files.sheet_sha), standing.plan["figure_name"]
    out = io.BytesIO()
    write_offer(offer_sheet(name, board, given, picture, pieces=pieces, more=more, unit=unit), out)
    return _file(out.getvalue(), KINDS["pdf"], f"{_named(standing.plan)}-offer.pdf")


def _board(shelf: StoreShelf, given: ProofGiven) -> ProofBoard:
    board = kept(shelf, "proof", given, ProofBoard)
    if board is None:
        raise StoreError("not-computed", *UNPROVED, 409)
    return board


def _proved(shelf: StoreShelf, standing: Standing) -> HeldDoc:
    supported = kept(shelf, "held", standing.given("proof"), HeldDoc)
    if supported is None:
        raise StoreError("not-computed", *UNPROVED, 409)
    return supported


def _serve(task: str, model: type[BaseModel], called: str) -> None:
    """Two addresses for what is computed of a proved plan when somebody wants it: GET looks, POST starts."""

    def look(request: Request, number: int) -> Response:
        return computation(store_of(request), task, Standing.of(store_of(request), number).given("proof"))

    def start(request: Request, number: int) -> Response:
        store = store_of(request)
        standing = Standing.of(store, number)
        title, figure = f"{called} of {standing.plan['figure_name']}", standing.plan["figure_id"]
        return computation(store, task, standing.given("proof"), start=True, title=title, figure_id=figure)

    look.__doc__ = f"{called} of the plan as it stands, where there is one."
    start.__doc__ = "Start computing it."
    answer: Any = Computation.__class_getitem__(model)
    router.add_api_route(f"/{{number}}/{task}", look, methods=["GET"], response_model=answer, name=f"look_{task}")
    router.add_api_route(f"/{{number}}/{task}", start, methods=["POST"], response_model=answer, name=f"start_{task}")


_serve("trial", TrialDoc, "A thousand prints")
_serve("printfile", PrintFileDoc, "The machine's file")
_serve("slices", SlicesDoc, "Outlines of every layer")


@router.get("/{number}/printfile/content", response_class=Response)
def machines_file(request: Request, number: int) -> Response:
    """The archive of layers, or the G-code (docs/formats.md)."""
    shelf = StoreShelf(store_of(request))
    standing = Standing.of(shelf.store, number)
    file = kept(shelf, "printfile", standing.given("proof"), PrintFileDoc)
    if file is None:
        raise StoreError("not-computed", "The machine's file has not been written.", "Write it in the fold Proof.", 409)
    kind, ending = ("application/zip", "-layers.zip") if file.kind == "layers" else ("text/x.gcode", ".gcode")
    return _file(blobs.get(shelf.store, file.sha), kind, f"{_named(standing.plan)}{ending}")


@router.get("/{number}/slices/content", response_class=Response)
def outlines_file(request: Request, number: int) -> Response:
    """A 3MF of the plan's parts with the closed outlines of every layer (the published slice extension)."""
    shelf = StoreShelf(store_of(request))
    standing = Standing.of(shelf.store, number)
    file = kept(shelf, "slices", standing.given("proof"), SlicesDoc)
    if file is None:
        raise StoreError("not-computed", "The outlines have not been cut.", "Cut them in the fold Proof.", 409)
    return _file(blobs.get(shelf.store, file.sha), KINDS["3mf"], f"{_named(standing.plan)}-slices.3mf")


def _named(plan: Row) -> str:
    name = re.sub(r"[^a-z0-9]+", "-", plan["figure_name"].lower()).strip("-") or "figure"
    return f"{name[:60]}-plan-{plan['number']}"


def _file(data: bytes, kind: str, name: str) -> Response:
    return Response(data, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})
