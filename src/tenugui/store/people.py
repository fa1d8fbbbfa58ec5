"""Who may use a bench that is open to the house: people, sessions, invitations, failed sign-ins, and what was done.

Tokens are random and kept as their SHA-256; passwords are kept by argon2id (RFC 9106). Times are given, so that expiry
can be tested.
"""

from __future__ import annotations

import hashlib
import secrets
from datetime import datetime, timedelta
from functools import cache
from threading import BoundedSemaphore

from argon2 import PasswordHasher
from argon2.exceptions import Argon2Error, InvalidHashError
from pymysql.cursors import DictCursor
from pymysql.err import IntegrityError

from .db import Row, Store, StoreError, retried

SESSION_IDLE, SESSION_WHOLE = timedelta(hours=12), timedelta(days=14)
TURNED_AFTER, TURN_GRACE = timedelta(hours=1), timedelta(minutes=1)
"""A session's token is replaced so often; the one before it answers so much longer, for what was under way."""
INVITED_FOR = timedelta(days=3)
SLOWED_FOR = timedelta(minutes=15)
MOST_BY_NAME, MOST_BY_ADDRESS = 5, 25
"""Sign-ins that may fail within `SLOWED_FOR`."""
LEAST_LETTERS, MOST_LETTERS = 12, 128
HASHER = PasswordHasher()
_SIGNING_IN = BoundedSemaphore(2)
"""A password takes 64 MB to check: a crowd waits, and no more than one beyond the limits is heard."""
WRONG = StoreError("not-signed-in", "The name or the password is not right.", "Try again, or ask a keeper.", 401)
GONE = StoreError(
    "no-invitation", "This invitation was used already, is too old, or never was.", "Ask a keeper for another.", 410
)
LAST = StoreError("last-keeper", "A bench needs a keeper, and this is the only one.", "Make another one first.", 409)


@cache
def _nobodys() -> str:
    """What a name that nobody has is checked against, so that it takes as long."""
    return HASHER.hash(secrets.token_urlsafe())


def _kept(token: str) -> bytes:
    return hashlib.sha256(token.encode()).digest()


def _hashed(name: str, password: str) -> str:
    """Raises StoreError: `weak-password`."""
    if not LEAST_LETTERS <= len(password) <= MOST_LETTERS or name.casefold() in password.casefold():
        raise StoreError(
            "weak-password",
            f"A password has {LEAST_LETTERS} to {MOST_LETTERS} letters, and the name is not in it.",
            "Several words that do not belong together are good.",
            422,
        )
    return HASHER.hash(password)


def one(store: Store, number: int) -> Row:
    """A person, also one who has left.

    Raises:
        StoreError: `no-person`.
    """
    with store.work() as sql:
        sql.execute("SELECT id, name, role, made_at, left_at FROM people WHERE id = %s", (number,))
        row = sql.fetchone()
    if not row:
        raise StoreError("no-person", f"There is no person number {number}.", "See the list of people.", 404)
    return row


def every(store: Store) -> list[Row]:
    """All people with when each was last seen, in order of their names."""
    with store.work() as sql:
        sql.execute("SELECT id, name, role, made_at, left_at, seen_at FROM people ORDER BY name")
        return list(sql.fetchall())


def has_keeper(store: Store) -> bool:
    """Whether anybody keeps this bench."""
    with store.work() as sql:
        return _keepers(sql) > 0


def _keepers(sql: DictCursor, but: int = 0) -> int:
    """How many keep this bench; their rows stay as they are until the transaction ends."""
    sql.execute("SELECT id FROM people WHERE role = 'keeper' AND left_at IS NULL AND id <> %s FOR UPDATE", (but,))
    return len(sql.fetchall())


@retried
def invite(store: Store, role: str, now: datetime, *, by: int | None = None, person: int | None = None) -> str:
    """The token of a new invitation, for somebody new or for a new password of `person`.

    Raises:
        StoreError: `no-person`.
    """
    if person is not None:
        role = str(one(store, person)["role"])
    token = secrets.token_urlsafe(32)
    with store.work() as sql:
        sql.execute(
            "INSERT INTO invitations (token, role, person_id, made_by, made_at) VALUES (%s, %s, %s, %s, %s)",
            (_kept(token), role, person, by, now),
        )
    return token


def invited(store: Store, token: str, now: datetime) -> Row:
    """What an invitation is for: its role, and the name of whom it is for where it is a new password.

    Raises:
        StoreError: `no-invitation`.
    """
    with store.work() as sql:
        return _invited(sql, token, now)


def _invited(sql: DictCursor, token: str, now: datetime) -> Row:
    sql.execute(
        "SELECT i.role, i.person_id, p.name FROM invitations i LEFT JOIN people p ON p.id = i.person_id"
        " WHERE i.token = %s AND i.used_at IS NULL AND i.made_at > %s AND p.left_at IS NULL",
        (_kept(token), now - INVITED_FOR),
    )
    row = sql.fetchone()
    if not row:
        raise GONE
    return row


@retried
def take(store: Store, token: str, name: str, password: str, now: datetime) -> int:
    """Take an invitation up, once; the person. A new password ends every session.

    Raises:
        StoreError: `no-invitation`, `weak-password`, `name-taken`.
    """
    asked = invited(store, token, now)
    name = asked["name"] or name
    kept = _hashed(name, password)
    with store.work() as sql:
        sql.execute("UPDATE invitations SET used_at = %s WHERE token = %s AND used_at IS NULL", (now, _kept(token)))
        if sql.rowcount != 1:  # another was quicker
            raise GONE
        if asked["person_id"] is not None:
            number = int(asked["person_id"])
            sql.execute("UPDATE people SET password = %s WHERE id = %s", (kept, number))
            sql.execute("DELETE FROM sessions WHERE person_id = %s", (number,))
            return number
        try:
            sql.execute(
                "INSERT INTO people (name, role, password, made_at) VALUES (%s, %s, %s, %s)",
                (name, asked["role"], kept, now),
            )
        except IntegrityError:
            raise StoreError("name-taken", f"Somebody is called {name} already.", "Take another name.", 409) from None
        return int(sql.lastrowid or 0)


@retried
def sign_in(store: Store, name: str, password: str, address: str, now: datetime) -> tuple[int, str]:
    """The person, and the token of a new session.

    Raises:
        StoreError: `not-signed-in`; `slow-down` after several that failed.
    """
    with _SIGNING_IN:
        return _signed_in(store, name, password, address, now)


def _signed_in(store: Store, name: str, password: str, address: str, now: datetime) -> tuple[int, str]:
    with store.work() as sql:
        sql.execute("SELECT id, password FROM people WHERE name = %s AND left_at IS NULL", (name,))
        row = sql.fetchone()
        # A person by their number: the database takes several spellings of a name for the same.
        who = f"n:{name.casefold()}" if row is None else f"p:{row['id']}"
        asked = {who: MOST_BY_NAME, f"a:{address}": MOST_BY_ADDRESS}
        sql.execute("DELETE FROM failed_sign_ins WHERE at < %s", (now - SLOWED_FOR,))
        for of, most in asked.items():
            sql.execute("SELECT COUNT(*) AS n FROM failed_sign_ins WHERE of = %s", (of.encode(),))
            if (sql.fetchone() or {"n": 0})["n"] >= most:
                wait = f"Wait {SLOWED_FOR.seconds // 60} minutes, or ask a keeper for a new password."
                raise StoreError("slow-down", "Too many sign-ins have failed.", wait, 429)
    right = _is(row["password"] if row else _nobodys(), password)
    with store.work() as sql:
        if not right or not row:
            sql.executemany("INSERT INTO failed_sign_ins (of, at) VALUES (%s, %s)", [(o.encode(), now) for o in asked])
        else:
            if HASHER.check_needs_rehash(row["password"]):
                sql.execute("UPDATE people SET password = %s WHERE id = %s", (HASHER.hash(password), row["id"]))
            sql.execute("DELETE FROM failed_sign_ins WHERE of = %s", (who.encode(),))
            return int(row["id"]), _begun(sql, int(row["id"]), now, now)
    raise WRONG


def _is(kept: str, password: str) -> bool:
    try:
        return HASHER.verify(kept, password)
    except (Argon2Error, InvalidHashError):
        return False


def _begun(sql: DictCursor, person: int, begun: datetime, now: datetime) -> str:
    token = secrets.token_urlsafe(32)
    sql.execute("UPDATE people SET seen_at = %s WHERE id = %s", (now, person))
    sql.execute(
        "INSERT INTO sessions (token, person_id, begun_at, turned_at, seen_at) VALUES (%s, %s, %s, %s, %s)",
        (_kept(token), person, begun, now, now),
    )
    return token


@retried
def seen(store: Store, token: str, now: datetime, *, turn: bool = True) -> tuple[Row, str | None] | None:
    """Who a session is of, and, where it may `turn`, its new token where the old one has served its hour; None where it
    has ended.
    """
    with store.work() as sql:
        sql.execute(
            "SELECT p.id, p.name, p.role, s.begun_at, s.turned_at, s.seen_at, s.replaced FROM sessions s"
            " JOIN people p ON p.id = s.person_id WHERE s.token = %s AND p.left_at IS NULL",
            (_kept(token),),
        )
        row = sql.fetchone()
        if row is None:
            return None
        ended = now - row["begun_at"] > SESSION_WHOLE or now - row["seen_at"] > SESSION_IDLE
        if ended or (row["replaced"] and now - row["turned_at"] > TURN_GRACE):
            sql.execute("DELETE FROM sessions WHERE token = %s", (_kept(token),))
            return None
        fresh = None
        if turn and not row["replaced"] and now - row["turned_at"] > TURNED_AFTER:
            # Of several that come at once one replaces it.
            sql.execute(
                "UPDATE sessions SET replaced = 1, turned_at = %s WHERE token = %s AND replaced = 0",
                (now, _kept(token)),
            )
            if sql.rowcount == 1:
                fresh = _begun(sql, row["id"], row["begun_at"], now)
        elif now - row["seen_at"] > TURN_GRACE:
            sql.execute("UPDATE sessions SET seen_at = %s WHERE token = %s", (now, _kept(token)))
            sql.execute("UPDATE people SET seen_at = %s WHERE id = %s", (now, row["id"]))
    return {"id": row["id"], "name": row["name"], "role": row["role"]}, fresh


@retried
def sign_out(store: Store, token: str) -> None:
    """End one session, with the token that replaced this one."""
    with store.work() as sql:
        sql.execute(
            "DELETE s FROM sessions s JOIN sessions one ON one.token = %s"
            " AND s.person_id = one.person_id AND s.begun_at = one.begun_at",
            (_kept(token),),
        )


@retried
def sign_out_everywhere(store: Store, person: int) -> None:
    """End every session of a person."""
    with store.work() as sql:
        sql.execute("DELETE FROM sessions WHERE person_id = %s", (person,))


@retried
def give_role(store: Store, person: int, role: str) -> None:
    """Another role; it holds from the next request on.

    Raises:
        StoreError: `no-person`, `last-keeper`.
    """
    one(store, person)
    with store.work() as sql:
        if role != "keeper" and not _keepers(sql, but=person):
            raise LAST
        sql.execute("UPDATE people SET role = %s WHERE id = %s", (role, person))


@retried
def leaves(store: Store, person: int, now: datetime) -> None:
    """A person leaves: every session ends, what they did stays.

    Raises:
        StoreError: `no-person`, `last-keeper`.
    """
    one(store, person)
    with store.work() as sql:
        if not _keepers(sql, but=person):
            raise LAST
        sql.execute("UPDATE people SET left_at = %s WHERE id = %s AND left_at IS NULL", (now, person))
        sql.execute("DELETE FROM sessions WHERE person_id = %s", (person,))


def note(store: Store, person: int | None, address: str, deed: str, status: int) -> None:
    """Write down what was done."""
    with store.work() as sql:
        sql.execute(
            "INSERT INTO audit (person_id, address, deed, status) VALUES (%s, %s, %s, %s)",
            (person, address[:64], deed[:300], status),
        )


def noted(store: Store, before: int | None = None, most: int = 100) -> list[Row]:
    """What was done, the latest first, from before a row on."""
    with store.work() as sql:
        sql.execute(
            "SELECT a.id, a.at, p.name, a.address, a.deed, a.status FROM audit a LEFT JOIN people p"
            " ON p.id = a.person_id WHERE a.id < %s ORDER BY a.id DESC LIMIT %s",
            (before or 2**62, most),
        )
        return list(sql.fetchall())
