"""What a print, or its material, goes through beside the printer: washed, dried, cured. Priors; the makers' sheets say
what their resin and filament want.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

WASH_MIN, AIR_MIN, CURE_MIN, SPOOL_MIN = 3.0, 30.0, 4.0, 6 * 60.0
"""Priors: minutes in each of two baths, in the air until it is dry, under the lamp a side; and for a damp spool at its
maker's temperature.
"""


@dataclass(frozen=True)
class Programme:
    """Steps of a station by name and minutes, in their order, and why."""

    station: Literal["wash", "dry", "cure"]
    steps: tuple[tuple[str, float], ...]
    said: str


def filament_programmes(hollow: bool) -> list[Programme]:
    """The spool, before it is drawn."""
    return [Programme("dry", (("the spool", SPOOL_MIN),), "A damp spool strings; at the temperature of its maker.")]


def resin_programmes(hollow: bool) -> list[Programme]:
    """Washed, dried, cured; a cavity from within."""
    inside = (("the cavity", CURE_MIN),) if hollow else ()
    return [
        Programme("wash", (("first bath", WASH_MIN), ("cleaner fluid", WASH_MIN)), "Brush corners, flush cavities."),
        Programme("dry", (("in the air", AIR_MIN),), "Dry completely: what is wet cures white and stays sticky."),
        Programme(
            "cure", (("one side", CURE_MIN), ("the other side", CURE_MIN), *inside), "Turned; the lid stays shut."
        ),
    ]
