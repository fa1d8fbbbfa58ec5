"""From a tip to a foot: a branch on a pillar that stands already, else straight down where the way is free, else a head that leans
out, else onto the figure.

Rays along the axis and around it sort out most ways, the exact distance of the figure proves the rest. Tips are routed from the highest down, so that
lower ones find the pillars of higher ones to lean on (cf. Vanek, Galicia, Benes 2014).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..mesh import FAR
from .around import Around
from .ways import Ways

F8 = NDArray[np.float64]
HEAD_MM = (2.0, 3.5, 6.0, 10.0, 15.0)
LEANS_DEG = (0.0, 15.0, 30.0, 42.0)
"""Prior: a head that leans farther than about 45° from the vertical is itself an overhang."""
CLEARANCE_MM = 0.35
SHORTEST_MM = 0.25
NARROWS = (0.4, 0.75)
"""Shares of a head's length up to which it keeps its whole clearance, and up to which it keeps off at all."""
CONTACT_MM = 0.18
"""Radius of the usual tip."""
BRANCH_MM = 3.5
"""Prior: how far from its pillar a branch may reach."""
BRANCH_SLOPE = 1.0
"""Prior: run over rise of a branch, 45°."""


@dataclass(frozen=True)
class Route:
    """Joints from the foot (or the pillar that carries the branch) to the tip, (n, 3), and what it stands on: `plate`, `model`, or `none` where nothing works.

    `radii` (n - 1,) at all joints but the tip, where the router chose them; `square` for a column of a block.
    """

    joints: F8
    on: str
    branch: bool = False
    radii: F8 | None = None
    square: bool = False


RAYS_MM = 0.8
"""Distance between the rays that search a column for what stands in it."""
BLOCK_NECK_MM = 1.2
"""Prior: height between the top of a block and the figure, bridged by necks."""


def ring(radius: float) -> F8:
    """The axis and rings around it out to `radius`, (n, 3): no thicker gap than about RAYS_MM, so that no rod slips between the rays."""
    points = [np.zeros((1, 3))]
    rings = max(1, round(radius / RAYS_MM))
    for k in range(1, rings + 1):
        r = radius * k / rings
        sides = 8 * max(1, round(2 * np.pi * r / RAYS_MM / 8))
        angle = np.arange(sides) * 2 * np.pi / sides
        points.append(np.stack([r * np.cos(angle), r * np.sin(angle), np.zeros(sides)], axis=1))
    return np.concatenate(points)


def _rings(radius: F8) -> F8:
    """`ring` for each radius (n,), scaled from that of the largest: (n, rays, 3), the axis first."""
    most = float(radius.max())
    return np.asarray(radius[:, None, None] * (ring(most) / most))


def free_down(rays: Around, joints: F8, radius: float | F8, floor: float) -> NDArray[np.bool_]:
    """Whether a vertical pillar below each joint (n, 3), of one radius or (n,), keeps clear of the figure down to `floor`."""
    if not len(joints):
        return np.zeros(0, np.bool_)
    around = _rings(np.broadcast_to(np.asarray(radius, float), len(joints)))
    origins = joints[:, None, :] + around
    distance, _ = rays.first(origins.reshape(-1, 3), np.array([0.0, 0.0, -1.0]))
    # What stands on the floor has its underside there: who meets it has come down inside.
    clear = distance > np.repeat(joints[:, 2] - floor, around.shape[1]) + 1e-3
    found = np.asarray(clear.reshape(len(joints), -1).all(axis=1))
    # No rod slips between the rays, and nothing beside comes near.
    wide = np.broadcast_to(np.asarray(radius, float), len(joints))
    left = np.flatnonzero(found & (joints[:, 2] > floor + 2 * wide))
    wide = wide[left]
    tops, feet = (np.column_stack([joints[left, :2], z]) for z in (joints[left, 2] - wide, floor + wide))
    found[left] = rays.free(tops, feet, wide, wide)
    return found


def free_head(rays: Around, tips: F8, joints: F8, radius: float | F8) -> NDArray[np.bool_]:
    """Whether the heads from joint to tip reach their tip and keep off the figure on their way."""
    found = seen_head(rays, tips, joints, radius)
    left = np.flatnonzero(found)
    wide = np.broadcast_to(np.asarray(radius, float), len(joints))[left]
    found[left] = proved_head(rays, tips[left], joints[left], wide)
    return found


def proved_head(rays: Around, tips: F8, joints: F8, wide: F8) -> NDArray[np.bool_]:
    """Whether heads keep off by exact distances: the cone its whole clearance for the first part of its way, and less the nearer it comes to its contact."""
    way = tips - joints
    mid, near = (joints + share * way for share in NARROWS)
    at_mid = (1 - NARROWS[0]) * (wide - CLEARANCE_MM) + NARROWS[0] * CONTACT_MM + CLEARANCE_MM
    at_near = (1 - NARROWS[1]) * (wide - CLEARANCE_MM) + NARROWS[1] * CONTACT_MM
    return rays.free(joints, mid, wide, at_mid) & rays.free(mid, near, at_mid, at_near)


def seen_head(rays: Around, tips: F8, joints: F8, radius: float | F8) -> NDArray[np.bool_]:
    """Whether the heads from joint to tip reach their tip by rays: the axis up to just below it, the ring up to where the cone has narrowed."""
    if not len(joints):
        return np.zeros(0, np.bool_)
    around = _rings(np.broadcast_to(np.asarray(radius, float), len(joints)))[:, 1:]
    way = tips - joints
    length = np.linalg.norm(way, axis=1)
    axis = way / length[:, None]
    distance, _ = rays.first(joints, axis)
    axis_free = distance >= length - 0.12
    origins = joints[:, None, :] + around
    distance, _ = rays.first(origins.reshape(-1, 3), np.repeat(axis, around.shape[1], axis=0))
    ring_free = (distance.reshape(len(joints), -1) >= (length * 0.55)[:, None]).all(axis=1)
    return np.asarray(axis_free & ring_free)


def free_way(rays: Around, a: F8, b: F8, radius: float) -> bool:
    """Whether a strut from a to b keeps clear of the figure over its whole length."""
    return bool(rays.free(a[None], b[None], radius, radius)[0])


OPTIONS = sorted(
    (h * (1 + lean / 90), h, lean, a) for h in HEAD_MM for lean in LEANS_DEG for a in (range(12) if lean else range(1))
)


def route(
    rays: Around, tips: F8, radii: F8, floor: float, standing: list[Route], *, upright: bool = False
) -> list[Route]:
    """Route every tip (n, 3) for pillars of the given radii (n,); feet stand at height `floor`. Routes of `standing` may carry branches; `upright`: none does
    where a tip may stand on a pillar of its own.
    """
    found: dict[int, Route] = {}
    pillars = [r for r in standing if r.on == "plate" and not r.branch]
    tops, feet = np.empty((len(pillars) + len(tips), 3)), np.empty((len(pillars) + len(tips), 3))
    for k, pillar in enumerate(pillars):
        tops[k], feet[k] = pillar.joints[1], pillar.joints[0]
    many = len(pillars)
    plain = _plain_heads(rays, tips, radii + CLEARANCE_MM, floor)
    for i in np.argsort(-tips[:, 2], kind="stable"):
        radius = float(radii[i]) + CLEARANCE_MM
        alone = not np.isnan(plain[i, 0])
        way = None if upright and alone else _branch(rays, tips[i], tops[:many], feet[:many], radius)
        if way is None and alone:
            way = Route(np.array([[plain[i, 0], plain[i, 1], floor], plain[i], tips[i]]), "plate")
        way = way or _leaning(rays, tips[i], radius, floor) or bent(rays, tips[i], radius, floor)
        way = way or slim(rays, tips[i], radius, floor) or short_or_on_model(rays, tips[i], floor)
        found[int(i)] = way
        if way.on == "plate" and not way.branch:
            tops[many], feet[many] = way.joints[1], way.joints[0]
            many += 1
    return [found[i] for i in range(len(tips))]


FOOT_Z_MM = 0.25


def room_for_feet(rays: Around, feet: F8) -> F8:
    """How far in mm a foot at each of these places (n, 3) may reach on the plate before it comes within CLEARANCE_MM of the figure."""
    return np.asarray(rays.near.of(feet + [0.0, 0.0, FOOT_Z_MM])[1] - CLEARANCE_MM)


def _plain_heads(rays: Around, tips: F8, radii: F8, floor: float) -> F8:
    """The joint (n, 3) of the first of the two cheapest heads that goes down to the plate, nan where neither does; all tips at once."""
    found = np.full((len(tips), 3), np.nan)
    for offer in HEADS[:2]:
        left = np.flatnonzero(np.isnan(found[:, 0]) & (tips[:, 2] + offer[2] > floor + SHORTEST_MM))
        joints = tips[left] + offer
        free = free_down(rays, joints, radii[left], floor)
        left, joints = left[free], joints[free]
        free = free_head(rays, tips[left], joints, radii[left])
        found[left[free]] = joints[free]
    return found


def columns(rays: Around, tips: F8, radii: F8, floor: float, side: float, neck: float = BLOCK_NECK_MM) -> list[Route]:
    """Tips (n, 3) on square columns of the given side that fuse to blocks where they overlap, up to a `neck` below each; pillars where a column has no room."""
    half = side / 2
    corner = half * np.sqrt(2)
    tops = tips - np.array([0, 0, neck])
    free = free_down(rays, tops, corner + CLEARANCE_MM, floor) & (tops[:, 2] > floor + SHORTEST_MM)
    necks = np.minimum(radii, neck / 3)
    free &= free_head(rays, tips, tops, necks + CLEARANCE_MM)
    slim = np.flatnonzero(~free)
    others = dict(zip(slim.tolist(), route(rays, tips[slim], radii[slim], floor, []), strict=True))
    found = []
    for i, tip in enumerate(tips):
        foot = np.array([tip[0], tip[1], floor])
        above = tops[i] + np.array([0, 0, 0.05])
        block = Route(
            np.array([foot, tops[i], above, tip]), "plate", radii=np.array([corner, corner, necks[i]]), square=True
        )
        found.append(block if free[i] else others[i])
    return found


def _branch(rays: Around, tip: F8, tops: F8, feet: F8, radius: float) -> Route | None:
    """A head from the nearest pillar that stands close enough below the tip; pillars by their upper and lower ends (n, 3)."""
    if not len(tops):
        return None
    away = np.hypot(tops[:, 0] - tip[0], tops[:, 1] - tip[1])
    near = np.flatnonzero(away < BRANCH_MM)
    if not len(near):
        return None
    away, tops, feet = away[near], tops[near], feet[near]
    z = np.minimum(tip[2] - np.maximum(away / BRANCH_SLOPE, 0.8), tops[:, 2])
    usable = np.flatnonzero((z > feet[:, 2] + 0.8) & (tip[2] - z < 1.5 * BRANCH_MM))
    nearest = usable[np.argsort(away[usable])][:3]
    starts = np.column_stack([tops[nearest, :2], z[nearest]])
    free = np.flatnonzero(free_head(rays, np.broadcast_to(tip, starts.shape), starts, radius * 0.7))
    return Route(np.array([starts[free[0]], tip]), "plate", branch=True) if len(free) else None


def _heads() -> F8:
    """Every offered head as the offset of its joint from the tip, the cheapest first."""
    rows = []
    for _, head, lean, a in OPTIONS:
        tilt, turn = np.radians(lean), a * np.pi / 6
        rows.append([head * np.sin(tilt) * np.cos(turn), head * np.sin(tilt) * np.sin(turn), -head * np.cos(tilt)])
    return np.array(rows)


HEADS = _heads()


def _leaning(rays: Around, tip: F8, radius: float, floor: float) -> Route | None:
    """The shortest of the longer and leaning heads whose pillar reaches the plate."""
    joints = tip + HEADS[2:]
    joints = joints[joints[:, 2] > floor + SHORTEST_MM]
    joints = joints[free_down(rays, joints, radius, floor)]
    joints = joints[free_head(rays, np.broadcast_to(tip, joints.shape), joints, radius)]
    return Route(np.array([[joints[0, 0], joints[0, 1], floor], joints[0], tip]), "plate") if len(joints) else None


STRUT_DEG = 42.0
MOST_LEAN = 1.0
"""Priors: how far a strut leans, and its run over its drop at most where a way has to be found around the figure."""
HEADS_TRIED = 6


def bent(rays: Around, tip: F8, radius: float, floor: float) -> Route | None:
    """A head and a way around the figure, as short and as straight as exact distances allow; None where there is none."""
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
    """The fewest of a way's points that keep off the figure, each as far on as is free; None where not even the next is."""
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


SLIM_MM = 0.25


def slim(rays: Around, tip: F8, radius: float, floor: float) -> Route | None:
    """A way for a pillar as slim as a cutter's, where none is free for one of `radius`."""
    thin = SLIM_MM + CLEARANCE_MM
    if radius <= thin:
        return None
    way = _leaning(rays, tip, thin, floor) or bent(rays, tip, thin, floor)
    return None if way is None else Route(way.joints, way.on, radii=np.full(len(way.joints) - 1, SLIM_MM))


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
    """The ways of tips (n, 3), where none that stands on the figure stands on a `barred` face: it leans to where it may, else there is none."""
    found = list(ways)
    for i, way in enumerate(ways):
        if way.on == "model" and _stands_on(rays, way.joints[:1], barred)[0]:
            found[i] = _elsewhere(rays, tips[i], barred)
    return found


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
