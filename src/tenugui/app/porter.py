"""The porter of a bench that is open to the house: who is asking, what their role may do, and a note of what they did.

A bench on loopback alone has none. Plain ASGI, like the guard before it.
"""

from __future__ import annotations

import re
from datetime import datetime
from http.cookies import CookieError, SimpleCookie

import structlog
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ..store import people
from ..store.db import Row, Store, StoreError
from . import problems
from .guard import SAFE

COOKIE = "__Host-tenugui"
KEPT = "Path=/; Secure; HttpOnly; SameSite=Strict"
log = structlog.get_logger()

ANYBODY = re.compile(
    r"(GET|POST|DELETE) /api/session|POST /api/invitation(/read)?|GET /api/health|GET /api/week/calendar/[^/]+\.ics"
)
"""What nobody need sign in for: to sign in, to take an invitation up, to see whether the bench is there, and a calendar
whose address is itself the key.
"""
KEEPERS = re.compile(
    r"\S+ /api/(people|invitations|audit)(/.*)?|(POST|PUT|PATCH|DELETE) /api/(printers|materials|settings)(/.*)?"
)
"""People, machines and what holds for all of them: a keeper's."""
GUESTS = re.compile(
    r"(GET|HEAD|OPTIONS) .*|DELETE /api/sessions"
    r"|PUT /api/runs/\d+/outcome|POST /api/runs/\d+/photos|POST /api/plans/\d+/timers|DELETE /api/timers/\d+"
)
"""What a guest at a machine may do: look, and say what became of the run that stands on it."""


def may(role: str, method: str, path: str) -> bool:
    """Whether a role may knock at a door.

    >>> may("member", "POST", "/api/people/3/role"), may("guest", "POST", "/api/plans/3/decide/pose")
    (False, False)
    """
    asked = f"{method} {path}"
    if ANYBODY.fullmatch(asked):
        return True
    if role != "keeper" and KEEPERS.fullmatch(asked):
        return False
    return role != "guest" or GUESTS.fullmatch(asked) is not None


def cookie_of(headers: Headers) -> str | None:
    """The session's token that came along."""
    try:
        held = SimpleCookie(headers.get("cookie", "")).get(COOKIE)
    except CookieError:
        return None
    return None if held is None else held.value


class Porter:
    """Lets in who is known, as far as their role goes."""

    def __init__(self, app: ASGIApp, store: Store) -> None:
        self.app, self.store = app, store

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """One request."""
        path = str(scope.get("path", ""))
        if scope["type"] != "http" or not (path.startswith("/api") or path.startswith("/metrics")):
            return await self.app(scope, receive, send)
        if not path.isprintable():
            # Doors are found in spite of a line break at an address's end, by patterns that would not tell whose it is.
            nowhere = problems.problem(404, "no-address", "There is nothing at this address.")
            return await nowhere(scope, receive, send)
        asked, status = f"{scope['method']} {path}", 500
        address = scope["client"][0] if scope.get("client") else ""
        token = cookie_of(Headers(scope=scope))
        fresh: str | None = None

        async def answered(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                if fresh is not None:
                    MutableHeaders(scope=message).append("Set-Cookie", f"{COOKIE}={fresh}; {KEPT}")
            await send(message)

        try:
            known = None if token is None else await run_in_threadpool(self._known, token, scope["method"] in SAFE)
        except StoreError as away:
            return await problems.problem(away.status, away.code, away.what, away.remedy)(scope, receive, send)
        person: Row | None = None
        if known is not None:
            person, fresh = known
        scope.setdefault("state", {})["person"] = person
        if person is None and not ANYBODY.fullmatch(asked):
            said = problems.problem(401, "sign-in", "This bench asks who you are.", "Sign in.")
            return await said(scope, receive, answered)
        if person is not None and not may(person["role"], scope["method"], path):
            what = f"A {person['role']} may not do this."
            said = problems.problem(403, "not-yours", what, "Ask a keeper of this bench.")
            answering: ASGIApp = said
        else:
            answering = self.app
        try:
            await answering(scope, receive, answered)
        finally:
            if scope["method"] not in SAFE:
                await self._note(scope["state"]["person"], address, asked, status)

    def _known(self, token: str, turn: bool) -> tuple[Row, str | None] | None:
        """What signs in or out says itself which token holds: nothing is replaced beside it."""
        return people.seen(self.store, token, datetime.now(), turn=turn)

    async def _note(self, person: Row | None, address: str, asked: str, status: int) -> None:
        number = None if person is None else int(person["id"])
        try:
            await run_in_threadpool(people.note, self.store, number, address, asked, status)
        except StoreError as away:
            log.error("not noted", deed=asked, person=number, status=status, problem=away.code)
