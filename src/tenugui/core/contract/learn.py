"""`tenugui/learn@1`: what a log says."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from typing import Literal

from pydantic import Field

from ..learn import Calibration, CauseLearnt, Logged, Ratio, Told, calibration_of, causes_of, ratio_of
from ..machines import SPREAD
from ..prints.draw import SHARED
from .base import Document


class HoursDoc(Document):
    """Real over planned hours: of the machine, and of its next print."""

    timed: int
    ratio: float
    low: float
    high: float
    next_low: float
    next_high: float

    @staticmethod
    def of(read: Ratio) -> HoursDoc:
        """As a document."""
        return HoursDoc(**asdict(read))


class CauseLearntDoc(Document):
    """How many times as often as plans tell a cause comes true; `effective`: as many as were expected of it. Where
    margins told it: how many times as large its load is.
    """

    cause: str
    mean: float
    low: float
    high: float
    seen: int
    runs: int
    effective: float
    load_times: float | None = None
    load_low: float | None = None
    load_high: float | None = None

    @staticmethod
    def of(read: CauseLearnt) -> CauseLearntDoc:
        """As a document."""
        return CauseLearntDoc(**asdict(read))


def learnt_of(runs: Sequence[Told]) -> list[CauseLearnt]:
    """What runs teach of causes, by the spreads that margins are weighed by."""
    return causes_of(runs, SPREAD, SHARED)


class BinDoc(Document):
    """Prints whose told risk lies together."""

    told: float
    seen: float
    low: float
    high: float
    runs: int


class CalibrationDoc(Document):
    """What was told beside what was seen."""

    brier: float | None
    reliability: float | None
    resolution: float | None
    uncertainty: float | None
    bins: list[BinDoc]
    hours_coverage: float | None

    @staticmethod
    def of(read: Calibration) -> CalibrationDoc:
        """As a document."""
        return CalibrationDoc(**asdict(read))


class MachineDoc(Document):
    """What one machine in one material says."""

    machine: str
    material: str
    runs: int
    hours: HoursDoc
    causes: list[CauseLearntDoc]


class LearnDoc(Document):
    """What a log says, of all machines together and of each."""

    schema_: Literal["tenugui/learn@1"] = Field("tenugui/learn@1", alias="schema")
    hours: HoursDoc
    causes: list[CauseLearntDoc]
    calibration: CalibrationDoc
    machines: list[MachineDoc]
    few: bool


FEW = 20
"""Prior: fewer outcomes say little."""


def learn_document(runs: Sequence[tuple[str, str, Logged, Told]]) -> LearnDoc:
    """Of runs with their machines and materials, in the order in which they were printed."""
    logged, told = [run for _, _, run, _ in runs], [tale for *_, tale in runs]
    machines = []
    for machine, material in dict.fromkeys((m, s) for m, s, *_ in runs):
        mine = [(run, tale) for m, s, run, tale in runs if (m, s) == (machine, material)]
        machines.append(
            MachineDoc(
                machine=machine,
                material=material,
                runs=len(mine),
                hours=HoursDoc.of(ratio_of([run for run, _ in mine])),
                causes=[CauseLearntDoc.of(c) for c in learnt_of([tale for _, tale in mine])],
            )
        )
    return LearnDoc(
        hours=HoursDoc.of(ratio_of(logged)),
        causes=[CauseLearntDoc.of(c) for c in learnt_of(told)],
        calibration=CalibrationDoc.of(calibration_of(logged)),
        machines=machines,
        few=sum(run.result is not None for run in logged) < FEW,
    )
