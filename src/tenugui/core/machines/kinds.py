"""What the engine is told of a way to make figures: its priors, its aims and its words, in one entry for each process.

What it computes by itself stands in its own rooms (`core/process`, `core/supports/manner.py`, `core/pose/price.py`),
found by the same name.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from .after import Programme, filament_programmes, resin_programmes
from .cautions import ALWAYS, FILAMENT_CAUTIONS, RESIN_CAUTIONS
from .printer import FilamentPrinter, MachineError, ResinPrinter


@dataclass(frozen=True)
class ProcessKind:
    """One process. Minutes: `fixed_min` that every print takes, setting up, washing and curing, or taking it off the
    plate; `hands_min` to cut off and sand, for each unit of a pose's aims. `usual_tip_mm`: the tip that those minutes
    are of; `finish_at_mm`: the layer at which a figure stepped all over takes FINISH_MIN; `clings_mm`: what reaches out
    no farther holds by itself; `deciding`: the aims in which no pose of a board is beaten.
    """

    name: str
    printer: type[Any]
    material: str
    fixed_min: float
    usual_tip_mm: float
    finish_at_mm: float
    clings_mm: float
    hands_min: Mapping[str, float]
    deciding: tuple[str, ...]
    when_off: str
    cautions: tuple[str, ...]
    programmes: Callable[[bool], list[Programme]]


RESIN = ProcessKind(
    name="resin",
    printer=ResinPrinter,
    material="lantern grey",
    fixed_min=15.0,
    usual_tip_mm=0.35,
    finish_at_mm=0.05,
    clings_mm=0.25,
    hands_min={
        "scar_area_mm2": 0.05,
        "support_volume_mm3": 0.0002,
        "minima": 0.4,
        "blur_mm2": 0.03,
        "contact_mm2": 0.012,
    },
    deciding=(
        "scar_area_mm2",
        "support_volume_mm3",
        "minima",
        "peak_section_mm2",
        "cups",
        "height_mm",
        "step_cost",
        "blur_mm2",
    ),
    when_off="After washing and before curing, while supports are soft: warm water "
    "helps. Gloves and glasses: chips fly, and uncured resin irritates.",
    cautions=RESIN_CAUTIONS,
    programmes=resin_programmes,
)
"""Priors: minutes for each mm² weighted by its mark, mm³ under it, start in mid air, mm² of shown surface that looks
down, and mm² that the bottom layers weld to the plate: scraped off, and the rim that they squeeze out sanded away. A
fresh sheet clings by its stiffness.
"""
FILAMENT = ProcessKind(
    name="filament",
    printer=FilamentPrinter,
    material="marsh matte",
    fixed_min=5.0,
    usual_tip_mm=0.45,
    finish_at_mm=0.12,
    clings_mm=1.0,
    hands_min={"scar_area_mm2": 0.018, "support_volume_mm3": 0.0001, "minima": 0.15, "blur_mm2": 0.02},
    deciding=(
        "scar_area_mm2",
        "support_volume_mm3",
        "minima",
        "height_mm",
        "step_cost",
        "lean",
        "slender",
        "weak_mm",
        "blur_mm2",
    ),
    when_off="When it has cooled. Glasses: chips fly.",
    cautions=FILAMENT_CAUTIONS,
    programmes=filament_programmes,
)
"""Priors: the same where lines are drawn, which cling by the ones beside them; what holds a start in mid air peels
off.
"""

KINDS = {kind.name: kind for kind in (RESIN, FILAMENT)}


def kind_of(process: str) -> ProcessKind:
    """A process by its name.

    Raises:
        MachineError: `wrong-process`.
    """
    if process not in KINDS:
        raise MachineError(
            "wrong-process", f"Nothing is known of the process {process!r}.", remedy=f"Use {' or '.join(KINDS)}."
        )
    return KINDS[process]


def cautions(process: str) -> list[str]:
    """Cautions to print on a run sheet and to show beside a run."""
    return [*kind_of(process).cautions, *ALWAYS]


def programmes(process: str, hollow: bool = False) -> list[Programme]:
    """What a plan's print goes through, in its order; of filament the spool before it.

    >>> [(p.station, sum(m for _, m in p.steps)) for p in programmes("resin", hollow=True)]
    [('wash', 6.0), ('dry', 30.0), ('cure', 12.0)]
    """
    return kind_of(process).programmes(hollow)
