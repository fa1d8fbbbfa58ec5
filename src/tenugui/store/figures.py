"""Figures: a name and the file they came in."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import orjson
from pymysql.cursors import DictCursor

from .db import Row, Store, StoreError, retried


@dataclass(frozen=True)
class NewFigure:
    """A figure to keep: its name, the file it came in, its own mesh (the file itself where it holds only this), a first
    sight.
    """

    name: str
    file_name: str
    source_sha: str
    triangles: int
    sight_sha: str | None = None
    mesh_sha: str | None = None
    unit: str | None = None
    kit_id: int | None = None
    thinned: dict[str, float] | None = None
    settings_sha: str | None = None


@retried
def add(store: Store, new: NewFigure) -> int:
    """Keep a figure; returns its id."""
    with store.work() as sql:
        return add_in(sql, new)


def add_in(sql: DictCursor, new: NewFigure) -> int:
    """`add` within a transaction."""
    sql.execute(
        "INSERT INTO figures (name, file_name, source_sha, triangles, "
        "sight_sha, mesh_sha, unit, kit_id, thinned, settings_sha)"
        " VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s)",
        (
            new.name[:120],
            new.file_name[:255],
            new.source_sha,
            new.triangles,
            new.sight_sha,
            new.mesh_sha or new.source_sha,
            new.unit,
            new.kit_id,
            None if new.thinned is None else orjson.dumps(new.thinned),
            new.settings_sha,
        ),
    )
    return int(sql.lastrowid or 0)


@retried
def add_kit(store: Store, name: str, source_sha: str, placed: bool) -> int:
    """Keep a kit that came in one file; returns its id."""
    with store.work() as sql:
        return add_kit_in(sql, name, source_sha, placed)


def add_kit_in(sql: DictCursor, name: str, source_sha: str, placed: bool) -> int:
    """`add_kit` within a transaction."""
    sql.execute("INSERT INTO kits (name, source_sha, placed) VALUES (%s, %s, %s)", (name[:120], source_sha, placed))
    return int(sql.lastrowid or 0)


@retried
def examined(store: Store, mesh_sha: str, picture_sha: str, ready_sha: str | None) -> None:
    """Note what the examination of a mesh has made, on every figure of it."""
    with store.work() as sql:
        sql.execute(
            "UPDATE figures SET picture_sha = %s, ready_sha = %s, problem = NULL WHERE mesh_sha = %s",
            (picture_sha, ready_sha, mesh_sha),
        )


@retried
def troubled(store: Store, mesh_sha: str, problem: dict[str, Any]) -> None:
    """Note why a mesh could not be examined."""
    with store.work() as sql:
        sql.execute("UPDATE figures SET problem = %s WHERE mesh_sha = %s", (orjson.dumps(problem).decode(), mesh_sha))


@retried
def delete(store: Store, number: int) -> None:
    """Delete a figure with its plans, decisions and results for good. Prints that were made stay in the log; content is
    freed by `tidy`.
    """
    one(store, number)
    with store.work() as sql:
        sql.execute("SELECT mesh_sha, ready_sha FROM figures WHERE id = %s FOR UPDATE", (number,))
        row = sql.fetchone() or {}
        sql.execute("UPDATE plans SET head_id = NULL WHERE figure_id = %s", (number,))
        # A chain is deleted from its ends, since each decision names the one before it.
        while sql.execute(
            "DELETE FROM decisions WHERE plan_id IN (SELECT id FROM plans WHERE figure_id = %s)"
            " AND id NOT IN (SELECT parent_id FROM (SELECT parent_id "
            "FROM decisions WHERE parent_id IS NOT NULL) AS parents)",
            (number,),
        ):
            pass
        # What another figure of the same mesh waits for goes on in its name.
        sql.execute(
            "SELECT id FROM figures WHERE mesh_sha = %s AND id <> %s ORDER BY put_away_at IS NOT NULL, id LIMIT 1",
            (row.get("mesh_sha"), number),
        )
        other = sql.fetchone()
        if other:
            sql.execute(
                "UPDATE jobs SET figure_id = %s WHERE figure_id = %s AND state IN ('waiting', 'running')",
                (other["id"], number),
            )
        else:
            sql.execute(
                "UPDATE jobs SET cancel_wanted = 1, active_key = NULL "
                "WHERE figure_id = %s AND state IN ('waiting', 'running')",
                (number,),
            )
        sql.execute("DELETE FROM plans WHERE figure_id = %s", (number,))
        sql.execute("DELETE FROM figures WHERE id = %s", (number,))
        for sha in {row.get("mesh_sha"), row.get("ready_sha")} - {None}:
            sql.execute("SELECT 1 FROM figures WHERE mesh_sha = %s OR ready_sha = %s LIMIT 1", (sha, sha))
            if not sql.fetchone():
                sql.execute("DELETE FROM results WHERE mesh_sha = %s", (sha,))
        sql.execute("DELETE FROM kits WHERE id NOT IN (SELECT kit_id FROM figures WHERE kit_id IS NOT NULL)")


@retried
def join_kit(store: Store, name: str, numbers: list[int]) -> int:
    """Make a kit of figures; returns its id. Raises `StoreError` where one is missing or belongs to another."""
    marks = ", ".join(["%s"] * len(numbers))
    with store.work() as sql:
        sql.execute(f"SELECT id, kit_id FROM figures WHERE id IN ({marks}) FOR UPDATE", numbers)
        kits = {row["id"]: row["kit_id"] for row in sql.fetchall()}
        for number in numbers:
            if number not in kits:
                raise StoreError("no-figure", f"There is no figure number {number}.", "Go back to the bench.")
            if kits[number] is not None:
                raise StoreError("in-a-kit", f"Figure number {number} belongs to a kit already.", "Leave it out.", 409)
        sql.execute("INSERT INTO kits (name, source_sha, placed) VALUES (%s, NULL, 0)", (name[:120],))
        kit_id = int(sql.lastrowid or 0)
        sql.execute(f"UPDATE figures SET kit_id = %s WHERE id IN ({marks})", (kit_id, *numbers))
    return kit_id


def of_kit(store: Store, kit_id: int) -> list[Row]:
    """The parts of a kit that are not put away, in the file's order, each with its newest plan."""
    with store.work() as sql:
        sql.execute(
            "SELECT f.*, k.name AS kit_name, k.placed, p.id AS plan_id, p.own FROM figures f"
            " JOIN kits k ON k.id = f.kit_id"
            " LEFT JOIN plans p ON p.id = (SELECT MAX(id) FROM plans WHERE figure_id = f.id)"
            " WHERE f.kit_id = %s AND f.put_away_at IS NULL ORDER BY f.id",
            (kit_id,),
        )
        return list(sql.fetchall())


def one(store: Store, number: int) -> Row:
    """One figure, put away or not.

    Raises:
        StoreError: `no-figure`.
    """
    with store.work() as sql:
        sql.execute(
            "SELECT f.*, (SELECT MAX(id) FROM plans WHERE figure_id = f.id) AS plan_id FROM figures f WHERE f.id = %s",
            (number,),
        )
        row = sql.fetchone()
    if not row:
        raise StoreError("no-figure", f"There is no figure number {number}.", "Go back to the bench.")
    return row


def on_bench(store: Store) -> list[Row]:
    """Every figure that is not put away, newest first, with its plan: the newest that was proved, else the newest,
    since a branch that was begun beside a proved plan is not what stands; and how many plans it has.
    """
    with store.work() as sql:
        sql.execute(
            "SELECT f.*, k.name AS kit_name, p.id AS plan_id, p.number AS plan_number, p.own,"
            " (SELECT COUNT(*) FROM plans WHERE figure_id = f.id) AS plans FROM figures f"
            " LEFT JOIN kits k ON k.id = f.kit_id LEFT JOIN plans p ON p.id = COALESCE("
            "(SELECT MAX(q.id) FROM plans q WHERE q.figure_id = f.id AND EXISTS"
            " (SELECT 1 FROM decisions d WHERE d.plan_id = q.id AND d.fold = 'proof')),"
            " (SELECT MAX(id) FROM plans WHERE figure_id = f.id))"
            " WHERE f.put_away_at IS NULL ORDER BY f.id DESC"
        )
        return list(sql.fetchall())


def away(store: Store) -> list[Row]:
    """Figures that were put away, the last first."""
    with store.work() as sql:
        sql.execute("SELECT * FROM figures WHERE put_away_at IS NOT NULL ORDER BY put_away_at DESC, id DESC")
        return list(sql.fetchall())


def every(store: Store) -> list[Row]:
    """All figures, put away or not, with their newest plan."""
    with store.work() as sql:
        sql.execute(
            "SELECT f.*, (SELECT MAX(id) FROM plans WHERE figure_id = f.id) AS plan_id FROM figures f ORDER BY f.id"
        )
        return list(sql.fetchall())


@retried
def put_away(store: Store, number: int, away: bool) -> None:
    """Take a figure off the bench, or put it back; nothing is deleted."""
    one(store, number)
    with store.work() as sql:
        sql.execute("UPDATE figures SET put_away_at = IF(%s, CURRENT_TIMESTAMP(3), NULL) WHERE id = %s", (away, number))


@retried
def rename(store: Store, number: int, name: str) -> None:
    """Give a figure another name."""
    one(store, number)
    with store.work() as sql:
        sql.execute("UPDATE figures SET name = %s WHERE id = %s", (name[:120], number))
