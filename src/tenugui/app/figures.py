"""Figures on the bench: what is known of each, and its preview and pictures."""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated, Any, Literal

import numpy as np
from fastapi import APIRouter, Query, Request, Response

from ..core.contract import IntakeDoc, MendDoc, ProposalsDoc, Way, WeakDoc
from ..core.formats import FormatError
from ..core.machines import default_height, load_printer
from ..core.plan import copy_of, kept
from ..core.plan.given import MarkGiven, MendGiven, MeshGiven, WeakGiven
from ..core.pose import largest_factor, settled_up, unit
from ..store import blobs, figures, machines, plans
from ..store.db import Row, Store, StoreError
from ..store.tidy import tidy
from ..work.shelf import StoreShelf
from .models import AwayRow, Computation, FigureRow, Fit, NewName, PointedAt, Stand
from .recent import Recent
from .rows import bench_rows
from .state import computation, store_of

router = APIRouter(prefix="/api/figures", tags=["figures"])


@router.get("", response_model=list[FigureRow])
def on_bench(request: Request) -> Response:
    """Every figure on the bench, with where its newest plan stands."""
    recent: Recent = request.app.state.bench
    return recent.answer(request, lambda: bench_rows(store_of(request)))


@router.get("/away")
def away(request: Request) -> list[AwayRow]:
    """Figures that were put away, the last first."""
    return [AwayRow(**{k: row[k] for k in AwayRow.model_fields}) for row in figures.away(store_of(request))]


def _about(store: Store, number: int) -> tuple[Row, str]:
    row = figures.one(store, number)
    return row, row["name"]


@router.get("/{number}/intake", response_model=Computation[IntakeDoc])
def intake(request: Request, number: int) -> Response:
    """The examination of a figure."""
    row, _ = _about(store_of(request), number)
    return computation(store_of(request), "intake", MeshGiven(sha=row["mesh_sha"]))


@router.post("/{number}/intake", response_model=Computation[IntakeDoc])
def examine(request: Request, number: int) -> Response:
    """Start the examination, or start it again."""
    row, name = _about(store_of(request), number)
    return computation(
        store_of(request),
        "intake",
        MeshGiven(sha=row["mesh_sha"]),
        start=True,
        title=f"Examining {name}",
        figure_id=number,
    )


Made = Literal["whole", "original", "united", "remeshed", "bare", "floored", "filled"]


@router.get("/{number}/mend/{way}", response_model=Computation[MendDoc])
def mended(request: Request, number: int, way: Made) -> Response:
    """Another copy of the figure, with what was changed; the original stays."""
    row, _ = _about(store_of(request), number)
    return computation(store_of(request), "mend", MendGiven(sha=row["mesh_sha"], way=way))


@router.post("/{number}/mend/{way}", response_model=Computation[MendDoc])
def mend(request: Request, number: int, way: Made) -> Response:
    """Start making it."""
    row, name = _about(store_of(request), number)
    given = MendGiven(sha=row["mesh_sha"], way=way)
    return computation(store_of(request), "mend", given, start=True, title=f"Mending {name}", figure_id=number)


def _copy(store: Store, row: Row, way: str) -> Any:
    copy = copy_of(StoreShelf(store), row["mesh_sha"], way)
    if copy is None:
        what = "The figure has not been examined yet." if way == "ready" else f"There is no {way} copy yet."
        raise StoreError("not-computed", what, "Wait for it, or make it first.", 409)
    return copy


def _proposals(store: Store, number: int, way: Way, marks: str | None) -> MarkGiven:
    row, _ = _about(store, number)
    copy = _copy(store, row, way)
    size = _size_of(store, number)
    up = size.get("up") or copy.upright.ups[0].up
    own = next((list(u.front) for u in copy.upright.ups if list(u.up) == list(up)), None)
    # One that was turned by hand; the figure's own is known by what looks at it.
    front = size["front"] if size.get("front") and list(size["front"]) != own else None
    return MarkGiven(sha=copy.sha, up=up, front=front, marks=marks, marks_of=row["mesh_sha"] if marks else None)


def _size_of(store: Store, number: int) -> dict[str, Any]:
    """What the figure's plan says of how it stands; empty where it does not say yet."""
    chain = plans.chain(store, figures.one(store, number)["plan_id"])
    return next((row["choice"] for row in reversed(chain) if row["fold"] == "size"), {})


Sha = Annotated[str | None, Query(pattern="^[0-9a-f]{64}$")]


@router.get("/{number}/proposals", response_model=Computation[ProposalsDoc])
def proposals(request: Request, number: int, way: Way = "ready", marks: Sha = None) -> Response:
    """What might be marked on the copy that is worked on; with `marks`, the blob of its file's own labels,
    these too.
    """
    return computation(store_of(request), "proposals", _proposals(store_of(request), number, way, marks))


@router.post("/{number}/proposals", response_model=Computation[ProposalsDoc])
def propose(request: Request, number: int, way: Way = "ready", marks: Sha = None) -> Response:
    """Start looking."""
    store = store_of(request)
    given = _proposals(store, number, way, marks)
    return computation(
        store, "proposals", given, start=True, title=f"Looking at {_about(store, number)[1]}", figure_id=number
    )


@router.post("/{number}/stand")
def stand(request: Request, number: int, pointed: PointedAt, way: Way = "ready") -> Stand:
    """The up for a face of the figure that was pointed at, snapped to what it can rest on, and where it faces then."""
    store = store_of(request)
    row, _ = _about(store, number)
    shelf, copy = StoreShelf(store), _copy(store, row, way)
    document = kept(shelf, "intake", MeshGiven(sha=row["mesh_sha"]), IntakeDoc)
    assert document is not None  # there is a copy of it
    up = settled_up(np.array(document.hull), unit(pointed.down))
    return Stand(up=up, front=copy.front(shelf, up), height=copy.height(shelf, up))


Factor = Annotated[float, Query(gt=1e-6, le=1e6)]


def _weak(store: Store, number: int, printer: int, factor: float, way: Way) -> WeakGiven:
    row, _ = _about(store, number)
    copy = _copy(store, row, way)
    return WeakGiven(
        sha=copy.sha,
        factor=factor,
        up=_size_of(store, number).get("up") or copy.upright.ups[0].up,
        printer=machines.one(store, "printers", printer)["spec"],
    )


@router.get("/{number}/weak", response_model=Computation[WeakDoc])
def weak(request: Request, number: int, printer: int, factor: Factor, way: Way = "ready") -> Response:
    """Parts too thin to survive at this size on this printer."""
    return computation(store_of(request), "weak", _weak(store_of(request), number, printer, factor, way))


@router.post("/{number}/weak", response_model=Computation[WeakDoc])
def measure(request: Request, number: int, printer: int, factor: Factor, way: Way = "ready") -> Response:
    """Start measuring."""
    store = store_of(request)
    given = _weak(store, number, printer, factor, way)
    return computation(
        store, "weak", given, start=True, title=f"Measuring {_about(store, number)[1]}", figure_id=number
    )


@lru_cache(maxsize=512)
def _largest(hull: bytes, build_mm: tuple[float, float, float]) -> float:
    return largest_factor(np.frombuffer(hull).reshape(-1, 3), build_mm)


@router.get("/{number}/fits")
def fits(request: Request, number: int) -> list[Fit]:
    """For every printer the largest factor at which the figure fits it, in any pose."""
    store = store_of(request)
    document = kept(StoreShelf(store), "intake", MeshGiven(sha=figures.one(store, number)["mesh_sha"]), IntakeDoc)
    if document is None:
        raise StoreError("not-computed", "The figure has not been examined yet.", "Wait for it.", 409)
    hull = np.array(document.hull).tobytes()
    fits = []
    for row in machines.every(store, "printers"):
        printer = load_printer(row["spec"])
        fits.append(
            Fit(printer_id=row["id"], factor=_largest(hull, printer.build_mm), layer_mm=default_height(printer))
        )
    return fits


@router.patch("/{number}")
def rename(request: Request, number: int, new: NewName) -> None:
    """Rename a figure."""
    figures.rename(store_of(request), number, new.name.strip())


@router.delete("/{number}")
def put_away(request: Request, number: int, for_good: bool = False) -> None:
    """Take a figure off the bench; `for_good` deletes it with its plans, and frees what nothing else names. Prints that
    were made stay in the log.
    """
    store = store_of(request)
    if not for_good:
        figures.put_away(store, number, True)
        return
    figures.delete(store, number)
    tidy(store)


@router.post("/{number}/back")
def put_back(request: Request, number: int) -> None:
    """Put a figure back onto the bench."""
    figures.put_away(store_of(request), number, False)


blob_router = APIRouter(prefix="/api/blobs", tags=["blobs"])
KINDS = {
    b"\x89PNG": "image/png",
    b"TNG1": "application/octet-stream",
    b"TNV1": "application/octet-stream",
    b"TNL1": "application/octet-stream",
}


@blob_router.get("/{sha}", response_class=Response)
def blob(request: Request, sha: str) -> Response:
    """A picture or a preview by its content's hash; never changes, so it may be kept for ever."""
    if len(sha) != 64 or not sha.isascii():
        raise StoreError("no-blob", "This is not the name of a stored file.")
    data = blobs.get(store_of(request), sha)
    kind = KINDS.get(data[:4])
    if kind is None:
        raise FormatError("not-a-view", "This is a model file; ask for it through its plan.")
    # Pictures and quantised meshes hardly shrink; packing them again would only cost time.
    return Response(
        data,
        media_type=kind,
        headers={"Cache-Control": "public, max-age=31536000, immutable", "Content-Encoding": "identity"},
    )
