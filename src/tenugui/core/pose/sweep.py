"""The compiled pass behind `weigh`: every aim of a direction from one walk over the faces.

What makes it fast: 32-bit floats; no branch that the processor cannot foresee; a tile of faces stays in the cache while several
directions walk over it; and a vertex is found to be no minimum by the faces around it, in the same walk.
"""

from __future__ import annotations

from functools import partial

import numba
import numpy as np
from numpy.typing import NDArray

F4 = NDArray[np.float32]
F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
I8 = NDArray[np.int64]
U4 = NDArray[np.uint32]

SECTIONS = 96
PERSISTENCE_MM = 0.4
"""Prior: a downward point less deep than this is relief, not a start in mid air."""
CONTACT_MM = 0.15
"""Prior: what lies within this of the lowest point touches the plate."""
TILE = 4096
ALL_HIGHER = np.uint64(0x0101010101010101)
TOGETHER = 8
"""Directions that walk over a tile one after the other."""

# Sums may be reordered here: each stands for an area on a mesh, not for a bit pattern.
loose = partial(numba.njit, cache=True, nogil=True, error_model="numpy", fastmath={"contract", "reassoc", "nsz", "arcp"})


@loose()
def _share_above(h: float, x: float, y: float, z: float) -> float:
    """Share of a triangle with corner heights x <= y <= z that lies above h."""
    if h <= x:
        return 1.0
    if h >= z:
        return 0.0
    if h < y:
        return 1.0 - (h - x) * (h - x) / ((y - x) * (z - x))
    return (z - h) * (z - h) / ((z - y) * (z - x))


@loose()
def _spread(a: float, b: float, c: float, width: float, flux: float, s0: int, s1: int, section: F8) -> None:
    """A face's flux over the sections it spans, by the share of its area above each cut."""
    x, z = min(a, b, c), max(a, b, c)
    y = a + b + c - x - z
    before = 1.0
    for s in range(s0, s1):
        after = _share_above((s + 1) * width, x, y, z)
        section[s] += flux * (before - after)
        before = after
    section[s1] += flux * before


@loose()
def _tile(f0: int, f1: int, level: F4, faces: U4, plane: F4, d: F4, width: float, limit: F4, sums: F8, section: F8, higher: NDArray[np.uint8],
          n: F4, middle: F4, low: F4, high: F4) -> None:  # fmt: skip
    """Add faces [f0, f1) to a direction's sums (support, scar, volume, steps) and sections; mark vertices that have a lower neighbour.

    `plane` columns: unit normal, area, area times weight. `limit`: sine of the limit angle, height that counts as contact, upper share of
    a slope. The last four are room for a tile: apart from the gathering of levels, every loop runs on whole vectors.
    """
    count = f1 - f0
    nx, ny, nz, area, cost = plane[0, f0:f1], plane[1, f0:f1], plane[2, f0:f1], plane[3, f0:f1], plane[4, f0:f1]
    d0, d1, d2 = d[0], d[1], d[2]
    third = np.float32(1.0 / 3.0)
    for f in range(count):
        n[f] = nx[f] * d0 + ny[f] * d1 + nz[f] * d2
    for f in range(count):
        i, j, k = faces[f0 + f, 0], faces[f0 + f, 1], faces[f0 + f, 2]
        a, b, c = level[i], level[j], level[k]
        middle[f] = (a + b + c) * third
        # The lowest corner first; of equals the one that comes first in the mesh. The other two have a lower neighbour.
        turn = (b < a) | ((b == a) & (j < i))
        a, b = (b if turn else a), (a if turn else b)
        i, j = (j if turn else i), (i if turn else j)
        turn = (c < a) | ((c == a) & (k < i))
        a, c = (c if turn else a), (a if turn else c)
        k = i if turn else k
        higher[j] = 1
        higher[k] = 1
        low[f] = a
        high[f] = max(b, c)
    sine, contact, sloped = limit[0], limit[1], limit[2]
    support = scar = volume = steps = np.float32(0)
    for f in range(count):
        over = np.float32(1.0) if (n[f] > sine) & (middle[f] > contact) else np.float32(0.0)
        lean = abs(n[f])
        support += over * area[f]
        scar += over * cost[f]
        volume += over * area[f] * n[f] * middle[f]
        steps += cost[f] * lean if lean < sloped else np.float32(0.0)
    sums[0] += support
    sums[1] += scar
    sums[2] += volume
    sums[3] += steps
    # Flux of the upward unit vector through the faces above a cut equals the cut's area (divergence theorem).
    inverse, one, last = np.float32(1.0 / width), np.float32(width), np.float32(SECTIONS - 1)
    for f in range(count):
        if high[f] - low[f] < one:
            # Smaller than a section: its flux goes whole to the section of its middle; over many faces that evens out.
            section[np.uint32(min(middle[f] * inverse, last))] -= n[f] * area[f]
        else:
            s0, s1 = min(int(low[f] * inverse), SECTIONS - 1), min(int(high[f] * inverse), SECTIONS - 1)
            _spread(low[f], 3 * middle[f] - low[f] - high[f], high[f], width, -n[f] * area[f], s0, s1, section)


@loose()
def _persisting(
    level: F4, higher: NDArray[np.uint8], start: I8, near: I4, vertex_normal: F4, d: F4, stamp: I8, mark: int, queue: I4
) -> tuple[int, int]:
    """Downward local minima above the plate that persist, by a bounded flood from each: it reaches lower ground within the persistence or not."""
    count = 0
    found = 0
    words = higher.view(np.uint64)  # eight vertices at a glance: nearly all of them have a lower neighbour
    for w in range(len(words)):
        if words[w] != ALL_HIGHER:
            for i in range(8 * w, min(8 * w + 8, len(level))):
                if not higher[i]:
                    queue[found] = i
                    found += 1
    lowest = queue[:found].copy()
    for i in lowest:
        if higher[i] or level[i] < CONTACT_MM or start[i] == start[i + 1]:
            continue
        if vertex_normal[i, 0] * d[0] + vertex_normal[i, 1] * d[1] + vertex_normal[i, 2] * d[2] <= 0:
            continue  # the bottom of a hollow: solid below, not a start
        h = level[i]
        mark += 1
        stamp[i] = mark
        queue[0] = i
        head, tail = 0, 1
        persists = True
        while head < tail and persists:
            a = queue[head]
            head += 1
            for q in range(start[a], start[a + 1]):
                j = near[q]
                if stamp[j] == mark:
                    continue
                g = level[j]
                if g < h or (g == h and j < i):
                    persists = False
                    break
                if g <= h + PERSISTENCE_MM:
                    stamp[j] = mark
                    queue[tail] = j
                    tail += 1
        count += persists
    return count, mark


@loose()
def sweep(
    v: F4, faces: I4, plane: F4, vertex_normal: F4, start: I8, near: I4, hull: F4, downs: F4, limit: F4, first: int, last: int, out: F8
) -> None:
    """Aims of directions [first, last) into `out` rows: support, scar, volume, height, minima, peak section, step sum."""
    level = np.empty((TOGETHER, v.shape[1]), np.float32)
    higher = np.empty((TOGETHER, -(-v.shape[1] // 8) * 8), np.uint8)
    sums, section, top = np.empty((TOGETHER, 4)), np.empty((TOGETHER, SECTIONS)), np.empty(TOGETHER)
    stamp, queue = np.zeros(v.shape[1], np.int64), np.empty(v.shape[1], np.int32)
    n, middle, low, high = np.empty(TILE, np.float32), np.empty(TILE, np.float32), np.empty(TILE, np.float32), np.empty(TILE, np.float32)
    mark = 0
    for block in range(first, last, TOGETHER):
        size = min(TOGETHER, last - block)
        sums[:] = 0
        section[:] = 0
        higher[:] = 0
        for q in range(size):
            d = downs[block + q]
            lowest, highest = np.float32(np.inf), np.float32(-np.inf)
            for i in range(len(hull)):
                h = -(hull[i, 0] * d[0] + hull[i, 1] * d[1] + hull[i, 2] * d[2])
                lowest, highest = min(lowest, h), max(highest, h)
            top[q] = highest - lowest
            row = level[q]
            for i in range(v.shape[1]):
                row[i] = max(-(v[0, i] * d[0] + v[1, i] * d[1] + v[2, i] * d[2]) - lowest, np.float32(0.0))
        for f0 in range(0, len(faces), TILE):
            f1 = min(f0 + TILE, len(faces))
            for q in range(size):
                width = max(top[q], 1e-9) / SECTIONS
                _tile(f0, f1, level[q], faces, plane, downs[block + q], width, limit, sums[q], section[q], higher[q], n, middle, low, high)
        for q in range(size):
            peak = running = 0.0
            for s in range(SECTIONS - 1, -1, -1):
                peak = max(peak, abs(running))
                running += section[q, s]
            minima, mark = _persisting(level[q], higher[q], start, near, vertex_normal, downs[block + q], stamp, mark, queue)
            o = out[block + q]
            o[0], o[1], o[2], o[3], o[4], o[5], o[6] = sums[q, 0], sums[q, 1], sums[q, 2], top[q], minima, peak, sums[q, 3]


@loose()
def feet(hull: F8, centre: F8, downs: F8, out: F8) -> None:
    """For each direction the area of the hull of what touches the plate, and how far the centre of mass lies outside it (n, 2).

    The hull of the touching points by Andrew's monotone chain.
    """
    flat, chain = np.empty((len(hull), 2)), np.empty(2 * len(hull) + 2, np.int64)
    for d in range(len(downs)):
        down = downs[d]
        deepest = -np.inf
        for i in range(len(hull)):
            deepest = max(deepest, hull[i, 0] * down[0] + hull[i, 1] * down[1] + hull[i, 2] * down[2])
        # Two directions across `down` (Duff et al. 2017).
        sign = 1.0 if down[2] >= 0 else -1.0
        p = -1.0 / (sign + down[2])
        q = down[0] * down[1] * p
        ax, ay, az = 1.0 + sign * down[0] * down[0] * p, sign * q, -sign * down[0]
        bx, by, bz = q, sign + down[1] * down[1] * p, -down[1]
        count = 0
        for i in range(len(hull)):
            x, y, z = hull[i, 0], hull[i, 1], hull[i, 2]
            if x * down[0] + y * down[1] + z * down[2] > deepest - CONTACT_MM:
                flat[count, 0], flat[count, 1] = x * ax + y * ay + z * az, x * bx + y * by + z * bz
                count += 1
        cx, cy = centre[0] * ax + centre[1] * ay + centre[2] * az, centre[0] * bx + centre[1] * by + centre[2] * bz
        out[d, 0], out[d, 1] = _foot(flat[:count], cx, cy, chain)


@loose()
def _push(points: F8, chain: I8, k: int, floor: int, i: int) -> int:
    """Take off what would turn right, then put `i` on; never below `floor`."""
    while k >= floor:
        a, b = chain[k - 2], chain[k - 1]
        if (points[b, 0] - points[a, 0]) * (points[i, 1] - points[a, 1]) > (points[b, 1] - points[a, 1]) * (points[i, 0] - points[a, 0]):
            break
        k -= 1
    chain[k] = i
    return k + 1


@loose()
def _foot(points: F8, cx: float, cy: float, chain: I8) -> tuple[float, float]:
    order = np.argsort(points[:, 0] + 1e-9 * points[:, 1])
    k = 0
    for s in range(len(order)):
        k = _push(points, chain, k, 2, order[s])
    floor = k + 1
    for s in range(len(order) - 2, -1, -1):
        k = _push(points, chain, k, floor, order[s])
    area, outside = 0.0, 0.0
    for s in range(k - 1):
        a, b = points[chain[s]], points[chain[s + 1]]
        area += (a[0] * b[1] - a[1] * b[0]) / 2
    if area < 1e-9:
        nearest = np.inf
        for i in range(len(points)):
            nearest = min(nearest, np.hypot(points[i, 0] - cx, points[i, 1] - cy))
        return 0.0, nearest
    for s in range(k - 1):
        a, b = points[chain[s]], points[chain[s + 1]]
        length = np.hypot(b[0] - a[0], b[1] - a[1])
        if length > 1e-12:
            outside = max(outside, ((b[1] - a[1]) * (cx - a[0]) - (b[0] - a[0]) * (cy - a[1])) / length)
    return area, outside
