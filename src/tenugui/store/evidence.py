"""What was seen of what machines can do, and learned values that were taken over onto the shelf."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import Any

import orjson

from .db import Row, Store, StoreError, retried


@retried
def add(
    store: Store,
    printer_id: int,
    material_id: int,
    ability: str,
    *,
    level: float,
    came_out: bool,
    source: str,
    run_id: int | None = None,
    note: str = "",
) -> int:
    """Note one piece of evidence; returns its id."""
    with store.work() as sql:
        sql.execute(
            "INSERT INTO evidence (printer_id, material_id, ability, level, came_out, source, run_id, note)"
            " VALUES (%s, %s, %s, %s, %s, %s, %s, %s)",
            (printer_id, material_id, ability, level, came_out, source, run_id, note),
        )
        return int(sql.lastrowid or 0)


def of_machine(store: Store, printer_id: int, material_id: int) -> list[Row]:
    """All evidence of a printer in a material, oldest first."""
    with store.work() as sql:
        sql.execute(
            "SELECT * FROM evidence WHERE printer_id = %s AND material_id = %s ORDER BY noted_at, id",
            (printer_id, material_id),
        )
        return list(sql.fetchall())


def every(store: Store) -> list[Row]:
    """All evidence with the names of its printers and materials, oldest first."""
    with store.work() as sql:
        sql.execute(
            "SELECT e.*, p.name AS printer_name, m.name AS material_name FROM evidence e"
            " JOIN printers p ON p.id = e.printer_id JOIN materials m ON m.id = e.material_id ORDER BY e.noted_at, e.id"
        )
        return list(sql.fetchall())


@retried
def bring(store: Store, lines: Sequence[tuple[int, int, dict[str, Any]]]) -> int:
    """Keep what another bench has seen (printer, material, line), all or nothing; returns how many were not there yet:
    of those that are alike to the second, as many are there as are here.
    """
    names = ("ability", "level", "came_out", "source", "noted_at", "note")
    # Tables hold whole seconds, and several specimens are told at once.
    wanted = Counter(
        (printer, material, *(line[k][:19] if k == "noted_at" else line[k] for k in names))
        for printer, material, line in lines
    )
    taken = 0
    with store.work() as sql:
        for values, many in wanted.items():
            sql.execute(
                "SELECT COUNT(*) AS n FROM evidence WHERE printer_id = %s AND material_id = %s AND ability = %s"
                " AND level = %s AND came_out = %s AND source = %s"
                " AND noted_at >= %s AND noted_at < TIMESTAMPADD(SECOND, 1, %s) AND note = %s",
                (*values[:7], *values[6:]),
            )
            fresh = max(many - int((sql.fetchone() or {"n": 0})["n"]), 0)
            sql.executemany(
                f"INSERT INTO evidence (printer_id, material_id, {', '.join(names)}) VALUES (%s, %s, %s, %s, %s, %s,"
                " %s, %s)",
                [values] * fresh,
            )
            taken += fresh
    return taken


@retried
def retell(
    store: Store, printer_id: int, material_id: int, ability: str, *, seen: Sequence[tuple[float, bool]], note: str
) -> None:
    """What a series tells of a capability (level, came out), in place of what it told of that before."""
    with store.work() as sql:
        sql.execute(
            "DELETE FROM evidence WHERE printer_id = %s AND material_id = %s AND ability = %s AND source = 'series'"
            " AND note = %s",
            (printer_id, material_id, ability, note),
        )
        sql.executemany(
            "INSERT INTO evidence (printer_id, material_id, ability, level, came_out, source, note)"
            " VALUES (%s, %s, %s, %s, %s, 'series', %s)",
            [(printer_id, material_id, ability, level, came_out, note) for level, came_out in seen],
        )


@retried
def remove(store: Store, printer_id: int, number: int) -> None:
    """Take a piece of evidence back."""
    with store.work() as sql:
        sql.execute("DELETE FROM evidence WHERE id = %s AND printer_id = %s", (number, printer_id))


def materials_of(store: Store, printer_id: int) -> list[int]:
    """In which materials a printer was used or something was seen of it."""
    with store.work() as sql:
        sql.execute(
            "SELECT DISTINCT material_id FROM runs WHERE printer_id = %s"
            " UNION SELECT DISTINCT material_id FROM evidence WHERE printer_id = %s",
            (printer_id, printer_id),
        )
        return [int(row["material_id"]) for row in sql.fetchall()]


@retried
def take(store: Store, shelf: str, number: int, field: str, *, value: Any, why: str) -> int:
    """Put a learned value into a spec on the shelf, and keep what stood there; returns its id. A field `a.b` is `b`
    within `a`.

    Raises:
        StoreError: `no-printer`, `no-material`.
    """
    table = _known(shelf)
    with store.work() as sql:
        sql.execute(f"SELECT spec FROM {table} WHERE id = %s FOR UPDATE", (number,))
        row = sql.fetchone()
        if not row:
            raise StoreError(f"no-{shelf[:-1]}", f"There is no {shelf[:-1]} number {number}.", "See the shelf.", 404)
        spec = orjson.loads(row["spec"])
        was = _put(spec, field, value)
        sql.execute(f"UPDATE {table} SET spec = %s WHERE id = %s", (orjson.dumps(spec).decode(), number))
        sql.execute(
            "INSERT INTO taken (shelf, on_shelf_id, field, before_it, since_then, why) VALUES (%s, %s, %s, %s, %s, %s)",
            (shelf, number, field, orjson.dumps(was).decode(), orjson.dumps(value).decode(), why[:200]),
        )
        return int(sql.lastrowid or 0)


@retried
def undo(store: Store, printer_id: int, number: int) -> None:
    """Put back what stood there before a value was taken over onto a printer.

    Raises:
        StoreError: `not-taken`; `changed-meanwhile` where somebody has set it otherwise since.
    """
    with store.work() as sql:
        sql.execute(
            "SELECT * FROM taken WHERE id = %s AND shelf = 'printers' AND on_shelf_id = %s FOR UPDATE",
            (number, printer_id),
        )
        row = sql.fetchone()
        if not row or row["undone_at"] is not None:
            raise StoreError("not-taken", "This value is not taken over.", "Load the page anew.", 409)
        table = _known(row["shelf"])
        sql.execute(f"SELECT spec FROM {table} WHERE id = %s FOR UPDATE", (row["on_shelf_id"],))
        spec = orjson.loads((sql.fetchone() or {"spec": "{}"})["spec"])
        if _put(spec, row["field"], orjson.loads(row["before_it"])) != orjson.loads(row["since_then"]):
            raise StoreError(
                "changed-meanwhile", "Somebody has set it otherwise since.", "Change it on the shelf.", 409
            )
        sql.execute(f"UPDATE {table} SET spec = %s WHERE id = %s", (orjson.dumps(spec).decode(), row["on_shelf_id"]))
        sql.execute("UPDATE taken SET undone_at = CURRENT_TIMESTAMP(3) WHERE id = %s", (number,))


def _put(spec: dict[str, Any], field: str, value: Any) -> Any:
    """Put a value where a field is, none where it is None; what stood there."""
    *outer, name = field.split(".")
    for part in outer:
        spec = spec.setdefault(part, {})
    was = spec.pop(name, None)
    if value is not None:
        spec[name] = value
    return was


def history(store: Store, shelf: str, number: int) -> list[Row]:
    """All values that were ever taken over, undone or not, oldest first."""
    with store.work() as sql:
        sql.execute("SELECT * FROM taken WHERE shelf = %s AND on_shelf_id = %s ORDER BY id", (shelf, number))
        return [
            row | {"before_it": orjson.loads(row["before_it"]), "since_then": orjson.loads(row["since_then"])}
            for row in sql.fetchall()
        ]


def in_force(store: Store, shelf: str, number: int) -> dict[str, Row]:
    """Values that are taken over and stand, by their field: the latest of each."""
    return {row["field"]: row for row in history(store, shelf, number) if row["undone_at"] is None}


def _known(shelf: str) -> str:
    if shelf not in ("printers", "materials"):
        raise ValueError(shelf)  # never from user text
    return shelf
