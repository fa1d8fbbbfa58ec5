"""What a minute, an hour and a lost print are worth to a person."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from ..errors import CoreError

MOST = 1000.0


class RatesError(CoreError):
    """Rates that cannot be."""


@dataclass(frozen=True)
class Rates:
    """Coins for a minute of hands and for an hour of the machine; how many times over a lost print is felt, beyond
    making it again once.
    """

    minute: float
    hour: float
    lost: float

    def as_dict(self) -> dict[str, float]:
        """The three by name."""
        return asdict(self)


PRESETS: dict[str, Rates] = {
    "evening": Rates(0.15, 0.3, 1.5),
    "order": Rates(0.6, 1.5, 3.0),
    "army": Rates(0.4, 0.4, 1.0),
}
"""Priors. An evening's hobby: time is not counted dearly. On order: hands are wages and a date is promised. An army:
many alike, none of them dear.
"""
USUAL_RATES = "evening"
"""Where nobody says otherwise."""


def rates_of(given: Mapping[str, Any] | str | None) -> Rates:
    """Rates from a preset's name, or free values over the first preset's.

    Raises:
        RatesError: `bad-rates`.

    >>> rates_of("order").minute, rates_of({"hour": 2}).hour, rates_of(None) == PRESETS["evening"]
    (0.6, 2.0, True)
    """
    if given is None:
        return PRESETS[USUAL_RATES]
    if isinstance(given, str):
        if given not in PRESETS:
            raise RatesError("bad-rates", f"There are no rates '{given[:40]}'.", remedy=f"Give {', '.join(PRESETS)}.")
        return PRESETS[given]
    rates = PRESETS[USUAL_RATES].as_dict()
    for name, value in given.items():
        sound = name in rates and isinstance(value, int | float) and math.isfinite(value) and 0 <= value <= MOST
        if not sound:
            what = f"{value!r} is no rate for '{name}'."
            raise RatesError("bad-rates", what, remedy=f"Give 0 to {MOST:g} for {', '.join(rates)}.")
        rates[name] = float(value)
    if not rates["minute"] and not rates["hour"]:
        # Material alone would be left, and a plan judged by it is judged by grams.
        raise RatesError(
            "bad-rates", "A minute and an hour are both worth nothing.", remedy="Give one of them a price."
        )
    return Rates(**rates)
