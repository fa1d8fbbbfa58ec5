"""Series and their specimens."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import orjson

from .db import Row, Store, StoreError, retried


@retried
def add(
    store: Store,
    name: str,
    spec: dict[str, Any],
    figure_id: int | None,
    specimens: Sequence[Mapping[str, Any]],
) -> int:
    """Keep a series with its specimens (`name`, `levels`, `found`), all or nothing; returns its id."""
    with store.work() as sql:
        sql.execute(
            "INSERT INTO series (name, figure_id, spec) VALUES (%s, %s, %s)",
            (name, figure_id, orjson.dumps(spec).decode()),
        )
        number = int(sql.lastrowid or 0)
        sql.executemany(
            "INSERT INTO specimens (series_id, name, levels, found) VALUES (%s, %s, %s, %s)",
            [(number, s["name"], *(orjson.dumps(s[k]).decode() for k in ("levels", "found"))) for s in specimens],
        )
        return number


def every(store: Store) -> list[Row]:
    """All series, newest first, with how many specimens they have and how many were looked at."""
    with store.work() as sql:
        sql.execute(
            "SELECT s.*, f.name AS figure_name, COUNT(p.id) AS specimens,"
            " COALESCE(SUM(p.found <> '{}'), 0) AS looked_at"
            " FROM series s LEFT JOIN figures f ON f.id = s.figure_id LEFT JOIN specimens p ON p.series_id = s.id"
            " GROUP BY s.id ORDER BY s.id DESC"
        )
        return [row | {"spec": orjson.loads(row["spec"])} for row in sql.fetchall()]


def one(store: Store, number: int) -> Row:
    """A series.

    Raises:
        StoreError: `no-series`.
    """
    with store.work() as sql:
        sql.execute(
            "SELECT s.*, f.name AS figure_name FROM series s LEFT JOIN figures f ON f.id = s.figure_id WHERE s.id = %s",
            (number,),
        )
        row = sql.fetchone()
    if not row:
        raise StoreError("no-series", f"There is no series number {number}.", "See the list of series.", 404)
    return row | {"spec": orjson.loads(row["spec"])}


def specimens(store: Store, number: int) -> list[Row]:
    """Specimens of a series in their order."""
    with store.work() as sql:
        sql.execute("SELECT * FROM specimens WHERE series_id = %s ORDER BY id", (number,))
        return [
            row | {"levels": orjson.loads(row["levels"]), "found": orjson.loads(row["found"])} for row in sql.fetchall()
        ]


@retried
def keep_found(store: Store, number: int, specimen: int, found: dict[str, Any], seen: int) -> int:
    """What was found of a specimen whose version `seen` somebody looked at; its new version.

    Raises:
        StoreError: `no-specimen`, `changed-meanwhile`.
    """
    with store.work() as sql:
        sql.execute("SELECT version FROM specimens WHERE id = %s AND series_id = %s FOR UPDATE", (specimen, number))
        row = sql.fetchone()
        if not row:
            raise StoreError("no-specimen", "There is no such specimen in this series.", "Load the page anew.", 404)
        if row["version"] != seen:
            what = "Somebody else has graded this specimen meanwhile."
            raise StoreError("changed-meanwhile", what, "Look at what they found, then write yours.", 409)
        sql.execute(
            "UPDATE specimens SET found = %s, version = version + 1 WHERE id = %s",
            (orjson.dumps(found).decode(), specimen),
        )
        return seen + 1


@retried
def give_plan(store: Store, number: int, specimens: Sequence[int], plan: int) -> None:
    """Note the plan that specimens of one cell are printed by."""
    marks = ", ".join(["%s"] * len(specimens))
    with store.work() as sql:
        sql.execute(
            f"UPDATE specimens SET plan_id = %s WHERE series_id = %s AND id IN ({marks})", (plan, number, *specimens)
        )


@retried
def replace(store: Store, number: int, rows: Sequence[tuple[str, dict[str, Any], dict[str, Any]]]) -> None:
    """All specimens anew, from a table (name, levels, found): taken whole. Runs stay with their names, and plans where
    the levels are the same too.
    """
    with store.work() as sql:
        sql.execute("SELECT name, levels, run_id, plan_id FROM specimens WHERE series_id = %s FOR UPDATE", (number,))
        rows_before = {row["name"]: row for row in sql.fetchall()}

        def kept(name: str, levels: dict[str, Any]) -> tuple[Any, Any]:
            """Its run, and its plan."""
            before = rows_before.get(name)
            if before is None:
                return None, None
            return before["run_id"], before["plan_id"] if orjson.loads(before["levels"]) == levels else None

        sql.execute("DELETE FROM specimens WHERE series_id = %s", (number,))
        sql.executemany(
            "INSERT INTO specimens (series_id, name, levels, found, run_id, plan_id) VALUES (%s, %s, %s, %s, %s, %s)",
            [
                (
                    number,
                    name,
                    orjson.dumps(levels).decode(),
                    orjson.dumps(found).decode(),
                    *kept(name, levels),
                )
                for name, levels, found in rows
            ],
        )


@retried
def add_specimens(store: Store, number: int, rows: Sequence[tuple[str, dict[str, Any]]]) -> None:
    """More specimens (name, levels)."""
    with store.work() as sql:
        sql.executemany(
            "INSERT INTO specimens (series_id, name, levels, found) VALUES (%s, %s, %s, '{}')",
            [(number, name, orjson.dumps(levels).decode()) for name, levels in rows],
        )


@retried
def delete(store: Store, number: int) -> None:
    """Delete a series with its specimens; runs stay in the log."""
    one(store, number)
    with store.work() as sql:
        sql.execute("DELETE FROM series WHERE id = %s", (number,))
