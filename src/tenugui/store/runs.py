"""Runs and what became of them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any

import orjson

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
) -> int:
    """Record that a plan was started; `planned` is seconds, grams, risk, share of a film's life. `simulated`: on a
    machine that only pretends;
    `by_scatter`: the share that would come off whole on machines whose prints differ by so much.
    """
    scatter = (
        orjson.dumps([(round(at, 3), round(whole, 4)) for at, whole in by_scatter]).decode() if by_scatter else None
    )
    with store.work() as sql:
        sql.execute(
            "INSERT INTO runs (plan_id, decision_id, printer_id, material_id, planned_s, planned_g, "
            "planned_risk, planned_film, started_at, simulated, by_scatter, figure_name, plan_number)"
            " SELECT p.id, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, f.name, p.number "
            "FROM plans p JOIN figures f ON f.id = p.figure_id WHERE p.id = %s",
            (decision_id, printer_id, material_id, *planned, started_at, simulated, scatter, plan_id),
        )
        return int(sql.lastrowid or 0)


@retried
def end(store: Store, run_id: int, outcome: dict[str, Any]) -> None:
    """Record or correct a run's outcome.

    Raises:
        StoreError: `no-run`.
    """
    with store.work() as sql:
        sql.execute("SELECT 1 FROM runs WHERE id = %s", (run_id,))
        if not sql.fetchone():
            raise StoreError("no-run", f"There is no run number {run_id}.")
        sql.execute(
            "REPLACE INTO outcomes (run_id, result, real_s, real_g, "
            "failed_layer, removal, note) VALUES (%s, %s, %s, %s, %s, %s, %s)",
            (
                run_id,
                outcome["result"],
                outcome.get("real_s"),
                outcome.get("real_g"),
                outcome.get("failed_layer"),
                outcome.get("removal"),
                outcome.get("note", ""),
            ),
        )


_SELECT = (
    "SELECT r.*, o.result, o.real_s, o.real_g, o.failed_layer, o.removal, o.note, p.figure_id, m.name AS material_name,"
    " q.name AS printer_name, q.process FROM runs r LEFT JOIN outcomes "
    "o ON o.run_id = r.id LEFT JOIN plans p ON p.id = r.plan_id"
    " JOIN materials m ON m.id = r.material_id JOIN printers q ON q.id = r.printer_id"
)


def of_plan(store: Store, plan_id: int) -> list[Row]:
    """Runs of one plan, newest first."""
    with store.work() as sql:
        sql.execute(_SELECT + " WHERE r.plan_id = %s ORDER BY r.started_at DESC", (plan_id,))
        return list(sql.fetchall())


def every(store: Store, most: int = 200) -> list[Row]:
    """All runs, newest first."""
    with store.work() as sql:
        sql.execute(_SELECT + " ORDER BY r.started_at DESC LIMIT %s", (most,))
        return [row | {"by_scatter": orjson.loads(row["by_scatter"] or "[]")} for row in sql.fetchall()]


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
