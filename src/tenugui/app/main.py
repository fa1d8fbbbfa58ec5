"""The application: API under /api, the built front end at every other address."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from fastapi import FastAPI, Request
from fastapi.responses import FileResponse, JSONResponse, Response
from starlette.middleware.gzip import GZipMiddleware
from starlette.staticfiles import StaticFiles

from ..core.plan import FOLDS
from ..store.db import Store
from ..store.nightly import Nightly
from ..store.room import shortage
from ..work import forked
from . import (
    able,
    best,
    bring_in,
    brought,
    decisions,
    drills,
    exports,
    figures,
    finishing,
    hands,
    heights,
    jobs,
    kits,
    line,
    machine,
    memory,
    metrics,
    nights,
    partings,
    people,
    plans,
    plate_printing,
    plates,
    playback,
    problems,
    reference,
    series,
    settings,
    stock,
    today,
    versions,
    week,
    why,
    workshop,
)
from .guard import Guard
from .metrics import Metered, Meters
from .models import FigureRow, FoldInfo
from .porter import Porter
from .readers import Readers
from .recent import Recent
from .state import store_of


class Assets(StaticFiles):
    """The built scripts, styles and fonts: each is named by its content, so that it never changes."""

    def file_response(self, *args: Any, **options: Any) -> Response:
        """As it is, to be kept."""
        answer = super().file_response(*args, **options)
        answer.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return answer


DIST = Path(__file__).resolve().parents[3] / "web" / "dist"


def own_hosts(port: int) -> frozenset[str]:
    """The names under which a bench on loopback is its own."""
    return frozenset({f"127.0.0.1:{port}", f"localhost:{port}", f"[::1]:{port}"})


def make_app(
    store: Store | None,
    hosts: frozenset[str] = frozenset(),
    dist: Path = DIST,
    uploads: Path | None = None,
    readers: Readers | None = None,
    *,
    nightly: Nightly | None = None,
    open_to_the_house: bool = False,
) -> FastAPI:
    """The application over a store, answering at `hosts` alone; without a store only its schema is of use. `uploads`:
    where files wait while they are read, the system's own place by default; `readers`: who reads them, processes of its
    own by default; `nightly`: what takes backups, where they are taken; `open_to_the_house`: whether it asks who comes.
    """
    readers = Readers() if readers is None else readers

    @asynccontextmanager
    async def life(_: FastAPI) -> AsyncIterator[None]:
        forked.begin()
        yield
        await readers.close()

    app = FastAPI(title="Tenugui", version="0.1.0", docs_url=None, redoc_url=None, openapi_url=None, lifespan=life)
    app.state.store, app.state.readers, app.state.uploads = store, readers, uploads
    problems.register(app)
    app.add_middleware(GZipMiddleware, minimum_size=2048, compresslevel=2)
    app.state.bench = Recent(list[FigureRow])
    app.state.meters, app.state.nightly = Meters(), nightly
    app.add_middleware(Metered, meters=app.state.meters)
    app.state.open = open_to_the_house
    if open_to_the_house and store is not None:
        app.add_middleware(Porter, store=store)
    app.add_middleware(Guard, hosts=hosts)

    for router in (
        bring_in.router,
        figures.router,
        figures.blob_router,
        kits.router,
        jobs.router,
        plans.router,
        plans.boards(),
        decisions.router,
        hands.router,
        exports.router,
        heights.router,
        playback.router,
        machine.router,
        machine.bench,
        settings.router,
        metrics.router,
        memory.router,
        nights.router,
        partings.router,
        people.router,
        brought.router,
        finishing.router,
        plates.router,
        plate_printing.router,
        able.router,
        series.router,
        week.router,
        today.router,
        drills.router,
        line.router,
        why.router,
        versions.router,
        best.router,
        stock.router,
        workshop.router,
        reference.router,
    ):
        app.include_router(router)

    @app.get("/api/health", tags=["health"])
    def health(request: Request) -> dict[str, str]:
        """Whether the database answers, and has room on its disk."""
        if (full := shortage()) is not None:
            raise full
        with store_of(request).work() as sql:
            sql.execute("SELECT 1")
        return {"database": "here"}

    @app.get("/api/folds", tags=["plans"])
    def folds() -> list[FoldInfo]:
        """The folds in the order of the work."""
        return [FoldInfo(**{k: getattr(spec, k) for k in FoldInfo.model_fields}) for spec in FOLDS]

    @app.api_route("/api/{rest:path}", methods=["GET", "POST", "PUT", "PATCH", "DELETE"], include_in_schema=False)
    def nothing(rest: str) -> JSONResponse:
        return problems.problem(404, "no-address", f"There is nothing at /api/{rest[:200]}.")

    if (dist / "assets").is_dir():
        app.mount("/assets", Assets(directory=dist / "assets"), name="assets")

    @app.get("/{rest:path}", include_in_schema=False)
    def page(rest: str) -> FileResponse:
        return FileResponse(dist / "index.html", headers={"Cache-Control": "no-cache"})

    return app
