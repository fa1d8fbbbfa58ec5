"""The door: only pages of this bench may act on it, and every answer carries the security headers. Plain ASGI, so that
bytes pass untouched.
"""

from __future__ import annotations

import structlog
from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ..store.room import shortage
from . import problems
from .recent import changed

HEADERS = {
    "Content-Security-Policy": (
        "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src "
        "'self' data: blob:; connect-src 'self'; worker-src 'self' blob:;"
        " frame-ancestors 'none'"
    ),
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}
SAFE = ("GET", "HEAD", "OPTIONS")
OWN = ("same-origin", "none")
MOST_JSON = 64 << 20
"""Bytes of a request in JSON; files come as they are, and have limits of their own."""
log = structlog.get_logger()


class _TooLong(Exception):
    """More JSON came than is read."""


class Guard:
    """Refuses requests to names that are not this bench's own, and requests of other sites; turns what nobody foresaw
    into a problem.
    """

    def __init__(self, app: ASGIApp, hosts: frozenset[str]) -> None:
        self.app, self.hosts = app, hosts

    def refusal(self, scope: Scope) -> str | None:
        """Why a request is refused, or None.

        A name that resolves here but is not the address served is how another site's page gets around its own borders.
        What changes something must come with an Origin of ours, or as JSON, which no other site can send unasked.
        """
        asked = Headers(scope=scope)
        host = asked.get("host", "")
        if host not in self.hosts:
            return f"The request is for '{host[:80]}', which is not the address of this bench."
        site = asked.get("sec-fetch-site")
        if site and site not in OWN and scope["path"].startswith("/api"):
            return "The request comes from another site."
        if scope["method"] in SAFE:
            return None
        origin = asked.get("origin")
        if origin is not None:
            return None if origin.split("://", 1)[-1] == host else "The request comes from another site."
        if asked.get("content-type", "").split(";")[0].strip() == "application/json":
            return None
        return "The request says neither where it comes from nor that it is JSON."

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """One request."""
        if scope["type"] != "http":
            return await self.app(scope, receive, send)
        begun, came = False, 0
        told = Headers(scope=scope)
        json = told.get("content-type", "").split(";")[0].strip() == "application/json"

        async def counted() -> Message:
            nonlocal came
            message = await receive()
            came += len(message.get("body", b""))
            if json and came > MOST_JSON:
                raise _TooLong
            return message

        async def headed(message: Message) -> None:
            nonlocal begun
            if message["type"] == "http.response.start":
                begun = True
                MutableHeaders(scope=message).update(HEADERS)
            await send(message)

        why = self.refusal(scope)
        if why is not None:
            refused = problems.problem(403, "other-origin", why, "Open Tenugui at its own address.")
            return await refused(scope, receive, headed)
        announced = told.get("content-length", "")
        if json and announced.isdecimal() and int(announced) > MOST_JSON:
            return await _too_long()(scope, receive, headed)
        # What is cancelled or put away makes no work, and is how room is made.
        if scope["method"] not in (*SAFE, "DELETE") and (full := shortage()) is not None:
            said = problems.problem(full.status, full.code, full.what, full.remedy)
            return await said(scope, receive, headed)
        try:
            await self.app(scope, counted, headed)
        except _TooLong:
            if begun:
                raise
            await _too_long()(scope, receive, headed)
        except Exception:
            log.exception("not foreseen", path=scope["path"], method=scope["method"])
            if begun:
                raise
            await problems.fault()(scope, receive, headed)
        finally:
            if scope["method"] not in SAFE:
                changed(scope.get("app"))


def _too_long() -> ASGIApp:
    what = f"The request is longer than {MOST_JSON >> 20} MB."
    return problems.problem(413, "too-long", what, "Send less at a time; files have a door of their own.")
