"""Ways that stay inside: a travel that would cross open air goes around along the outermost line instead, where that is
not much farther.

What oozes on such a way lies within the figure, so that the filament need not be drawn back. Between two bodies there
is no such way.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from manifold3d import CrossSection
from numpy.typing import NDArray

from ..compiled import njit

F8 = NDArray[np.float64]
I8 = NDArray[np.int64]
FARTHER, MOST_MM = 3.0, 30.0
"""Priors: a way around may be so many times as long as the straight one, and no longer than this."""
NOWHERE = -1
"""No way stays inside."""


@njit()
def crossings(a: F8, b: F8, loops: F8, starts: I8, along: F8, of: I8) -> int:
    """Where the way from a to b meets closed loops: shares of the way in `along`, the loop of each in `of`, in their
    order. Returns how many.
    """
    dx, dy = b[0] - a[0], b[1] - a[1]
    n = 0
    for loop in range(len(starts) - 1):
        begin, end = starts[loop], starts[loop + 1]
        for i in range(begin, end):
            j = i + 1 if i + 1 < end else begin
            p = dx * (loops[i, 1] - a[1]) - dy * (loops[i, 0] - a[0])
            q = dx * (loops[j, 1] - a[1]) - dy * (loops[j, 0] - a[0])
            if (p > 0.0) == (q > 0.0):
                continue
            share = p / (p - q)
            x = loops[i, 0] + share * (loops[j, 0] - loops[i, 0]) - a[0]
            y = loops[i, 1] + share * (loops[j, 1] - loops[i, 1]) - a[1]
            t = (x * dx + y * dy) / (dx * dx + dy * dy)
            if 0.0 < t < 1.0:
                k = n
                while k > 0 and along[k - 1] > t:
                    along[k], of[k] = along[k - 1], of[k - 1]
                    k -= 1
                along[k], of[k] = t, loop
                n += 1
    return n


@njit()
def _airs(ways: F8, loops: F8, starts: I8, along: F8, of: I8, out: F8) -> None:
    """Of each straight way (n, 4: from x, y to x, y) how much lies outside closed loops."""
    for i in range(len(ways)):
        a, b = ways[i, :2], ways[i, 2:]
        n = crossings(a, b, loops, starts, along, of)
        share = 0.0
        for k in range(0, n - 1, 2):
            share += along[k + 1] - along[k]
        out[i] = share * np.hypot(b[0] - a[0], b[1] - a[1])


@njit()
def _nearest(loops: F8, first: int, last: int, x: float, y: float) -> tuple[float, int, float, float]:
    """Squared distance of a closed loop from a place, the segment on which it comes nearest, and where."""
    best, at, px, py = np.inf, first, 0.0, 0.0
    for i in range(first, last):
        j = i + 1 if i + 1 < last else first
        dx, dy = loops[j, 0] - loops[i, 0], loops[j, 1] - loops[i, 1]
        share = ((x - loops[i, 0]) * dx + (y - loops[i, 1]) * dy) / max(dx * dx + dy * dy, 1e-18)
        share = min(max(share, 0.0), 1.0)
        u, v = loops[i, 0] + share * dx, loops[i, 1] + share * dy
        far = (u - x) ** 2 + (v - y) ** 2
        if far < best:
            best, at, px, py = far, i, u, v
    return best, at, px, py


@njit()
def _ahead(loops: F8, first: int, last: int, i: int, j: int, p: F8, q: F8) -> float:
    """How long the way is from p on segment i to q on segment j, the way the loop runs."""
    x, y, long = p[0], p[1], 0.0
    while i != j:
        i = i + 1 if i + 1 < last else first
        long += np.hypot(loops[i, 0] - x, loops[i, 1] - y)
        x, y = loops[i, 0], loops[i, 1]
    return long + np.hypot(q[0] - x, q[1] - y)


@njit()
def way_inside(a: F8, b: F8, outline: F8, starts: I8, loops: F8, loop_starts: I8, along: F8, of: I8, out: F8) -> int:
    """Points by which a way from a to b stays inside, into `out`; how many (0: the straight one does), or NOWHERE:
    there is none, or only a long one.

    Wherever the straight way leaves the outline, it goes along the one outermost line (closed `loops`) that is nearest
    to both places, the shorter way.
    """
    n = crossings(a, b, outline, starts, along, of)
    if n == 0:
        return 0
    if n % 2 == 1 or len(loops) == 0:
        return NOWHERE
    most = min(FARTHER * np.hypot(b[0] - a[0], b[1] - a[1]), MOST_MM)
    shares = along[:n].copy()
    here, p, q = a.copy(), np.empty(2), np.empty(2)
    count, long = 0, 0.0
    for k in range(0, n, 2):
        x0, y0 = a[0] + shares[k] * (b[0] - a[0]), a[1] + shares[k] * (b[1] - a[1])
        x1, y1 = a[0] + shares[k + 1] * (b[0] - a[0]), a[1] + shares[k + 1] * (b[1] - a[1])
        here_far, there_far = np.inf, np.inf
        one, other, i, j = -1, -2, 0, 0
        for loop in range(len(loop_starts) - 1):
            first, last = loop_starts[loop], loop_starts[loop + 1]
            far, at, u, v = _nearest(loops, first, last, x0, y0)
            if far < here_far:
                here_far, one, i, p[0], p[1] = far, loop, at, u, v
            far, at, u, v = _nearest(loops, first, last, x1, y1)
            if far < there_far:
                there_far, other, j, q[0], q[1] = far, loop, at, u, v
        if one != other:
            return NOWHERE
        # The way to a line and from it may itself leave a narrow place.
        if crossings(here, p, outline, starts, along, of) > 0:
            return NOWHERE
        first, last = loop_starts[one], loop_starts[one + 1]
        ahead = _ahead(loops, first, last, i, j, p, q)
        behind = _ahead(loops, first, last, j, i, q, p)
        long += np.hypot(p[0] - here[0], p[1] - here[1]) + min(ahead, behind)
        if long > most or count + 2 + last - first > len(out):
            return NOWHERE
        out[count, 0], out[count, 1] = p[0], p[1]
        count += 1
        forth = ahead <= behind
        while i != j:
            if forth:
                i = i + 1 if i + 1 < last else first
                out[count, 0], out[count, 1] = loops[i, 0], loops[i, 1]
            else:
                out[count, 0], out[count, 1] = loops[i, 0], loops[i, 1]
                i = i - 1 if i > first else last - 1
            count += 1
        out[count, 0], out[count, 1] = q[0], q[1]
        count += 1
        here[0], here[1] = q[0], q[1]
    if long + np.hypot(b[0] - here[0], b[1] - here[1]) > most or crossings(here, b, outline, starts, along, of) > 0:
        return NOWHERE
    return count


def _joined(polygons: Sequence[F8]) -> tuple[F8, I8]:
    """Loops one after the other, and where each begins."""
    starts = np.concatenate([[0], np.cumsum([len(p) for p in polygons])]).astype(np.int64)
    return (np.concatenate(polygons) if len(polygons) else np.zeros((0, 2))), starts


class Inside:
    """A layer's section, and its outermost lines (closed, a little within its outlines), along which ways may go."""

    def __init__(self, section: CrossSection, lines: Sequence[F8]) -> None:
        self.outline, self.starts = _joined([np.asarray(loop, float) for loop in section.to_polygons()])
        self.loops, self.loop_starts = _joined(lines)

    @staticmethod
    def nothing() -> Inside:
        """Of a layer without the figure."""
        return Inside(CrossSection(), [])

    def airs(self, ways: F8) -> F8:
        """How much of straight ways (n, 4: from x, y to x, y) between points inside lies outside, mm."""
        out, many = np.zeros(len(ways)), len(self.outline)
        _airs(np.ascontiguousarray(ways), self.outline, self.starts, np.empty(many), np.empty(many, np.int64), out)
        return out

    def way(self, a: F8, b: F8) -> F8 | None:
        """Points (n, 2) by which a way from a to b stays inside, none where the straight one does; None where there is
        no such way, or only a long one.
        """
        out, many = np.empty((2 * len(self.loops) + 8, 2)), len(self.outline)
        lines = (self.outline, self.starts, self.loops, self.loop_starts)
        count = int(way_inside(a, b, *lines, np.empty(many), np.empty(many, np.int64), out))
        return None if count == NOWHERE else out[:count]
