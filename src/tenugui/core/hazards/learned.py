"""What a machine's own prints have taught of causes, put to use: a pull or a suction that is stronger than reckoned, or
anything else that comes true more or less often than told.
"""

from __future__ import annotations

import math
from statistics import NormalDist

from ..machines import SPREAD, Printer
from .hazard import as_often

LOADS = {"pull": "peel_kpa", "sealed": "suction_kpa"}
"""Causes that are a load, and the printer's own number of it: supports, hollows and prints all count with that."""
FIELD = "cause_times"
_NORMAL = NormalDist()


def load_times(told: float, times: float) -> float:
    """By how much larger a load must be for what is told to come true in a share `told` of prints to come true at
    `times` that rate: a margin's chance is Φ(-ln m / SPREAD).

    >>> round(load_times(0.1, 1.0), 3), load_times(0.05, 3.0) > load_times(0.05, 2.0) > 1
    (1.0, True)
    """
    p = min(max(told, 1e-4), 0.5)
    return math.exp(SPREAD * (_NORMAL.inv_cdf(as_often(p, times)) - _NORMAL.inv_cdf(p)))


def field_of(cause: str, printer: Printer) -> str:
    """Where a printer keeps what was learned of a cause: a load that it has, else a rate.

    >>> from ..machines import load_printer
    >>> heron, kestrel = load_printer("heron"), load_printer("kestrel")
    >>> field_of("pull", heron), field_of("pull", kestrel), field_of("sway", kestrel)
    ('peel_kpa', 'cause_times.pull', 'cause_times.sway')
    """
    load = LOADS.get(cause, "")
    return load if hasattr(printer, load) else f"{FIELD}.{cause}"


def fields_of(cause: str) -> tuple[str, str]:
    """Wherever any printer may keep it."""
    return LOADS.get(cause, ""), f"{FIELD}.{cause}"


def before_taking(field: str, told: float, was: float | None, now: float, scatter: float = 1.0) -> float:
    """The chance that a plan would have told had the value `now` of a field not been taken over in place of `was`.

    >>> round(before_taking("cause_times.sway", as_often(0.1, 2.0), None, 2.0), 3)
    0.1
    >>> more = load_times(0.1, 2.0)
    >>> round(before_taking("peel_kpa", as_often(0.1, 2.0), 8.0, 8.0 * more), 3)
    0.1
    """
    if field.startswith(FIELD):
        return as_often(told, (was or 1.0) / now)
    if not 0 < told < 1 or not was:
        return told
    return _NORMAL.cdf(_NORMAL.inv_cdf(told) - math.log(now / was) / (scatter * SPREAD))
