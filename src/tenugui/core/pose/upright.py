"""The figure's own *up*: guessed from what it stands on, and its *front*, from its mirror and its relief.

Files come with z up, y up, or lying. Nothing is turned by a guess: `up` is a direction of the file's frame, and what
speaks of height, eye, crown, sight or lean speaks of it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import ConvexHull, QhullError

from ..marks import Plane, mirror_plane
from ..mesh import Mesh
from .directions import Direction, DirectionError, resting_directions, rotation_to_plate, unit, unit_vector

F8 = NDArray[np.float64]
Z_UP: Direction = (0.0, 0.0, 1.0)
AXES: dict[str, Direction] = {
    "z": Z_UP,
    "y": (0.0, 1.0, 0.0),
    "-z": (0.0, 0.0, -1.0),
    "-y": (0.0, -1.0, 0.0),
    "x": (1.0, 0.0, 0.0),
    "-x": (-1.0, 0.0, 0.0),
}
HABIT = {"z": 0.35, "y": 0.22}
"""Prior: how readily the file's z, or else its y, is taken for up where the figure itself says nothing."""
FLAT, REST, STANDS, ZERO, MIRROR, HEAVY = 0.9, 0.35, 0.15, 0.12, 0.2, 0.3
"""Priors: what a flat foot, a broad stance, any stance, a foot at the file's zero, a mirror that stands upright and a
low middle are worth.
"""
ASKEW = 0.15
"""Prior: sculptors work along the axes; what stands on none of them was turned by someone, which is rarer."""
FLAT_ENOUGH, REST_ENOUGH = 0.4, 0.6
"""Prior: a flat foot of this share of what the figure covers of the table, or a stance as broad, is as good as any."""
NEAR_DEG = 4.0
"""Prior: a resting face so close to an axis is that axis."""
BASE = 0.006
"""Prior: the foot's faces lie within this share of the figure's size above its lowest point."""
SURE = 0.15
"""Prior: a guess better than the next by less is told as unsure."""
CANDIDATES = 30
SNAP_DEG = 12.0
"""Prior: a face that was pointed at stands for the resting face within this angle."""


@dataclass(frozen=True)
class Up:
    """A unit vector of the file's frame that may be up, how much speaks for it, and what."""

    direction: Direction
    score: float
    why: str


@dataclass(frozen=True)
class _Evidence:
    """Shares of each direction down (n,): flat foot and steady stance over the shadow; the foot's height over the
    extent; the middle's height.
    """

    flat: F8
    rest: F8
    zero: F8
    middle: F8


def up_of(text: str) -> Direction | None:
    """`x`, `y`, `z`, their opposites, or None for `auto`.

    >>> up_of("-y"), up_of("auto")
    ((0.0, -1.0, 0.0), None)
    """
    if text == "auto":
        return None
    if text not in AXES:
        raise DirectionError("bad-direction", f"'{text}' is no direction.", remedy="Give x, y, z, -x, -y, -z or auto.")
    return AXES[text]


def height_along(points: F8, up: Direction) -> float:
    """Extent of points (n, 3) along `up`."""
    heights = points @ np.array(up)
    return float(heights.max() - heights.min())


LONG, HEAD_SHARE = 1.25, 0.05
"""Priors: what is so many times as long as wide, or longer than tall, is a beast; its head is the end that carries so
much more of its upper half.
"""


def guess_up(mesh: Mesh, most: int = 6, mirror: Plane | None = None) -> list[Up]:
    """Directions that may be up, the likeliest first; the file's axes and what the figure rests on are weighed.

    `mesh` is a working mesh or a thinned copy of it, `mirror` its plane where it is at hand. A flat broad foot with the
    figure above it decides; else the stance, the habit of files, the mirror plane, which is upright in all but a few
    figures, and where its middle is.
    """
    rest, areas = resting_directions(mesh, CANDIDATES)
    downs = [tuple(-c for c in up) for up in AXES.values()]
    steady = dict.fromkeys(range(len(downs)), 0.0)
    for direction, area in zip(rest, areas, strict=True):
        near = [i for i, d in enumerate(downs) if float(np.dot(d, direction)) > np.cos(np.radians(NEAR_DEG))]
        if near:
            steady[near[0]] = max(steady[near[0]], float(area))
        else:
            downs.append(tuple(direction))
            steady[len(downs) - 1] = float(area)
    down = np.array(downs, float)
    told = _evidence(mesh, down, np.array([steady[i] for i in range(len(downs))]))
    plane = mirror_plane(mesh) if mirror is None else mirror
    names = list(AXES)
    found = []
    for i, d in enumerate(down):
        habit = HABIT.get(names[i], 0.0) if i < len(names) else 0.0
        flat, stands = min(1.0, told.flat[i] / FLAT_ENOUGH), min(1.0, told.rest[i] / REST_ENOUGH)
        across = 0.0 if plane is None else abs(float(np.dot(plane.normal, d)))
        score = FLAT * flat * (1.0 if told.rest[i] > 0 else 0.5) + REST * stands + STANDS * (told.rest[i] > 0) + habit
        score += ZERO * (told.zero[i] < 0.005) * (i < len(names)) + HEAVY * (0.5 - told.middle[i])
        score += MIRROR * (0.5 - across) if plane is not None else 0.0
        score -= ASKEW * (i >= len(names))
        x, y, z = unit(-d)
        found.append(Up((x, y, z), float(score), _why(names[i] if i < len(names) else None, flat, stands)))
    return sorted(found, key=lambda u: -u.score)[:most]


def _why(axis: str | None, flat: float, stands: float) -> str:
    frame = {"z": "as in the file", "y": "the file's y up"}.get(axis or "", f"the file's {axis} up" if axis else "")
    foot = "a flat foot" if flat > 0.6 else "steady as it stands" if stands > 0.3 else "" if axis else "a resting face"
    return ", ".join(part for part in (frame, foot) if part)


def is_sure(found: Sequence[Up]) -> bool:
    """Whether the first guess is clearly better than the second."""
    return len(found) < 2 or found[0].score - found[1].score >= SURE


def _evidence(mesh: Mesh, down: F8, steady: F8) -> _Evidence:
    normal, area = mesh.normals_and_areas()
    middles = mesh.middles()
    size = float(np.linalg.norm(mesh.size))
    shadow = np.array([_shadow(mesh, d) for d in down])
    flat, zero, middle = np.zeros(len(down)), np.ones(len(down)), np.full(len(down), 0.5)
    weight = max(float(area.sum()), 1e-12)
    for i, d in enumerate(down):
        depth = middles @ d
        low, high = float((mesh.vertices @ d).max()), float((mesh.vertices @ d).min())
        foot = (normal @ d > np.cos(np.radians(2.0))) & (depth > low - BASE * size)
        flat[i] = float(area[foot].sum()) / shadow[i]
        zero[i] = abs(low) / max(low - high, 1e-12)
        middle[i] = (low - float((depth * area).sum()) / weight) / max(low - high, 1e-12)
    return _Evidence(flat, steady / shadow, zero, middle)


def _shadow(mesh: Mesh, down: F8) -> float:
    """Area of the hull's outline seen along a direction."""
    side = np.cross(down, [1.0, 0, 0] if abs(down[0]) < 0.9 else [0, 1.0, 0])
    side /= np.linalg.norm(side)
    flat = mesh.vertices @ np.stack([side, np.cross(down, side)], axis=1)
    try:
        return max(float(ConvexHull(flat).volume), 1e-12)
    except QhullError:
        return 1e-12


def front_of(mesh: Mesh, up: Direction, mirror: Plane | None = None) -> Direction:
    """Where the figure faces: along its mirror plane; what is long that way, a beast, to where it carries more of its
    upper half, its head; anything else to the side that shows more relief. The file's custom where it has no mirror.

    Custom: -y where z is up; else what is turned there by the shortest turn.
    """
    u = np.array(up)
    usual = rotation_to_plate(-u).T @ np.array([0.0, -1.0, 0.0])
    plane = mirror_plane(mesh) if mirror is None else mirror
    if plane is None:
        return unit(usual)
    ahead = np.cross(u, plane.normal)
    if np.linalg.norm(ahead) < 0.7:
        return unit(usual)
    ahead /= np.linalg.norm(ahead)
    head = _head(mesh, u, ahead)
    if head:
        return unit(ahead if head > 0 else -ahead)
    normal, area = mesh.normals_and_areas()
    level = 1 - np.abs(normal @ u)  # what looks up or down says nothing of the front
    sides = [float(_roughness(normal, area * level * np.clip(normal @ (s * ahead), 0, None))) for s in (1, -1)]
    if abs(sides[0] - sides[1]) < 0.02:
        return unit(ahead if float(ahead @ usual) >= 0 else -ahead)
    return unit(ahead if sides[0] > sides[1] else -ahead)


def _head(mesh: Mesh, up: F8, ahead: F8) -> float:
    """How far the upper half of a long body lies ahead of its middle, in halves of its length; 0 for what is not long,
    or carries it in the middle.
    """
    along, across = mesh.vertices @ ahead, mesh.vertices @ np.cross(up, ahead)
    if np.ptp(along) < min(LONG * np.ptp(across), np.ptp(mesh.vertices @ up)):
        return 0.0
    _, area = mesh.normals_and_areas()
    middles, heights = mesh.middles(), mesh.vertices @ up
    upper = area * (middles @ up > (heights.min() + heights.max()) / 2)
    half, middle = np.ptp(along) / 2, (along.min() + along.max()) / 2
    share = float((upper * (middles @ ahead - middle)).sum()) / max(float(upper.sum()), 1e-12) / half
    return share if abs(share) > HEAD_SHARE else 0.0


def _roughness(normal: F8, weight: F8) -> float:
    """How far the normals of a side spread, 0 for a plane."""
    total = float(weight.sum())
    if total <= 0:
        return 0.0
    return 1 - float(np.linalg.norm((normal * weight[:, None]).sum(axis=0))) / total


def settled_up(mesh_hull: F8, pointed: Direction) -> Direction:
    """The up for a face that was pointed at: its opposite, or that of the resting face of the hull (n, 3) close
    to it.
    """
    rest, _ = resting_directions(Mesh(mesh_hull, np.empty((0, 3), np.int32)))
    down = np.array(unit(pointed))
    if len(rest):
        best = rest[int(np.argmax(rest @ down))]
        if float(best @ down) > np.cos(np.radians(SNAP_DEG)):
            return unit(-best)
    return unit(-down)


def standing(up: Direction, front: Direction | None = None) -> F8:
    """3x3 rotation that stands a figure up: `up` to z, and its `front` to -y; the shortest turn where no front is
    given.

    >>> (standing((0.0, 1.0, 0.0)) @ [0.0, 1.0, 0.0]).round(9).tolist()
    [0.0, 0.0, 1.0]
    """
    u = unit_vector(up)
    if front is None:
        return rotation_to_plate(-u)
    ahead = np.array(front) - u * float(np.dot(front, u))
    if np.linalg.norm(ahead) < 1e-6:
        return rotation_to_plate(-u)
    ahead /= np.linalg.norm(ahead)
    return np.stack([np.cross(-ahead, u), -ahead, u])
