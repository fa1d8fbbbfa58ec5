"""What routers share: the store of the application, and results that are there, on their way, or failed."""

from __future__ import annotations

import orjson
from fastapi import Request, Response

from ..core.plan import FoldSpec, Given, draft_key, key_of
from ..store import jobs, results
from ..store.db import Store
from ..work.folds import want
from .models import FoldInfo


def store_of(request: Request) -> Store:
    """The application's store."""
    store: Store = request.app.state.store
    return store


def info(spec: FoldSpec | None) -> FoldInfo | None:
    """A fold as the page names it."""
    return None if spec is None else FoldInfo(**{k: getattr(spec, k) for k in FoldInfo.model_fields})


def computation(
    store: Store,
    kind: str,
    given: Given,
    *,
    start: bool = False,
    title: str = "",
    figure_id: int | None = None,
) -> Response:
    """A `Computation`: the document as it is kept, the job under way, or how the last one failed. Only `start` starts
    one.

    The kept bytes are passed on as they are: they were a validated model when they were kept.
    """
    key = key_of(kind, given)
    document = results.kept(store, key)
    job_id, problem = None, None
    if document is None and start:
        _, job_id = want(store, kind, given, title, figure_id)
        if job_id is None:  # it came in between
            document = results.kept(store, key)
    elif document is None:
        last = jobs.last_of(store, key)
        if last and last["state"] in ("waiting", "running") and not last["cancel_wanted"]:
            job_id = last["id"]
        elif last and last["state"] == "failed":
            problem = last["problem"]
        elif last and last["state"] == "cancelled":
            problem = {
                "code": "cancelled",
                "what": "The computation was cancelled.",
                "where": "",
                "remedy": "Start it again when you want it.",
            }
    so_far = results.kept(store, draft_key(key)) if job_id is not None else None
    head = orjson.dumps({"key": key, "job_id": job_id, "problem": problem})
    body = head[:-1] + b',"draft":' + (so_far or b"null") + b',"document":' + (document or b"null") + b"}"
    return Response(body, media_type="application/json", headers={"Cache-Control": "no-store"})
