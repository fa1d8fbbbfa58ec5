"""Supports changed by hand: tips put where somebody points, and taken away where somebody does, and feet moved; what
leaned on them finds another way.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from .around import Around
from .demand import Demand
from .heads import CLEARANCE_MM, HEADS, SHORTEST_MM, free_down, free_head
from .route import STRUT_DEG, Route, free_way, route
from .tip import Tip

F8 = NDArray[np.float64]
Raft = Literal["full", "feet", "none"]
NEAR_MM = 4.0
"""A tip is taken away where its contact lies within this of the place pointed at."""
ON_IT_MM = 0.1


@dataclass(frozen=True)
class Edit:
    """A change by hand, at a place in build coordinates; `to`: where a foot is moved to; `raft`: what all stand on,
    whatever the place.
    """

    op: Literal["add", "remove", "foot", "raft"]
    at: tuple[float, float, float]
    to: tuple[float, float, float] | None = None
    raft: Raft | None = None


@dataclass(frozen=True)
class Edited:
    """What stays, what still wants a way (as a demand) and to which foot if to a given one, and how many changes found
    nothing to change.
    """

    kept: list[Tip]
    demand: Demand
    feet: list[tuple[float, float, float] | None]
    missed: int


@dataclass(frozen=True)
class _Wanted:
    at: tuple[float, float, float]
    reason: str
    wide: float
    foot: tuple[float, float, float] | None = None


def _leans_on(tip: Tip, carrier: Tip) -> bool:
    """Whether a branch starts on another support."""
    if not tip.branch or tip is carrier:
        return False
    start = np.array(tip.joints[0])
    for a, b, wide in zip(carrier.joints, carrier.joints[1:], carrier.widths, strict=False):
        p, q = np.array(a), np.array(b)
        along = float(np.clip((start - p) @ (q - p) / max(float((q - p) @ (q - p)), 1e-12), 0, 1))
        if float(np.linalg.norm(start - p - along * (q - p))) <= wide / 2 + ON_IT_MM:
            return True
    return False


def changed(tips: Sequence[Tip], edits: Sequence[Edit], tip_mm: float) -> Edited:
    """Tips after changes in their order. What leaned on a support that is gone wants a way of its own, and so on."""
    kept, wanted, missed = list(tips), list[_Wanted](), 0
    for edit in edits:
        if edit.op == "raft":
            continue
        at = np.array(edit.at)
        if edit.op == "add":
            wanted.append(_Wanted(edit.at, "hand", tip_mm))
            continue
        far = [float(np.linalg.norm(np.array(t.contacts) - at, axis=1).min()) for t in kept]
        mine = [float(np.linalg.norm(np.array(w.at) - at)) for w in wanted]
        if mine and min(mine) <= min([NEAR_MM, *far]):
            gone = wanted.pop(int(np.argmin(mine)))
            if edit.op == "foot":
                wanted.append(replace(gone, foot=edit.to))
        elif far and min(far) <= NEAR_MM and not (edit.op == "foot" and kept[int(np.argmin(far))].cells):
            tip = kept.pop(int(np.argmin(far)))
            if edit.op == "foot":
                wanted.append(_Wanted((tip.x, tip.y, tip.z), tip.reason, tip.diameter, edit.to))
            loose = [tip]
            while loose:
                carrier = loose.pop()
                heirs = [t for t in kept if _leans_on(t, carrier)]
                kept = [t for t in kept if not any(t is h for h in heirs)]
                wanted += [_Wanted((h.x, h.y, h.z), h.reason, h.diameter) for h in heirs]
                loose += heirs
        else:
            missed += 1
    points = np.array([w.at for w in wanted]).reshape(-1, 3)
    demand = Demand(points, [w.reason for w in wanted], np.array([w.wide for w in wanted]))
    return Edited(kept, demand, [w.foot for w in wanted], missed)


def raft_of(edits: Sequence[Edit]) -> Raft | None:
    """The raft that was asked for last."""
    return next((e.raft for e in reversed(edits) if e.op == "raft"), None)


def ways(rays: Around, edited: Edited, pillar: Callable[[float], float]) -> tuple[list[Route], F8]:
    """A way for each that wants one, and the width of its pillar in mm."""
    points = edited.demand.points
    pillars = np.array([pillar(float(z)) for z in points[:, 2]])
    standing = [Route(np.array(t.joints), t.on, t.branch) for t in edited.kept if not (t.square or t.cells)]
    if not len(points):
        return [], pillars
    free = route(rays, points, pillars / 2, 0.0, standing)
    given = [
        way if foot is None else to_foot(rays, point, float(wide) / 2 + CLEARANCE_MM, foot)
        for way, foot, point, wide in zip(free, edited.feet, points, pillars, strict=True)
    ]
    return given, pillars


def to_foot(rays: Around, tip: F8, radius: float, foot: tuple[float, float, float]) -> Route:
    """The shortest way from a tip to a foot that somebody chose: a head, a strut as steep as others, a pillar; `none`
    where the figure leaves none.
    """
    joints = tip + HEADS
    away = np.hypot(joints[:, 0] - foot[0], joints[:, 1] - foot[1])
    tops = np.column_stack([np.full((len(joints), 2), foot[:2]), joints[:, 2] - away / np.tan(np.radians(STRUT_DEG))])
    good = tops[:, 2] > SHORTEST_MM
    joints, tops = joints[good], tops[good]
    good = free_down(rays, tops, radius, 0.0)
    joints, tops = joints[good], tops[good]
    good = free_head(rays, np.broadcast_to(tip, joints.shape), joints, radius)
    joints, tops = joints[good], tops[good]
    length = np.linalg.norm(joints - tip, axis=1) + np.linalg.norm(tops - joints, axis=1)
    for k in np.argsort(length, kind="stable"):
        if free_way(rays, joints[k], tops[k], radius):
            base = np.array([foot[0], foot[1], 0.0])
            bend = [joints[k]] if np.linalg.norm(tops[k] - joints[k]) > ON_IT_MM else []
            return Route(np.array([base, tops[k], *bend, tip]), "plate")
    return Route(np.empty((0, 3)), "none")
