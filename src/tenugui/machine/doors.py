"""The doors of a simulated machine or station on loopback: JSON in, JSON out, and what cannot be done said in words
(docs/machines.md).
"""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Awaitable, Callable
from typing import Annotated, Any

from fastapi import FastAPI, Header, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel, ConfigDict, Field
from starlette.concurrency import run_in_threadpool
from starlette.exceptions import HTTPException

from ..core.errors import CoreError
from ..core.machines import Printer
from .job import job_of
from .nature import Fate, Threat
from .run import Machine
from .station import Station, steps_of

MOST_WORDS, MOST_BYTES = 1 << 16, 1 << 30
Answer = dict[str, Any]


class _Body(BaseModel):
    model_config = ConfigDict(extra="ignore", allow_inf_nan=False)


class FateBody(_Body):
    """What becomes of a print: `loss` from `layer` on, and why."""

    layer: int
    loss: str
    why: str = Field(max_length=400)

    def fate(self) -> Fate:
        """As the machine takes it."""
        return Fate(self.layer, self.loss, self.why)


class ThreatBody(_Body):
    """What a plan says may become of its print, with the chance that it believes."""

    code: str = Field(max_length=60)
    chance: float = Field(ge=0, le=1)
    layer: int = Field(ge=0)
    loss: str = Field(max_length=40)
    why: str = Field(max_length=400)

    def threat(self) -> Threat:
        """As the machine takes it."""
        return Threat(self.code, self.chance, self.layer, self.loss, self.why)


class StartBody(_Body):
    """Begin: with what will become of it, or with what may, after so many prints."""

    fate: FateBody | None = None
    threats: list[ThreatBody] | None = Field(None, max_length=1000)
    before: int = Field(0, ge=0)


class MaterialBody(_Body):
    """So much is put in: ml of resin, g of filament."""

    amount: float = Field(ge=0)


class PowerBody(_Body):
    """Whether there is power."""

    on: bool


class LoadBody(_Body):
    """A load by its name, and what is done with it for how many minutes."""

    load: str = Field(max_length=120)
    steps: list[tuple[str, float]]


def _refusal(status: int, **said: str) -> JSONResponse:
    return JSONResponse(said, status)


async def _in_bounds(request: Request, go_on: Callable[[Request], Awaitable[Any]]) -> Any:
    """Refuse what is too long, or does not say how long it is, before any of it is read."""
    most = MOST_BYTES if request.method == "PUT" else MOST_WORDS
    told = request.headers.get("content-length", "0")
    if "transfer-encoding" in request.headers or not told.isdecimal() or int(told) > most:
        return _refusal(413, what=f"It takes at most {most:,} bytes, and wants to know how many.")
    return await go_on(request)


def _app(title: str, state: Callable[[], Answer]) -> FastAPI:
    app = FastAPI(title=title, docs_url=None, redoc_url=None, strict_content_type=False)
    app.middleware("http")(_in_bounds)
    app.get("/state")(state)

    @app.exception_handler(CoreError)
    def refused(request: Request, reason: CoreError) -> JSONResponse:
        return _refusal(409, code=reason.code, what=reason.what, remedy=reason.remedy)

    @app.exception_handler(RequestValidationError)
    def unreadable(request: Request, reason: RequestValidationError) -> JSONResponse:
        first = reason.errors()[0]
        where = ".".join(str(part) for part in first["loc"][1:])
        return _refusal(400, what=f"This cannot be read: {where}: {first['msg']}.")

    @app.exception_handler(ValueError)
    def senseless(request: Request, reason: ValueError) -> JSONResponse:
        return _refusal(400, what=f"This cannot be read: {reason}.")

    @app.exception_handler(HTTPException)
    def nowhere(request: Request, reason: HTTPException) -> JSONResponse:
        return _refusal(404, what="There is no such door.")

    return app


def _task(app: FastAPI, path: str, do: Callable[[], None], state: Callable[[], Answer]) -> None:
    """A door that wants nothing but to be knocked at."""

    def knocked() -> Answer:
        do()
        return state()

    app.post(path)(knocked)


def printer_doors(printer: Printer, machine: Machine) -> FastAPI:
    """A printer's: it takes files, prints them, and is looked at."""
    app = _app(printer.name, machine.state)
    app.get("/look")(machine.look)
    for path, do in (("/pause", machine.pause), ("/resume", machine.resume), ("/cancel", machine.cancel)):
        _task(app, path, do, machine.state)

    @app.put("/file")
    async def file(request: Request, x_name: Annotated[str, Header()] = "file") -> Answer:
        body = await request.body()
        # Other doors answer while it is read.
        machine.take(await run_in_threadpool(job_of, x_name[:120], body, printer))
        return machine.state()

    @app.post("/start")
    def start(asked: StartBody | None = None) -> Answer:
        if asked and asked.threats is not None:
            machine.begin([threat.threat() for threat in asked.threats], asked.before)
        else:
            machine.start(asked.fate.fate() if asked and asked.fate else None)
        return machine.state()

    @app.post("/material")
    def material(asked: MaterialBody) -> Answer:
        machine.load(asked.amount)
        return machine.state()

    @app.post("/power")
    def power(asked: PowerBody) -> Answer:
        machine.power(asked.on)
        return machine.state()

    return app


def station_doors(station: Station) -> FastAPI:
    """A station's: it runs one load at a time."""
    app = _app(station.kind, station.state)
    tasks = {"/pause": station.pause, "/resume": station.resume, "/cancel": station.cancel, "/fresh": station.fresh}
    for path, do in tasks.items():
        _task(app, path, do, station.state)

    @app.post("/start")
    def start(asked: LoadBody) -> Answer:
        station.start(asked.load, steps_of(asked.steps))
        return station.state()

    return app


def end_with(parent: int) -> None:
    """End this process when that one has."""

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(1)
        os._exit(0)

    threading.Thread(target=watch, daemon=True).start()
