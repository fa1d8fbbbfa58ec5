"""Figures on the bench: what is known of each, and its preview and pictures."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from fastapi import APIRouter, Query, Request, Response

from ..core.contract import next_of
from ..core.formats import FormatError
from ..core.machines import default_height, load_printer
from ..core.pose import largest_factor
from ..store import blobs, figures, jobs, machines, plans
from ..store.db import StoreError
from ..work.inputs import folds, key_of
from .models import Computation, FigureRow, Fit, NewName
from .state import computation, store_of

router = APIRouter(prefix="/api/figures", tags=["figures"])


@router.get("")
def on_bench(request: Request) -> list[FigureRow]:
    """Every figure on the bench, with where its newest plan stands."""
    store = store_of(request)
    rows = []
    on_it = figures.on_bench(store)
    chains = plans.chains(store, [row["plan_id"] for row in on_it if row["plan_id"]])
    for row in on_it:
        document = jobs.result(store, key_of("intake", {"sha": row["mesh_sha"]}))
        line = FigureRow(
            **{k: row[k] for k in ("id", "name", "file_name", "triangles", "created_at", "plan_id", "kit_id", "kit_name")},
            picture=document["picture_sha"] if document else None,
        )
        if row["plan_id"]:
            chain = chains[row["plan_id"]]
            states = folds(chain)
            line.next_fold = next_of(states)
            line.stale = any(f.state == "stale" for f in states)
            line.numbers = next((d["evidence"]["numbers"] for d in reversed(chain) if d["evidence"].get("numbers")), None)
            if line.next_fold == "size" and document:
                picture_sha = document["picture_sha"]
                line.picture = picture_sha
        rows.append(line)
    return rows


@router.get("/{number}/intake")
def intake(request: Request, number: int) -> Computation:
    """The intake's document, or the job that makes it."""
    store = store_of(request)
    return computation(store, "intake", {"sha": figures.one(store, number)["mesh_sha"]})


@router.get("/{number}/mend/{way}")
def mend(request: Request, number: int, way: Literal["repaired", "united", "remeshed", "bare"]) -> Computation:
    """A mended copy, with what was changed; the original stays."""
    store = store_of(request)
    return computation(store, "mend", {"sha": figures.one(store, number)["mesh_sha"], "way": way})


@router.get("/{number}/proposals")
def proposals(request: Request, number: int, way: str = "original", marks: str | None = None) -> Computation:
    """What might be marked on the figure, or on its mended copy; with `marks`, the blob of its file's own labels, these too."""
    store = store_of(request)
    sha = original = figures.one(store, number)["mesh_sha"]
    if way != "original":
        document = jobs.result(store, key_of("mend", {"sha": sha, "way": way}))
        if document is None:
            raise StoreError("not-computed", f"There is no {way} copy yet.", "Make it first.", 409)
        sha = document["sha"]
    return computation(store, "proposals", {"sha": sha} | ({"marks": marks, "marks_of": original} if marks else {}))


@router.get("/{number}/weak")
def weak(
    request: Request, number: int, printer: int, factor: Annotated[float, Query(gt=1e-6, le=1e6)], way: str = "original"
) -> Computation:
    """Parts too thin to survive at this size on this printer."""
    store = store_of(request)
    sha = figures.one(store, number)["mesh_sha"]
    document = jobs.result(store, key_of("intake", {"sha": sha}) if way == "original" else key_of("mend", {"sha": sha, "way": way}))
    if document is None:
        raise StoreError("intake-missing", "The figure has not been examined yet.", "Wait for the intake to finish.", 409)
    given = {
        "sha": document.get("sha", sha),
        "preview_sha": document["preview_sha"],
        "factor": factor,
        "printer": machines.one(store, "printers", printer)["spec"],
    }
    return computation(store, "weak", given)


@router.get("/{number}/fits")
def fits(request: Request, number: int) -> list[Fit]:
    """For every printer the largest factor at which the figure fits it, in any pose."""
    store = store_of(request)
    document = jobs.result(store, key_of("intake", {"sha": figures.one(store, number)["mesh_sha"]}))
    if document is None:
        raise StoreError("intake-missing", "The figure has not been examined yet.", "Wait for the intake to finish.", 409)
    hull = np.array(document["hull"])
    found = []
    for row in machines.every(store, "printers"):
        printer = load_printer(row["spec"])
        found.append(Fit(printer_id=row["id"], factor=largest_factor(hull, printer.build_mm), layer_mm=default_height(printer)))
    return found


@router.patch("/{number}")
def rename(request: Request, number: int, new: NewName) -> None:
    """Rename a figure."""
    figures.rename(store_of(request), number, new.name.strip())


@router.delete("/{number}")
def put_away(request: Request, number: int) -> None:
    """Take a figure off the bench. Nothing is deleted."""
    figures.put_away(store_of(request), number, True)


@router.post("/{number}/back")
def put_back(request: Request, number: int) -> None:
    """Put a figure back onto the bench."""
    figures.put_away(store_of(request), number, False)


blob_router = APIRouter(prefix="/api/blobs", tags=["blobs"])
KINDS = {b"\x89PNG": "image/png", b"TNG1": "application/octet-stream", b"TNV1": "application/octet-stream", b"TNL1": "application/octet-stream"}


@blob_router.get("/{sha}", response_class=Response)
def blob(request: Request, sha: str) -> Response:
    """A picture or a preview by its content's hash; never changes, so it may be kept for ever."""
    data = blobs.get(store_of(request), sha)
    kind = KINDS.get(data[:4])
    if kind is None:
        raise FormatError("not-a-view", "This is a model file; ask for it through its plan.")
    # Pictures and quantised meshes hardly shrink; packing them again would only cost time.
    return Response(data, media_type=kind, headers={"Cache-Control": "public, max-age=31536000, immutable", "Content-Encoding": "identity"})
