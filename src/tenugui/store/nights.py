"""Nights: which figures are planned on which machines; their rows are results like any other."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import orjson

from .db import Row, Store, StoreError, retried


def _row(row: Row) -> Row:
    return row | {name: orjson.loads(row[name]) for name in ("asked", "figures")}


@retried
def add(store: Store, asked: dict[str, Any], figures: Sequence[int]) -> int:
    """A night; returns its id."""
    with store.work() as sql:
        sql.execute(
            "INSERT INTO nights (asked, figures) VALUES (%s, %s)",
            (orjson.dumps(asked).decode(), orjson.dumps(list(figures)).decode()),
        )
        return int(sql.lastrowid or 0)


@retried
def ask(store: Store, number: int, asked: dict[str, Any]) -> None:
    """Ask otherwise of the same figures.

    Raises:
        StoreError: `no-night`.
    """
    one(store, number)
    with store.work() as sql:
        sql.execute("UPDATE nights SET asked = %s WHERE id = %s", (orjson.dumps(asked).decode(), number))


def one(store: Store, number: int) -> Row:
    """A night.

    Raises:
        StoreError: `no-night`.
    """
    with store.work() as sql:
        sql.execute("SELECT * FROM nights WHERE id = %s", (number,))
        row = sql.fetchone()
    if not row:
        raise StoreError("no-night", f"There is no night number {number}.", "See the list of nights.", 404)
    return _row(row)


def every(store: Store, most: int = 50) -> list[Row]:
    """The latest nights, newest first."""
    with store.work() as sql:
        sql.execute("SELECT * FROM nights ORDER BY id DESC LIMIT %s", (most,))
        return [_row(row) for row in sql.fetchall()]
