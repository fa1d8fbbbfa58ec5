"""Taking supports off again: from where a cutter reaches each tip, what is delicate there, in which order, and what is
locked in.

A cutter comes along a line: its jaw must pass the figure from outside to the neck of the tip. A piece that is cut free
comes out along a line too. Both are asked of the figure alone, since supports in the way are cut first: of those that
are reached from one side the outermost.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..mesh import FAR, Mesh, rays_of
from ..supports import PIECE_MIN, Tip, tip_minutes

F8 = NDArray[np.float64]
B1 = NDArray[np.bool_]
Side = Literal["front", "right", "back", "left", "below"]
SIDES: tuple[Side, ...] = ("front", "right", "back", "left")
JAW_MM, REACH_MM = 1.2, 25.0
"""Priors: half the width of a small flush cutter's jaw, and how far it reaches before its shoulders are in the way."""
NECK_MM = 0.6
"""Prior: the cut is made so far below the contact, so that what stays can be sanded."""
AROUND = 16
LIFTS = (0.0, -0.45, 0.35, -0.9)
"""Priors: radians above the level from which a cutter comes; the lowest is from below."""
DELICATE = 2.0
"""Prior: a feature no thicker than so many tips breaks before the tip does when it is snapped."""
SAMPLE_MM = 1.5
"""Distance of the places of a piece that are asked for a way out."""
SHORT_MM = 5.0
"""Prior: a shorter piece is turned about and picked out with tweezers wherever it stands."""
GRAZE_MM = 0.05


@dataclass(frozen=True)
class Group:
    """Tips by their number, in the order in which they are cut, that are reached from one side; unit vector towards it;
    whether the feature there is delicate; and minutes to cut them and take them out.
    """

    side: Side
    towards: tuple[float, float, float]
    tips: tuple[int, ...]
    delicate: bool
    minutes: float


@dataclass(frozen=True)
class Removal:
    """Groups in their order; tips that no cutter reaches, which are to be broken off; and tips whose piece finds no way
    out.
    """

    groups: tuple[Group, ...]
    unreached: tuple[int, ...]
    locked: tuple[int, ...]


def necks(tips: Sequence[Tip]) -> F8:
    """Where each tip is cut (n, 3)."""
    top = np.array([t.joints[-1] for t in tips]).reshape(-1, 3)
    way = top - np.array([t.joints[-2] for t in tips]).reshape(-1, 3)
    long = np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9)
    return np.asarray(top - way / long * np.minimum(NECK_MM, long / 2))


def ways_in() -> F8:
    """Directions (d, 3) from a neck outwards along which a cutter may come."""
    az = np.arange(AROUND) * 2 * np.pi / AROUND
    return np.concatenate(
        [np.column_stack([np.cos(az) * np.cos(e), np.sin(az) * np.cos(e), np.full(AROUND, np.sin(e))]) for e in LIFTS]
    )


def reached(figure: Mesh, at: F8, ways: F8) -> B1:
    """Whether a jaw comes along each way to each neck, (n, d)."""
    rays, reach = rays_of(figure), np.empty((len(at), len(ways)), np.bool_)
    for k, way in enumerate(ways):
        aside = np.cross(way, [0.0, 0.0, 1.0])
        aside /= np.linalg.norm(aside)
        under = np.cross(aside, way)
        under *= -np.sign(under[2]) if abs(under[2]) > 1e-9 else 1.0
        # Beside and below the neck: above it is the figure, and a jaw lies flat against it.
        starts = [at, at + JAW_MM * aside, at - JAW_MM * aside, at + JAW_MM * under]
        clear = np.ones(len(at), np.bool_)
        for start in starts:
            clear &= rays.first(start, way)[0] > REACH_MM
        reach[:, k] = clear
    return reach


def reach_of(figure: Mesh, tips: Sequence[Tip]) -> F8:
    """Share (n,) of the ways around each tip along which a cutter comes to it."""
    return np.asarray(reached(figure, necks(tips), ways_in()).mean(axis=1)) if len(tips) else np.empty(0)


def locked_in(figure: Mesh, tips: Sequence[Tip]) -> B1:
    """Tips (n,) whose piece comes out in no direction, straight or along the level, without running into the figure."""
    locked = np.zeros(len(tips), np.bool_)
    rays = rays_of(figure)
    ways = np.concatenate([[[0.0, 0.0, -1.0], [0.0, 0.0, 1.0]], ways_in()])
    # Its axis and both its sides pass.
    aside = np.cross(ways, [0.0, 0.0, 1.0])
    aside[:2] = [1.0, 0.0, 0.0]
    aside /= np.linalg.norm(aside, axis=1, keepdims=True)
    beside = np.stack([0 * aside, aside, -aside], axis=1)
    for k, tip in enumerate(tips):
        if tip.on == "plate" and not tip.branch and _straight(tip):
            continue  # it comes out as it was built: downwards
        if float(np.linalg.norm(np.array(tip.joints[-1]) - tip.joints[0])) < SHORT_MM:
            continue
        points, wide = _along(tip), max(tip.widths) / 2
        starts = (points[None, None] + wide * beside[:, :, None]).reshape(-1, 3)
        along = np.repeat(ways, 3 * len(points), axis=0)
        far, _ = rays.first(starts + along * GRAZE_MM, along)
        locked[k] = not (far.reshape(len(ways), -1) >= FAR).all(axis=1).any()
    return locked


def _straight(tip: Tip) -> bool:
    xy = np.array(tip.joints)[:, :2]
    return bool(np.ptp(xy, axis=0).max() < 1e-6)


def _along(tip: Tip) -> F8:
    """Points along a support from above its foot to its neck."""
    joints = np.array(tip.joints)
    lengths = []
    for a, b in itertools.pairwise(joints):
        many = max(2, int(np.linalg.norm(b - a) / SAMPLE_MM))
        lengths.append(a + (b - a) * np.linspace(0.1, 0.9, many)[:, None])
    return np.concatenate(lengths)


def delicate(figure: Mesh, tips: Sequence[Tip]) -> B1:
    """Tips (n,) on a feature that is no thicker, straight up, than DELICATE of them."""
    at = np.array([[t.x, t.y, t.z] for t in tips]).reshape(-1, 3)
    wide = np.array([t.diameter for t in tips])
    far, _ = rays_of(figure).first(at + [0, 0, 0.02], np.array([0.0, 0.0, 1.0]))
    return np.asarray(far < DELICATE * wide)


def removal_of(figure: Mesh, tips: Sequence[Tip], costs: F8, front: F8, process: str) -> Removal:
    """How tips that come off are taken off a figure in build coordinates; `costs` (n,): what a scar costs at each,
    `front`: where the figure faces.
    """
    if not len(tips):
        return Removal((), (), ())
    at, ways = necks(tips), ways_in()
    clear = reached(figure, at, ways)
    fine = delicate(figure, tips)
    sides = _sides(ways, front)
    minutes = tip_minutes(tips, costs, process) + np.array([0.0 if t.branch else PIECE_MIN for t in tips])
    # Each tip is cut from the side from which most can be, so that the figure is turned seldom.
    by_side = np.stack([clear[:, sides == s].any(axis=1) for s in range(len(SIDES) + 1)], axis=1)
    wanted = by_side.sum(axis=0)
    best = np.where(by_side, wanted, -1).argmax(axis=1)
    can = by_side.any(axis=1)
    groups = []
    for thin in (True, False):  # what is delicate while the others still hold the figure
        for s in np.argsort(-wanted, kind="stable").tolist():
            mine = np.flatnonzero(can & (best == s) & (fine == thin))
            if not len(mine):
                continue
            towards = ways[(sides == s) & clear[mine].any(axis=0)].mean(axis=0)
            towards /= max(float(np.linalg.norm(towards)), 1e-9)
            order = mine[np.argsort(-(at[mine] @ towards), kind="stable")]
            x, y, z = (float(v) for v in towards)
            name: Side = SIDES[s] if s < len(SIDES) else "below"
            groups.append(Group(name, (x, y, z), tuple(order.tolist()), thin, float(minutes[mine].sum())))
    return Removal(
        tuple(groups), tuple(np.flatnonzero(~can).tolist()), tuple(np.flatnonzero(locked_in(figure, tips)).tolist())
    )


def _sides(ways: F8, front: F8) -> NDArray[np.int64]:
    """Of each way (d, 3) the index of its side among SIDES, or one beyond for from below."""
    flat = np.array(front, float)[:2]
    ahead = np.arctan2(flat[1], flat[0]) if np.linalg.norm(flat) > 1e-6 else -np.pi / 2
    turn = np.arctan2(ways[:, 1], ways[:, 0]) - ahead
    quarter = np.round(turn / (np.pi / 2)).astype(np.int64) % 4
    # Anticlockwise from its front, as seen from above, comes its own left.
    named = np.array([0, 3, 2, 1])[quarter]
    return np.where(ways[:, 2] < np.sin(min(LIFTS)) + 1e-6, len(SIDES), named)
