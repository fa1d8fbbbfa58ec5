"""Rows of the log as the core reads them: of real machines alone, since a simulated one teaches nothing."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime

from ..core.hazards import kinds
from ..core.hazards.learned import before_taking, fields_of
from ..core.learn import WHOLE, Logged, Margin, Told, tale_of
from ..store.db import Row


def real(rows: Iterable[Row]) -> list[Row]:
    """What was printed on real machines."""
    return [row for row in rows if not row["simulated"]]


def logged_of(row: Row) -> Logged:
    """A run with what its plan said of machines that differ more and less."""
    return Logged(row["planned_s"], row["planned_risk"], row["real_s"], row["result"], tuple(row["by_scatter"]))


def tales_of(rows: Iterable[Row], taken: Sequence[Row] = ()) -> list[Told]:
    """Runs as causes are learned from them: those whose proof is kept and whose outcome is known. A print that failed
    without a cause tells nothing of any. `taken`: values that were ever taken over on the machine; what a proof told
    with one in force is reckoned back to what it would have told without.
    """
    by_cause = {cause: [t for t in taken if t["field"] in fields_of(cause)] for cause in kinds()}
    return [
        tale_of(
            ((h["code"], h["loss"], _told(h, row["started_at"], by_cause.get(h["code"], ()))) for h in row["told"]),
            row["cause"] if failed(row) else None,
        )
        for row in rows
        if row["told"] and row["result"] and (row["cause"] or not failed(row))
    ]


def _told(hazard: Row, at: datetime, taken: Sequence[Row]) -> float | Margin:
    told, scatter = hazard["chance"], hazard.get("scatter", 1.0)
    for value in taken:
        if value["taken_at"] <= at and (value["undone_at"] is None or at < value["undone_at"]):
            told = before_taking(value["field"], told, value["before_it"], value["since_then"], scatter)
    return Margin(told, bool(hazard["part"]), scatter) if hazard.get("by_margin") else told


def failed(row: Row) -> bool:
    """Whether a run whose outcome is known lost something."""
    return row["result"] not in WHOLE
