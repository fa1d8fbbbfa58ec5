"""Trees: supports that meet on their way down and go on as one trunk.

Greedy and from the top (cf. Vanek, Galicia, Benes 2014, Clever Support): the highest node looks for the partner whose
meeting point saves most length of pillar; both lean there at no more than 45°, where rays find the way free. A trunk is
thicker than what it carries by the sum of cubes (prior: stiffness grows faster than section, tips need little of
either).
"""

from __future__ import annotations

import heapq
from dataclasses import dataclass
from itertools import count

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from .around import Around
from .heads import CLEARANCE_MM, HEADS, first_heads, free_down
from .route import Route, bent, free_way, short_or_on_model, slim

F8 = NDArray[np.float64]
REACH_MM = 22.0
"""Prior: how long the two ways to a meeting point may be together, lest they sway."""
LOWEST_MM = 1.5
"""Prior: how high above the foot a meeting must be to be worth its joint."""
WIDEST_MM = 2.0
"""Prior: radius beyond which a trunk grows no thicker."""
PARTNERS = 5


@dataclass(frozen=True)
class Node:
    """An end that still hangs in the air: where, how thick, for how many tips, whose chain goes on from here, and
    whether straight down is free.
    """

    at: F8
    radius: float
    leaves: int
    heir: int
    free: bool


@njit()
def _meet(p: F8, q: F8, m: F8) -> None:
    u, v = q[0] - p[0], q[1] - p[1]
    away = np.sqrt(u * u + v * v)
    if p[2] - q[2] >= away:
        m[:] = q
        return
    z = (p[2] + q[2] - away) / 2
    m[0], m[1], m[2] = p[0] + u / away * (p[2] - z), p[1] + v / away * (p[2] - z), z


def meeting_point(p: F8, q: F8) -> F8:
    """Highest point that both reach sinking at 45° or steeper; `q` itself where it lies in the cone under `p`.

    >>> meeting_point(np.array([0.0, 0, 10]), np.array([4.0, 0, 10])).tolist()
    [2.0, 0.0, 8.0]
    """
    m = np.empty(3)
    _meet(np.asarray(p, float), np.asarray(q, float), m)
    return m


@njit()
def _saved(p: F8, at: F8, floor: float, saved: F8, ways: F8, m: F8) -> None:
    """For each of `at` (n, 3): length of pillar that meeting `p` saves, length of both ways there, and the place (n,
    3).
    """
    for i in range(len(at)):
        q = at[i]
        _meet(p, q, m[i])
        there, back = 0.0, 0.0
        for k in range(3):
            there += (p[k] - m[i, k]) ** 2
            back += (q[k] - m[i, k]) ** 2
        ways[i] = np.sqrt(there) + np.sqrt(back)
        saved[i] = p[2] + q[2] - m[i, 2] - floor - ways[i]


def grow(rays: Around, tips: F8, radii: F8, floor: float) -> list[Route]:
    """Route every tip (n, 3) through trees; pillars of a single tip have the given radii (n,), feet stand at height
    `floor`.
    """
    chains: dict[int, list[F8]] = {}
    widths: dict[int, list[float]] = {}
    done: dict[int, Route] = {}
    heap: list[tuple[float, int]] = []
    nodes: dict[int, Node] = {}
    names = count()

    def hang(node: Node) -> None:
        chains[node.heir].append(node.at)
        widths[node.heir].append(node.radius)
        key = next(names)
        nodes[key] = node
        heapq.heappush(heap, (-float(node.at[2]), key))

    grounded, hanging = first_heads(rays, tips, radii + CLEARANCE_MM, floor)
    for i, tip in enumerate(tips):
        chains[i], widths[i] = [tip], []
        head = int(grounded[i] if grounded[i] >= 0 else hanging[i])
        if head < 0:
            done[i] = slim(rays, tip, float(radii[i]) + CLEARANCE_MM, floor) or short_or_on_model(rays, tip, floor)
        else:
            hang(Node(tip + HEADS[head], float(radii[i]), 1, i, bool(grounded[i] >= 0)))
    while heap:
        _, key = heapq.heappop(heap)
        if key not in nodes:
            continue
        node = nodes.pop(key)
        partner = _partner(rays, node, nodes, floor)
        if partner is not None:
            other_key, m, radius = partner
            other = nodes.pop(other_key)
            heir, ends = (node, other) if node.leaves >= other.leaves else (other, node)
            done[ends.heir] = _closed([*chains[ends.heir], m], [*widths[ends.heir], ends.radius], branch=True)
            hang(Node(m, radius, node.leaves + other.leaves, heir.heir, True))
        elif node.free:
            foot = np.array([node.at[0], node.at[1], floor])
            done[node.heir] = _closed([*chains[node.heir], foot], [*widths[node.heir], node.radius])
        else:
            tip, wide = tips[node.heir], float(radii[node.heir]) + CLEARANCE_MM
            done[node.heir] = (
                bent(rays, tip, wide, floor) or slim(rays, tip, wide, floor) or short_or_on_model(rays, tip, floor)
            )
    return [done[i] for i in range(len(tips))]


def _closed(chain: list[F8], widths: list[float], branch: bool = False) -> Route:
    """A chain from tip to foot, turned about; joints that coincide are dropped."""
    joints, radii = [chain[0]], [0.0]
    for point, radius in zip(chain[1:], widths, strict=True):
        if np.linalg.norm(point - joints[-1]) < 1e-6:
            radii[-1] = radius
        else:
            joints.append(point)
            radii.append(radius)
    return Route(np.array(joints[::-1]), "plate", branch, np.array(radii[:0:-1]))


def _partner(rays: Around, node: Node, nodes: dict[int, Node], floor: float) -> tuple[int, F8, float] | None:
    """The node to meet, where, and the radius of the trunk from there."""
    keys = list(nodes)
    if not keys:
        return None
    at = np.array([nodes[k].at for k in keys])
    saved, ways, meets = np.empty(len(at)), np.empty(len(at)), np.empty((len(at), 3))
    _saved(node.at, at, floor, saved, ways, meets)
    # A node above a shut way pays any price that the reach allows.
    offered = np.flatnonzero((ways <= REACH_MM) & (meets[:, 2] >= floor + LOWEST_MM) & ((saved > 0) | (not node.free)))
    for i in offered[np.argsort(-saved[offered], kind="stable")][:PARTNERS]:
        key, m = keys[i], meets[i]
        other = nodes[key]
        radius = min(float(np.cbrt(node.radius**3 + other.radius**3)), max(WIDEST_MM, node.radius, other.radius))
        wide = radius + CLEARANCE_MM
        if (
            free_down(rays, m[None], wide, floor)[0]
            and free_way(rays, node.at, m, node.radius + CLEARANCE_MM)
            and free_way(rays, other.at, m, other.radius + CLEARANCE_MM)
        ):
            return key, m, radius
    return None
