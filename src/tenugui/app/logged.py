"""Rows of the log as the core reads them: of real machines alone, since a simulated one teaches nothing."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime

from ..core.hazards import kinds
from ..core.hazards.learned import before_taking, fields_of
from ..core.learn import WHOLE, Logged, Told, tale_of
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
            (
                (h["code"], _before(h["chance"], row["started_at"], by_cause.get(h["code"], ())), h["loss"], margin)
                for h in row["told"]
                for margin in [h.get("by_margin", False)]
            ),
            row["cause"] if failed(row) else None,
        )
        for row in rows
        if row["told"] and row["result"] and (row["cause"] or not failed(row))
    ]


def _before(told: float, at: datetime, taken: Sequence[Row]) -> float:
    for value in taken:
        if value["taken_at"] <= at and (value["undone_at"] is None or at < value["undone_at"]):
            told = before_taking(value["field"], told, value["before_it"], value["since_then"])
    return told


def failed(row: Row) -> bool:
    """Whether a run whose outcome is known lost something."""
    return row["result"] not in WHOLE
