"""Plates: what is printed together, step by step, and the batches that were begun from them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any

import orjson
from pymysql.cursors import DictCursor

from .db import Row, Store, StoreError, retried

MOST_STEPS = 60
"""So many changes of a plate can be taken back."""
MOST_PLATES = 1000


@retried
def add(store: Store, name: str, printer_id: int, body: dict[str, Any]) -> int:
    """Keep a new plate; returns its id.

    Raises:
        StoreError: `too-many`.
    """
    with store.work() as sql:
        sql.execute("SELECT COUNT(*) AS n FROM plates")
        if int((sql.fetchone() or {"n": 0})["n"]) >= MOST_PLATES:
            raise StoreError("too-many", f"There are {MOST_PLATES:,} plates.", "Delete those that are done.", 409)
        sql.execute("INSERT INTO plates (name, printer_id) VALUES (%s, %s)", (name, printer_id))
        number = int(sql.lastrowid or 0)
        _write(sql, number, 0, "laid out", body)
        return number


def _write(sql: DictCursor, number: int, step: int, did: str, body: dict[str, Any]) -> None:
    sql.execute(
        "INSERT INTO plate_steps (plate_id, step, did, body) VALUES (%s, %s, %s, %s)",
        (number, step, did[:120], orjson.dumps(body).decode()),
    )


_ONE = (
    "SELECT p.*, s.body, s.did, m.name AS printer_name, m.process, m.spec AS printer,"
    " (SELECT b.did FROM plate_steps b WHERE b.plate_id = p.id AND b.step = p.head + 1) AS forth,"
    " EXISTS (SELECT 1 FROM plate_steps b WHERE b.plate_id = p.id AND b.step < p.head) AS back"
    " FROM plates p JOIN plate_steps s ON s.plate_id = p.id AND s.step = p.head JOIN printers m ON m.id = p.printer_id"
)


def _row(row: Row) -> Row:
    return row | {"body": orjson.loads(row["body"]), "printer": orjson.loads(row["printer"])}


def every(store: Store) -> list[Row]:
    """All plates as they stand, newest first, with how many batches were begun of each."""
    with store.work() as sql:
        sql.execute(f"{_ONE} ORDER BY p.id DESC")
        rows = [_row(row) for row in sql.fetchall()]
        sql.execute("SELECT plate_id, COUNT(*) AS n FROM batches WHERE plate_id IS NOT NULL GROUP BY plate_id")
        begun = {row["plate_id"]: row["n"] for row in sql.fetchall()}
    return [row | {"begun": begun.get(row["id"], 0)} for row in rows]


def one(store: Store, number: int) -> Row:
    """A plate as it stands.

    Raises:
        StoreError: `no-plate`.
    """
    with store.work() as sql:
        sql.execute(f"{_ONE} WHERE p.id = %s", (number,))
        row = sql.fetchone()
    if not row:
        raise _gone(number)
    return _row(row)


def _gone(number: int) -> StoreError:
    return StoreError("no-plate", f"There is no plate number {number}.", "See the list of plates.", 404)


def _head(sql: DictCursor, number: int, seen: int) -> int:
    sql.execute("SELECT head, version FROM plates WHERE id = %s FOR UPDATE", (number,))
    row = sql.fetchone()
    if not row:
        raise _gone(number)
    if row["version"] != seen:
        what = "Somebody else has changed this plate meanwhile."
        raise StoreError("changed-meanwhile", what, "Look at it as it stands now, then change it.", 409)
    return int(row["head"])


@retried
def step(store: Store, number: int, seen: int, did: str, body: dict[str, Any], *, name: str | None = None) -> None:
    """Change a plate whose version `seen` somebody looked at; what was taken back before is forgotten.

    Raises:
        StoreError: `no-plate`, `changed-meanwhile`.
    """
    with store.work() as sql:
        head = _head(sql, number, seen)
        sql.execute(
            "DELETE FROM plate_steps WHERE plate_id = %s AND (step > %s OR step <= %s)",
            (number, head, head - MOST_STEPS),
        )
        _write(sql, number, head + 1, did, body)
        sql.execute(
            "UPDATE plates SET head = %s, version = version + 1, name = COALESCE(%s, name) WHERE id = %s",
            (head + 1, name, number),
        )


@retried
def amend(store: Store, number: int, seen: int, body: dict[str, Any]) -> None:
    """Put something beside a plate's last step that is none of its own, such as a tick on its card.

    Raises:
        StoreError: `no-plate`, `changed-meanwhile`.
    """
    with store.work() as sql:
        head = _head(sql, number, seen)
        sql.execute(
            "UPDATE plate_steps SET body = %s WHERE plate_id = %s AND step = %s",
            (orjson.dumps(body).decode(), number, head),
        )
        sql.execute("UPDATE plates SET version = version + 1 WHERE id = %s", (number,))


@retried
def turn(store: Store, number: int, seen: int, by: int) -> None:
    """Take a change back (-1) or make it again (+1).

    Raises:
        StoreError: `no-plate`, `changed-meanwhile`, `nothing-there`.
    """
    with store.work() as sql:
        head = _head(sql, number, seen)
        sql.execute("SELECT 1 FROM plate_steps WHERE plate_id = %s AND step = %s", (number, head + by))
        if not sql.fetchone():
            what = "There is nothing to take back." if by < 0 else "There is nothing to make again."
            raise StoreError("nothing-there", what, "", 409)
        sql.execute("UPDATE plates SET head = head + %s, version = version + 1 WHERE id = %s", (by, number))


@retried
def delete(store: Store, number: int) -> None:
    """Delete a plate; what was begun of it stays in the log."""
    with store.work() as sql:
        sql.execute("DELETE FROM plates WHERE id = %s", (number,))


def offers(store: Store, printer_id: int, most: int = 500) -> list[Row]:
    """Plans whose proof was accepted at some time and whose latest size is for a printer, newest first: what is likely
    to be laid on its plate.
    """
    with store.work() as sql:
        sql.execute(
            "SELECT p.id, p.number, f.name AS figure_name, f.kit_id FROM plans p JOIN figures f ON f.id = p.figure_id"
            " WHERE f.put_away_at IS NULL"
            " AND EXISTS (SELECT 1 FROM decisions d WHERE d.plan_id = p.id AND d.fold = 'proof')"
            " AND JSON_VALUE((SELECT d.choice FROM decisions d WHERE d.plan_id = p.id AND d.fold = 'size'"
            " ORDER BY d.id DESC LIMIT 1), '$.printer_id') = %s ORDER BY p.id DESC LIMIT %s",
            (printer_id, most),
        )
        return list(sql.fetchall())


@retried
def begin(
    store: Store, number: int, name: str, plate: int, *, planned_s: float, started_at: datetime, runs: Sequence[int]
) -> int:
    """A batch of runs that were begun together; its id."""
    with store.work() as sql:
        sql.execute(
            "INSERT INTO batches (plate_id, plate_name, number, planned_s, started_at) VALUES (%s, %s, %s, %s, %s)",
            (number, name, plate, planned_s, started_at),
        )
        batch = int(sql.lastrowid or 0)
        sql.executemany("UPDATE runs SET batch_id = %s WHERE id = %s", [(batch, run) for run in runs])
        return batch


def batches(store: Store, number: int) -> list[Row]:
    """Batches of a plate, newest first, each with its runs in their order."""
    with store.work() as sql:
        sql.execute("SELECT * FROM batches WHERE plate_id = %s ORDER BY started_at DESC, id DESC", (number,))
        found = list(sql.fetchall())
        sql.execute(
            "SELECT r.id, r.batch_id, r.plan_id, r.figure_name, o.result FROM runs r"
            " JOIN batches b ON b.id = r.batch_id LEFT JOIN outcomes o ON o.run_id = r.id"
            " WHERE b.plate_id = %s ORDER BY r.id",
            (number,),
        )
        rows = list(sql.fetchall())
    return [batch | {"runs": [row for row in rows if row["batch_id"] == batch["id"]]} for batch in found]
