"""What somebody wants by a date."""

from __future__ import annotations

from typing import Any

import orjson

from .db import Row, Store, StoreError, retried

MOST_ORDERS = 500


@retried
def add(store: Store, order: dict[str, Any]) -> int:
    """Keep an order; returns its id.

    Raises:
        StoreError: `too-many`.
    """
    with store.work() as sql:
        sql.execute("SELECT COUNT(*) AS n FROM orders")
        if int((sql.fetchone() or {"n": 0})["n"]) >= MOST_ORDERS:
            raise StoreError("too-many", f"There are {MOST_ORDERS} orders.", "Delete those that are done.", 409)
        sql.execute(
            "INSERT INTO orders (name, plan_id, plate_id, copies, due, chance, goes, pins)"
            " VALUES (%(name)s, %(plan_id)s, %(plate_id)s, %(copies)s, %(due)s, %(chance)s, %(goes)s, '{}')",
            order,
        )
        return int(sql.lastrowid or 0)


def every(store: Store) -> list[Row]:
    """All orders, what is due first before."""
    with store.work() as sql:
        sql.execute(
            "SELECT o.*, f.name AS figure_name, f.picture_sha AS picture, p.number AS plan_number,"
            " t.name AS plate_name FROM orders o"
            " LEFT JOIN plans p ON p.id = o.plan_id LEFT JOIN figures f ON f.id = p.figure_id"
            " LEFT JOIN plates t ON t.id = o.plate_id ORDER BY o.due IS NULL, o.due, o.id"
        )
        return [row | {"pins": orjson.loads(row["pins"])} for row in sql.fetchall()]


def _one(sql: Any, number: int) -> Row:
    sql.execute("SELECT * FROM orders WHERE id = %s FOR UPDATE", (number,))
    row: Row | None = sql.fetchone()
    if not row:
        raise StoreError("no-order", f"There is no order number {number}.", "See the week.", 404)
    return row


@retried
def change(store: Store, number: int, order: dict[str, Any]) -> None:
    """Another name, count, date, chance, end, or how many are made.

    Raises:
        StoreError: `no-order`.
    """
    with store.work() as sql:
        _one(sql, number)
        sql.execute(
            "UPDATE orders SET name = %(name)s, copies = %(copies)s, due = %(due)s, chance = %(chance)s,"
            " goes = %(goes)s, made = %(made)s WHERE id = %(id)s",
            order | {"id": number},
        )


@retried
def pin(store: Store, number: int, nth: int, pin: dict[str, Any] | None) -> None:
    """Where and from when its nth print stands; None lets it go.

    Raises:
        StoreError: `no-order`.
    """
    with store.work() as sql:
        pins = orjson.loads(_one(sql, number)["pins"])
        pins.pop(str(nth), None)
        if pin is not None:
            pins[str(nth)] = pin
        sql.execute("UPDATE orders SET pins = %s WHERE id = %s", (orjson.dumps(pins).decode(), number))


@retried
def delete(store: Store, number: int) -> None:
    """Delete an order; what was printed for it stays in the log."""
    with store.work() as sql:
        sql.execute("DELETE FROM orders WHERE id = %s", (number,))
