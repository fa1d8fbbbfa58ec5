"""How long a path takes: trapezoids of speed with look-ahead, corners by junction deviation.

A corner of angle θ between two moves may be passed at v² = a δ sin(θ/2) / (1 - sin(θ/2)), δ being how far it may be cut
and a the acceleration; moves that follow are known, so each begins no faster than the later ones let it end (two
sweeps).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit

F8 = NDArray[np.float64]
STRAIGHT = 0.9999


@njit()
def _junctions(points: F8, speed: F8, acceleration: float, deviation: float, begin: F8) -> None:
    """The highest speed (n + 1,) at the start of each move; moves that stay where they are stop."""
    n = len(speed)
    begin[0], begin[n] = 0.0, 0.0
    for k in range(1, n):
        ux, uy, uz = points[k, 0] - points[k - 1, 0], points[k, 1] - points[k - 1, 1], points[k, 2] - points[k - 1, 2]
        vx, vy, vz = points[k + 1, 0] - points[k, 0], points[k + 1, 1] - points[k, 1], points[k + 1, 2] - points[k, 2]
        a, b = np.sqrt(ux * ux + uy * uy + uz * uz), np.sqrt(vx * vx + vy * vy + vz * vz)
        if a < 1e-9 or b < 1e-9:
            begin[k] = 0.0
            continue
        turn = (ux * vx + uy * vy + uz * vz) / (a * b)
        most = min(speed[k - 1], speed[k])
        if turn >= STRAIGHT:
            begin[k] = most
            continue
        # sin of half of the angle between the move before, turned about, and the move after.
        half = np.sqrt(max(0.0, (1.0 + turn) / 2))
        begin[k] = min(most, np.sqrt(acceleration * deviation * half / max(1e-9, 1.0 - half)))


@njit()
def _seconds(points: F8, speed: F8, acceleration: float, begin: F8, out: F8) -> None:
    n = len(speed)
    length = np.empty(n)
    for k in range(n):
        x, y, z = points[k + 1, 0] - points[k, 0], points[k + 1, 1] - points[k, 1], points[k + 1, 2] - points[k, 2]
        length[k] = np.sqrt(x * x + y * y + z * z)
    for k in range(n - 1, -1, -1):
        begin[k] = min(begin[k], np.sqrt(begin[k + 1] ** 2 + 2 * acceleration * length[k]))
    for k in range(n):
        begin[k + 1] = min(begin[k + 1], np.sqrt(begin[k] ** 2 + 2 * acceleration * length[k]))
        v0, v1, v = begin[k], begin[k + 1], speed[k]
        if length[k] < 1e-12:
            out[k] = 0.0
            continue
        ramp = (2 * v * v - v0 * v0 - v1 * v1) / (2 * acceleration)
        if ramp <= length[k]:
            out[k] = (v - v0) / acceleration + (v - v1) / acceleration + (length[k] - ramp) / v
        else:
            top = np.sqrt((2 * acceleration * length[k] + v0 * v0 + v1 * v1) / 2)
            out[k] = (top - v0) / acceleration + (top - v1) / acceleration


def seconds(points: F8, speed: F8, acceleration: float, deviation: float) -> F8:
    """Seconds (n,) of each of n moves through points (n + 1, 3) in mm at nominal speeds (n,), from rest to
    rest. O(n).
    """
    speed = np.ascontiguousarray(speed, float)
    begin, out = np.empty(len(speed) + 1), np.empty(len(speed))
    if not len(speed):
        return out
    at = np.ascontiguousarray(points, float)
    _junctions(at, speed, acceleration, deviation, begin)
    _seconds(at, speed, acceleration, begin, out)
    return out
