"""Figures: a name and the file they came in."""

from __future__ import annotations

from dataclasses import dataclass

import orjson

from .db import Row, Store, StoreError


@dataclass(frozen=True)
class NewFigure:
    """A figure to keep: its name, the file it came in, its own mesh (the file itself where it holds only this), a first sight."""

    name: str
    file_name: str
    source_sha: str
    triangles: int
    sight_sha: str | None = None
    mesh_sha: str | None = None
    unit: str | None = None
    kit_id: int | None = None
    thinned: dict[str, float] | None = None


def add(store: Store, new: NewFigure) -> int:
    """Keep a figure; returns its id."""
    with store.work() as sql:
        sql.execute(
            "INSERT INTO figures (name, file_name, source_sha, triangles, sight_sha, mesh_sha, unit, kit_id, thinned)"
            " VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s)",
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
            ),
        )
        return int(sql.lastrowid or 0)


def add_kit(store: Store, name: str, source_sha: str, placed: bool) -> int:
    """Keep a kit that came in one file; returns its id."""
    with store.work() as sql:
        sql.execute("INSERT INTO kits (name, source_sha, placed) VALUES (%s, %s, %s)", (name[:120], source_sha, placed))
        return int(sql.lastrowid or 0)


def join_kit(store: Store, name: str, numbers: list[int]) -> int:
    """Make a kit of figures; returns its id. Raises `StoreError` where one is missing or belongs to another."""
    marks = ", ".join(["%s"] * len(numbers))
    with store.work() as sql:
        sql.execute(f"SELECT id, kit_id FROM figures WHERE id IN ({marks}) FOR UPDATE", numbers)
        held = {row["id"]: row["kit_id"] for row in sql.fetchall()}
        for number in numbers:
            if number not in held:
                raise StoreError("no-figure", f"There is no figure number {number}.", "Go back to the bench.")
            if held[number] is not None:
                raise StoreError("in-a-kit", f"Figure number {number} belongs to a kit already.", "Leave it out.", 409)
        sql.execute("INSERT INTO kits (name, source_sha, placed) VALUES (%s, NULL, 0)", (name[:120],))
        kit_id = int(sql.lastrowid or 0)
        sql.execute(f"UPDATE figures SET kit_id = %s WHERE id IN ({marks})", (kit_id, *numbers))
    return kit_id


def of_kit(store: Store, kit_id: int) -> list[Row]:
    """The parts of a kit that are not put away, in the file's order, each with its newest plan."""
    with store.work() as sql:
        sql.execute(
            "SELECT f.*, k.name AS kit_name, k.placed, (SELECT MAX(id) FROM plans WHERE figure_id = f.id) AS plan_id FROM figures f"
            " JOIN kits k ON k.id = f.kit_id WHERE f.kit_id = %s AND f.put_away_at IS NULL ORDER BY f.id",
            (kit_id,),
        )
        return list(sql.fetchall())


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
            "SELECT f.*, k.name AS kit_name, p.id AS plan_id, p.number AS plan_number FROM figures f LEFT JOIN kits k ON k.id = f.kit_id LEFT JOIN plans p ON p.id = (SELECT MAX(id) FROM plans WHERE figure_id = f.id)"
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
