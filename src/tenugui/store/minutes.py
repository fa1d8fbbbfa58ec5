"""Minutes that steps off the plate really took."""

from __future__ import annotations

from .db import Row, Store, StoreError, retried

MOST_KEPT = 5000


@retried
def keep(store: Store, plan_id: int, printer_id: int, step: str, *, reckoned: float, took: float) -> int:
    """Keep what a step took; its number."""
    with store.work() as sql:
        sql.execute(
            "INSERT INTO minutes (plan_id, printer_id, step, reckoned, took) VALUES (%s, %s, %s, %s, %s)",
            (plan_id, printer_id, step, reckoned, took),
        )
        return int(sql.lastrowid or 0)


def of_process(store: Store, process: str) -> list[Row]:
    """All of one process, whichever machine: hands are the same; the newest first."""
    with store.work() as sql:
        sql.execute(
            "SELECT m.id, m.plan_id, m.step, m.reckoned, m.took, m.noted_at FROM minutes m"
            " JOIN printers p ON p.id = m.printer_id WHERE p.process = %s ORDER BY m.id DESC LIMIT %s",
            (process, MOST_KEPT),
        )
        return list(sql.fetchall())


@retried
def forget(store: Store, number: int) -> None:
    """Take one back.

    Raises:
        StoreError: `no-minutes`.
    """
    with store.work() as sql:
        if not sql.execute("DELETE FROM minutes WHERE id = %s", (number,)):
            raise StoreError("no-minutes", "That was taken back already.", "Look at the page as it stands.")
