"""What a plate wants to know of a plan: its footprint, its height, and what pulls at which height."""

from __future__ import annotations

from pydantic import Field

from .base import Document


class OnPlateDoc(Document):
    """`footprint`: outlines of all that is printed, about the plan's own origin; `pull_n` and the seconds of `clock_s`
    by steps of `pull_step_mm`; seconds before the first layer; whether it hangs from the plate.
    """

    footprint: list[list[tuple[float, float]]]
    tall_mm: float
    pull_n: list[float]
    pull_step_mm: float
    clock_s: list[float] = Field(default_factory=list)
    start_s: float
    hangs: bool
    build_mm: tuple[float, float, float]
