"""The nearest point of a surface, exactly: a tree of boxes over faces in the order of a space-filling curve.

The curve (Morton 1966) makes the tree implicit: node k has the children 2k and 2k + 1, and nothing is split or
balanced. Each answer bounds the search for the next point, which is near it where points come in the order of a mesh.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..compiled import both_cores, njit, stretches
from .distance import nearest_on
from .mesh import Mesh

F8 = NDArray[np.float64]
F4 = NDArray[np.float32]
I8 = NDArray[np.int64]
B1 = NDArray[np.bool_]
LEAF = 4
"""Faces in a box of the lowest level."""
BITS = 20
"""Of each coordinate in a face's place on the curve."""
DEEPEST = 64
STEP_MM = 0.1
"""What is asked along a rod is asked at least so often where it runs close; it may come nearer by half of this between.
"""


class Tree(NamedTuple):
    """Boxes (2 x leaves, 3) over the corners (3 x faces, 3) of faces in their order, as compiled loops take them."""

    corners: F8
    faces: int
    leaves: int
    low: F8
    high: F8


@njit()
def _spread(v: np.uint64) -> np.uint64:
    """The lowest BITS of v with two zeros between each."""
    v &= np.uint64(0x1FFFFF)
    v = (v | v << np.uint64(32)) & np.uint64(0x1F00000000FFFF)
    v = (v | v << np.uint64(16)) & np.uint64(0x1F0000FF0000FF)
    v = (v | v << np.uint64(8)) & np.uint64(0x100F00F00F00F00F)
    v = (v | v << np.uint64(4)) & np.uint64(0x10C30C30C30C30C3)
    return (v | v << np.uint64(2)) & np.uint64(0x1249249249249249)


@njit()
def _along(middles: F8, lower: F8, scale: float, out: NDArray[np.uint64]) -> None:
    """Each point's place on the curve."""
    for i in range(len(middles)):
        code = np.uint64(0)
        for k in range(3):
            code |= _spread(np.uint64((middles[i, k] - lower[k]) * scale)) << np.uint64(k)
        out[i] = code


@njit()
def _boxes(corners: F8, faces: int, leaves: int, low: F8, high: F8) -> None:
    """The boxes (2 x leaves, 3) of all nodes, from the leaves up; an empty leaf is nowhere."""
    for leaf in range(leaves):
        node = leaves + leaf
        for k in range(3):
            low[node, k], high[node, k] = np.inf, -np.inf
        for c in range(3 * LEAF * leaf, 3 * min(LEAF * (leaf + 1), faces)):
            for k in range(3):
                low[node, k] = min(low[node, k], corners[c, k])
                high[node, k] = max(high[node, k], corners[c, k])
    for node in range(leaves - 1, 0, -1):
        for k in range(3):
            low[node, k] = min(low[2 * node, k], low[2 * node + 1, k])
            high[node, k] = max(high[2 * node, k], high[2 * node + 1, k])


@njit()
def _away(x: float, y: float, z: float, low: F8, high: F8, node: int) -> float:
    """Squared distance of a point from a node's box."""
    u = max(low[node, 0] - x, x - high[node, 0], 0.0)
    v = max(low[node, 1] - y, y - high[node, 1], 0.0)
    w = max(low[node, 2] - z, z - high[node, 2], 0.0)
    return u * u + v * v + w * w


@njit()
def _search(points: F8, tree: Tree, first: int, last: int, out: F8, far: F8, on: I8) -> None:
    corners, faces, leaves, low, high = tree
    nodes, aways = np.empty(DEEPEST, np.int64), np.empty(DEEPEST)
    before = 0
    for i in range(first, last):
        px, py, pz = points[i, 0], points[i, 1], points[i, 2]
        x, y, z = nearest_on(px, py, pz, corners, 3 * before, 3 * before + 1, 3 * before + 2)
        best = (px - x) ** 2 + (py - y) ** 2 + (pz - z) ** 2
        nodes[0], aways[0] = 1, _away(px, py, pz, low, high, 1)
        top = 1
        while top:
            top -= 1
            node = nodes[top]
            if aways[top] >= best:
                continue
            if node >= leaves:
                for f in range(LEAF * (node - leaves), min(LEAF * (node - leaves + 1), faces)):
                    u, v, w = nearest_on(px, py, pz, corners, 3 * f, 3 * f + 1, 3 * f + 2)
                    d = (px - u) ** 2 + (py - v) ** 2 + (pz - w) ** 2
                    if d < best:
                        best, x, y, z, before = d, u, v, w, f
                continue
            one, other = 2 * node, 2 * node + 1
            a, b = _away(px, py, pz, low, high, one), _away(px, py, pz, low, high, other)
            if a < b:  # the nearer one is looked into first
                one, other, a, b = other, one, b, a
            if a < best:
                nodes[top], aways[top] = one, a
                top += 1
            if b < best:
                nodes[top], aways[top] = other, b
                top += 1
        out[i, 0], out[i, 1], out[i, 2] = x, y, z
        far[i], on[i] = np.sqrt(best), before


MOST_ROOM_MM = 2.5
"""Nothing farther off is told apart in a table."""
BLOCK = 4
SHARE = 0.8
"""What is farther off than is asked exactly is told to this share."""
LOOKS_MM = 3.0
"""Along a rod nothing farther off than this is looked for: short steps through small boxes are quicker than long ones
through large ones.
"""


@njit()
def _room(
    px: float,
    py: float,
    pz: float,
    tree: Tree,
    near: float,
    exact: float,
    most: float,
) -> float:
    """Distance of the surface from a point between `near` and `exact`, `most` where it is farther than that; nearer
    than `near` any such distance, beyond `exact` a bound that is no less than SHARE of it.
    """
    corners, faces, leaves, low, high = tree
    nodes, aways = np.empty(DEEPEST, np.int64), np.empty(DEEPEST)
    best, enough = most * most, near * near if near > 0 else -1.0
    bound = max(min(best, exact * exact), best * SHARE * SHARE)
    nodes[0], aways[0] = 1, _away(px, py, pz, low, high, 1)
    top = 1
    while top:
        top -= 1
        node = nodes[top]
        if aways[top] >= bound:
            continue
        if node >= leaves:
            for f in range(LEAF * (node - leaves), min(LEAF * (node - leaves + 1), faces)):
                u, v, w = nearest_on(px, py, pz, corners, 3 * f, 3 * f + 1, 3 * f + 2)
                best = min(best, (px - u) ** 2 + (py - v) ** 2 + (pz - w) ** 2)
            if best < enough:
                return np.sqrt(best)
            bound = max(min(best, exact * exact), best * SHARE * SHARE)
            continue
        one, other = 2 * node, 2 * node + 1
        a, b = _away(px, py, pz, low, high, one), _away(px, py, pz, low, high, other)
        if a < b:  # the nearer one is looked into first
            one, other, a, b = other, one, b, a
        if a < bound:
            nodes[top], aways[top] = one, a
            top += 1
        if b < bound:
            nodes[top], aways[top] = other, b
            top += 1
    return np.sqrt(bound)


@njit()
def rod_keeps_off(
    ax: float,
    ay: float,
    az: float,
    bx: float,
    by: float,
    bz: float,
    first: float,
    last: float,
    tree: Tree,
) -> bool:
    """Whether a rod from a to b, `first` thick there and `last` here, keeps off: it is walked in steps that its
    distance allows (sphere tracing, cf. Hart 1996).
    """
    x, y, z = bx - ax, by - ay, bz - az
    length = np.sqrt(x * x + y * y + z * z)
    begins = first if length > 1e-6 else max(first, last)
    grows = (last - first) / length if length > 1e-6 else 0.0
    along = 0.0
    while True:
        share = along / length if length > 0 else 0.0
        here = begins + grows * along
        px, py, pz = ax + share * x, ay + share * y, az + share * z
        room = _room(px, py, pz, tree, here, np.inf, here + LOOKS_MM) - here
        if room < 0:
            return False
        if along >= length:
            return True
        along = min(length, along + max(room / (1 + abs(grows)), STEP_MM))


@njit()
def _keeps_off(start: F8, end: F8, thick: F8, tree: Tree, gap: float, ways: B1) -> None:
    for i in range(len(start)):
        a, b = start[i], end[i]
        ways[i] = rod_keeps_off(a[0], a[1], a[2], b[0], b[1], b[2], thick[i, 0] + gap, thick[i, 1] + gap, tree)


@njit()
def _rooms(points: F8, tree: Tree, most: float, first: int, last: int, far: F8) -> None:
    for i in range(first, last):
        far[i] = _room(points[i, 0], points[i, 1], points[i, 2], tree, 0.0, np.inf, most)


@njit()
def _table(
    room: F4,
    known: B1,
    origin: F8,
    step: F8,
    tree: Tree,
    near: float,
    exact: float,
    first: int,
    last: int,
) -> None:
    """The rooms of the cells (z, y, x) of some levels that are not `known`: asked for only where those beside do not
    tell that they are `exact` or more.
    """
    _, rows, columns = room.shape
    for k in range(first, last):
        for j in range(rows):
            for i in range(columns):
                if known[k, j, i]:
                    continue
                least = 0.0
                if i > 0:
                    least = max(least, room[k, j, i - 1] - step[0])
                if i + 1 < columns and known[k, j, i + 1]:
                    least = max(least, room[k, j, i + 1] - step[0])
                if j > 0:
                    least = max(least, room[k, j - 1, i] - step[1])
                if k > first:
                    least = max(least, room[k - 1, j, i] - step[2])
                if least < exact:
                    x, y, z = origin[0] + i * step[0], origin[1] + j * step[1], origin[2] + k * step[2]
                    least = _room(x, y, z, tree, near, exact, MOST_ROOM_MM)
                room[k, j, i] = least


class Nearest:
    """A mesh with at least one face, prepared to be asked for its nearest points. O(faces log faces)."""

    def __init__(self, mesh: Mesh) -> None:
        middles = mesh.middles()
        lower = middles.min(axis=0)
        wide = max(float((middles.max(axis=0) - lower).max()), 1e-9)
        place = np.empty(len(middles), np.uint64)
        _along(middles, lower, (2**BITS - 1) / wide, place)
        order = np.argsort(place, kind="stable")
        corners = np.ascontiguousarray(mesh.vertices[mesh.faces[order]].reshape(-1, 3))
        faces = len(order)
        leaves = 1 << max(0, int(np.ceil(np.log2(-(-len(order) // LEAF)))))
        low, high = np.empty((2 * leaves, 3)), np.empty((2 * leaves, 3))
        _boxes(corners, faces, leaves, low, high)
        self.tree = Tree(corners, faces, leaves, low, high)
        """What compiled loops are given."""
        self.order: I8 = order
        """The mesh's number of each of the tree's faces."""

    def of(self, points: F8) -> tuple[F8, F8]:
        """The nearest point (n, 3) of the surface to each of points (n, 3), and its distance (n,) in mm."""
        out, far, _ = self._searched(points)
        return out, far

    def faces_at(self, points: F8) -> tuple[F8, I8]:
        """How far the surface is from each of points (n, 3), and the face (n,) on which it comes nearest."""
        _, far, on = self._searched(points)
        return far, np.asarray(self.order[on])

    def _searched(self, points: F8) -> tuple[F8, F8, I8]:
        given = np.ascontiguousarray(points, float).reshape(-1, 3)
        out, far, on = np.empty((len(given), 3)), np.empty(len(given)), np.empty(len(given), np.int64)
        if len(given):
            both_cores(lambda a, b: _search(given, self.tree, a, b, out, far, on), stretches(len(given)))
        return out, far, on

    def rooms(self, points: F8, most: float) -> F8:
        """How far the surface is from each of points (n, 3), mm; `most` where it is farther, which is told quickly."""
        given = np.ascontiguousarray(points, float).reshape(-1, 3)
        far = np.empty(len(given))
        both_cores(lambda a, b: _rooms(given, self.tree, most, a, b, far), stretches(len(given)) or [(0, 0)])
        return far

    def table(self, origin: F8, step: F8, shape: tuple[int, int, int], *, near: float, exact: float) -> F4:
        """How far the surface is at least from every point (z, y, x) of a grid that starts at `origin`, mm: just so far
        where it is between `near` and `exact`, MOST_ROOM_MM at most. Blocks of points that lie farther off are told by
        their middle.
        """
        axes = [origin[c] + step[c] * np.arange(n) for c, n in zip((2, 1, 0), shape, strict=True)]
        ends = [(v[::BLOCK], v[np.minimum(np.arange(BLOCK - 1, len(v) + BLOCK - 1, BLOCK), len(v) - 1)]) for v in axes]
        middles = [(a + b) / 2 for a, b in (end for end in ends)]
        half = float(np.linalg.norm([(BLOCK - 1) / 2 * s for s in step])) + MOST_ROOM_MM
        at = np.stack(
            np.meshgrid(*(m[: -(-n // BLOCK)] for m, n in zip(middles, shape, strict=True)), indexing="ij"), axis=-1
        )
        far = self.rooms(at.reshape(-1, 3)[:, ::-1], half).reshape(at.shape[:3]) >= half
        known = far.repeat(BLOCK, 0).repeat(BLOCK, 1).repeat(BLOCK, 2)[: shape[0], : shape[1], : shape[2]]
        known, room = np.ascontiguousarray(known), np.full(shape, MOST_ROOM_MM, np.float32)
        both_cores(lambda a, b: _table(room, known, origin, step, self.tree, near, exact, a, b), stretches(shape[0]))
        return room

    def keeps_off(self, starts: F8, ends: F8, radii: F8, gap: float) -> B1:
        """Whether round rods from starts to ends (n, 3), of the radii (n, 2) there, keep `gap` mm off the surface
        everywhere, to within half of STEP_MM.
        """
        a, b = (np.ascontiguousarray(p, float).reshape(-1, 3) for p in (starts, ends))
        off = np.empty(len(a), np.bool_)
        thick = np.ascontiguousarray(np.broadcast_to(np.asarray(radii, float), (len(a), 2)))
        _keeps_off(a, b, thick, self.tree, gap, off)
        return off


def nearest_of(mesh: Mesh) -> Nearest:
    """The mesh's tree, made on first use and kept with the mesh (whose arrays are never written to)."""
    nearest: Nearest | None = mesh.__dict__.get("_nearest")
    if nearest is None:
        nearest = Nearest(mesh)
        mesh.__dict__["_nearest"] = nearest
    return nearest
