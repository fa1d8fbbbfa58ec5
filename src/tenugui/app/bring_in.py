"""Figures coming in: a streamed body, judged by its first bytes, stored while it is read."""

from __future__ import annotations

import hashlib
import tempfile
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Annotated, BinaryIO, cast
from urllib.parse import unquote

from fastapi import APIRouter, Header, Query, Request
from starlette.concurrency import run_in_threadpool
from starlette.requests import ClientDisconnect

from ..core.contract import PREVIEW_FACES, pack_mesh
from ..core.formats import FormatError, Limits, pack_whole, read, refuse_early
from ..core.mesh import cluster
from ..store import blobs, figures, jobs, plans
from ..store.db import Store
from ..work.inputs import key_of
from .models import Imported
from .state import store_of

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


@dataclass(frozen=True)
class _Part:
    name: str
    triangles: int
    whole: bytes | None
    sight: bytes


@dataclass(frozen=True)
class _Read:
    unit: str | None
    placed: bool
    parts: list[_Part]


def _read(path: str) -> _Read:
    """Every part with a first sight: the intake's finer preview takes its place. A part of several carries its own mesh."""
    with open(path, "rb") as handle:
        held = read(handle, LIMITS)
    alone = len(held.parts) == 1
    parts = [
        _Part(name, len(mesh.faces), None if alone else pack_whole(mesh), pack_mesh(cluster(mesh, PREVIEW_FACES)))
        for name, mesh in held.parts.items()
    ]
    return _Read(held.unit, held.placed, parts)


def _plain(name: str) -> str:
    """A file's name as a figure's: without folder, ending, hyphens."""
    stem = name.replace("\\", "/").rsplit("/", 1)[-1].rsplit(".", 1)[0]
    return stem.replace("-", " ").replace("_", " ").strip().capitalize() or name


def _keep(store: Store, held: BinaryIO, sha: str, name: str) -> Imported:
    with ThreadPoolExecutor(1) as beside:
        # The file is stored while it is read; one that cannot be read is not stored.
        reading = beside.submit(_read, held.name)
        blobs.put(store, held, sha, reading.result)
    found = reading.result()
    alone = len(found.parts) == 1
    kit = None if alone else figures.add_kit(store, _plain(name), sha, found.placed)
    made: list[tuple[int, int]] = []
    for part in found.parts:
        mesh_sha = sha if part.whole is None else blobs.put_bytes(store, part.whole)
        new = figures.NewFigure(
            name=_plain(name) if alone else _plain(part.name + "."),
            file_name=name.replace("\\", "/").rsplit("/", 1)[-1],
            source_sha=sha,
            triangles=part.triangles,
            sight_sha=blobs.put_bytes(store, part.sight),
            mesh_sha=mesh_sha,
            unit=found.unit,
            kit_id=kit,
        )
        figure = figures.add(store, new)
        jobs.want(store, "intake", {"sha": mesh_sha}, key_of("intake", {"sha": mesh_sha}))
        made.append((figure, plans.create(store, figure)))
    return Imported(figure_id=made[0][0], plan_id=made[0][1], triangles=sum(p.triangles for p in found.parts), kit_id=kit, parts=len(made))
