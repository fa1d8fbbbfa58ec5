"""What a person wants of a pose: rates at which it is worth something, and hard wishes that rule out what does not meet
them.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..worth import Rates, RatesError, rates_of
from .price import Takes
from .search import PoseTable

NO_SUPPORT_MM2 = 0.5
"""Prior: less supported surface is the grain of the search."""
MOST_HOURS = 1000.0


@dataclass(frozen=True)
class Wish:
    """What a person wants of a pose: rates, and hard wishes that rule out what does not meet them.

    `hours`: the machine is done in so many; `clean`: no support on what is shown; `free`: no supports at all.
    """

    rates: Rates
    hours: float | None = None
    clean: bool = False
    free: bool = False

    def as_dict(self) -> dict[str, Any]:
        """As inputs of a task."""
        return {"rates": self.rates.as_dict(), "hours": self.hours, "clean": self.clean, "free": self.free}


def wish_of(given: Mapping[str, Any] | None) -> Wish:
    """A wish from a task's inputs: `rates` (a preset's name or values), `hours`, `clean`, `free`.

    Raises:
        RatesError: `bad-rates` or `bad-wish`.
    """
    given = given or {}
    unknown = set(given) - {"rates", "hours", "clean", "free"}
    hours = given.get("hours")
    if unknown or (hours is not None and not (isinstance(hours, int | float) and 0 < hours <= MOST_HOURS)):
        what = f"There is no wish '{min(unknown)}'." if unknown else f"{hours!r} is no number of hours."
        raise RatesError("bad-wish", what, remedy=f"Wishes are rates, hours (to {MOST_HOURS}), clean and free.")
    return Wish(
        rates_of(given.get("rates")),
        None if hours is None else float(hours),
        bool(given.get("clean")),
        bool(given.get("free")),
    )


def meeting(
    table: PoseTable, stakes: Takes, fits: NDArray[np.bool_], wish: Wish
) -> tuple[NDArray[np.bool_], tuple[str, ...]]:
    """Directions (n,) that fit and meet the hard wishes; wishes that would leave none are let go, and named."""
    tests = {
        "free": (wish.free, (table.column("support_area_mm2") < NO_SUPPORT_MM2) & (table.column("minima") < 1)),
        "clean": (wish.clean, table.column("shown_mm2") < NO_SUPPORT_MM2),
        "hours": (wish.hours is not None, stakes.machine_h <= (wish.hours or 0.0)),
    }
    left, unmet = fits.copy(), []
    for name, (asked, met) in tests.items():
        if asked and (left & met).any():
            left &= met
        elif asked:
            unmet.append(name)
    return left, tuple(unmet)
