"""The application: API under /api, the built front end at every other address."""

from __future__ import annotations

from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.responses import FileResponse, JSONResponse
from starlette.middleware.gzip import GZipMiddleware
from starlette.staticfiles import StaticFiles

from ..store.db import Store
from . import figures, jobs, plans, problems, workshop
from .state import store_of

DIST = Path(__file__).resolve().parents[3] / "web" / "dist"
HEADERS = {
    "Content-Security-Policy": "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; connect-src 'self'; worker-src 'self' blob:; frame-ancestors 'none'",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
}


def make_app(store: Store | None, dist: Path = DIST) -> FastAPI:
    """The application over a store; without one only its schema is of use."""
    app = FastAPI(title="Tenugui", version="0.1.0", docs_url=None, redoc_url=None)
    app.state.store = store
    problems.register(app)
    app.add_middleware(GZipMiddleware, minimum_size=2048, compresslevel=2)

    @app.middleware("http")
    async def _headers(request: Request, call_next):  # type: ignore[no-untyped-def]
        # A page of another site must not be able to act on this bench: same-origin requests only.
        origin = request.headers.get("origin")
        if request.method not in ("GET", "HEAD") and origin and origin.split("//", 1)[-1] != request.headers.get("host"):
            return problems.problem(403, "other-origin", "The request comes from another site.", "Open Tenugui at its own address.")
        response = await call_next(request)
        response.headers.update(HEADERS)
        return response

    for router in (figures.router, figures.blob_router, jobs.router, plans.router, workshop.router):
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
