"""For every vertex the directions for which it is the lowest of its neighbours, bounded by a cone: a test of one
product a direction.

A vertex is lowest along `down` where no edge from it points further down: the polar cone of its edges. Its extreme rays
are products of two edges, so a cap around their mean bounds it. Flat, saddle and hollow places have none, and the cone
of a finely meshed bulge is narrow: of 100,000 vertices a few hundred are left to look at.
"""

from __future__ import annotations

import numba
import numpy as np
from numpy.typing import NDArray

F4 = NDArray[np.float32]
F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
I8 = NDArray[np.int64]

MOST_EDGES = 14
"""Vertices with more edges are always looked at."""
ANYWHERE = -2.0
"""The cosine of a vertex that may be lowest for any direction."""
SLACK = 1e-3
"""Widens every cone, so that rounding leaves none out."""


@numba.njit(cache=True, nogil=True)
def cones(vertices: F8, start: I8, near: I4, first: int, last: int, out: F4) -> None:
    """Axis and least cosine of each vertex in [first, last) into `out` (4, n); 2 where it is lowest for no direction,
    -2 where it may be for any.
    """
    edges = np.empty((MOST_EDGES, 3))
    names = np.empty(MOST_EDGES, np.int32)
    rays = np.empty((2 * MOST_EDGES * MOST_EDGES, 3))
    for i in range(first, last):
        count = 0
        many = False
        for q in range(start[i], start[i + 1]):
            j = near[q]
            known = False
            for e in range(count):
                known = known or names[e] == j
            if known:
                continue
            x, y, z = vertices[j, 0] - vertices[i, 0], vertices[j, 1] - vertices[i, 1], vertices[j, 2] - vertices[i, 2]
            length = np.sqrt(x * x + y * y + z * z)
            if length < 1e-12:
                many = True
                break
            if count == MOST_EDGES:
                many = True
                break
            names[count] = j
            edges[count, 0], edges[count, 1], edges[count, 2] = x / length, y / length, z / length
            count += 1
        out[0, i] = out[1, i] = 0.0
        out[2, i] = 1.0
        if many or count < 3:
            out[3, i] = ANYWHERE if count else 2.0
            continue
        taken = 0
        for a in range(count):
            for b in range(a + 1, count):
                x = edges[a, 1] * edges[b, 2] - edges[a, 2] * edges[b, 1]
                y = edges[a, 2] * edges[b, 0] - edges[a, 0] * edges[b, 2]
                z = edges[a, 0] * edges[b, 1] - edges[a, 1] * edges[b, 0]
                length = np.sqrt(x * x + y * y + z * z)
                if length < 1e-4:
                    continue  # nearly one line: its rays come from other pairs, or the cone is that of a ridge
                x, y, z = x / length, y / length, z / length
                for sign in (1.0, -1.0):
                    fits = True
                    for e in range(count):
                        if sign * (edges[e, 0] * x + edges[e, 1] * y + edges[e, 2] * z) > SLACK:
                            fits = False
                            break
                    if fits:
                        rays[taken, 0], rays[taken, 1], rays[taken, 2] = sign * x, sign * y, sign * z
                        taken += 1
        if taken == 0:
            out[3, i] = 2.0
            continue
        x = y = z = 0.0
        for r in range(taken):
            x, y, z = x + rays[r, 0], y + rays[r, 1], z + rays[r, 2]
        length = np.sqrt(x * x + y * y + z * z)
        least = 1.0
        if length > 1e-6:
            x, y, z = x / length, y / length, z / length
            for r in range(taken):
                least = min(least, rays[r, 0] * x + rays[r, 1] * y + rays[r, 2] * z)
        if length <= 1e-6 or least < 0.1:
            out[3, i] = ANYWHERE  # wider than a cap bounds well
            continue
        # A cap wider by the slack: cos(angle + SLACK) is at least this.
        out[0, i], out[1, i], out[2, i] = x, y, z
        out[3, i] = least - SLACK - SLACK * np.sqrt(max(0.0, 1.0 - least * least)) * 4.0
