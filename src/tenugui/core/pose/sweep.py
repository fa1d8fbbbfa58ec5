"""The compiled pass behind `weigh`: every aim of a direction from one walk over the faces.

What makes it fast: a direction and its opposite share one walk, with sections and steps; nothing is looked up by index
but the few faces that span sections and the few vertices whose cone holds the direction; 32-bit floats; no branch that
the processor cannot foresee; a tile of faces stays in the cache while several axes walk over it.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import loose

F4 = NDArray[np.float32]
F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
I8 = NDArray[np.int64]
U4 = NDArray[np.uint32]

SECTIONS = 96
PERSISTENCE_MM = 0.4
"""Prior: a downward point less deep than this is relief, not a start in mid air."""
CUP_MM = 1.0
"""Prior: a hollow less deep than this holds no liquid to speak of."""
CONTACT_MM = 0.15
"""Prior: what lies within this of the lowest point touches the plate."""
TILE = 4096
TOGETHER = 8
"""Axes that walk over a tile one after the other."""


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


MOST_BLUR = 2.0
"""Prior: what looks down comes out softer, also on a face: it is worth no more than so many times what a plain surface
is, however dear a scar would be there.
"""


@loose()
def _levels(plane: F4, f0: int, f1: int, d: F4, base: float, top: float, n: F4, middle: F4) -> None:
    """How far each face of the tile looks down, and how high its middle lies."""
    nx, ny, nz = plane[0, f0:f1], plane[1, f0:f1], plane[2, f0:f1]
    mx, my, mz = plane[5, f0:f1], plane[6, f0:f1], plane[7, f0:f1]
    d0, d1, d2, zero = d[0], d[1], d[2], np.float32(0.0)
    for f in range(f1 - f0):
        n[f] = nx[f] * d0 + ny[f] * d1 + nz[f] * d2
        middle[f] = min(max(-(mx[f] * d0 + my[f] * d1 + mz[f] * d2) - base, zero), top)


@loose()
def _sums(plane: F4, f0: int, f1: int, top: float, limit: F4, n: F4, middle: F4, sums: F8) -> None:
    """Add a tile to support, scar, volume, blur and shown scars of both ends, and to the steps they share.

    `limit`: sine of the limit angle, height that counts as contact, upper share of a slope.
    """
    area, cost = plane[3, f0:f1], plane[4, f0:f1]
    sine, contact, sloped = limit[0], limit[1], limit[2]
    one, zero = np.float32(1.0), np.float32(0.0)
    support = scar = volume = steps = support2 = scar2 = volume2 = zero
    blur = shown = blur2 = shown2 = zero
    shows, blurs = np.float32(1.5), np.float32(MOST_BLUR)
    for f in range(f1 - f0):
        m = n[f]
        lean = abs(m)
        down = one if (m > sine) & (middle[f] > contact) else zero
        up = one if (m < -sine) & (top - middle[f] > contact) else zero
        support += down * area[f]
        scar += down * cost[f]
        volume += down * area[f] * m * middle[f]
        support2 += up * area[f]
        scar2 += up * cost[f]
        volume2 -= up * area[f] * m * (top - middle[f])
        steps += cost[f] * lean if lean < sloped else zero
        excess = min(max(cost[f] - area[f], zero), blurs * area[f])
        looks = area[f] if cost[f] > shows * area[f] else zero
        blur += excess * max(m, zero)
        blur2 += excess * max(-m, zero)
        shown += down * looks
        shown2 += up * looks
    sums[0] += support
    sums[1] += scar
    sums[2] += volume
    sums[3] += support2
    sums[4] += scar2
    sums[5] += volume2
    sums[6] += steps
    sums[7] += blur
    sums[8] += shown
    sums[9] += blur2
    sums[10] += shown2


@loose()
def _on_plate(plane: F4, f0: int, f1: int, top: float, limit: F4, n: F4, middle: F4, sums: F8) -> None:
    """Add to the scars of both ends what lies on the plate.

    It needs no support, yet what is marked is scarred there too: by as much as its weight exceeds an unmarked face's.
    """
    area, cost = plane[3, f0:f1], plane[4, f0:f1]
    sine, contact, zero = limit[0], limit[1], np.float32(0.0)
    scar = scar2 = zero
    for f in range(f1 - f0):
        excess = max(cost[f] - area[f], zero)
        scar += excess if (n[f] > sine) & (middle[f] <= contact) else zero
        scar2 += excess if (n[f] < -sine) & (top - middle[f] <= contact) else zero
    sums[1] += scar
    sums[4] += scar2


@loose()
def _sections(
    v: F4, faces: U4, plane: F4, f0: int, f1: int, d: F4, base: float, top: float, n: F4, middle: F4, section: F8
) -> None:
    """Add a tile's flux to the sections (4, SECTIONS).

    The flux of the upward unit vector through the faces above a cut equals the cut's area (divergence theorem). A face
    smaller than a section gives its flux whole to the section of its middle: over many faces that evens out. Four sets
    of sections in turn, so that neighbours in the list need not wait for each other.
    """
    area, reach = plane[3, f0:f1], plane[8, f0:f1]
    one = top / np.float32(SECTIONS)
    inverse, last = np.float32(1.0) / one, np.float32(SECTIONS - 1)
    for f in range(f1 - f0):
        if reach[f] < one:
            section[f & 3, np.uint32(min(middle[f] * inverse, last))] -= n[f] * area[f]
        else:
            _spread(f0 + f, v, faces, d, base, top, one, -n[f] * area[f], section[0])


@loose()
def _spread(f: int, v: F4, faces: U4, d: F4, base: float, top: float, width: float, flux: float, section: F8) -> None:
    """A face's flux over the sections it spans, by the share of its area above each cut."""
    a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
    p = min(max(-(v[a, 0] * d[0] + v[a, 1] * d[1] + v[a, 2] * d[2]) - base, 0.0), top)
    q = min(max(-(v[b, 0] * d[0] + v[b, 1] * d[1] + v[b, 2] * d[2]) - base, 0.0), top)
    r = min(max(-(v[c, 0] * d[0] + v[c, 1] * d[1] + v[c, 2] * d[2]) - base, 0.0), top)
    x, z = min(p, q, r), max(p, q, r)
    y = p + q + r - x - z
    s0, s1 = min(int(x / width), SECTIONS - 1), min(int(z / width), SECTIONS - 1)
    before = 1.0
    for s in range(s0, s1):
        after = _share_above((s + 1) * width, x, y, z)
        section[s] += flux * (before - after)
        before = after
    section[s1] += flux * before


@loose()
def _candidates(cone: F4, d0: float, d1: float, d2: float, out: I4) -> int:
    """Vertices whose cone of directions (axis and cosine) holds d: all that can be lowest among their neighbours, and
    few more.
    """
    x, y, z, least = cone[0], cone[1], cone[2], cone[3]
    count = 0
    for i in range(len(x)):
        out[count] = i
        count += int(x[i] * d0 + y[i] * d1 + z[i] * d2 >= least[i])
    return count


@loose()
def _heights(v: F4, d: F4, level: F4) -> None:
    """Height of every vertex."""
    d0, d1, d2 = d[0], d[1], d[2]
    for i in range(len(v)):
        level[i] = -(v[i, 0] * d0 + v[i, 1] * d1 + v[i, 2] * d2)


@loose()
def _is_deep(level: F4, sign: float, i: int, depth: float, start: I8, near: I4, queue: I4, held: F4) -> bool:
    """Whether a flood from vertex i that rises no more than `depth` finds no lower ground. What it has reached is
    lifted out of the way, and put back.
    """
    h = sign * level[i]
    away = sign * np.float32(np.inf)
    queue[0], held[0] = i, level[i]
    level[i] = away
    head, tail = 0, 1
    deep = True
    while head < tail and deep:
        a = queue[head]
        head += 1
        for q in range(start[a], start[a + 1]):
            j = near[q]
            g = sign * level[j]
            if g < h or (g == h and j < i):
                deep = False
                break
            if g <= h + depth:
                queue[tail], held[tail] = j, level[j]
                level[j] = away
                tail += 1
    for k in range(tail):
        level[queue[k]] = held[k]
    return deep


@loose()
def _persisting(
    level: F4,
    out: I4,
    start: I8,
    near: I4,
    vertex_normal: F4,
    x: float,
    y: float,
    z: float,
    sign: float,
    base: float,
    queue: I4,
    held: F4,
) -> tuple[int, int]:
    """Downward local minima above the plate that persist; hollows that open upwards and are deep enough to hold
    liquid.
    """
    minima = cups = 0
    for i in out:
        if start[i] == start[i + 1]:
            continue
        if vertex_normal[i, 0] * x + vertex_normal[i, 1] * y + vertex_normal[i, 2] * z <= 0:
            cups += _is_deep(level, sign, i, np.float32(CUP_MM), start, near, queue, held)
        elif sign * level[i] - base >= CONTACT_MM:
            minima += _is_deep(level, sign, i, np.float32(PERSISTENCE_MM), start, near, queue, held)
    return minima, cups


@loose()
def sweep(
    v: F4,
    faces: U4,
    plane: F4,
    cone: F4,
    vertex_normal: F4,
    start: I8,
    near: I4,
    hull: F4,
    axes: F4,
    limit: F4,
    first: int,
    last: int,
    out: F8,
) -> None:
    """Aims of both ends of axes [first, last) into `out` (2, axes, aims): support, scar, volume, height, minima, peak
    section, step sum, cups, blur, shown scars, section a SECTIONS-th of the height above the plate.

    `plane` rows: unit normal, area, area times weight, middle, reach (largest distance of a corner from the middle).
    """
    marked = (plane[4] > plane[3] * np.float32(1.001)).any()
    sums, section = np.empty((TOGETHER, 11)), np.empty((TOGETHER, 4, SECTIONS))
    lowest, tall = np.empty(TOGETHER), np.empty(TOGETHER)
    level, held = np.empty(len(v), np.float32), np.empty(len(v), np.float32)
    queue, bottoms = np.empty(len(v), np.int32), np.empty(len(v) + 1, np.int32)
    n, middle = np.empty(TILE, np.float32), np.empty(TILE, np.float32)
    for block in range(first, last, TOGETHER):
        size = min(TOGETHER, last - block)
        sums[:] = 0
        section[:] = 0
        for q in range(size):
            d = axes[block + q]
            low, high = np.inf, -np.inf
            for i in range(len(hull)):
                h = -(hull[i, 0] * d[0] + hull[i, 1] * d[1] + hull[i, 2] * d[2])
                low, high = min(low, h), max(high, h)
            lowest[q] = low
            tall[q] = max(high - low, 1e-9)
        for f0 in range(0, len(faces), TILE):
            f1 = min(f0 + TILE, len(faces))
            for q in range(size):
                d, base, top = axes[block + q], np.float32(lowest[q]), np.float32(tall[q])
                _levels(plane, f0, f1, d, base, top, n, middle)
                _sums(plane, f0, f1, top, limit, n, middle, sums[q])
                if marked:
                    _on_plate(plane, f0, f1, top, limit, n, middle, sums[q])
                _sections(v, faces, plane, f0, f1, d, base, top, n, middle, section[q])
        for q in range(size):
            peak = running = low_area = high_area = 0.0
            for s in range(SECTIONS - 1, -1, -1):
                peak = max(peak, abs(running))
                if s == 0:
                    low_area = abs(running)
                running += section[q, 0, s] + section[q, 1, s] + section[q, 2, s] + section[q, 3, s]
                if s == SECTIONS - 1:
                    high_area = abs(running)
            d = axes[block + q]
            _heights(v, d, level)
            for end in range(2):
                sign = np.float32(1 - 2 * end)
                x, y, z = sign * d[0], sign * d[1], sign * d[2]
                ground = lowest[q] if end == 0 else -lowest[q] - tall[q]
                count = _candidates(cone, x, y, z, bottoms)
                minima, cups = _persisting(
                    level, bottoms[:count], start, near, vertex_normal, x, y, z, sign, ground, queue, held
                )
                o = out[end, block + q]
                o[0], o[1], o[2] = sums[q, 3 * end], sums[q, 3 * end + 1], sums[q, 3 * end + 2]
                o[3], o[4], o[5], o[6], o[7] = tall[q], minima, peak, sums[q, 6], cups
                o[8], o[9] = sums[q, 7 + 2 * end], sums[q, 8 + 2 * end]
                o[10] = low_area if end == 0 else high_area


@loose()
def feet(hull: F8, centre: F8, downs: F8, out: F8) -> None:
    """For each direction the area of the hull of what touches the plate, and how far the centre of mass lies outside it
    (n, 2).

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
        if (points[b, 0] - points[a, 0]) * (points[i, 1] - points[a, 1]) > (points[b, 1] - points[a, 1]) * (
            points[i, 0] - points[a, 0]
        ):
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
