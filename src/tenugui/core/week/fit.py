"""What fits a slot: which hours end within it in 19 of 20 cases."""

from __future__ import annotations

import math
from dataclasses import dataclass

from .rules import SURE_Z

GROWS = {"hangs": 1.0, "stands": 2.5}
"""Prior: by which power of its size a print's hours grow: what hangs takes as long as it is tall, what is drawn has
walls that grow as its surface and insides as its volume.
"""


@dataclass(frozen=True)
class Fit:
    """Hours that a print ends within in 19 of 20 cases, and by which factor of its size it would just fit."""

    hours_95: float
    fits: bool
    size: float


def fit(hours: float, spread: float, slot_h: float, *, grows: float) -> Fit:
    """Of a print of so many hours, known to a share of `spread`, in a slot; `grows`: by which power of its size a
    print's hours grow, 1 where only its height counts.

    >>> fit(4.0, 0.0, 5.0, grows=1.0), round(fit(8.0, 0.0, 4.0, grows=2.0).size, 3)
    (Fit(hours_95=4.0, fits=True, size=1.25), 0.707)
    """
    late = hours * math.exp(SURE_Z * spread)
    return Fit(late, late <= slot_h, (slot_h / late) ** (1 / grows))
