"""What a person at the machine would look for, and takes where nothing can be told between it and the cheapest.

Where a figure stands on the plate it is upright. Where it hangs from it, it leans back with its face up: a wide foot
laid parallel to the plate is pried off with a scraper, and what faces forward wants no support.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from .directions import Direction

F8 = NDArray[np.float64]
B1 = NDArray[np.bool_]
LEANS_DEG = (15.0, 45.0)
"""Prior: how far a figure that hangs usually leans."""
FACING_COS = math.cos(math.radians(60.0))
"""Prior: it leans back where its front turns up within this of straight."""
UPRIGHT_COS = math.cos(math.radians(8.0))
"""Prior: what leans no farther stands as it is meant to."""


def expected(downs: F8, up: Direction, front: Direction | None, hangs: bool) -> B1:
    """Which of the directions (n, 3) that point at the plate are such; without a front a lean to any side is.

    >>> from math import sin, cos, pi
    >>> back = [0.0, sin(pi / 6), -cos(pi / 6)]
    >>> expected(np.array([[0.0, 0, -1], back]), (0, 0, 1), (0, -1, 0), True).tolist()
    [False, True]
    >>> expected(np.array([[0.0, 0, -1], back]), (0, 0, 1), (0, -1, 0), False).tolist()
    [True, False]
    """
    above = -np.asarray(downs, float).reshape(-1, 3)
    own = np.array(up, float)
    lean = above @ own
    if not hangs:
        return np.asarray(lean > UPRIGHT_COS)
    low, high = (math.cos(math.radians(d)) for d in LEANS_DEG)
    leaning = (lean <= low) & (lean >= high)
    if front is None:
        return np.asarray(leaning)
    across = above - lean[:, None] * own
    return np.asarray(leaning & (across @ np.array(front, float) >= FACING_COS * np.linalg.norm(across, axis=1)))
