"""Every error as RFC 9457 problem details: what happened, where, what to do."""

from __future__ import annotations

from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException

from ..core.errors import CoreError
from ..store.db import StoreError

PLAIN = {
    405: ("no-such-method", "This cannot be done at this address."),
    404: ("no-address", "There is nothing at this address."),
}


def problem(status: int, code: str, what: str, remedy: str = "", where: str = "") -> JSONResponse:
    """One problem document."""
    body: dict[str, Any] = {
        "type": f"tenugui:{code}",
        "title": what,
        "status": status,
        "code": code,
        "detail": remedy,
        "where": where,
    }
    return JSONResponse(body, status, media_type="application/problem+json")


def fault() -> JSONResponse:
    """The one answer to what nobody has foreseen."""
    return problem(
        500,
        "fault",
        "Tenugui could not answer this.",
        "This is a defect; nothing of yours was changed. The log has the details.",
    )


def register(app: FastAPI) -> None:
    """Map the rooms' errors to problems."""

    @app.exception_handler(CoreError)
    async def _core(_: Request, error: CoreError) -> JSONResponse:
        return problem(422, error.code, error.what, error.remedy, error.where)

    @app.exception_handler(StoreError)
    async def _store(_: Request, error: StoreError) -> JSONResponse:
        return problem(error.status, error.code, error.what, error.remedy)

    @app.exception_handler(HTTPException)
    async def _http(request: Request, error: HTTPException) -> JSONResponse:
        code, what = PLAIN.get(error.status_code, ("refused", str(error.detail)))
        return problem(error.status_code, code, what, where=f"{request.method} {request.url.path}")

    @app.exception_handler(RequestValidationError)
    async def _request(_: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        what = f"{'.'.join(str(p) for p in first['loc'][1:]) or 'The request'}: {first['msg']}."
        return problem(422, "bad-request", what, "Correct the value and send it again.")
