"""From a tip to a foot: a branch on a pillar that stands already, else straight down where the way is free, else a head
that leans out, else onto the figure.

Tips are routed from the highest down, so that lower ones find the pillars of higher ones to lean on (cf. Vanek,
Galicia, Benes 2014).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from ..mesh import FAR
from .around import Around
from .heads import CLEARANCE_MM, HEADS, PLAIN, SHORTEST_MM, first_heads, free_down, free_head
from .ways import Ways

F8 = NDArray[np.float64]
BRANCH_MM = 3.5
"""Prior: how far from its pillar a branch may reach."""
BRANCH_SLOPE = 1.0
"""Prior: run over rise of a branch, 45°."""
BRANCH_RISE_MM = 0.8
PILLARS_TRIED = 3


@dataclass(frozen=True)
class Route:
    """Joints from the foot (or the pillar that carries the branch) to the tip, (n, 3), and what it stands on: `plate`,
    `model`, or `none` where nothing works.

    `radii` (n - 1,) at all joints but the tip, where the router chose them; `square` for a column of a block.
    """

    joints: F8
    on: str
    branch: bool = False
    radii: F8 | None = None
    square: bool = False


def free_way(rays: Around, a: F8, b: F8, radius: float) -> bool:
    """Whether a strut from a to b keeps clear of the figure over its whole length."""
    return bool(rays.free(a[None], b[None], radius, radius)[0])


def route(
    rays: Around, tips: F8, radii: F8, floor: float, standing: list[Route], *, upright: bool = False
) -> list[Route]:
    """Route every tip (n, 3) for pillars of the given radii (n,); feet stand at height `floor`. Routes of `standing`
    may carry branches; `upright`: none does where a tip may stand on a pillar of its own.
    """
    ways: dict[int, Route] = {}
    pillars = [r for r in standing if r.on == "plate" and not r.branch]
    tops, feet = np.empty((len(pillars) + len(tips), 3)), np.empty((len(pillars) + len(tips), 3))
    for k, pillar in enumerate(pillars):
        tops[k], feet[k] = pillar.joints[1], pillar.joints[0]
    many = len(pillars)
    heads, _ = first_heads(rays, tips, radii + CLEARANCE_MM, floor)
    for i in np.argsort(-tips[:, 2], kind="stable"):
        radius, head = float(radii[i]) + CLEARANCE_MM, int(heads[i])
        alone = 0 <= head < PLAIN
        way = None if upright and alone else _branch(rays, tips[i], tops[:many], feet[:many], radius)
        if way is None:
            way = _led(tips[i], head, floor) if head >= 0 else bent(rays, tips[i], radius, floor)
        way = way or slim(rays, tips[i], radius, floor) or short_or_on_model(rays, tips[i], floor)
        ways[int(i)] = way
        if way.on == "plate" and not way.branch:
            tops[many], feet[many] = way.joints[1], way.joints[0]
            many += 1
    return [ways[i] for i in range(len(tips))]


FOOT_Z_MM = 0.25


def room_for_feet(rays: Around, feet: F8) -> F8:
    """How far in mm a foot at each of these places (n, 3) may reach on the plate before it comes within CLEARANCE_MM of
    the figure.
    """
    return np.asarray(rays.near.of(feet + [0.0, 0.0, FOOT_Z_MM])[1] - CLEARANCE_MM)


@njit()
def _starts(tip: F8, tops: F8, feet: F8, out: F8) -> int:
    """Where a branch to a tip may start on the nearest pillars, the nearest first, into `out`; how many such places
    there are, at most its length.
    """
    many, aways = 0, np.empty(len(out))
    for k in range(len(tops)):
        away = np.hypot(tops[k, 0] - tip[0], tops[k, 1] - tip[1])
        if away >= BRANCH_MM:
            continue
        z = min(tip[2] - max(away / BRANCH_SLOPE, BRANCH_RISE_MM), tops[k, 2])
        if z <= feet[k, 2] + BRANCH_RISE_MM or tip[2] - z >= 1.5 * BRANCH_MM:
            continue
        at = many
        while at > 0 and aways[at - 1] > away:
            at -= 1
        if at == len(out):
            continue
        many = min(many + 1, len(out))
        for j in range(many - 1, at, -1):
            aways[j], out[j] = aways[j - 1], out[j - 1]
        aways[at] = away
        out[at, 0], out[at, 1], out[at, 2] = tops[k, 0], tops[k, 1], z
    return many


def _branch(rays: Around, tip: F8, tops: F8, feet: F8, radius: float) -> Route | None:
    """A head from the nearest pillar that stands close enough below the tip; pillars by their upper and lower ends (n,
    3).
    """
    starts = np.empty((PILLARS_TRIED, 3))
    for start in starts[: _starts(tip, tops, feet, starts)]:
        if free_head(rays, tip[None], start[None], radius * 0.7)[0]:
            return Route(np.array([start, tip]), "plate", branch=True)
    return None


def _led(tip: F8, head: int, floor: float) -> Route:
    """A pillar straight up from the floor, and one of HEADS on it."""
    joint = tip + HEADS[head]
    return Route(np.array([[joint[0], joint[1], floor], joint, tip]), "plate")


STRUT_DEG = 42.0
MOST_LEAN = 1.0
"""Priors: how far a strut leans, and its run over its drop at most where a way has to be found around the figure."""
HEADS_TRIED = 6


def bent(rays: Around, tip: F8, radius: float, floor: float) -> Route | None:
    """A head and a way around the figure, as short and as straight as exact distances allow; None where there
    is none.
    """
    joints = tip + HEADS
    joints = joints[joints[:, 2] > floor + 2 * SHORTEST_MM]
    if not len(joints):
        return None
    ways = Ways.of(rays.figure, radius)
    cost = ways.costs(joints) + np.linalg.norm(joints - tip, axis=1)
    joints, cost = joints[np.isfinite(cost)], cost[np.isfinite(cost)]
    joints = joints[np.argsort(cost, kind="stable")]
    joints = joints[free_head(rays, np.broadcast_to(tip, joints.shape), joints, radius)]
    for joint in joints[:HEADS_TRIED]:
        way = [joint, *ways.down(joint)[1:]]
        # Where it goes on straight down it is a pillar.
        top = next((k for k in range(len(way) - 1, 0, -1) if (way[k - 1] - way[k])[:2].any()), 0)
        points = _straightened(rays, way[: top + 1], radius)
        if points is not None and free_down(rays, points[-1][None], radius, floor)[0]:
            foot = np.array([points[-1][0], points[-1][1], floor])
            return Route(np.array([foot, *points[:0:-1], joint, tip]), "plate")
    return None


def _straightened(rays: Around, points: list[F8], radius: float) -> list[F8] | None:
    """The fewest of a way's points that keep off the figure, each as far on as is free; None where not even the next
    is.
    """
    kept, at, last = [points[0]], 0, len(points) - 1
    while at < last:
        step = last - at
        while step and not _joins(rays, points[at], points[at + step], radius):
            step = step // 2
        if not step:
            return None
        at += step
        kept.append(points[at])
    return kept


def _joins(rays: Around, a: F8, b: F8, radius: float) -> bool:
    """Whether a strut from a down to b leans no farther than it may and is free."""
    run, drop = float(np.hypot(a[0] - b[0], a[1] - b[1])), float(a[2] - b[2])
    return drop > 0 and run <= drop * MOST_LEAN + 1e-9 and free_way(rays, a, b, radius)


def roomier(rays: Around, tips: F8, ways: list[Route], radii: F8, *, needs: F8, floor: float) -> list[Route]:
    """The ways of tips (n, 3), where none stands on a foot that has no room beside the figure to be as wide as it
    `needs` (n,), mm, to hold: its head leans farther out, to the first place that has, else it stays. What carries a
    branch stays.
    """
    carried = {(w.joints[0][0], w.joints[0][1]) for w in ways if w.branch}
    moved = list(ways)
    plain = [
        i
        for i, way in enumerate(ways)
        if way.on == "plate" and not (way.branch or way.square or way.radii is not None)
        and len(way.joints) == 3 and (way.joints[0][0], way.joints[0][1]) not in carried
    ]  # fmt: skip
    if not plain:
        return moved
    cramped = room_for_feet(rays, np.array([ways[i].joints[0] for i in plain])) < needs[plain] / 2
    for i in (i for i, narrow in zip(plain, cramped, strict=True) if narrow):
        joints = tips[i] + HEADS
        joints = joints[joints[:, 2] > floor + 2 * SHORTEST_MM]
        feet = np.column_stack([joints[:, :2], np.full(len(joints), floor)])
        joints = joints[room_for_feet(rays, feet) >= needs[i] / 2]
        wide = float(radii[i]) + CLEARANCE_MM
        free = free_down(rays, joints, wide, floor)
        free[free] = free_head(rays, np.broadcast_to(tips[i], (int(free.sum()), 3)), joints[free], wide)
        if free.any():
            joint = joints[int(np.argmax(free))]
            moved[i] = Route(np.array([[joint[0], joint[1], floor], joint, tips[i]]), "plate")
    return moved


SLIM_MM, SLIM_TALL_MM = 0.25, 14.0
"""Radius of the slimmest pillar, and (a prior) up to which height it stands: a taller one sways by more than a mm."""


def slimmest(length: float) -> float:
    """Radius in mm of the slimmest pillar of a length that sways no farther than that of SLIM_TALL_MM: sway grows with
    l³ / d⁴.

    >>> slimmest(5.0), slimmest(14.0), round(slimmest(60.0), 2)
    (0.25, 0.25, 0.74)
    """
    return SLIM_MM * max(1.0, length / SLIM_TALL_MM) ** 0.75


def slim(rays: Around, tip: F8, radius: float, floor: float) -> Route | None:
    """A way for a pillar as slim as may stand, where none is free for one of `radius` with its clearance."""
    own = slimmest(float(tip[2]) - floor)
    thin = own + CLEARANCE_MM
    if radius <= thin:
        return None
    head = int(first_heads(rays, tip[None], thin, floor)[0][0])
    way = _led(tip, head, floor) if head >= 0 else bent(rays, tip, thin, floor)
    return None if way is None else Route(way.joints, way.on, radii=np.full(len(way.joints) - 1, own))


def short_or_on_model(rays: Around, tip: F8, floor: float) -> Route:
    """Straight down to the plate when it is near, else onto the first surface below."""
    start = tip - np.array([0, 0, 0.02])
    distance, _ = rays.first(start[None], np.array([0.0, 0.0, -1.0]))
    drop = float(distance[0]) + 0.02
    if drop >= FAR or tip[2] - drop < floor:
        if tip[2] - floor < 1e-3:
            return Route(np.empty((0, 3)), "none")
        return Route(np.array([[tip[0], tip[1], floor], tip]), "plate")
    base = np.array([tip[0], tip[1], tip[2] - drop])
    return Route(np.array([base, base + (tip - base) * 0.5, tip]), "model")


FOOT_ABOVE_MM = 0.1


def allowed(rays: Around, tips: F8, ways: list[Route], barred: NDArray[np.bool_]) -> list[Route]:
    """The ways of tips (n, 3), where none that stands on the figure stands on a `barred` face: it leans to where it
    may, else there is none.
    """
    open_ways = list(ways)
    for i, way in enumerate(ways):
        if way.on == "model" and _stands_on(rays, way.joints[:1], barred)[0]:
            open_ways[i] = _elsewhere(rays, tips[i], barred)
    return open_ways


def _stands_on(rays: Around, feet: F8, barred: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Whether each foot (n, 3) on the figure stands on one of the faces `barred` (faces,)."""
    _, face = rays.first(feet + [0.0, 0.0, FOOT_ABOVE_MM], np.array([0.0, 0.0, -1.0]))
    return np.asarray((face >= 0) & barred[np.maximum(face, 0)])


def _elsewhere(rays: Around, tip: F8, barred: NDArray[np.bool_]) -> Route:
    """The cheapest head whose pillar comes down on a face of the figure that is not barred."""
    joints = tip + HEADS
    joints = joints[free_head(rays, np.broadcast_to(tip, joints.shape), joints, CLEARANCE_MM)]
    if len(joints):
        drop, face = rays.first(joints, np.array([0.0, 0.0, -1.0]))
        good = np.flatnonzero((face >= 0) & ~barred[np.maximum(face, 0)] & (drop > SHORTEST_MM))
        if len(good):
            joint = joints[good[0]]
            return Route(np.array([joint - [0.0, 0.0, drop[good[0]]], joint, tip]), "model")
    return Route(np.empty((0, 3)), "none")
