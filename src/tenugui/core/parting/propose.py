"""Where a figure may be parted: narrow places that one limb hangs on, hidden rather than seen.

Layers of the figure across several directions are read as a graph of regions that touch; a region whose taking away
falls the graph apart (an articulation point; Hopcroft and Tarjan 1973) is a place where a limb hangs.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..layers import Components, cut, grid_for, solid_components
from ..mesh import Mesh, surface_samples
from .part import PartingError, Plane, joint_minutes, part
from .peg import Fit

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
I8 = NDArray[np.int64]
LAYERS = 140
"""Of the figure's diagonal, across each direction."""
LEAST_LIMB, MOST_LIMB = 0.015, 0.5
"""Shares of the figure that a limb has."""
NECK, LONG_LIMB, ALIKE = 0.5, 2.5, 0.97
"""A neck is at most this share of the widest on either side; or the limb so many times as long as the neck is wide.
What differs by less is as narrow.
"""
SAMPLES = 40_000
APART = 0.08
"""Of the diagonal: proposals of one limb nearer than this are one."""
TRIED, MOST, TOO_DEAR = 14, 8, 5.0
"""So many are tried and proposed, and none that is so many times as dear as the best."""
UNKNOWN = 0.5
"""How much a seam is looked at that no sample lies by."""


@dataclass(frozen=True)
class Proposed:
    """A plane; the limb's share of the figure; the joint's area and seam in mm² and mm as the layers have them, how
    much of the seam people look at (0 to 1), and the minutes that the joint takes.
    """

    plane: Plane
    share: float
    area: float
    seam: float
    seen: float
    minutes: float


def directions(mesh: Mesh, up: F8) -> F8:
    """(n, 3) along which a figure is looked through: its own up and the two beside it, its principal axes, and half way
    between the first ones.
    """
    side = np.cross(up, [0.0, 1.0, 0.0] if abs(up[1]) < 0.9 else [1.0, 0.0, 0.0])
    side /= np.linalg.norm(side)
    own = np.array([up, side, np.cross(up, side)])
    middle = mesh.corners().mean(axis=1)
    _, area = mesh.normals_and_areas()
    spread = (middle - np.average(middle, axis=0, weights=area)) * np.sqrt(area)[:, None]
    principal = np.linalg.svd(spread, full_matrices=False)[2]
    between = np.array([own[a] + sign * own[b] for a, b in ((0, 1), (0, 2), (1, 2)) for sign in (1, -1)]) / math.sqrt(2)
    kept: list[F8] = []
    for way in np.vstack([own, principal, between]):
        if all(abs(float(way @ other)) < 0.95 for other in kept):
            kept.append(way)
    return np.array(kept)


def propose_cuts(
    mesh: Mesh, up: F8, looked: F8, fit: Fit, spared: Sequence[tuple[F8, float]] = (), *, most: int = MOST
) -> list[Proposed]:
    """Places to part a figure at its size, the least work for the largest limb first. `looked` (faces,): how much
    people look at each face, 0 to 1; `fit`: how pegs are made; `spared`: faces (middle, radius) that no seam may cross.
    """
    found: list[Proposed] = []
    points, at = surface_samples(mesh, 1e-9, SAMPLES)
    for way in directions(mesh, np.asarray(up, float)):
        found += _across(mesh, way, points, looked[at], spared)
    found.sort(key=_dear)
    tried: list[Proposed] = []
    apart = APART * float(np.linalg.norm(mesh.size))
    for one in found:
        at = np.array(one.plane.point)
        if all(
            np.linalg.norm(at - other.plane.point) > apart or abs(math.log(one.share / other.share)) > 0.7
            for other in tried
        ) and (real := _parted(mesh, one, fit, spared)):
            tried.append(real)
        if len(tried) == TRIED:
            break
    tried.sort(key=_dear)
    return [one for one in tried[:most] if _dear(one) <= TOO_DEAR * _dear(tried[0])]


def _parted(mesh: Mesh, one: Proposed, fit: Fit, spared: Sequence[tuple[F8, float]]) -> Proposed | None:
    """The place as it comes out when it is cut: layers are coarse, and what nearly touches looks apart in them; None
    where the limb hangs elsewhere too.
    """
    try:
        joint = part(mesh, one.plane, fit, spared).joint
    except PartingError:
        return None
    minutes = joint_minutes(joint.seam, one.seen, pinned=joint.peg is None)
    return replace(one, area=joint.area, seam=joint.seam, minutes=minutes)


def _dear(one: Proposed) -> float:
    """Minutes beside what they part."""
    return one.minutes / math.sqrt(one.share)


def _across(mesh: Mesh, way: F8, samples: F8, looked: F8, spared: Sequence[tuple[F8, float]]) -> list[Proposed]:
    """Places in planes across one direction; samples (n, 3) of the surface and how much each is looked at (n,)."""
    turn = Plane((0.0, 0.0, 0.0), (float(way[0]), float(way[1]), float(way[2]))).frame()[:, :3]
    turned = mesh.vertices @ turn.T
    low = turned.min(axis=0)
    stood = Mesh(turned - [0.0, 0.0, low[2]], mesh.faces)
    pitch = max(float(np.linalg.norm(mesh.size)) / LAYERS, 0.05)
    parts = solid_components(cut(stood, grid_for(stood, pitch, pitch)))
    limbs = _limbs(parts, pitch)
    at_samples = samples @ turn.T - [0.0, 0.0, low[2]]
    order = np.argsort(at_samples[:, 2])
    heights = at_samples[order, 2]
    found = []
    for node, share, above in limbs:
        wide, deep = parts.width[node]
        seam = _ellipse(wide, deep)
        z = (parts.layer[node] + 0.5) * pitch
        near = order[np.searchsorted(heights, z - pitch) : np.searchsorted(heights, z + pitch)]
        reach = np.abs(at_samples[near, :2] - parts.centre[node]) <= np.array([wide, deep]) / 2 + pitch
        ring = near[reach.all(axis=1)]
        seen = float(looked[ring].mean()) if len(ring) else UNKNOWN
        at = turn.T @ np.array([*parts.inside[node], z + low[2]])
        if any(np.linalg.norm(at - m) < r + min(wide, deep) / 2 for m, r in spared):
            continue
        normal = way if above else -way
        plane = Plane(_three(at), _three(normal))
        minutes = joint_minutes(seam, seen, pinned=False)
        found.append(Proposed(plane, share, float(parts.area[node]), seam, seen, minutes))
    return found


def _three(v: F8) -> tuple[float, float, float]:
    return float(v[0]), float(v[1]), float(v[2])


def _ellipse(wide: float, deep: float) -> float:
    """Its circumference (Ramanujan 1914).

    >>> round(_ellipse(2.0, 2.0), 3)
    6.283
    """
    a, b = wide / 2, deep / 2
    return math.pi * (3 * (a + b) - math.sqrt((3 * a + b) * (a + 3 * b)))


@dataclass(frozen=True)
class _Tree:
    """Regions in the order of a depth-first search of those that touch: `order` (n,), each one's `parent` in it, `low`
    the earliest region that what hangs on it touches, and how many hang on it (`size`); all by the order.
    """

    order: I8
    parent: I8
    low: I8
    size: I8


def _tree(links: I4, many: int) -> _Tree:
    start, other = _neighbours(links, many)
    seen, order = np.full(many, -1), np.zeros(many, np.int64)
    parent, low, size = np.full(many, -1), np.zeros(many, np.int64), np.ones(many, np.int64)
    tick = 0
    for root in range(many):
        if seen[root] >= 0:
            continue
        stack = [(root, -1)]
        while stack:
            node, at = stack[-1]
            if at < 0:
                seen[node] = low[tick] = tick
                order[tick] = node
                tick += 1
                at = int(start[node])
            here = seen[node]
            while at < start[node + 1] and seen[other[at]] >= 0:
                if seen[other[at]] != parent[here]:
                    low[here] = min(low[here], seen[other[at]])
                at += 1
            if at < start[node + 1]:
                stack[-1] = (node, at + 1)
                parent[tick] = here
                stack.append((int(other[at]), -1))
                continue
            stack.pop()
            if parent[here] >= 0:
                low[parent[here]] = min(low[parent[here]], low[here])
                size[parent[here]] += size[here]
    return _Tree(order, parent, low, size)


def _limbs(parts: Components, pitch: float) -> list[tuple[int, float, bool]]:
    """(region, the limb's share of the figure, whether the limb lies above it): regions that a limb hangs on by less
    than half of what is beyond them, where nothing beside them is narrower.
    """
    many = len(parts.layer)
    tree = _tree(parts.links, many)
    area, layer = parts.area[tree.order], parts.layer[tree.order]
    sums = np.concatenate([[0.0], np.cumsum(area)])
    before, after = np.maximum.accumulate(area), np.maximum.accumulate(area[::-1])[::-1]
    limbs = []
    for k in range(many):
        parent, end = int(tree.parent[k]), k + int(tree.size[k])
        if parent < 0 or tree.low[k] < parent:
            continue
        # What hangs on the region `parent` by the region k, and all else.
        inside = slice(k, end)
        within, without = float(area[inside].max()), float(max(before[k - 1], after[end] if end < many else 0.0))
        share, above = (sums[end] - sums[k]) / sums[-1], bool(layer[k] > layer[parent])
        neck = float(area[parent])
        tall = float(np.ptp(layer[inside]) + 1) * pitch
        if share > MOST_LIMB:
            share, above, within, without = 1 - share, not above, without, within
            tall = float(np.ptp(np.concatenate([layer[:k], layer[end:]])) + 1) * pitch
        long = tall >= LONG_LIMB * math.sqrt(neck)
        if not (LEAST_LIMB <= share <= MOST_LIMB and neck <= NECK * without and (neck <= NECK * within or long)):
            continue
        if _narrow(parts, int(tree.order[parent])):
            limbs.append((int(tree.order[parent]), share, above))
    return limbs


def _narrow(parts: Components, node: int) -> bool:
    """Whether it goes on to one region above and one below, and neither is narrower."""
    upper = parts.links[np.searchsorted(parts.links[:, 0], node) : np.searchsorted(parts.links[:, 0], node, "right"), 1]
    lower = parts.links[parts.links[:, 1] == node, 0]
    beside = np.concatenate([upper, lower])
    return len(upper) == 1 == len(lower) and bool((parts.area[beside] >= ALIKE * parts.area[node]).all())


def _neighbours(links: I4, many: int) -> tuple[I8, I8]:
    """Regions that touch each region: those of region k are other[start[k] : start[k + 1]]."""
    both = np.concatenate([links, links[:, ::-1]]).astype(np.int64)
    both = both[np.argsort(both[:, 0], kind="stable")]
    return np.searchsorted(both[:, 0], np.arange(many + 1)), np.ascontiguousarray(both[:, 1])
