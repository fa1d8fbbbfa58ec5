"""What routers share: the store of the application, and results that are there or on their way."""

from __future__ import annotations

from typing import Any

from fastapi import Request

from ..store import jobs
from ..store.db import Store
from ..work.inputs import key_of
from .models import Computation


def store_of(request: Request) -> Store:
    """The application's store."""
    store: Store = request.app.state.store
    return store


def computation(store: Store, kind: str, given: dict[str, Any]) -> Computation:
    """The cached document of a computation, or the job that computes it (started when there is none)."""
    key = key_of(kind, given)
    document = jobs.result(store, key)
    if document is not None:
        return Computation(key=key, document=document)
    return Computation(key=key, job_id=jobs.want(store, kind, given, key))
