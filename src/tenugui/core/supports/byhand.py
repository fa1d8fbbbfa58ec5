"""Supports changed by hand: tips put where somebody points, and taken away where somebody does, and feet moved; regions
left, carried on one body, held at another gap, or drawn more densely. What leaned on what is gone finds another way.
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
from .regions import regions_of_tips
from .route import STRUT_DEG, Route, free_way, route
from .tip import Tip

F8 = NDArray[np.float64]
Raft = Literal["full", "feet", "none"]
HandOp = Literal["add", "remove", "foot", "raft", "leave", "carry", "gap", "density"]
MOST_GAP_LAYERS = 6
"""Over more layers of air nothing is carried."""
LEAST_DENSITY, MOST_DENSITY = 0.05, 0.9
"""Shares of solid: with fewer lines nothing closes over them, and with more it is as hard to take off as the figure."""
NEAR_MM = 4.0
"""A tip is taken away where its contact lies within this of the place pointed at."""
ON_IT_MM = 0.1
STRAY_MM = 1.5
"""A tip is put where the surface lies within this of the place."""


@dataclass(frozen=True)
class Edit:
    """A change by hand, at a place in build coordinates; `to`: where a foot is moved to; `raft`: what all stand on,
    whatever the place; `gap_layers`: how far short of the figure a region's supports end; `density` of their lines.
    """

    op: HandOp
    at: tuple[float, float, float]
    to: tuple[float, float, float] | None = None
    raft: Raft | None = None
    gap_layers: int | None = None
    density: float | None = None


Carry = Callable[[Demand], tuple[list[Tip], NDArray[np.bool_]]]
"""Bodies that carry what they can of a demand (n,), and which of it they do."""


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


class _Near:
    """How far places are from each of some tips, whichever of its contacts is nearest."""

    def __init__(self, tips: Sequence[Tip]) -> None:
        many = [len(tip.cells) or 1 for tip in tips]
        self._at = np.array([at for tip in tips for at in tip.contacts], float).reshape(-1, 3)
        self._starts = np.concatenate([[0], np.cumsum(many)]).astype(np.int64)

    def __len__(self) -> int:
        return len(self._starts) - 1

    def far(self, at: F8) -> F8:
        """(tips,) mm."""
        if not len(self):
            return np.zeros(0)
        away: F8 = np.linalg.norm(self._at - at, axis=1)
        return np.minimum.reduceat(away, self._starts[:-1])

    def drop(self, k: int) -> None:
        """Without one of them."""
        low, high = self._starts[k], self._starts[k + 1]
        self._at = np.delete(self._at, slice(low, high), axis=0)
        self._starts = np.delete(self._starts, k)
        self._starts[k:] -= high - low


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


def on_surface(around: Around, edits: Sequence[Edit]) -> tuple[list[Edit], int]:
    """Changes with the tips that are put on the surface itself, where it lies within STRAY_MM of the place: that of
    another version of the figure has moved a little. And how many find none.
    """
    put = [k for k, edit in enumerate(edits) if edit.op == "add"]
    moved, far = around.near.of(np.array([edits[k].at for k in put], float).reshape(-1, 3))
    kept: list[Edit | None] = list(edits)
    for k, at, away in zip(put, moved.tolist(), far.tolist(), strict=True):
        if away > STRAY_MM:
            kept[k] = None
        elif away > ON_IT_MM:
            kept[k] = replace(edits[k], at=(at[0], at[1], at[2]))
    there = [edit for edit in kept if edit is not None]
    return there, len(edits) - len(there)


def changed(
    tips: Sequence[Tip], edits: Sequence[Edit], tip_mm: float, *, pitch: float, carry: Carry | None = None
) -> Edited:
    """Tips after changes in their order. What leaned on a support that is gone wants a way of its own, and so on.
    `pitch` of tips under a flat tells which belong to one region; `carry`: how a region comes to stand on one body,
    None where nothing can.
    """
    kept, wanted, missed = list(tips), list[_Wanted](), 0
    near = _Near(kept)
    for edit in edits:
        if edit.op == "raft":
            continue
        if edit.op in ("leave", "carry", "gap", "density"):
            group = [kept[i] for i in region_at(kept, edit.at, pitch)]
            done = _on_region(kept, group, edit, carry) if group else None
            if done is None:
                missed += 1
            else:
                kept, heirs = done
                wanted += heirs
                near = _Near(kept)
            continue
        at = np.array(edit.at)
        if edit.op == "add":
            wanted.append(_Wanted(edit.at, "hand", tip_mm))
            continue
        far = near.far(at)
        mine = [float(np.linalg.norm(np.array(w.at) - at)) for w in wanted]
        closest = int(np.argmin(far)) if len(far) else -1
        if mine and min(mine) <= min(NEAR_MM, far[closest] if closest >= 0 else NEAR_MM):
            gone = wanted.pop(int(np.argmin(mine)))
            if edit.op == "foot":
                wanted.append(replace(gone, foot=edit.to))
        elif closest >= 0 and far[closest] <= NEAR_MM and not (edit.op == "foot" and kept[closest].cells):
            tip = kept.pop(closest)
            near.drop(closest)
            if edit.op == "foot":
                wanted.append(_Wanted((tip.x, tip.y, tip.z), tip.reason, tip.diameter, edit.to))
            kept, heirs = _without(kept, [tip])
            wanted += heirs
            if heirs:
                near = _Near(kept)
        else:
            missed += 1
    points = np.array([w.at for w in wanted]).reshape(-1, 3)
    demand = Demand(points, [w.reason for w in wanted], np.array([w.wide for w in wanted]))
    return Edited(kept, demand, [w.foot for w in wanted], missed)


def region_at(tips: Sequence[Tip], at: tuple[float, float, float], pitch: float) -> list[int]:
    """Numbers of the tips whose contacts belong to the region nearest to a place; none where none is near."""
    far = _Near(tips).far(np.array(at))
    if not len(far) or far.min() > NEAR_MM:
        return []
    region = regions_of_tips(tips, pitch)
    return [int(i) for i in np.flatnonzero(region == region[int(np.argmin(far))])]


def _on_region(
    kept: list[Tip], region: list[Tip], edit: Edit, carry: Carry | None
) -> tuple[list[Tip], list[_Wanted]] | None:
    """The set with one of its regions changed, and what then wants a way; None where it cannot be."""
    mine = {id(tip) for tip in region}
    if edit.op == "gap":
        if all(not tip.gap for tip in region):
            return None
        return [replace(t, gap_layers=edit.gap_layers) if id(t) in mine else t for t in kept], []
    if edit.op == "density":
        return [replace(t, density=edit.density) if id(t) in mine else t for t in kept], []
    rest = [t for t in kept if id(t) not in mine]
    if edit.op == "leave":
        return _without(rest, region)
    pins = [t for t in region if not t.cells]
    if carry is None or not pins:
        return None
    points = np.array([[t.x, t.y, t.z] for t in pins])
    bodies, carried = carry(Demand(points, [t.reason for t in pins], np.array([t.diameter for t in pins])))
    if not bodies:
        return None
    gone = [t for t, on_body in zip(pins, carried.tolist(), strict=True) if on_body]
    left, heirs = _without([t for t in kept if not any(t is g for g in gone)], gone)
    return [*left, *bodies], heirs


def _without(kept: list[Tip], gone: Sequence[Tip]) -> tuple[list[Tip], list[_Wanted]]:
    """What stays of a set that some tips have left, and what leaned on them and wants a way of its own."""
    wanted, loose = list[_Wanted](), list(gone)
    while loose:
        carrier = loose.pop()
        heirs = [t for t in kept if _leans_on(t, carrier)]
        kept = [t for t in kept if not any(t is h for h in heirs)]
        wanted += [_Wanted((h.x, h.y, h.z), h.reason, h.diameter) for h in heirs]
        loose += heirs
    return kept, wanted


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
