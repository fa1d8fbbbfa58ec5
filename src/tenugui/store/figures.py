"""Figures: a name and the file they came in."""

from __future__ import annotations

from .db import Row, Store, StoreError


def add(store: Store, name: str, file_name: str, source_sha: str, triangles: int, sight_sha: str | None = None) -> int:
    """Keep a figure; returns its id."""
    with store.work() as sql:
        sql.execute(
            "INSERT INTO figures (name, file_name, source_sha, triangles, sight_sha) VALUES (%s, %s, %s, %s, %s)",
            (name[:120], file_name[:255], source_sha, triangles, sight_sha),
        )
        return int(sql.lastrowid or 0)


def one(store: Store, number: int) -> Row:
    """One figure, put away or not."""
    with store.work() as sql:
        sql.execute("SELECT * FROM figures WHERE id = %s", (number,))
        row = sql.fetchone()
    if not row:
        raise StoreError("no-figure", f"There is no figure number {number}.", "Go back to the bench.")
    return row


def on_bench(store: Store) -> list[Row]:
    """Every figure that is not put away, with its newest plan, newest first."""
    with store.work() as sql:
        sql.execute(
            "SELECT f.*, p.id AS plan_id, p.number AS plan_number FROM figures f LEFT JOIN plans p ON p.id = (SELECT MAX(id) FROM plans WHERE figure_id = f.id)"
            " WHERE f.put_away_at IS NULL ORDER BY f.id DESC"
        )
        return list(sql.fetchall())


def every(store: Store) -> list[Row]:
    """All figures, put away or not, with their newest plan."""
    with store.work() as sql:
        sql.execute("SELECT f.*, (SELECT MAX(id) FROM plans WHERE figure_id = f.id) AS plan_id FROM figures f ORDER BY f.id")
        return list(sql.fetchall())


def put_away(store: Store, number: int, away: bool) -> None:
    """Take a figure off the bench, or put it back; nothing is deleted."""
    one(store, number)
    with store.work() as sql:
        sql.execute("UPDATE figures SET put_away_at = IF(%s, CURRENT_TIMESTAMP(3), NULL) WHERE id = %s", (away, number))


def rename(store: Store, number: int, name: str) -> None:
    """Give a figure another name."""
    one(store, number)
    with store.work() as sql:
        sql.execute("UPDATE figures SET name = %s WHERE id = %s", (name[:120], number))
