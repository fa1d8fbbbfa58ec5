"""What steps worst: crowns and shoulders that rise only a few degrees, and what helps; and level places, which ironing
smooths.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..layers.steps import FLAT
from ..machines import Printer, draws_lines
from ..mesh import Mesh
from .plan import ironing_s
from .seams import SHOWS

F8 = NDArray[np.float64]
SHOULDER_DEG, TILT_DEG = 20.0, 10.0
"""Priors: what rises less is a shoulder, and what counts as a small tilt."""
WAYS = (
    "forwards",
    "forwards and to its left",
    "to its left",
    "backwards and to its left",
    "backwards",
    "backwards and to its right",
    "to its right",
    "forwards and to its right",
)
WORTHWHILE = 0.7
"""Prior: a tilt that leaves more of the shoulders than this share is not worth its trouble."""
LEAST_MM2 = 1.0


@dataclass(frozen=True)
class Level:
    """Areas in mm² of what is seen: shoulders, level places, and the shoulders that are left after the best small tilt
    `to` one side.
    """

    shoulders_mm2: float
    level_mm2: float
    iron_s: float | None
    to: str
    tilted_mm2: float
    hangs: bool

    @property
    def said(self) -> list[str]:
        """In sentences; none where there is nothing to say."""
        lines = []
        if self.shoulders_mm2 >= LEAST_MM2:
            line = f"{self.shoulders_mm2:.0f} mm² of what is seen rise less than {SHOULDER_DEG:.0f}°: they step widest."
            if self.tilted_mm2 <= WORTHWHILE * self.shoulders_mm2:
                line += (
                    f" Tilted {TILT_DEG:.0f}° {self.to} it would be "
                    f"{self.tilted_mm2:.0f}{'' if self.hangs else '; then it no longer stands on its foot'}."
                )
            lines.append(line)
        if self.level_mm2 >= LEAST_MM2 and self.iron_s is not None:
            minutes = max(1, round(self.iron_s / 60))
            lines.append(
                f"{self.level_mm2:.0f} mm² are level and face up: no steps, "
                "but the marks of lines, which ironing takes away in some "
                f"{minutes} minute{'s' * (minutes != 1)}. It is set on the shelf."
            )
        return lines


def level_of(figure: Mesh, weights: F8 | None, front: F8, printer: Printer, height: float) -> Level:
    """Of a figure in build coordinates that looks to `front`; `weights` (faces,) of what a scar costs."""
    normal, area = figure.normals_and_areas()
    seen = np.ones(len(area), np.bool_) if weights is None else weights >= SHOWS
    up = seen & (normal[:, 2] > math.cos(math.radians(SHOULDER_DEG + 2 * TILT_DEG)))
    normal, area = normal[up], area[up]
    steep = math.cos(math.radians(SHOULDER_DEG))

    def shoulders(way: F8) -> float:
        lean = normal @ way
        return float(area[(lean > steep) & (lean < FLAT)].sum())

    flat = float(area[normal[:, 2] >= FLAT].sum())
    ahead = np.array([front[0], front[1], 0.0])
    long = float(np.linalg.norm(ahead))
    ahead = ahead / long if long > 1e-6 else np.array([0.0, -1.0, 0.0])
    left = np.array([-ahead[1], ahead[0], 0.0])
    tilt, best = math.radians(TILT_DEG), (math.inf, "")
    for k, name in enumerate(WAYS):
        turn = 2 * math.pi * k / len(WAYS)
        # What its top moves away from comes to look up.
        away = -(math.cos(turn) * ahead + math.sin(turn) * left)
        best = min(best, (shoulders(math.sin(tilt) * away + math.cos(tilt) * np.array([0.0, 0.0, 1.0])), name))
    iron = ironing_s(printer, height, flat) if draws_lines(printer) else None
    return Level(shoulders(np.array([0.0, 0.0, 1.0])), flat, iron, best[1], best[0], printer.hangs)
