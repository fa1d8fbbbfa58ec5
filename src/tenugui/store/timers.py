"""Timers of steps off the plate."""

from __future__ import annotations

from .db import Row, Store, StoreError, retried

MOST_RUNNING = 200


@retried
def start(store: Store, plan_id: int, step: str, minutes: float) -> int:
    """Start a step's timer, or start it again; returns its id.

    Raises:
        StoreError: `no-plan`, `too-many`.
    """
    with store.work() as sql:
        sql.execute("SELECT 1 FROM plans WHERE id = %s FOR UPDATE", (plan_id,))
        if not sql.fetchone():
            raise StoreError("no-plan", f"There is no plan number {plan_id}.", "Go back to the bench.")
        sql.execute("SELECT COUNT(*) AS n FROM timers")
        if int((sql.fetchone() or {"n": 0})["n"]) >= MOST_RUNNING:
            raise StoreError("too-many", f"{MOST_RUNNING} timers run already.", "Put the rung ones away.", 409)
        sql.execute("DELETE FROM timers WHERE plan_id = %s AND step = %s", (plan_id, step))
        sql.execute(
            "INSERT INTO timers (plan_id, step, ends_at) VALUES (%s, %s, CURRENT_TIMESTAMP(3) + INTERVAL %s SECOND)",
            (plan_id, step, round(minutes * 60)),
        )
        return int(sql.lastrowid or 0)


def every(store: Store) -> list[Row]:
    """All timers, the one that rings first before; `left_s` below 0 where it has rung."""
    with store.work() as sql:
        sql.execute(
            "SELECT t.id, t.plan_id, t.step, t.started_at, t.ends_at, f.name AS figure_name,"
            " TIMESTAMPDIFF(MICROSECOND, CURRENT_TIMESTAMP(3), t.ends_at) / 1e6 AS left_s"
            " FROM timers t JOIN plans p ON p.id = t.plan_id JOIN figures f ON f.id = p.figure_id ORDER BY t.ends_at"
        )
        return [row | {"left_s": float(row["left_s"])} for row in sql.fetchall()]


@retried
def put_away(store: Store, number: int) -> None:
    """Put a timer away, rung or not."""
    with store.work() as sql:
        sql.execute("DELETE FROM timers WHERE id = %s", (number,))
