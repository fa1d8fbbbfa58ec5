"""From a tip to a foot: straight down where the way is free, else a head that leans out, else onto the figure.

All tests are rays: the pillar's axis and a ring around it at its radius and the clearance, in batches for all tips at once.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..mesh import FAR, RayMesh

F8 = NDArray[np.float64]
HEAD_MM = (2.0, 3.5, 6.0, 10.0, 15.0)
LEANS_DEG = (0.0, 15.0, 30.0, 42.0)
"""Prior: a head that leans farther than about 45° from the vertical is itself an overhang."""
CLEARANCE_MM = 0.35
SHORTEST_MM = 0.25


@dataclass(frozen=True)
class Route:
    """Joints from the foot to the tip, (n, 3), and what the foot stands on: `plate`, `model`, or `none` where nothing works."""

    joints: F8
    on: str


def _ring(radius: float, sides: int = 8) -> F8:
    angle = np.arange(sides) * 2 * np.pi / sides
    return np.concatenate([np.zeros((1, 3)), np.stack([radius * np.cos(angle), radius * np.sin(angle), np.zeros(sides)], axis=1)])


def _free_down(rays: RayMesh, joints: F8, radius: float, floor: float) -> NDArray[np.bool_]:
    """Whether a vertical pillar below each joint keeps clear of the figure down to `floor`."""
    ring = _ring(radius)
    origins = (joints[:, None, :] + ring).reshape(-1, 3)
    distance, _ = rays.first(origins, np.array([0.0, 0.0, -1.0]))
    clear = distance > np.repeat(joints[:, 2] - floor, len(ring)) - 1e-6
    return np.asarray(clear.reshape(-1, len(ring)).all(axis=1))


def _free_head(rays: RayMesh, tips: F8, joints: F8, radius: float) -> NDArray[np.bool_]:
    """Whether the heads from joint to tip reach their tip: the axis up to just below it, the ring up to where the cone has narrowed."""
    ring = _ring(radius)[1:]
    way = tips - joints
    length = np.linalg.norm(way, axis=1)
    axis = way / length[:, None]
    distance, _ = rays.first(joints, axis)
    axis_free = distance >= length - 0.12
    origins = (joints[:, None, :] + ring).reshape(-1, 3)
    distance, _ = rays.first(origins, np.repeat(axis, len(ring), axis=0))
    ring_free = (distance.reshape(-1, len(ring)) >= (length * 0.55)[:, None]).all(axis=1)
    return np.asarray(axis_free & ring_free)


def route(rays: RayMesh, tips: F8, radii: F8, floor: float) -> list[Route]:
    """Route every tip (n, 3) for pillars of the given radii (n,); feet stand at height `floor`."""
    found: list[Route | None] = [None] * len(tips)
    radius = float(radii.max()) + CLEARANCE_MM if len(radii) else CLEARANCE_MM
    options = sorted((h * (1 + lean / 90), h, lean, a) for h in HEAD_MM for lean in LEANS_DEG for a in (range(12) if lean else range(1)))
    for _, head, lean, a in options:
        open_tips = np.array([i for i, r in enumerate(found) if r is None], np.int64)
        if not len(open_tips):
            break
        tilt, turn = np.radians(lean), a * np.pi / 6
        offset = head * np.array([np.sin(tilt) * np.cos(turn), np.sin(tilt) * np.sin(turn), -np.cos(tilt)])
        joints = tips[open_tips] + offset
        high = joints[:, 2] > floor + SHORTEST_MM
        open_tips, joints = open_tips[high], joints[high]
        if not len(open_tips):
            continue
        good = _free_down(rays, joints, radius, floor)
        good[good] = _free_head(rays, tips[open_tips[good]], joints[good], radius) if good.any() else good[good]
        for i, joint in zip(open_tips[good], joints[good], strict=True):
            found[i] = Route(np.array([[joint[0], joint[1], floor], joint, tips[i]]), "plate")
    return [r if r is not None else _short_or_on_model(rays, tips[i], floor) for i, r in enumerate(found)]


def _short_or_on_model(rays: RayMesh, tip: F8, floor: float) -> Route:
    """Straight down to the plate when it is near, else onto the first surface below."""
    start = tip - np.array([0, 0, 0.02])
    distance, _ = rays.first(start[None], np.array([0.0, 0.0, -1.0]))
    drop = float(distance[0]) + 0.02
    if drop >= FAR or tip[2] - drop < floor:
        if tip[2] - floor < 1e-3:
            return Route(np.empty((0, 3)), "none")
        return Route(np.array([[tip[0], tip[1], floor], tip]), "plate")
    if drop < SHORTEST_MM:
        return Route(np.empty((0, 3)), "none")
    base = np.array([tip[0], tip[1], tip[2] - drop])
    return Route(np.array([base, base + (tip - base) * 0.5, tip]), "model")
