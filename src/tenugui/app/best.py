"""Best known: which settings won for a figure on a machine, by its log; and that again."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from pydantic import BaseModel

from ..core.contract import FrozenLine, LineChanged
from ..core.learn import FEW_RUNS, known_of
from ..core.plan.frozen import changed, settings_in
from ..store import figures, runs
from ..store.db import Row
from .models import Id
from .state import store_of

router = APIRouter(prefix="/api/figures", tags=["log"])


class WayRow(BaseModel):
    """One way in which the figure was printed: how often, how many came off whole, the share with 95 % on both sides,
    the chance that it is the best of those on its machine, how long it took; what is set otherwise than in the best;
    and the decision from which it can be planned again.
    """

    plan_id: int
    decision_id: int | None
    material_name: str
    runs: int
    good: int
    share: float
    low: float
    high: float
    best: float
    took_s: float | None
    otherwise: list[LineChanged]


class BestOn(BaseModel):
    """Ways on one machine, the likeliest best first; `few`: too few prints to call any best."""

    printer_name: str
    few: bool
    ways: list[WayRow]


@router.get("/{number}/best")
def best(request: Request, number: Id) -> list[BestOn]:
    """What is known of a figure's ways on every machine that printed it; simulated prints teach nothing."""
    store = store_of(request)
    figures.one(store, number)
    rows = [row for row in runs.of_figure(store, number) if row["result"] and row["frozen"] and not row["simulated"]]
    told = []
    for printer in dict.fromkeys(row["printer_name"] for row in rows):
        told.append(_on(printer, [row for row in rows if row["printer_name"] == printer]))
    return told


def _settings(row: Row) -> list[FrozenLine]:
    return settings_in([FrozenLine(**line) for line in row["frozen"]])


def _on(printer: str, rows: Sequence[Row]) -> BestOn:
    ways: dict[str, list[Row]] = {}
    for row in rows:
        ways.setdefault(repr(_settings(row)), []).append(row)
    known = known_of([[(row["result"], row["real_s"]) for row in way] for way in ways.values()])
    order = sorted(zip(ways.values(), known, strict=True), key=lambda pair: -pair[1].best)
    first = _settings(order[0][0][0])
    shown = []
    for way, told in order:
        newest = way[-1]
        shown.append(
            WayRow(
                plan_id=newest["plan_id"],
                decision_id=newest["decision_id"],
                material_name=newest["material_name"],
                otherwise=changed(_settings(newest), first),
                **vars(told),
            )
        )
    return BestOn(printer_name=printer, few=order[0][1].runs < FEW_RUNS, ways=shown)
