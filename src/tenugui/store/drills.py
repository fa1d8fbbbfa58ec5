"""Drills, their pictures, and what was answered."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

import orjson

from .db import Row, Store, StoreError, retried

MOST_DRILLS = 5000


@dataclass(frozen=True)
class NewDrill:
    """A drill to keep: its code, kind, question and key as JSON, pictures (PNG), how hard it is, and whence it came."""

    code: str
    kind: str
    question: dict[str, Any]
    key: dict[str, Any]
    pictures: Sequence[bytes]
    hard: float
    source: str
    plan_id: int | None = None


@retried
def keep(store: Store, new: Sequence[NewDrill]) -> int:
    """Keep drills that are not there yet; how many were new.

    Raises:
        StoreError: `too-many`.
    """
    added = 0
    with store.work() as sql:
        sql.execute("SELECT COUNT(*) AS n FROM drills")
        if int((sql.fetchone() or {"n": 0})["n"]) + len(new) > MOST_DRILLS:
            raise StoreError("too-many", f"There are {MOST_DRILLS:,} drills.", "Delete those of old figures.", 409)
        sql.execute("SELECT code FROM drills")
        there = {row["code"] for row in sql.fetchall()}
        for drill in (d for d in new if d.code not in there):
            sql.execute(
                "INSERT IGNORE INTO drills (plan_id, code, kind, question, answer_key, hard, source)"
                " VALUES (%s, %s, %s, %s, %s, %s, %s)",
                (
                    drill.plan_id,
                    drill.code,
                    drill.kind,
                    orjson.dumps(drill.question).decode(),
                    orjson.dumps(drill.key).decode(),
                    drill.hard,
                    drill.source[:120],
                ),
            )
            if not sql.rowcount:
                continue
            number, added = int(sql.lastrowid or 0), added + 1
            sql.executemany(
                "INSERT INTO drill_pictures (drill_id, nth, png) VALUES (%s, %s, %s)",
                [(number, nth, png) for nth, png in enumerate(drill.pictures)],
            )
    return added


def replace(store: Store, source: str, now: Sequence[NewDrill]) -> None:
    """Keep these of a source and no others."""
    codes = {drill.code for drill in now}
    with store.work() as sql:
        sql.execute("SELECT id, code FROM drills WHERE source = %s", (source,))
        gone = [row["id"] for row in sql.fetchall() if row["code"] not in codes]
        sql.executemany("DELETE FROM drills WHERE id = %s", [(number,) for number in gone])
    keep(store, now)


def every(store: Store) -> list[Row]:
    """All drills without their keys: id, plan, kind, how hard, whence; oldest first."""
    with store.work() as sql:
        sql.execute("SELECT id, plan_id, kind, hard, source FROM drills ORDER BY id")
        return list(sql.fetchall())


def one(store: Store, number: int) -> Row:
    """A drill with its key.

    Raises:
        StoreError: `no-drill`.
    """
    with store.work() as sql:
        sql.execute("SELECT * FROM drills WHERE id = %s", (number,))
        row = sql.fetchone()
    if not row:
        raise StoreError("no-drill", f"There is no drill number {number}.", "Ask for a new round.", 404)
    return row | {"question": orjson.loads(row["question"]), "answer_key": orjson.loads(row["answer_key"])}


def pictures(store: Store, number: int) -> int:
    """How many pictures a drill has, of its question and of its key."""
    with store.work() as sql:
        sql.execute("SELECT COUNT(*) AS n FROM drill_pictures WHERE drill_id = %s", (number,))
        return int((sql.fetchone() or {"n": 0})["n"])


def answered_last(store: Store, number: int) -> datetime | None:
    """When a drill was answered last, where it was."""
    with store.work() as sql:
        sql.execute("SELECT MAX(answered_at) AS at FROM drill_answers WHERE drill_id = %s", (number,))
        row = sql.fetchone()
    return row["at"] if row else None


def picture(store: Store, number: int, nth: int) -> bytes:
    """A picture (PNG) of a drill.

    Raises:
        StoreError: `no-picture`.
    """
    with store.work() as sql:
        sql.execute("SELECT png FROM drill_pictures WHERE drill_id = %s AND nth = %s", (number, nth))
        row = sql.fetchone()
    if not row:
        raise StoreError("no-picture", "There is no such picture.", "Ask for a new round.", 404)
    return bytes(row["png"])


@retried
def answer(store: Store, number: int, said: dict[str, Any], score: float, at: datetime) -> None:
    """Keep an answer and how right it was."""
    with store.work() as sql:
        sql.execute(
            "INSERT INTO drill_answers (drill_id, answer, score, answered_at) VALUES (%s, %s, %s, %s)",
            (number, orjson.dumps(said).decode(), score, at),
        )


def answers(store: Store) -> list[Row]:
    """All answers, oldest first: drill, its kind, score, when."""
    with store.work() as sql:
        sql.execute(
            "SELECT a.drill_id, d.kind, a.score, a.answered_at FROM drill_answers a"
            " JOIN drills d ON d.id = a.drill_id ORDER BY a.id"
        )
        return list(sql.fetchall())


@retried
def forget(store: Store, source: str) -> int:
    """Delete all drills of one source; how many there were."""
    with store.work() as sql:
        return int(sql.execute("DELETE FROM drills WHERE source = %s", (source,)))
