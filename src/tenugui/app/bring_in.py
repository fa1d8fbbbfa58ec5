"""Figures coming in: a streamed body, judged by its first bytes, stored while it is read by a process of its own. A kit
comes in whole or not at all.
"""

from __future__ import annotations

import asyncio
import hashlib
import tempfile
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path
from typing import Annotated, Any, BinaryIO

from fastapi import APIRouter, Header, Query, Request
from starlette.concurrency import run_in_threadpool
from starlette.requests import ClientDisconnect

from ..core.formats import FormatError, Limits, refuse_early
from ..store import blobs, figures, plans
from ..store.db import Store
from ..work.folds import want_examined
from .models import Imported
from .readers import Readers
from .settings import limits_of
from .state import store_of

router = APIRouter(prefix="/api/figures", tags=["figures"])
THIN_TO = 2_000_000
"""Triangles of a thinner copy: enough for a table-top figure's every scale, few enough to work on quickly."""
SNIFF = 1024
PACKERS = ThreadPoolExecutor(2, "packing")
"""Many files that come in at once are packed two at a time, and leave the threads of all other doors alone."""
BATCH = 2**20
NOBODY = Imported(figure_id=0, plan_id=0, triangles=0)
"""Whoever asked has left: nobody reads this, and what was held is gone."""


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
    """A figure's file as the request's body. Judged by its first bytes and announced size before the rest is read; an
    interrupted upload leaves no trace.

    `thin`: what holds more triangles than can be worked on comes in as a thinner copy.
    """
    store = store_of(request)
    limits = await run_in_threadpool(_limits, store, to_thin)
    if content_length is None:
        raise FormatError("no-length", "The upload does not announce its length.", remedy="Send a Content-Length.")
    if content_length == 0:
        refuse_early(b"", 0, limits)
    with tempfile.TemporaryDirectory(prefix="tenugui-in-", dir=request.app.state.uploads) as folder:
        path = Path(folder) / "body"
        try:
            digest = await _received(request, path, content_length, limits)
        except ClientDisconnect:
            return NOBODY
        readers: Readers = request.app.state.readers
        thin_to = THIN_TO if to_thin else None
        # Packed while it is read; the database hears of it only once it was read.
        packing = asyncio.get_running_loop().run_in_executor(PACKERS, _packed, path, digest)
        try:
            imported = await readers.read(path, Path(folder), limits, thin_to=thin_to, gone=request.is_disconnected)
        finally:
            await asyncio.wait({packing})
        if imported is None:
            return NOBODY
        return await run_in_threadpool(_keep, store, Path(folder), imported, packing.result(), name)


async def _received(request: Request, path: Path, announced: int, limits: Limits) -> str:
    """Write the body to `path` off the event loop; returns its SHA-256."""
    head, judged, size, digest = b"", False, 0, hashlib.sha256()
    with open(path, "wb") as file:
        batch: list[bytes] = []
        waiting = 0
        async for part in request.stream():
            size += len(part)
            if size > announced:
                raise FormatError(
                    "too-long-body",
                    f"More than the announced {announced:,} bytes arrive.",
                    remedy="Send the file again.",
                )
            batch.append(part)
            waiting += len(part)
            if not judged:
                head += part[: SNIFF - len(head)]
                if len(head) >= min(SNIFF, announced):
                    refuse_early(head, announced, limits)
                    judged = True
            if waiting >= BATCH:
                await run_in_threadpool(_write, file, digest, batch)
                batch, waiting = [], 0
        await run_in_threadpool(_write, file, digest, batch)
    if size != announced:
        raise FormatError("truncated", f"{size:,} of {announced:,} bytes arrived.", remedy="Send the file again.")
    return digest.hexdigest()


def _write(file: BinaryIO, digest: Any, batch: list[bytes]) -> None:
    for part in batch:
        file.write(part)
        digest.update(part)


def _limits(store: Store, to_thin: bool) -> Limits:
    """The limits in force; for a file that is to be thinned, as many triangles as can be read at all."""
    limits = limits_of(store)
    return replace(limits, triangles=limits.thinned_from) if to_thin else limits


def _packed(path: Path, sha: str) -> blobs.Packed:
    with open(path, "rb") as file:
        return blobs.packed(file, sha)


def _plain(name: str) -> str:
    """A file's name as a figure's: without folder, ending, hyphens, and what cannot be shown."""
    stem = name.replace("\\", "/").rsplit("/", 1)[-1].rsplit(".", 1)[0]
    shown = "".join(c for c in stem.replace("-", " ").replace("_", " ") if c.isprintable()).strip()
    return (shown[:1].upper() + shown[1:]) if shown else "Unnamed figure"


def _keep(store: Store, folder: Path, imported: dict[str, Any], source: blobs.Packed, name: str) -> Imported:
    sha = blobs.put_packed(store, source)
    alone = len(imported["parts"]) == 1
    file_name = "".join(c for c in name.replace("\\", "/").rsplit("/", 1)[-1] if c.isprintable())[-255:] or "figure"
    content = [_content(store, folder, index, part, sha) for index, part in enumerate(imported["parts"])]
    numbers: list[tuple[int, int]] = []
    with store.work() as sql:
        kit = None if alone else figures.add_kit_in(sql, _plain(name), sha, imported["placed"])
        for part, packed in zip(imported["parts"], content, strict=True):
            new = figures.NewFigure(
                name=_plain(name) if alone else _plain(part["name"] + "."),
                file_name=file_name,
                source_sha=sha,
                triangles=part["triangles"],
                sight_sha=packed["sight"],
                mesh_sha=packed["whole"],
                unit=imported["unit"],
                kit_id=kit,
                thinned=part["thinned"],
                settings_sha=packed["settings"],
            )
            figure = figures.add_in(sql, new)
            plan = plans.create_in(sql, figure)
            if packed["marks"] is not None:
                strokes = [{"tool": "file", "what": packed["marks"]}]
                plans.decide_in(
                    sql,
                    plan,
                    None,
                    fold="marks",
                    choice={"strokes": strokes, "kinds": []},
                    evidence={"numbers": None},
                    reason="As the file marks it",
                )
            numbers.append((figure, plan))
    for (figure, _), part, packed in zip(numbers, imported["parts"], content, strict=True):
        title = f"Examining {_plain(name) if alone else _plain(part['name'] + '.')}"
        want_examined(store, packed["whole"], title, figure)
    triangles = sum(part["triangles"] for part in imported["parts"])
    return Imported(figure_id=numbers[0][0], plan_id=numbers[0][1], triangles=triangles, kit_id=kit, parts=len(numbers))


def _content(store: Store, folder: Path, index: int, part: dict[str, Any], sha: str) -> dict[str, Any]:
    """Keep a part's own content; the hashes of its mesh, its first sight and its marks."""

    def put(kind: str) -> str | None:
        return blobs.put_bytes(store, (folder / f"{index}-{kind}").read_bytes()) if kind in part["files"] else None

    return {"whole": put("whole") or sha, "sight": put("sight"), "marks": put("marks"), "settings": put("settings")}
