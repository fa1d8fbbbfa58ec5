"""Printers and materials of the workshop."""

from __future__ import annotations

from datetime import datetime
from typing import Any

import orjson
import pymysql

from .db import Row, Store, StoreError, retried

KINDS = {"printers": "printer", "materials": "material"}


def every(store: Store, table: str, retired: bool = False) -> list[Row]:
    """All printers or all materials, by name; `retired` ones too."""
    with store.work() as sql:
        sql.execute(f"SELECT * FROM {_known(table)} WHERE retired_at IS NULL OR %s ORDER BY process, name", (retired,))
        return [_row(row) for row in sql.fetchall()]


def one(store: Store, table: str, number: int) -> Row:
    """One by its id.

    Raises:
        StoreError: there is none of this number.
    """
    with store.work() as sql:
        sql.execute(f"SELECT * FROM {_known(table)} WHERE id = %s", (number,))
        row = sql.fetchone()
    if not row:
        raise StoreError(f"no-{KINDS[table]}", f"There is no {KINDS[table]} number {number}.")
    return _row(row)


@retried
def keep(store: Store, table: str, spec: dict[str, Any], stock_g: float | None = None) -> int:
    """Add one, or replace the one of the same name; returns its id.

    Raises:
        StoreError: `wrong-process`.
    """
    text = orjson.dumps(spec).decode()
    with store.work() as sql:
        try:
            sql.execute(
                f"INSERT INTO {_known(table)} (name, process, spec) VALUES (%s, %s, %s)",
                (spec["name"], spec["process"], text),
            )
            number = int(sql.lastrowid or 0)
        except pymysql.err.IntegrityError:
            sql.execute(f"SELECT id, process FROM {_known(table)} WHERE name = %s", (spec["name"],))
            row = sql.fetchone()
            assert row is not None
            if row["process"] != spec["process"]:
                raise StoreError(
                    "wrong-process", f"'{spec['name']}' is kept for {row['process']}.", "Give it another name.", 409
                ) from None
            number = int(row["id"])
            sql.execute(f"UPDATE {_known(table)} SET spec = %s, retired_at = NULL WHERE id = %s", (text, number))
        if table == "materials" and stock_g is not None:
            sql.execute("UPDATE materials SET stock_g = %s WHERE id = %s", (stock_g, number))
    return number


@retried
def retire(store: Store, table: str, number: int) -> None:
    """Take one off the shelf. What was printed with it still names it; keeping one of its name brings it back."""
    one(store, table, number)
    with store.work() as sql:
        sql.execute(f"UPDATE {_known(table)} SET retired_at = CURRENT_TIMESTAMP(3) WHERE id = %s", (number,))


@retried
def new_film(store: Store, number: int, since: datetime | None = None) -> None:
    """Note that a printer has a new film from then on, or from now."""
    one(store, "printers", number)
    with store.work() as sql:
        sql.execute("UPDATE printers SET film_at = COALESCE(%s, CURRENT_TIMESTAMP(3)) WHERE id = %s", (since, number))


def _known(table: str) -> str:
    if table not in KINDS:
        raise ValueError(table)  # never from user text
    return table


def _row(row: Row) -> Row:
    return {**row, "spec": orjson.loads(row["spec"])}
