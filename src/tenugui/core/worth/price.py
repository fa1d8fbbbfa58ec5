"""From what an alternative takes to what it is worth, and in words from one to another."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .rates import Rates

F8 = NDArray[np.float64]
CLEAN_MIN = 20.0
"""Prior: minutes to clear away a print that failed and to start again."""
PART_SHARE = 0.5
"""Prior: a lost part costs half of the print, and of the hands that went into it before it was found: it is glued,
filled or printed again alone.
"""
SAME_RISK = 0.05
"""Chances that lie farther apart are not alike, however unsure the coins are; a part counts by what it costs."""
HANDS_UNSURE, RISK_UNSURE = 0.5, 0.5
"""Priors: minutes of hands are known to so much of themselves, chances to so much."""


@dataclass(frozen=True)
class Gift:
    """What an alternative takes: minutes of hands, machine hours, coins of material, and the chances that the print or
    a part of it is lost.
    """

    hands_min: float
    machine_h: float
    material: float
    lost: float
    part_lost: float = 0.0


@dataclass(frozen=True)
class Worth:
    """A gift at a person's rates, in coins. `risk` is the chance that anything is lost; `loss` what it costs on
    average; `harm` that chance where a lost part counts by its share of a print; `unsure` half the width of what is not
    known.
    """

    hands_min: float
    machine_h: float
    material: float
    risk: float
    hands: float
    machine: float
    loss: float
    total: float
    unsure: float
    harm: float


def harm_of(lost: Any, part_lost: Any) -> Any:
    """Chance that a print is lost, a lost part counting PART_SHARE.

    >>> round(harm_of(0.02, 0.1), 3)
    0.069
    """
    return lost + (1 - lost) * PART_SHARE * part_lost


def totals(
    hands_min: F8, machine_h: F8, material: F8, *, lost: F8, part_lost: F8, rates: Rates
) -> tuple[F8, F8, F8, F8]:
    """Coins (n,) of hands, of the machine, of what is lost on average, and of all with the material."""
    hands, machine = hands_min * rates.minute, machine_h * rates.hour
    again = CLEAN_MIN * rates.minute + machine + material
    # Whoever finds a part lost may as well start again: a part never costs more than the print.
    part = np.minimum(PART_SHARE * (again + hands), again)
    loss = (lost * again + (1 - lost) * part_lost * part) * rates.lost
    return hands, machine, loss, hands + machine + material + loss


def priced(gift: Gift, rates: Rates) -> Worth:
    """One alternative's worth.

    >>> w = priced(Gift(10, 2, 0.5, 0.1), Rates(0.2, 0.5, 2.0))
    >>> round(w.hands, 3), round(w.machine, 3), round(w.loss, 3), round(w.total, 3)
    (2.0, 1.0, 1.1, 4.6)
    """
    hands_min, machine_h, material, lost, part_lost = np.array(
        [[gift.hands_min], [gift.machine_h], [gift.material], [gift.lost], [gift.part_lost]]
    )
    sums = totals(hands_min, machine_h, material, lost=lost, part_lost=part_lost, rates=rates)
    hands, machine, loss, total = (float(v[0]) for v in sums)
    unsure = math.hypot(HANDS_UNSURE * hands, RISK_UNSURE * loss)
    risk = 1 - (1 - gift.lost) * (1 - gift.part_lost)
    return Worth(
        gift.hands_min,
        gift.machine_h,
        gift.material,
        risk,
        hands,
        machine,
        loss,
        total,
        unsure,
        harm_of(gift.lost, gift.part_lost),
    )


def least(values: Sequence[Worth], expected: int | None = None) -> int:
    """The alternative of least worth; `expected`, the one that a person would look for, where nobody could tell the two
    apart.
    """
    best = min(range(len(values)), key=lambda i: values[i].total)
    return expected if expected is not None and alike(values[expected], values[best]) else best


def alike(one: Worth, other: Worth) -> bool:
    """Whether nobody could tell two apart by what is known: as many coins, and `one` no riskier."""
    return one.total - other.total <= _apart(one, other) and one.harm <= other.harm + SAME_RISK


def _apart(one: Worth, other: Worth) -> float:
    """How far two may lie apart and still be alike: their estimates share most of what makes them wrong, so the half of
    the larger.
    """
    return 0.5 * max(one.unsure, other.unsure)


def compared(one: Worth, other: Worth) -> str:
    """What `one` costs beside `other`, in minutes, hours and chance; empty where nothing is to be said.

    >>> a = priced(Gift(10, 2, 0.5, 0.02), Rates(0.2, 0.5, 2.0))
    >>> b = priced(Gift(22, 1.5, 0.5, 0.09), Rates(0.2, 0.5, 2.0))
    >>> compared(a, b)
    '12 minutes less by hand, 30 minutes more printing, risk 2 % against 9 %'
    """
    parts = []
    hands = one.hands_min - other.hands_min
    if abs(hands) >= 1:
        parts.append(
            f"{abs(hands):.0f} minute{'s' * (round(abs(hands)) != 1)} {'more' if hands > 0 else 'less'} by hand"
        )
    hours = one.machine_h - other.machine_h
    if abs(hours) * 60 >= 5:
        much = f"{abs(hours):.1f} hours" if abs(hours) >= 1.5 else f"{abs(hours) * 60:.0f} minutes"
        parts.append(f"{much} {'more' if hours > 0 else 'less'} printing")
    if abs(one.risk - other.risk) >= 0.01:
        parts.append(f"risk {one.risk:.0%} against {other.risk:.0%}".replace("%", " %"))
    if not parts and abs(one.material - other.material) >= 0.01:
        more = one.material > other.material
        parts.append(f"{abs(one.material - other.material):.2f} {'more' if more else 'less'} of material")
    return ", ".join(parts)
