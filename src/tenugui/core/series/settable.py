"""Which factors of a series the engine itself can set in a plan; the others are set on the machine."""

from __future__ import annotations

from collections.abc import Mapping

from .spec import Level, Spec

HEIGHT, RISK = "height mm", "risk a tip"
SETTABLE = (HEIGHT, RISK)


def set_in_plans(spec: Spec) -> list[str]:
    """Factors that plans of the cells differ in.

    >>> spec = Spec(factors={"height mm": [0.1, 0.2], "wall mm/s": [40, 60]}, responses={"grade": "grade"}, repeats=1,
    ...             rate_per_h=None)
    >>> set_in_plans(spec), by_hand(spec)
    (['height mm'], ['wall mm/s'])
    """
    return [name for name in spec.factors if name in SETTABLE]


def by_hand(spec: Spec) -> list[str]:
    """Factors that somebody sets on the machine before the print."""
    return [name for name in spec.factors if name not in SETTABLE]


def wanted(levels: Mapping[str, Level]) -> tuple[float | None, float | None]:
    """Layer height in mm and accepted risk of a cell; None where it has no such factor.

    >>> wanted({"height mm": 0.1, "wall mm/s": 40})
    (0.1, None)
    """
    height, risk = levels.get(HEIGHT), levels.get(RISK)
    return (None if height is None else float(height)), (None if risk is None else float(risk))
