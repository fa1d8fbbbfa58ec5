"""What is left on the shelf."""

from __future__ import annotations

LOW_G = 150.0
"""Prior: with less than this left, it is time to buy."""


def left_of(stock_g: float | None, used_g: float) -> float | None:
    """Grams left of what was counted; None where nothing was counted.

    >>> left_of(850.0, 900.0), left_of(None, 5.0)
    (0.0, None)
    """
    return None if stock_g is None else max(0.0, stock_g - used_g)
