"""What goes over the wire of people."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints

from ..core.names import Name
from .models import Id

Role = Literal["keeper", "member", "guest"]
PersonName = Annotated[Name, StringConstraints(strip_whitespace=True, max_length=60)]
Password = Annotated[str, Field(min_length=1, max_length=1000)]
Token = Annotated[str, Field(min_length=20, max_length=100)]


class Me(BaseModel):
    """Who is asking."""

    id: Id
    name: str
    role: Role


class SessionState(BaseModel):
    """`open`: whether this bench asks who comes; `me`: who did, where they signed in."""

    open: bool
    me: Me | None


class SignIn(BaseModel):
    """A name and its password."""

    name: PersonName
    password: Password


class InvitationAsk(BaseModel):
    """An invitation for somebody new, or for a new password of a person."""

    role: Role = "member"
    person_id: Id | None = None


class Invitation(BaseModel):
    """The address that works once, below the bench's own."""

    path: str


class Invited(BaseModel):
    """What an invitation is for: `name` where it is a new password."""

    role: Role
    name: str | None


class InvitationRead(BaseModel):
    """The token of an invitation."""

    token: Token


class InvitationTake(InvitationRead):
    """A name and a password, chosen by who was invited."""

    name: PersonName
    password: Password


class RoleAsk(BaseModel):
    """Another role."""

    role: Role


class KeyHolder(BaseModel):
    """Somebody with a key to this bench."""

    id: Id
    name: str
    role: Role
    made_at: datetime
    left_at: datetime | None
    seen_at: datetime | None


class Noted(BaseModel):
    """Something that was done: by whom, from where, and how it was answered."""

    id: int
    at: datetime
    name: str | None
    address: str
    deed: str
    status: int
