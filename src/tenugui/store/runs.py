"""Runs and what became of them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any

import orjson
from pymysql.cursors import DictCursor

from .db import Row, Store, StoreError, retried


@retried
def start(
    store: Store,
    plan_id: int,
    decision_id: int | None,
    *,
    printer_id: int,
    material_id: int,
    planned: tuple[float, float, float, float],
    started_at: datetime,
    simulated: bool = False,
    by_scatter: Sequence[tuple[float, float]] = (),
    frozen: Sequence[dict[str, Any]] = (),
    told: Sequence[dict[str, Any]] = (),
) -> int:
    """Record that a plan was started; `planned` is seconds, grams, risk, share of a film's life. `simulated`: on a
    machine that only pretends; `by_scatter`: the share that would come off whole on machines whose prints differ by so
    much; `frozen`: everything that was set, line by line; `told`: hazards as its proof told them.
    """
    scatter = (
        orjson.dumps([(round(at, 3), round(whole, 4)) for at, whole in by_scatter]).decode() if by_scatter else None
    )
    with store.work() as sql:
        sql.execute(
            "INSERT INTO runs (plan_id, decision_id, printer_id, material_id, planned_s, planned_g, "
            "planned_risk, planned_film, started_at, simulated, by_scatter, frozen, told, figure_name, plan_number)"
            " SELECT p.id, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, f.name, p.number "
            "FROM plans p JOIN figures f ON f.id = p.figure_id WHERE p.id = %s",
            (
                decision_id,
                printer_id,
                material_id,
                *planned,
                started_at,
                simulated,
                scatter,
                orjson.dumps(list(frozen)).decode() if frozen else None,
                orjson.dumps(list(told)).decode() if told else None,
                plan_id,
            ),
        )
        return int(sql.lastrowid or 0)


@retried
def bring(store: Store, lines: Sequence[tuple[int, int, dict[str, Any]]]) -> int:
    """Keep runs of another bench (printer, material, line), all or nothing; returns how many were not there yet: a run
    is there where one of its figure on its printer began in the same minute.
    """
    taken = 0
    with store.work() as sql:
        for printer, material, line in lines:
            at = datetime.fromisoformat(line["started_at"])
            sql.execute(
                "SELECT 1 FROM runs WHERE printer_id = %s AND figure_name = %s"
                " AND started_at BETWEEN %s AND %s LIMIT 1",
                (printer, line["figure_name"], at.replace(second=0, microsecond=0), at.replace(second=59)),
            )
            if sql.fetchone():
                continue
            names = ("planned_s", "planned_g", "planned_risk", "started_at", "simulated", "figure_name", "plan_number")
            kept = [orjson.dumps(line[k]).decode() if line[k] else None for k in ("frozen", "told")]
            sql.execute(
                f"INSERT INTO runs (plan_id, printer_id, material_id, {', '.join(names)}, frozen, told)"
                f" VALUES (NULL, {', '.join(['%s'] * (len(names) + 4))})",
                (printer, material, *(line[k] for k in names), *kept),
            )
            if line["result"]:
                _end_in(sql, int(sql.lastrowid or 0), line)
            taken += 1
    return taken


@retried
def end(store: Store, run_id: int, outcome: dict[str, Any]) -> None:
    """Record or correct a run's outcome; of what turned out whole nothing is mended.

    Raises:
        StoreError: `no-run`.
    """
    with store.work() as sql:
        sql.execute("SELECT 1 FROM runs WHERE id = %s", (run_id,))
        if not sql.fetchone():
            raise StoreError("no-run", f"There is no run number {run_id}.")
        _end_in(sql, run_id, outcome)
        if outcome["result"] not in ("part lost", "print lost"):
            sql.execute("DELETE FROM mends WHERE run_id = %s", (run_id,))


def _end_in(sql: DictCursor, run_id: int, outcome: dict[str, Any]) -> None:
    sql.execute(
        "REPLACE INTO outcomes (run_id, result, real_s, real_g, "
        "failed_layer, removal, note, cause) VALUES (%s, %s, %s, %s, %s, %s, %s, %s)",
        (
            run_id,
            outcome["result"],
            outcome.get("real_s"),
            outcome.get("real_g"),
            outcome.get("failed_layer"),
            outcome.get("removal"),
            outcome.get("note", ""),
            outcome.get("cause"),
        ),
    )


_COLUMNS = (
    "r.id, r.plan_id, r.decision_id, r.printer_id, r.material_id, r.planned_s, r.planned_g, r.planned_risk, "
    "r.planned_film, r.started_at, r.simulated, r.by_scatter, r.figure_name, r.plan_number, "
    "o.result, o.real_s, o.real_g, o.failed_layer, o.removal, o.note, o.cause, p.figure_id, "
    "m.name AS material_name, q.name AS printer_name, q.process, w.way AS mended"
)
_FROM = (
    " FROM runs r LEFT JOIN outcomes o ON o.run_id = r.id LEFT JOIN plans p ON p.id = r.plan_id"
    " JOIN materials m ON m.id = r.material_id JOIN printers q ON q.id = r.printer_id"
    " LEFT JOIN mends w ON w.run_id = r.id"
)


@retried
def mend(store: Store, run_id: int, way: str | None) -> None:
    """Keep how a failed run was made good, or that nothing was decided.

    Raises:
        StoreError: `no-run`.
    """
    with store.work() as sql:
        sql.execute("SELECT id FROM runs WHERE id = %s FOR UPDATE", (run_id,))
        if not sql.fetchone():
            raise StoreError("no-run", f"There is no run number {run_id}.", "See the log.", 404)
        if way is None:
            sql.execute("DELETE FROM mends WHERE run_id = %s", (run_id,))
        else:
            sql.execute("REPLACE INTO mends (run_id, way) VALUES (%s, %s)", (run_id, way))


def of_plan(store: Store, plan_id: int) -> list[Row]:
    """Runs of one plan, newest first."""
    with store.work() as sql:
        sql.execute(f"SELECT {_COLUMNS}{_FROM} WHERE r.plan_id = %s ORDER BY r.started_at DESC", (plan_id,))
        return list(sql.fetchall())


def of_figure(store: Store, figure_id: int) -> list[Row]:
    """Runs of all plans of a figure with what they froze, oldest first."""
    with store.work() as sql:
        sql.execute(
            f"SELECT {_COLUMNS}, r.told, r.frozen{_FROM} WHERE p.figure_id = %s ORDER BY r.started_at, r.id",
            (figure_id,),
        )
        return [_whole(row) for row in sql.fetchall()]


def many_on(store: Store, printer_id: int) -> int:
    """How many runs a printer has made."""
    with store.work() as sql:
        sql.execute("SELECT COUNT(*) AS n FROM runs WHERE printer_id = %s", (printer_id,))
        return int((sql.fetchone() or {"n": 0})["n"])


def every(store: Store, most: int = 200) -> list[Row]:
    """All runs, newest first."""
    with store.work() as sql:
        sql.execute(f"SELECT {_COLUMNS}{_FROM} ORDER BY r.started_at DESC LIMIT %s", (most,))
        return [row | {"by_scatter": orjson.loads(row["by_scatter"] or "[]")} for row in sql.fetchall()]


def one(store: Store, number: int) -> Row:
    """A run with what it froze and what its proof told.

    Raises:
        StoreError: `no-run`.
    """
    with store.work() as sql:
        sql.execute(f"SELECT {_COLUMNS}, r.frozen, r.told{_FROM} WHERE r.id = %s", (number,))
        row = sql.fetchone()
    if not row:
        raise StoreError("no-run", f"There is no run number {number}.", "See the log.", 404)
    return _whole(row)


def before(store: Store, run: Row) -> dict[str, Row]:
    """The latest runs that were started before this one: of its figure, on its printer, in its material."""
    same = {
        "figure": ("r.figure_name = %s", run["figure_name"]),
        "printer": ("r.printer_id = %s", run["printer_id"]),
        "material": ("r.material_id = %s", run["material_id"]),
    }
    earlier = {}
    with store.work() as sql:
        for what, (where, value) in same.items():
            sql.execute(
                f"SELECT {_COLUMNS}, r.frozen, r.told{_FROM} WHERE {where} AND r.id <> %s AND r.frozen IS NOT NULL"
                " AND (r.started_at, r.id) < (%s, %s) ORDER BY r.started_at DESC, r.id DESC LIMIT 1",
                (value, run["id"], run["started_at"], run["id"]),
            )
            row = sql.fetchone()
            if row:
                earlier[what] = _whole(row)
    return earlier


def told_on(store: Store, printer_id: int, material_id: int | None = None, most: int = 2000) -> list[Row]:
    """The latest runs on a printer, oldest first, with what their proofs told; in one material where it is given."""
    with store.work() as sql:
        sql.execute(
            f"SELECT {_COLUMNS}, r.told, r.frozen{_FROM} WHERE r.printer_id = %s AND (%s IS NULL OR r.material_id = %s)"
            " ORDER BY r.started_at DESC, r.id DESC LIMIT %s",
            (printer_id, material_id, material_id, most),
        )
        return [_whole(row) for row in reversed(list(sql.fetchall()))]


def whole_log(store: Store, most: int) -> list[Row]:
    """The latest runs with what they froze and what their proofs told, oldest first."""
    with store.work() as sql:
        sql.execute(
            f"SELECT {_COLUMNS}, r.told, r.frozen{_FROM} ORDER BY r.started_at DESC, r.id DESC LIMIT %s", (most,)
        )
        return [_whole(row) for row in reversed(list(sql.fetchall()))]


def _whole(row: Row) -> Row:
    loaded = {name: orjson.loads(row[name] or "[]") for name in ("frozen", "told", "by_scatter")}
    return row | loaded


def used_g(store: Store) -> dict[int, float]:
    """Grams used of each material by all runs: what was weighed, else what was planned."""
    with store.work() as sql:
        sql.execute(
            "SELECT r.material_id, SUM(COALESCE(o.real_g, r.planned_g)) AS g FROM runs r LEFT "
            "JOIN outcomes o ON o.run_id = r.id WHERE NOT r.simulated GROUP BY r.material_id"
        )
        return {row["material_id"]: float(row["g"]) for row in sql.fetchall()}


def film_worn(store: Store) -> dict[int, float]:
    """Share of its film's usual life that each printer's runs have worn since that film was put in."""
    with store.work() as sql:
        sql.execute(
            "SELECT r.printer_id, SUM(r.planned_film) AS worn FROM runs r JOIN printers p ON p.id = r.printer_id"
            " WHERE NOT r.simulated AND (p.film_at IS NULL OR r.started_at >= p.film_at) GROUP BY r.printer_id"
        )
        return {row["printer_id"]: float(row["worn"]) for row in sql.fetchall()}
