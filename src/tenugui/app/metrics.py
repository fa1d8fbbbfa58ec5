"""What can be watched from outside, in the open text format: requests, jobs and content; no names, no figures."""

from __future__ import annotations

import time

from fastapi import APIRouter, Request, Response
from prometheus_client import CONTENT_TYPE_LATEST, CollectorRegistry, Counter, Gauge, Histogram, generate_latest
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ..store import blobs, jobs
from .state import store_of

router = APIRouter(tags=["metrics"])
BUCKETS = (0.005, 0.02, 0.05, 0.1, 0.2, 0.5, 1.0, 2.5, 10.0, 60.0)


class Meters:
    """Counted by one application."""

    def __init__(self) -> None:
        self.registry = CollectorRegistry()
        labels = ("method", "door")
        of = self.registry
        self.requests = Counter("tenugui_requests", "Answers by door.", (*labels, "status"), registry=of)
        self.seconds = Histogram("tenugui_request_seconds", "Until it ends.", labels, buckets=BUCKETS, registry=of)
        self.jobs = Gauge("tenugui_jobs", "Jobs by state.", ("state",), registry=of)
        self.content = Gauge("tenugui_content_bytes", "Bytes of content kept.", registry=of)
        self.up = Gauge("tenugui_started_seconds", "When the application was started, Unix time.", registry=of)
        self.up.set(time.time())


class Metered:
    """Times every answer by the door that gave it, never by what was asked of it."""

    def __init__(self, app: ASGIApp, meters: Meters) -> None:
        self.app, self.meters = app, meters

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """One request."""
        if scope["type"] != "http":
            return await self.app(scope, receive, send)
        began, status = time.perf_counter(), 500

        async def sent(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
            await send(message)

        try:
            await self.app(scope, receive, sent)
        finally:
            route = scope.get("route")
            door, method = getattr(route, "path", "none"), scope["method"]
            # Streams stay open for as long as somebody looks: their time says nothing.
            if not door.endswith("/events"):
                self.meters.seconds.labels(method, door).observe(time.perf_counter() - began)
            self.meters.requests.labels(method, door, str(status)).inc()


@router.get("/metrics", response_class=Response)
def metrics(request: Request) -> Response:
    """All meters, for a collector that asks now and then."""
    meters: Meters = request.app.state.meters
    store = store_of(request)
    counts = jobs.counts(store)
    for state in ("waiting", "running", "failed"):
        meters.jobs.labels(state).set(counts.get(state, 0))
    meters.content.set(blobs.bytes_kept(store))
    return Response(generate_latest(meters.registry), media_type=CONTENT_TYPE_LATEST)
