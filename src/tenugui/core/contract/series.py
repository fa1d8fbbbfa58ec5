"""`tenugui/series@1`: a series planned, and read."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ..series import (
    FEW_RUNS,
    Fitted,
    Results,
    Spec,
    aliased,
    best_of,
    cells_of,
    effects_of,
    fitted,
    knee_of,
    missing,
    next_of,
)
from ..series.spec import Level
from .base import Document


class CellDoc(Document):
    """A cell, and how many specimens it has or is to have."""

    factors: dict[str, Level]
    runs: int


class EffectDoc(Document):
    """What is to be expected of a level, between `low` and `high` in 95 of 100 cases."""

    response: str
    factor: str
    level: Level
    estimate: float
    low: float
    high: float


class BestDoc(Document):
    """The chance that a level is the best of its factor."""

    response: str
    factor: str
    level: Level
    chance: float


class KneeDoc(Document):
    """The level beyond which another hour buys less than it costs; what the next step would buy and cost, coins."""

    factor: str
    level: Level
    response: str
    hours: float
    buys: float
    costs: float


class NextDoc(Document):
    """The cell to print next."""

    factors: dict[str, Level]
    why: str


class SeriesDoc(Document):
    """A series: planned where there are no results, else read. `few`: some cell has a single specimen, so that what is
    told is a direction and no rate (`said`).
    """

    schema_: Literal["tenugui/series@1"] = Field("tenugui/series@1", alias="schema")
    cells: list[CellDoc]
    missing: list[dict[str, Level]]
    aliased: list[list[str]]
    effects: list[EffectDoc]
    best: list[BestDoc]
    knee: KneeDoc | None
    next: NextDoc | None
    few: bool
    said: list[str]


def series_document(spec: Spec, results: Results | None) -> SeriesDoc:
    """A series as it is planned, or as its results tell."""

    def told(levels: tuple[int, ...]) -> dict[str, Level]:
        return {name: spec.factors[name][k] for name, k in zip(spec.factors, levels, strict=True)}

    cells = cells_of(spec, None if results is None else results.levels)
    absent, together = missing(spec, cells), aliased(spec, cells)
    reads = _reads(spec, results)
    knee = knee_of(spec, reads)
    after = next_of(spec, cells, reads)
    few = any(cell.runs < FEW_RUNS for cell in cells if cell.runs)
    return SeriesDoc(
        cells=[CellDoc(factors=told(cell.levels), runs=cell.runs) for cell in cells],
        missing=[told(levels) for levels in absent],
        aliased=[list(names) for names in together],
        effects=[
            EffectDoc(
                response=e.response,
                factor=e.factor,
                level=spec.factors[e.factor][e.level],
                estimate=e.estimate,
                low=e.low,
                high=e.high,
            )
            for read in reads
            for e in effects_of(read)
        ],
        best=[
            BestDoc(response=b.response, factor=b.factor, level=spec.factors[b.factor][b.level], chance=b.chance)
            for read in reads
            for b in best_of(read)
        ],
        knee=knee
        and KneeDoc(
            factor=knee.factor,
            level=spec.factors[knee.factor][knee.level],
            response=knee.response,
            hours=knee.hours,
            buys=knee.buys,
            costs=knee.costs,
        ),
        next=NextDoc(factors=told(after.levels), why=after.why),
        few=few,
        said=_said(absent=len(absent), together=together, few=few, read=bool(reads)),
    )


def _reads(spec: Spec, results: Results | None) -> list[Fitted]:
    if results is None or not len(results.levels):
        return []
    reads = [fitted(spec, results, response) for response in spec.responses]
    return [read for read in reads if read is not None]


def _said(*, absent: int, together: list[tuple[str, ...]], few: bool, read: bool) -> list[str]:
    """What somebody should know before they conclude."""
    said = [
        f"{' and '.join(names)} move together: what one does cannot be told from what the other does."
        for names in together
    ]
    if absent:
        said.append(f"{absent} cell{'s are' if absent != 1 else ' is'} missing.")
    if few and read:
        said.append("Some cells have a single print: a direction, not a rate.")
    return said
