"""Jobs: what is under way, progress by server-sent events, and cancel."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator

from fastapi import APIRouter, Request
from fastapi.responses import StreamingResponse
from starlette.concurrency import run_in_threadpool

from ..store import jobs
from ..store.db import Row, Store, StoreError
from .models import JobState
from .state import store_of

router = APIRouter(prefix="/api/jobs", tags=["jobs"])
TICK_SECONDS = 0.3
SHOWN = ("id", "kind", "title", "figure_id", "state", "share", "doing", "problem")


def _state(row: Row) -> JobState:
    return JobState(**{k: row[k] for k in SHOWN})


def _one(store: Store, number: int) -> JobState:
    return _state(jobs.one(store, number))


@router.get("")
def under_way(request: Request) -> list[JobState]:
    """What runs and what waits, in this order."""
    return [_state(row) for row in jobs.under_way(store_of(request))]


@router.get("/{number}")
def one(request: Request, number: int) -> JobState:
    """A job as it stands."""
    return _one(store_of(request), number)


@router.delete("/{number}")
def cancel(request: Request, number: int) -> None:
    """Cancel a job; its worker ends within a second."""
    jobs.cancel(store_of(request), number)


@router.get("/{number}/events", response_class=StreamingResponse)
async def events(request: Request, number: int) -> StreamingResponse:
    """Server-sent events `job` with a JobState whenever it changes, until it has ended; `away` while the
    database is.
    """
    store = store_of(request)
    await run_in_threadpool(_one, store, number)

    async def stream() -> AsyncIterator[str]:
        last = ""
        while not await request.is_disconnected():
            try:
                state = await run_in_threadpool(_one, store, number)
                text = state.model_dump_json()
                if text != last:
                    yield f"event: job\ndata: {text}\n\n"
                    last = text
                if state.state in jobs.ENDED:
                    return
            except StoreError as problem:
                yield f"event: away\ndata: {problem.code}\n\n"
                await asyncio.sleep(1)
            await asyncio.sleep(TICK_SECONDS)

    return StreamingResponse(
        stream(), media_type="text/event-stream", headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"}
    )
