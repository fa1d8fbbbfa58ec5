"""Jobs: progress by server-sent events, and cancel."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator

from fastapi import APIRouter, Request
from fastapi.responses import StreamingResponse
from starlette.concurrency import run_in_threadpool

from ..store import jobs
from ..store.db import Store, StoreError
from .models import JobState
from .state import store_of

router = APIRouter(prefix="/api/jobs", tags=["jobs"])
ENDED = ("done", "failed", "cancelled")
TICK_SECONDS = 0.3


def _state(store: Store, number: int) -> JobState:
    row = jobs.one(store, number)
    return JobState(**{k: row[k] for k in ("id", "kind", "state", "share", "doing", "problem")})


@router.get("/{number}")
def one(request: Request, number: int) -> JobState:
    """A job as it stands."""
    return _state(store_of(request), number)


@router.delete("/{number}")
def cancel(request: Request, number: int) -> None:
    """Cancel a job; its worker ends within a second."""
    jobs.cancel(store_of(request), number)


@router.get("/{number}/events", response_class=StreamingResponse)
async def events(request: Request, number: int) -> StreamingResponse:
    """Server-sent events `job` with a JobState whenever it changes, until it has ended; `away` while the database is."""
    store = store_of(request)
    await run_in_threadpool(_state, store, number)

    async def stream() -> AsyncIterator[str]:
        last = ""
        while not await request.is_disconnected():
            try:
                state = await run_in_threadpool(_state, store, number)
                text = state.model_dump_json()
                if text != last:
                    yield f"event: job\ndata: {text}\n\n"
                    last = text
                if state.state in ENDED:
                    return
            except StoreError as problem:
                yield f"event: away\ndata: {problem.code}\n\n"
                await asyncio.sleep(1)
            await asyncio.sleep(TICK_SECONDS)

    return StreamingResponse(stream(), media_type="text/event-stream", headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"})
