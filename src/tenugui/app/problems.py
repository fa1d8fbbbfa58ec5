"""Every error as RFC 9457 problem details: what happened, where, what to do."""

from __future__ import annotations

from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse

from ..core.errors import CoreError
from ..store.db import StoreError


def problem(status: int, code: str, what: str, remedy: str = "", where: str = "") -> JSONResponse:
    """One problem document."""
    body: dict[str, Any] = {"type": f"tenugui:{code}", "title": what, "status": status, "code": code, "detail": remedy, "where": where}
    return JSONResponse(body, status, media_type="application/problem+json")


def register(app: FastAPI) -> None:
    """Map the rooms' errors to problems."""

    @app.exception_handler(CoreError)
    async def _core(_: Request, error: CoreError) -> JSONResponse:
        return problem(422, error.code, error.what, error.remedy, error.where)

    @app.exception_handler(StoreError)
    async def _store(_: Request, error: StoreError) -> JSONResponse:
        return problem(error.status, error.code, error.what, error.remedy)

    @app.exception_handler(RequestValidationError)
    async def _request(_: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        return problem(
            422,
            "bad-request",
            f"{'.'.join(str(p) for p in first['loc'][1:]) or 'The request'}: {first['msg']}.",
            "Correct the value and send it again.",
        )
