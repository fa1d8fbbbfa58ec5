"""What would make another alternative the better one: other rates of a person's, or estimates that are wrong.

Terms. *Turn*: a rate at which another row becomes the cheapest. *Bound*: how many times what is reckoned of a row it
may really take before another is cheaper, or before it is the cheapest itself.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass, replace

import numpy as np

from .price import PART_SHARE, Gift, Worth, priced, totals
from .rates import Rates

MOST_TIMES, STEPS = 64.0, 97
"""Beyond so many times a rate or an estimate nobody asks; and how finely it is looked through."""
HALVINGS = 40


@dataclass(frozen=True)
class Turn:
    """At `then` coins (or times, for what is lost) in place of `now` the alternative `row` is the cheapest."""

    rate: str
    now: float
    then: float
    row: int


@dataclass(frozen=True)
class Bound:
    """Were `part` of the alternative shown `times` what is reckoned, `row` would be the cheapest."""

    part: str
    now: float
    times: float
    row: int


def gift_of_worth(worth: Worth) -> Gift:
    """What an alternative takes, read back from what it is worth.

    >>> gift = Gift(10.0, 2.0, 0.5, 0.02, 0.1)
    >>> back = gift_of_worth(priced(gift, Rates(0.2, 0.5, 2.0)))
    >>> round(back.lost, 9), round(back.part_lost, 9)
    (0.02, 0.1)
    """
    parts = (worth.risk - worth.harm) / (1 - PART_SHARE)
    lost = worth.risk - parts
    return Gift(worth.hands_min, worth.machine_h, worth.material, lost, parts / (1 - lost) if lost < 1 else 0.0)


def least_coins(gifts: Sequence[Gift], rates: Rates) -> int:
    """The alternative of least coins."""
    hands, machine, material, lost, part = np.array([list(asdict(g).values()) for g in gifts], float).T
    return int(totals(hands, machine, material, lost=lost, part_lost=part, rates=rates)[3].argmin())


def _first(best: Callable[[float], int], now: int, most: float) -> tuple[float, int] | None:
    """The factor nearest to 1, towards `most`, at which another than `now` is best, and which."""
    for low, high in itertools.pairwise(np.geomspace(1.0, most, STEPS).tolist()):
        if best(high) != now:
            for _ in range(HALVINGS):
                middle = (low * high) ** 0.5
                low, high = (low, middle) if best(middle) != now else (middle, high)
            return high, best(high)
    return None


def turns(gifts: Sequence[Gift], rates: Rates) -> list[Turn]:
    """Of each rate, the nearest values below and above at which another alternative is the cheapest.

    >>> fast, neat = Gift(30.0, 1.0, 0.0, 0.0), Gift(10.0, 3.0, 0.0, 0.0)
    >>> [(t.rate, round(t.then, 6), t.row) for t in turns([fast, neat], Rates(0.2, 1.0, 1.0))]
    [('minute', 0.1, 0), ('hour', 2.0, 0)]
    """
    now, told = least_coins(gifts, rates), []
    for rate, value in rates.as_dict().items():
        if value <= 0:
            continue

        def best(times: float, rate: str = rate, value: float = value) -> int:
            return least_coins(gifts, replace(rates, **{rate: value * times}))

        for most in (1 / MOST_TIMES, MOST_TIMES):
            if (met := _first(best, now, most)) is not None:
                told.append(Turn(rate, value, value * met[0], met[1]))
    return told


def _scaled(gift: Gift, part: str, times: float) -> Gift:
    if part == "hands":
        return replace(gift, hands_min=gift.hands_min * times)
    if part == "machine":
        return replace(gift, machine_h=gift.machine_h * times)
    if part == "material":
        return replace(gift, material=gift.material * times)
    return replace(gift, lost=min(1.0, gift.lost * times), part_lost=min(1.0, gift.part_lost * times))


def bounds(gifts: Sequence[Gift], rates: Rates, shown: int) -> list[Bound]:
    """Of each part of what the alternative shown takes, how far the estimate of it alone may be off: more of it before
    another is cheaper where it is the cheapest, less of it before it is the cheapest itself where it is not.
    """
    now, told = least_coins(gifts, rates), []
    reckoned = priced(gifts[shown], rates)
    size = {
        "hands": reckoned.hands_min,
        "machine": reckoned.machine_h,
        "material": reckoned.material,
        "risk": reckoned.risk,
    }
    for part, value in size.items():
        if value <= 0:
            continue

        def best(times: float, part: str = part) -> int:
            others = list(gifts)
            others[shown] = _scaled(gifts[shown], part, times)
            return least_coins(others, rates)

        met = _first(best, now, MOST_TIMES if shown == now else 1 / MOST_TIMES)
        if met is not None and (shown == now or met[1] == shown):
            told.append(Bound(part, value, met[0], met[1]))
    return told
