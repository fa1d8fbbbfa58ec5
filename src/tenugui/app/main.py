"""The application: API under /api, the built front end at every other address."""

from __future__ import annotations

from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.responses import FileResponse, JSONResponse
from starlette.datastructures import Headers, MutableHeaders
from starlette.middleware.gzip import GZipMiddleware
from starlette.staticfiles import StaticFiles
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ..store.db import Store
from . import bring_in, figures, jobs, kits, plans, problems, settings, workshop
from .state import store_of

DIST = Path(__file__).resolve().parents[3] / "web" / "dist"
HEADERS = {
    "Content-Security-Policy": "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; connect-src 'self'; worker-src 'self' blob:; frame-ancestors 'none'",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
}


class SameOrigin:
    """Plain ASGI, so that an upload's bytes pass untouched: refuses other sites' requests and sets the security headers.

    A page of another site must not be able to act on this bench.
    """

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """One request."""
        if scope["type"] != "http":
            return await self.app(scope, receive, send)
        asked = Headers(scope=scope)
        origin = asked.get("origin")

        async def headed(message: Message) -> None:
            if message["type"] == "http.response.start":
                MutableHeaders(scope=message).update(HEADERS)
            await send(message)

        if scope["method"] not in ("GET", "HEAD") and origin and origin.split("//", 1)[-1] != asked.get("host"):
            refusal = problems.problem(403, "other-origin", "The request comes from another site.", "Open Tenugui at its own address.")
            return await refusal(scope, receive, headed)
        await self.app(scope, receive, headed)


def make_app(store: Store | None, dist: Path = DIST) -> FastAPI:
    """The application over a store; without one only its schema is of use."""
    app = FastAPI(title="Tenugui", version="0.1.0", docs_url=None, redoc_url=None)
    app.state.store = store
    problems.register(app)
    app.add_middleware(GZipMiddleware, minimum_size=2048, compresslevel=2)

    app.add_middleware(SameOrigin)

    for router in (
        bring_in.router,
        figures.router,
        figures.blob_router,
        kits.router,
        jobs.router,
        plans.router,
        settings.router,
        workshop.router,
    ):
        app.include_router(router)

    @app.get("/api/health", tags=["health"])
    def health(request: Request) -> dict[str, str]:
        """Whether the database answers."""
        with store_of(request).work() as sql:
            sql.execute("SELECT 1")
        return {"database": "here"}

    @app.api_route("/api/{rest:path}", methods=["GET", "POST", "PUT", "PATCH", "DELETE"], include_in_schema=False)
    def nothing(rest: str) -> JSONResponse:
        return problems.problem(404, "no-address", f"There is nothing at /api/{rest}.")

    if (dist / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=dist / "assets"), name="assets")

    @app.get("/{rest:path}", include_in_schema=False)
    def page(rest: str) -> FileResponse:
        return FileResponse(dist / "index.html", headers={"Cache-Control": "no-cache"})

    return app
