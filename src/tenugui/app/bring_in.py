"""Figures coming in: a streamed body, judged by its first bytes, stored while it is read."""

from __future__ import annotations

import hashlib
import tempfile
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from typing import Annotated, BinaryIO, cast
from urllib.parse import unquote

from fastapi import APIRouter, Header, Query, Request
from starlette.concurrency import run_in_threadpool
from starlette.requests import ClientDisconnect

from ..core.contract import SIGHT_FACES, pack_labels, pack_mesh
from ..core.formats import FormatError, Limits, pack_whole, read, refuse_early
from ..core.mesh import cluster
from ..core.repair import thin
from ..store import blobs, figures, jobs, plans
from ..store.db import Store
from ..work.inputs import key_of
from .models import Imported
from .settings import limits_of
from .state import store_of

router = APIRouter(prefix="/api/figures", tags=["figures"])
THIN_TO = 2_000_000
"""Triangles of a thinner copy: enough for a table-top figure's every scale, few enough to work on quickly."""
SNIFF = 1024


@router.post("/judge")
async def judge(
    request: Request,
    size: Annotated[int, Query(ge=0)],
    content_length: Annotated[int, Header(le=SNIFF)],
    to_thin: Annotated[bool, Query(alias="thin")] = False,
) -> None:
    """Judge a file of `size` bytes by its first kilobyte, before the page sends the rest."""
    refuse_early(await request.body(), size, await run_in_threadpool(_limits, store_of(request), to_thin))


@router.post("")
async def bring_in(
    request: Request,
    name: Annotated[str, Query(min_length=1, max_length=255)],
    content_length: Annotated[int | None, Header()] = None,
    to_thin: Annotated[bool, Query(alias="thin")] = False,
) -> Imported:
    """A figure's file as the request's body. Judged by its first bytes and announced size before the rest is read; an interrupted upload leaves no trace.

    `thin`: what holds more triangles than can be worked on comes in as a thinner copy.
    """
    limits = await run_in_threadpool(_limits, store_of(request), to_thin)
    if content_length is None:
        raise FormatError("no-length", "The upload does not announce its length.", remedy="Send a Content-Length.")
    if content_length == 0:
        refuse_early(b"", 0, limits)
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
                        refuse_early(head, content_length, limits)
                        judged = True
        except ClientDisconnect:
            return Imported(figure_id=0, plan_id=0, triangles=0)  # nobody reads it; the held bytes are gone with the file
        if size != content_length:
            raise FormatError("truncated", f"{size:,} of {content_length:,} bytes arrived.", remedy="Send the file again.")
        held.flush()
        return await run_in_threadpool(_keep, store_of(request), cast(BinaryIO, held), digest.hexdigest(), unquote(name), limits, to_thin)


@dataclass(frozen=True)
class _Part:
    name: str
    triangles: int
    whole: bytes | None
    sight: bytes
    thinned: dict[str, float] | None
    marks: bytes | None


@dataclass(frozen=True)
class _Read:
    unit: str | None
    placed: bool
    parts: list[_Part]


def _limits(store: Store, to_thin: bool) -> Limits:
    """The limits in force; for a file that is to be thinned, as many triangles as can be read at all."""
    held = limits_of(store)
    return replace(held, triangles=held.thinned_from) if to_thin else held


def _read(path: str, limits: Limits, to_thin: bool) -> _Read:
    """Every part with a first sight: the intake's finer preview takes its place. A part of several, or a thinner copy, carries its own mesh."""
    with open(path, "rb") as handle:
        held = read(handle, limits)
    alone = len(held.parts) == 1
    parts = []
    for name, mesh in held.parts.items():
        copy = thin(mesh, THIN_TO) if to_thin else None
        if copy is not None and copy.mesh is mesh:
            copy = None
        kept = mesh if copy is None else copy.mesh
        told = None if copy is None else {"before": copy.before, "deviation": copy.deviation, "usual": copy.usual}
        whole = None if alone and copy is None else pack_whole(kept)
        labels = held.marks.get(name) if copy is None else None
        marks = None if labels is None else pack_labels(labels)
        parts.append(_Part(name, len(kept.faces), whole, pack_mesh(cluster(kept, SIGHT_FACES)), told, marks))
    return _Read(held.unit, held.placed, parts)


def _plain(name: str) -> str:
    """A file's name as a figure's: without folder, ending, hyphens."""
    stem = name.replace("\\", "/").rsplit("/", 1)[-1].rsplit(".", 1)[0]
    return stem.replace("-", " ").replace("_", " ").strip().capitalize() or name


def _keep(store: Store, held: BinaryIO, sha: str, name: str, limits: Limits, to_thin: bool) -> Imported:
    with ThreadPoolExecutor(1) as beside:
        # The file is stored while it is read; one that cannot be read is not stored.
        reading = beside.submit(_read, held.name, limits, to_thin)
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
            thinned=part.thinned,
        )
        figure = figures.add(store, new)
        jobs.want(store, "intake", {"sha": mesh_sha}, key_of("intake", {"sha": mesh_sha}))
        plan = plans.create(store, figure)
        if part.marks is not None:
            file = {"tool": "file", "what": blobs.put_bytes(store, part.marks)}
            plans.decide(store, plan, "marks", {"strokes": [file], "kinds": []}, {}, "As the file marks it")
        made.append((figure, plan))
    return Imported(figure_id=made[0][0], plan_id=made[0][1], triangles=sum(p.triangles for p in found.parts), kit_id=kit, parts=len(made))
