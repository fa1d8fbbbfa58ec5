"""People of a bench that is open to the house: sign in and out, invitations, roles, and what was done."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Depends, Query, Request, Response

from ..store import people
from ..store.db import Row, Store, StoreError
from .models import Id
from .people_models import (
    Invitation,
    InvitationAsk,
    InvitationRead,
    InvitationTake,
    Invited,
    KeyHolder,
    Me,
    Noted,
    RoleAsk,
    SessionState,
    SignIn,
)
from .porter import COOKIE, KEPT, cookie_of
from .state import store_of


def opened(request: Request) -> Store:
    """The store of a bench that is open to the house.

    Raises:
        StoreError: `alone`.
    """
    if not request.app.state.open:
        raise StoreError("alone", "This bench is open to nobody else.", "Start it with --open to let others in.", 409)
    return store_of(request)


router = APIRouter(prefix="/api", tags=["people"])
Opened = Annotated[Store, Depends(opened)]


def me(request: Request) -> Row | None:
    """Who is asking, on a bench that is open."""
    person: Row | None = request.scope.get("state", {}).get("person")
    return person


def _signed_in(request: Request, response: Response, person: Row, token: str) -> SessionState:
    """Who has just come in: what they did is noted with their name."""
    response.headers["Set-Cookie"] = f"{COOKIE}={token}; {KEPT}"
    request.scope["state"]["person"] = person
    return SessionState(open=True, me=Me(id=person["id"], name=person["name"], role=person["role"]))


@router.get("/session")
def session(request: Request) -> SessionState:
    """Whether this bench asks who comes, and who did."""
    person = me(request)
    return SessionState(open=request.app.state.open, me=None if person is None else Me(**person))


@router.post("/session")
def sign_in(request: Request, response: Response, store: Opened, asked: SignIn) -> SessionState:
    """Sign in: a new session in place of whatever there was before."""
    address = request.client.host if request.client else ""
    number, token = people.sign_in(store, asked.name, asked.password, address, datetime.now())
    before = cookie_of(request.headers)
    if before is not None:
        people.sign_out(store, before)
    return _signed_in(request, response, people.one(store, number), token)


@router.delete("/session", status_code=204)
def sign_out(request: Request, response: Response, store: Opened) -> None:
    """Sign out here."""
    token = cookie_of(request.headers)
    if token is not None:
        people.sign_out(store, token)
    response.headers["Set-Cookie"] = f"{COOKIE}=; Max-Age=0; {KEPT}"


@router.delete("/sessions", status_code=204)
def sign_out_everywhere(request: Request, response: Response, store: Opened) -> None:
    """Sign out wherever one is signed in."""
    person = me(request)
    if person is not None:
        people.sign_out_everywhere(store, person["id"])
    response.headers["Set-Cookie"] = f"{COOKIE}=; Max-Age=0; {KEPT}"


@router.post("/invitation/read")
def invited(store: Opened, asked: InvitationRead) -> Invited:
    """What an invitation is for; its token is in no address, since addresses are logged."""
    row = people.invited(store, asked.token, datetime.now())
    return Invited(role=row["role"], name=row["name"])


@router.post("/invitation")
def take_invitation(request: Request, response: Response, store: Opened, asked: InvitationTake) -> SessionState:
    """Take an invitation up, once, and sign in."""
    now = datetime.now()
    number = people.take(store, asked.token, asked.name, asked.password, now)
    row = people.one(store, number)
    address = request.client.host if request.client else ""
    return _signed_in(request, response, row, people.sign_in(store, row["name"], asked.password, address, now)[1])


@router.post("/invitations")
def invite(request: Request, store: Opened, asked: InvitationAsk) -> Invitation:
    """A keeper's invitation; its address is told once."""
    person = me(request)
    by = None if person is None else int(person["id"])
    token = people.invite(store, asked.role, datetime.now(), by=by, person=asked.person_id)
    return Invitation(path=f"/invited#{token}")


@router.get("/people")
def every(store: Opened) -> list[KeyHolder]:
    """All people, also those who have left."""
    return [KeyHolder(**row) for row in people.every(store)]


@router.post("/people/{number}/role")
def give_role(store: Opened, number: Id, asked: RoleAsk) -> list[KeyHolder]:
    """Another role, from the next request on."""
    people.give_role(store, number, asked.role)
    return every(store)


@router.delete("/people/{number}")
def leaves(store: Opened, number: Id) -> list[KeyHolder]:
    """A person leaves; what they did stays."""
    people.leaves(store, number, datetime.now())
    return every(store)


@router.get("/audit")
def audit(store: Opened, before: Annotated[int | None, Query(ge=1)] = None) -> list[Noted]:
    """What was done, the latest first."""
    return [Noted(**row) for row in people.noted(store, before)]
