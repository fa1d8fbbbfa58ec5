"""Ways that stay inside: a travel that would cross open air goes around along the outermost line instead, where that is not much farther.

What oozes on such a way lies within the figure, so that the filament need not be drawn back. Between two bodies there is no such way.
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
NONE = np.zeros((0, 2))


@njit()
def crossings(a: F8, b: F8, loops: F8, starts: I8, along: F8, of: I8) -> int:
    """Where the way from a to b meets closed loops: shares of the way in `along`, the loop of each in `of`, in their order. Returns how many."""
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


class Inside:
    """A layer's section, and its outermost lines (closed, a little within its outlines), along which ways may go."""

    def __init__(self, section: CrossSection, lines: Sequence[F8]) -> None:
        polygons = [np.asarray(loop, float) for loop in section.to_polygons()]
        self.outline = np.concatenate(polygons) if polygons else NONE
        self.starts = np.concatenate([[0], np.cumsum([len(p) for p in polygons])]).astype(np.int64)
        self.lines = lines
        self._along, self._of = np.empty(len(self.outline)), np.empty(len(self.outline), np.int64)

    def met(self, a: F8, b: F8) -> F8:
        """Where the straight way from a to b meets the outlines, as shares of it (an even number where both ends lie inside)."""
        return self._along[: int(crossings(a, b, self.outline, self.starts, self._along, self._of))]

    def airs(self, ways: F8) -> F8:
        """How much of straight ways (n, 4: from x, y to x, y) between points inside lies outside, mm."""
        out = np.zeros(len(ways))
        _airs(np.ascontiguousarray(ways), self.outline, self.starts, self._along, self._of, out)
        return out

    def way(self, a: F8, b: F8) -> F8 | None:
        """Points (n, 2) by which a way from a to b stays inside, none where the straight one does; None where there is no such way, or only a long one."""
        met = self.met(a, b).copy()
        if not len(met):
            return NONE
        if len(met) % 2 or not self.lines:
            return None
        straight = float(np.hypot(*(b - a)))
        found: list[F8] = []
        for out, back in met.reshape(-1, 2):
            part = self._around(a + out * (b - a), a + back * (b - a))
            if part is None:
                return None
            found.append(part)
        points = np.concatenate(found)
        whole = np.concatenate([a[None], points, b[None]])
        long = float(np.linalg.norm(np.diff(whole, axis=0), axis=1).sum())
        if long > min(FARTHER * straight, MOST_MM):
            return None
        # The way to a line and from it may itself leave a narrow place.
        ends = [whole[0], *(p for part in found for p in (part[0], part[-1])), whole[-1]]
        if any(len(self.met(ends[i], ends[i + 1])) for i in range(0, len(ends) - 1, 2)):
            return None
        return points

    def _around(self, out: F8, back: F8) -> F8 | None:
        """Along the one outermost line that is nearest to both places, the shorter way around."""
        near = [(_nearest(line, out), _nearest(line, back)) for line in self.lines]
        first, last = (int(np.argmin([pair[k][0] for pair in near])) for k in (0, 1))
        if first != last:
            return None
        line, ((_, i, p), (_, j, q)) = self.lines[first], near[first]
        many = len(line)
        ahead = line[np.arange(i + 1, i + 1 + (j - i) % many) % many]
        behind = line[np.arange(i, i - (i - j) % many, -1) % many]
        ways = [np.concatenate([p[None], part, q[None]]) for part in (ahead, behind)]
        return min(ways, key=lambda w: float(np.linalg.norm(np.diff(w, axis=0), axis=1).sum()))


def _nearest(loop: F8, at: F8) -> tuple[float, int, F8]:
    """Squared distance of a closed loop (n, 2) from a point, the segment on which it comes nearest, and where."""
    way = np.roll(loop, -1, axis=0) - loop
    share = np.clip(((at - loop) * way).sum(axis=1) / np.maximum((way**2).sum(axis=1), 1e-18), 0.0, 1.0)
    points = loop + share[:, None] * way
    far = ((points - at) ** 2).sum(axis=1)
    k = int(far.argmin())
    return float(far[k]), k, points[k]
