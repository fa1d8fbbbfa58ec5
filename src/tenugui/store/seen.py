"""What was seen on prints: pins on the figure, and photos."""

from __future__ import annotations

from typing import Any

import pymysql

from .db import Row, Store, StoreError, retried

MOST_SEEN, MOST_PHOTOS = 200, 40


def _there_in(sql: pymysql.cursors.DictCursor, run_id: int) -> None:
    sql.execute("SELECT 1 FROM runs WHERE id = %s FOR UPDATE", (run_id,))
    if not sql.fetchone():
        raise StoreError("no-run", f"There is no run number {run_id}.", "See the log.", 404)


def _counted_in(sql: pymysql.cursors.DictCursor, table: str, run_id: int, most: int) -> None:
    sql.execute(f"SELECT COUNT(*) AS n FROM {table} WHERE run_id = %s", (run_id,))
    if int((sql.fetchone() or {"n": 0})["n"]) >= most:
        raise StoreError("too-many", f"A run keeps at most {most} of these.", "Take one away first.", 409)


@retried
def add(store: Store, run_id: int, pin: dict[str, Any]) -> int:
    """Pin what was seen; returns its id.

    Raises:
        StoreError: `no-run`, `too-many`.
    """
    with store.work() as sql:
        _there_in(sql, run_id)
        _counted_in(sql, "seen", run_id, MOST_SEEN)
        place = pin.get("place") or (None, None, None)
        sql.execute(
            "INSERT INTO seen (run_id, cue, layer, x_mm, y_mm, z_mm, note) VALUES (%s, %s, %s, %s, %s, %s, %s)",
            (run_id, pin["cue"], pin.get("layer"), *place, pin.get("note", "")),
        )
        return int(sql.lastrowid or 0)


def of_run(store: Store, run_id: int) -> list[Row]:
    """Pins of a run in the order in which they were set."""
    with store.work() as sql:
        sql.execute("SELECT * FROM seen WHERE run_id = %s ORDER BY id", (run_id,))
        return list(sql.fetchall())


@retried
def remove(store: Store, run_id: int, number: int) -> None:
    """Take a pin away."""
    with store.work() as sql:
        sql.execute("DELETE FROM seen WHERE id = %s AND run_id = %s", (number, run_id))


@retried
def add_photo(store: Store, run_id: int, photo: dict[str, Any]) -> int:
    """Keep a photo whose content is stored; returns its id, that of the same photo where it is there already.

    Raises:
        StoreError: `no-run`, `too-many`.
    """
    with store.work() as sql:
        _there_in(sql, run_id)
        sql.execute("SELECT id FROM photos WHERE run_id = %s AND sha256 = %s", (run_id, photo["sha256"]))
        row = sql.fetchone()
        if row:
            return int(row["id"])
        _counted_in(sql, "photos", run_id, MOST_PHOTOS)
        names = ("stage", "side", "sha256", "small_sha", "width", "height")
        sql.execute(
            f"INSERT INTO photos (run_id, {', '.join(names)}) VALUES (%s, %s, %s, %s, %s, %s, %s)",
            (run_id, *(photo[name] for name in names)),
        )
        return int(sql.lastrowid or 0)


def photos(store: Store, run_id: int) -> list[Row]:
    """Photos of a run, by stage and side and then in their order."""
    with store.work() as sql:
        sql.execute("SELECT * FROM photos WHERE run_id = %s ORDER BY stage, side, id", (run_id,))
        return list(sql.fetchall())


@retried
def say_photo(store: Store, run_id: int, number: int, stage: str, side: str) -> None:
    """Say what a photo shows.

    Raises:
        StoreError: `no-photo`.
    """
    with store.work() as sql:
        sql.execute("SELECT 1 FROM photos WHERE id = %s AND run_id = %s FOR UPDATE", (number, run_id))
        if not sql.fetchone():
            raise StoreError("no-photo", "There is no such photo.", "Load the page anew.", 404)
        sql.execute("UPDATE photos SET stage = %s, side = %s WHERE id = %s", (stage, side, number))


@retried
def remove_photo(store: Store, run_id: int, number: int) -> None:
    """Take a photo away; its content is freed by `tidy`."""
    with store.work() as sql:
        sql.execute("DELETE FROM photos WHERE id = %s AND run_id = %s", (number, run_id))
