"""Heads: the last piece of a support, from where its pillar ends to the contact. Which are offered, and the first of
them that is free.

A ray down the axis tells what stands in the way, and whether it begins inside; the exact distance of the figure along
the whole rod proves that it keeps off. Heads are tried in order of what they cost until one is free, each tip on its
own.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import both_cores, njit, stretches
from ..mesh.embree import ray_room, shoot_one
from ..mesh.nearest import Tree, rod_keeps_off
from .around import Around

F8 = NDArray[np.float64]
F4 = NDArray[np.float32]
I8 = NDArray[np.int64]
B1 = NDArray[np.bool_]
HEAD_MM = (2.0, 3.5, 6.0, 10.0, 15.0)
LEANS_DEG = (0.0, 15.0, 30.0, 42.0)
"""Prior: a head that leans farther than about 45° from the vertical is itself an overhang."""
CLEARANCE_MM = 0.35
SHORTEST_MM = 0.25
NARROWS = (0.4, 0.75)
"""Shares of a head's length up to which it keeps its whole clearance, and up to which it keeps off at all."""
CONTACT_MM = 0.18
"""Radius of the usual tip."""
TOUCHES_MM = 0.12
"""A head's axis may meet the figure so near before its tip."""
ON_FLOOR_MM = 1e-3
PLAIN = 2
"""So many of the offered heads, the first, go straight up and are short."""


def _heads() -> F8:
    """Every offered head as the offset of its joint from the tip, the cheapest first."""
    options = sorted(
        (head * (1 + lean / 90), head, lean, a)
        for head in HEAD_MM
        for lean in LEANS_DEG
        for a in (range(12) if lean else range(1))
    )
    rows = []
    for _, head, lean, a in options:
        tilt, turn = np.radians(lean), a * np.pi / 6
        rows.append([head * np.sin(tilt) * np.cos(turn), head * np.sin(tilt) * np.sin(turn), -head * np.cos(tilt)])
    return np.array(rows)


HEADS = _heads()


@njit()
def _down_seen(scene: int, ray: F4, x: float, y: float, z: float, floor: float) -> bool:
    # What stands on the floor has its underside there: who meets it has come down inside.
    return shoot_one(scene, ray, x, y, z, 0.0, 0.0, -1.0) > z - floor + ON_FLOOR_MM


@njit()
def _down_proved(tree: Tree, x: float, y: float, z: float, wide: float, floor: float) -> bool:
    if z <= floor + 2 * wide:
        return True
    return rod_keeps_off(x, y, z - wide, x, y, floor + wide, wide, wide, tree)


@njit()
def _head_seen(scene: int, ray: F4, x: float, y: float, z: float, u: float, v: float, w: float) -> bool:
    """Whether the axis reaches the tip, which lies by (u, v, w) from the joint."""
    length = np.sqrt(u * u + v * v + w * w)
    return shoot_one(scene, ray, x, y, z, u / length, v / length, w / length) >= length - TOUCHES_MM


@njit()
def _head_proved(tree: Tree, x: float, y: float, z: float, u: float, v: float, w: float, wide: float) -> bool:
    """The cone keeps its whole clearance for the first part of its way, and less the nearer it comes to its contact."""
    a, b = NARROWS
    at_mid = (1 - a) * (wide - CLEARANCE_MM) + a * CONTACT_MM + CLEARANCE_MM
    at_near = (1 - b) * (wide - CLEARANCE_MM) + b * CONTACT_MM
    p, q, r = x + a * u, y + a * v, z + a * w
    if not rod_keeps_off(x, y, z, p, q, r, wide, at_mid, tree):
        return False
    return rod_keeps_off(p, q, r, x + b * u, y + b * v, z + b * w, at_mid, at_near, tree)


@njit()
def _downs(scene: int, tree: Tree, joints: F8, wide: F8, floor: float, out: B1) -> None:
    ray = ray_room()
    for i in range(len(joints)):
        x, y, z = joints[i, 0], joints[i, 1], joints[i, 2]
        out[i] = _down_seen(scene, ray, x, y, z, floor) and _down_proved(tree, x, y, z, wide[i], floor)


@njit()
def _reach(scene: int, tree: Tree, tips: F8, joints: F8, wide: F8, out: B1) -> None:
    ray = ray_room()
    for i in range(len(joints)):
        x, y, z = joints[i, 0], joints[i, 1], joints[i, 2]
        u, v, w = tips[i, 0] - x, tips[i, 1] - y, tips[i, 2] - z
        out[i] = _head_seen(scene, ray, x, y, z, u, v, w) and _head_proved(tree, x, y, z, u, v, w, wide[i])


@njit()
def _first(
    scene: int, tree: Tree, tips: F8, wide: F8, heads: F8, floor: float, start: int, end: int, out: I8, hangs: I8
) -> None:
    ray = ray_room()
    for i in range(start, end):
        out[i], hangs[i] = -1, -1
        for k in range(len(heads)):
            u, v, w = -heads[k, 0], -heads[k, 1], -heads[k, 2]
            x, y, z = tips[i, 0] - u, tips[i, 1] - v, tips[i, 2] - w
            if z <= floor + SHORTEST_MM:
                continue
            ground = _down_seen(scene, ray, x, y, z, floor)
            if not ground and hangs[i] >= 0:
                continue
            if not _head_seen(scene, ray, x, y, z, u, v, w):
                continue
            if not _head_proved(tree, x, y, z, u, v, w, wide[i]):
                continue
            hangs[i] = k if hangs[i] < 0 else hangs[i]
            # The longest rod is asked for last.
            if ground and _down_proved(tree, x, y, z, wide[i], floor):
                out[i] = k
                break


def free_down(around: Around, joints: F8, radius: float | F8, floor: float) -> B1:
    """Whether a vertical pillar below each joint (n, 3), of one radius or (n,), keeps clear of the figure down to
    `floor`.
    """
    free = np.empty(len(joints), np.bool_)
    _downs(around.rays.address, around.near.tree, *_laid(joints, radius), floor, free)
    return free


def free_head(around: Around, tips: F8, joints: F8, radius: float | F8) -> B1:
    """Whether the heads from joint to tip (n, 3), of one radius at the joint or (n,), reach their tip and keep off the
    figure on their way.
    """
    free = np.empty(len(joints), np.bool_)
    places, wide = _laid(joints, radius)
    _reach(around.rays.address, around.near.tree, np.ascontiguousarray(tips, float), places, wide, free)
    return free


def first_heads(around: Around, tips: F8, radius: float | F8, floor: float) -> tuple[I8, I8]:
    """Which of HEADS is the first that is free for each of tips (n, 3) and stands above free ground, and the first that
    is free at all; -1 for none.
    """
    places, wide = _laid(tips, radius)
    chosen, hangs = np.empty(len(places), np.int64), np.empty(len(places), np.int64)
    asked = (around.rays.address, around.near.tree, places, wide, HEADS, floor)
    both_cores(lambda a, b: _first(*asked, a, b, chosen, hangs), stretches(len(places)) or [(0, 0)])
    return chosen, hangs


def _laid(places: F8, radius: float | F8) -> tuple[F8, F8]:
    """Places and radii as compiled loops want them."""
    wide = np.broadcast_to(np.asarray(radius, float), len(places))
    return np.ascontiguousarray(places, float).reshape(-1, 3), np.ascontiguousarray(wide)
