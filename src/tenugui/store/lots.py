"""Lots on the shelf, and what was done to them by hand."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from .db import Row, Store, StoreError, retried

MOST_LOTS, MOST_STEPS = 1000, 2000


@retried
def add(store: Store, kind: str, material_id: int | None, name: str, *, amount: float, opened_at: datetime) -> int:
    """Open a lot; its id.

    Raises:
        StoreError: `too-many`, `lot-there`: one of that name is open of that kind and material.
    """
    with store.work() as sql:
        sql.execute("SELECT COUNT(*) AS n FROM lots")
        if int((sql.fetchone() or {"n": 0})["n"]) >= MOST_LOTS:
            raise StoreError("too-many", f"There are {MOST_LOTS:,} lots.", "Delete those that are empty.", 409)
        sql.execute(
            "SELECT 1 FROM lots WHERE kind = %s AND material_id <=> %s AND name = %s FOR UPDATE",
            (kind, material_id, name),
        )
        if sql.fetchone():
            raise StoreError("lot-there", f"A lot is called '{name}' already.", "Give it another name.", 409)
        sql.execute(
            "INSERT INTO lots (kind, material_id, name, amount, opened_at) VALUES (%s, %s, %s, %s, %s)",
            (kind, material_id, name, amount, opened_at),
        )
        return int(sql.lastrowid or 0)


def every(store: Store) -> list[Row]:
    """All lots with their steps, oldest first."""
    with store.work() as sql:
        sql.execute(
            "SELECT l.*, m.name AS material_name FROM lots l LEFT JOIN materials m ON m.id = l.material_id"
            " ORDER BY l.opened_at, l.id"
        )
        rows: list[dict[str, Any]] = [row | {"steps": []} for row in sql.fetchall()]
        by_id = {row["id"]: row for row in rows}
        sql.execute("SELECT * FROM lot_steps ORDER BY at, id")
        for step in sql.fetchall():
            by_id[step["lot_id"]]["steps"].append(step)
    return rows


@retried
def step(store: Store, number: int, did: str, *, amount: float, note: str, at: datetime) -> int:
    """Note what was done to a lot by hand; the step's id.

    Raises:
        StoreError: `no-lot`, `too-many`.
    """
    with store.work() as sql:
        _there(sql, number)
        sql.execute("SELECT COUNT(*) AS n FROM lot_steps WHERE lot_id = %s", (number,))
        if int((sql.fetchone() or {"n": 0})["n"]) >= MOST_STEPS:
            raise StoreError("too-many", f"The lot has {MOST_STEPS:,} entries.", "Open another.", 409)
        sql.execute(
            "INSERT INTO lot_steps (lot_id, did, amount, note, at) VALUES (%s, %s, %s, %s, %s)",
            (number, did, amount, note, at),
        )
        return int(sql.lastrowid or 0)


@retried
def unstep(store: Store, number: int, entry: int) -> None:
    """Take a step back."""
    with store.work() as sql:
        sql.execute("DELETE FROM lot_steps WHERE id = %s AND lot_id = %s", (entry, number))


@retried
def delete(store: Store, number: int) -> None:
    """Delete a lot with what was noted of it."""
    with store.work() as sql:
        _there(sql, number)
        sql.execute("DELETE FROM lots WHERE id = %s", (number,))


def _there(sql: Any, number: int) -> None:
    sql.execute("SELECT 1 FROM lots WHERE id = %s FOR UPDATE", (number,))
    if not sql.fetchone():
        raise StoreError("no-lot", f"There is no lot number {number}.", "Load the page anew.", 404)


def uses(store: Store) -> list[Row]:
    """What every real run took of its material, by time, with the lot that was noted of it."""
    with store.work() as sql:
        sql.execute(
            "SELECT r.material_id, r.started_at, COALESCE(o.real_g, r.planned_g) AS grams,"
            " JSON_UNQUOTE(JSON_EXTRACT(r.frozen, REPLACE(JSON_UNQUOTE(JSON_SEARCH(r.frozen, 'one', 'Lot or bottle',"
            " NULL, '$[*].name')), '.name', '.value'))) AS lot"
            " FROM runs r LEFT JOIN outcomes o ON o.run_id = r.id WHERE NOT r.simulated ORDER BY r.started_at, r.id"
        )
        return list(sql.fetchall())
