"""Poses in words: what is good and poor by each aim, and what one costs beside another, in minutes, hours and
chances.
"""

from __future__ import annotations

import numpy as np

from ..machines import kind_of
from ..worth import harm_of
from .price import FINISH_MIN, Pace, takes

NAMES = {
    "support_area_mm2": "supported surface",
    "scar_area_mm2": "scars on what matters",
    "support_volume_mm3": "support volume",
    "minima": "starts in mid air",
    "peak_section_mm2": "widest section",
    "cups": "hollows that hold resin",
    "height_mm": "height",
    "step_cost": "visible steps",
    "foot_mm2": "foot",
    "lean": "lean over its foot",
    "slender": "height over its foot",
    "weak_mm": "thin rods printed standing",
    "blur_mm2": "shown surface that looks down",
    "shown_mm2": "supports on what is shown",
    "contact_mm2": "what touches the plate",
}
GOOD = {
    "scar_area_mm2": "little surface to scar",
    "support_volume_mm3": "few supports",
    "minima": "few starts in mid air",
    "peak_section_mm2": "little pull",
    "cups": "it runs empty",
    "height_mm": "short",
    "step_cost": "smooth",
    "lean": "stands over its foot",
    "slender": "a broad foot",
    "weak_mm": "no thin rod upright",
    "blur_mm2": "what is shown looks away from the plate",
    "contact_mm2": "nothing to scrape off the plate",
}
POOR = {
    "scar_area_mm2": "much surface to scar",
    "support_volume_mm3": "many supports",
    "minima": "many starts in mid air",
    "peak_section_mm2": "wide sections that pull",
    "cups": "hollows that hold resin",
    "height_mm": "tall",
    "step_cost": "visible steps",
    "lean": "leans off its foot",
    "slender": "a narrow foot",
    "weak_mm": "thin rods upright",
    "blur_mm2": "what is shown looks at the plate",
    "contact_mm2": "a wide foot welded to the plate",
}
"""How a pose is good or poor by an aim, in a few words."""
UNITS = {
    "support_area_mm2": " mm²",
    "scar_area_mm2": " mm² weighted",
    "support_volume_mm3": " mm³",
    "peak_section_mm2": " mm²",
    "height_mm": " mm",
    "foot_mm2": " mm²",
    "lean": " mm",
    "weak_mm": " mm",
    "blur_mm2": " mm² weighted",
    "shown_mm2": " mm²",
    "contact_mm2": " mm²",
}
FINEST = {
    "minima": 0.5,
    "cups": 0.5,
    "step_cost": 0.002,
    "support_area_mm2": 0.5,
    "scar_area_mm2": 0.5,
    "peak_section_mm2": 1.0,
    "weak_mm": 0.5,
    "slender": 0.2,
    "blur_mm2": 1.0,
    "shown_mm2": 0.5,
}
"""Differences below these mean nothing and are not spoken of."""


NEITHER = np.zeros(1, np.bool_)
"""Without a plinth under either: what the stances themselves are good for."""


def lines(here: dict[str, float], there: dict[str, float], pace: Pace, volume: float) -> list[tuple[float, str, str]]:
    """What sets two directions apart, aim by aim: (minutes by hand, hours or chance by which `here` is dearer, in one
    scale; the aim; in words).
    """
    lines = []
    for aim, price in (*kind_of(pace.process).hands_min.items(), ("step_cost", FINISH_MIN)):
        minutes = price * (here[aim] - there[aim])
        lines.append((minutes, aim, f"{abs(minutes):.0f} minutes {'more' if minutes > 0 else 'less'} by hand"))
    hours = pace.hours_mm * (here["height_mm"] - there["height_mm"])
    lines.append(
        (HOUR_AS_MIN * hours, "height_mm", f"{abs(hours) * 60:.0f} minutes {'more' if hours > 0 else 'less'} printing")
    )
    aims = ("cups", "peak_section_mm2") if pace.hangs else ("slender", "lean", "weak_mm")
    for aim in aims:
        alike = {**there, aim: here[aim]} | (
            {k: here[k] for k in ("foot_mm2", "contact_mm2")} if aim == "slender" else {}
        )
        one, other = (_harm(a, pace, volume) for a in (alike, there))
        if abs(one - other) > 0.002:
            lines.append((LOST_AS_MIN * (one - other), aim, f"lost in {one:.0%} of prints against {other:.0%}"))
    return lines


def _harm(aims: dict[str, float], pace: Pace, volume: float) -> float:
    taken = takes({k: np.array([v]) for k, v in aims.items()}, pace, volume, NEITHER).gift(0)
    return float(harm_of(taken.lost, taken.part_lost))


def why_not(here: dict[str, float], there: dict[str, float], pace: Pace, volume: float) -> list[str]:
    """What a direction costs and gains beside another, in words and numbers, the dearest first."""
    reasons = []
    for much, aim, text in lines(here, there, pace, volume):
        if abs(much) < SPOKEN_MIN or abs(here[aim] - there[aim]) < FINEST.get(aim, 0.05):
            continue
        digits = 0 if aim in ("minima", "cups") else 3 if aim == "step_cost" else 1
        name = NAMES[aim][0].upper() + NAMES[aim][1:]
        side = "worse" if much > 0 else "better"
        reasons.append(
            (
                -abs(much),
                f"{name} {here[aim]:.{digits}f} against {there[aim]:.{digits}f}{UNITS.get(aim, '')}: {side}, {text}",
            )
        )
    return [text for _, text in sorted(reasons)]


HOUR_AS_MIN, LOST_AS_MIN, SPOKEN_MIN = 2.0, 60.0, 0.5
"""Only to order what is said: an hour of the machine, and a lost print, beside minutes by hand; less than the last is
not said.
"""


def listed(names: list[str]) -> str:
    return names[0] if len(names) == 1 else ", ".join(names[:-1]) + " and " + names[-1]
