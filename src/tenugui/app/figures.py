"""Figures: in by a streamed body, out as preview and pictures."""

from __future__ import annotations

import hashlib
import tempfile
from concurrent.futures import ThreadPoolExecutor
from typing import Annotated, BinaryIO, cast
from urllib.parse import unquote

from fastapi import APIRouter, Header, Query, Request, Response
from starlette.concurrency import run_in_threadpool
from starlette.requests import ClientDisconnect

from ..core.contract import PREVIEW_FACES, pack_mesh
from ..core.formats import FormatError, Limits, load, refuse_early
from ..core.mesh import cluster
from ..store import blobs, figures, jobs, plans
from ..store.db import Store
from ..work.inputs import folds, key_of
from .models import Computation, FigureRow, Imported, NewName
from .state import computation, store_of

router = APIRouter(prefix="/api/figures", tags=["figures"])
LIMITS = Limits()
SNIFF = 1024


@router.post("/judge")
async def judge(request: Request, size: Annotated[int, Query(ge=0)], content_length: Annotated[int, Header(le=SNIFF)]) -> None:
    """Judge a file of `size` bytes by its first kilobyte, before the page sends the rest."""
    refuse_early(await request.body(), size, LIMITS)


@router.post("")
async def bring_in(
    request: Request, name: Annotated[str, Query(min_length=1, max_length=255)], content_length: Annotated[int | None, Header()] = None
) -> Imported:
    """A figure's file as the request's body. Judged by its first bytes and announced size before the rest is read; an interrupted upload leaves no trace."""
    if content_length is None:
        raise FormatError("no-length", "The upload does not announce its length.", remedy="Send a Content-Length.")
    if content_length == 0:
        refuse_early(b"", 0, LIMITS)
    with tempfile.NamedTemporaryFile() as held:
        head, judged, size, digest = b"", False, 0, hashlib.sha256()
        try:
            async for part in request.stream():
                size += len(part)
                held.write(part)
                digest.update(part)
                if not judged:
                    head += part[: SNIFF - len(head)]
                    if len(head) >= min(SNIFF, content_length):
                        refuse_early(head, content_length, LIMITS)
                        judged = True
        except ClientDisconnect:
            return Imported(figure_id=0, plan_id=0, triangles=0)  # nobody reads it; the held bytes are gone with the file
        if size != content_length:
            raise FormatError("truncated", f"{size:,} of {content_length:,} bytes arrived.", remedy="Send the file again.")
        held.flush()
        return await run_in_threadpool(_keep, store_of(request), cast(BinaryIO, held), digest.hexdigest(), unquote(name))


def _read(path: str) -> tuple[int, bytes]:
    """Triangles, and a first sight of the figure: the intake's finer preview takes its place."""
    with open(path, "rb") as handle:
        mesh = load(handle, LIMITS)
    return len(mesh.faces), pack_mesh(cluster(mesh, PREVIEW_FACES))


def _keep(store: Store, held: BinaryIO, sha: str, name: str) -> Imported:
    with ThreadPoolExecutor(1) as beside:
        # The file is stored while it is read; one that cannot be read is not stored.
        reading = beside.submit(_read, held.name)
        blobs.put(store, held, sha, reading.result)
    triangles, packed = reading.result()
    sight = blobs.put_bytes(store, packed)
    plain = name.replace("\\", "/").rsplit("/", 1)[-1]
    figure = figures.add(
        store, plain.rsplit(".", 1)[0].replace("-", " ").replace("_", " ").strip().capitalize() or plain, plain, sha, triangles, sight
    )
    jobs.want(store, "intake", {"sha": sha}, key_of("intake", {"sha": sha}))
    return Imported(figure_id=figure, plan_id=plans.create(store, figure), triangles=triangles)


@router.get("")
def on_bench(request: Request) -> list[FigureRow]:
    """Every figure on the bench, with where its newest plan stands."""
    store = store_of(request)
    rows = []
    on_it = figures.on_bench(store)
    chains = plans.chains(store, [row["plan_id"] for row in on_it if row["plan_id"]])
    for row in on_it:
        document = jobs.result(store, key_of("intake", {"sha": row["source_sha"]}))
        line = FigureRow(
            **{k: row[k] for k in ("id", "name", "file_name", "triangles", "created_at", "plan_id")},
            picture=document["picture_sha"] if document else None,
        )
        if row["plan_id"]:
            chain = chains[row["plan_id"]]
            states = folds(chain)
            line.next_fold = next((f.name for f in states if f.state != "settled"), None)
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
    return computation(store, "intake", {"sha": figures.one(store, number)["source_sha"]})


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
KINDS = {b"\x89PNG": "image/png", b"TNG1": "application/octet-stream"}


@blob_router.get("/{sha}", response_class=Response)
def blob(request: Request, sha: str) -> Response:
    """A picture or a preview by its content's hash; never changes, so it may be kept for ever."""
    data = blobs.get(store_of(request), sha)
    kind = KINDS.get(data[:4])
    if kind is None:
        raise FormatError("not-a-view", "This is a model file; ask for it through its plan.")
    # Pictures and quantised meshes hardly shrink; packing them again would only cost time.
    return Response(data, media_type=kind, headers={"Cache-Control": "public, max-age=31536000, immutable", "Content-Encoding": "identity"})
