"""What can be taken away: model files and the run sheet of a proved plan."""

from __future__ import annotations

import io
import re
from typing import Literal

from fastapi import APIRouter, Request, Response

from ..core.contract import ProofBoard
from ..core.formats import write_run_sheet
from ..core.plan import kept, run_sheet
from ..store import blobs
from ..store.db import StoreError
from ..work.folds import Standing
from ..work.shelf import StoreShelf
from .state import store_of

router = APIRouter(prefix="/api/plans", tags=["exports"])
KINDS = {"stl": "model/stl", "3mf": "model/3mf", "pdf": "application/pdf"}


@router.get("/{number}/files/{kind}", response_class=Response)
def export(request: Request, number: int, kind: Literal["stl", "3mf", "pdf"]) -> Response:
    """The posed and supported figure as STL or 3MF, or the run sheet as PDF, of the proof as the plan stands."""
    store = store_of(request)
    shelf = StoreShelf(store)
    standing = Standing.of(store, number)
    given = standing.given("proof")
    board = kept(shelf, "proof", given, ProofBoard)
    if board is None:
        raise StoreError(
            "not-computed", "The plan as it stands has not been proved.", "Open the fold Proof first.", 409
        )
    if kind == "pdf":
        out = io.BytesIO()
        write_run_sheet(run_sheet(standing.plan["figure_name"], board, given, shelf.get(board.files.sheet_sha)), out)
        data = out.getvalue()
    else:
        data = blobs.get(store, board.files.stl if kind == "stl" else board.files.package)
    name = re.sub(r"[^a-z0-9]+", "-", standing.plan["figure_name"].lower()).strip("-") or "figure"
    file = f"{name[:60]}-plan-{standing.plan['number']}.{kind}"
    return Response(data, media_type=KINDS[kind], headers={"Content-Disposition": f'attachment; filename="{file}"'})
