"""Rows of the log as the core reads them: of real machines alone, since a simulated one teaches nothing."""

from __future__ import annotations

from collections.abc import Iterable

from ..core.learn import WHOLE, Logged, Told, told_by
from ..store.db import Row


def real(rows: Iterable[Row]) -> list[Row]:
    """What was printed on real machines."""
    return [row for row in rows if not row["simulated"]]


def logged_of(row: Row) -> Logged:
    """A run with what its plan said of machines that differ more and less."""
    return Logged(row["planned_s"], row["planned_risk"], row["real_s"], row["result"], tuple(row["by_scatter"]))


def tales_of(rows: Iterable[Row]) -> list[Told]:
    """Runs as causes are learned from them: those whose proof is kept and whose outcome is known. A print that failed
    without a cause tells nothing of any.
    """
    return [
        Told(told_by((h["code"], h["chance"], h["loss"]) for h in row["told"]), row["cause"] if failed(row) else None)
        for row in rows
        if row["told"] and row["result"] and (row["cause"] or not failed(row))
    ]


def failed(row: Row) -> bool:
    """Whether a run whose outcome is known lost something."""
    return row["result"] not in WHOLE
