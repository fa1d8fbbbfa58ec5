"""The figure's own *up*: guessed from what it stands on, how it would stand, and the faces that are found on it.

Files come with z up, y up, or lying. Nothing is turned by a guess: `up` is a direction of the file's frame, and what
speaks of height, eye, crown, sight or lean speaks of it.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import ConvexHull, QhullError

from ..look import Face, find_faces
from ..look.views import frame
from ..marks import Plane, mirror_plane
from ..mesh import Mesh, hull_corners
from .directions import Direction, DirectionError, resting_directions, rotation_to_plate, unit, unit_vector
from .stance import Stance, Stances

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
HABIT = {"z": 0.35, "y": 0.26}
"""Prior: how readily the file's z, or else its y, is taken for up where the figure itself says nothing."""
FLAT, REST, STANDS, ZERO, MIRROR, HEAVY = 0.9, 0.35, 0.15, 0.12, 0.3, 0.3
"""Priors: what a flat foot, a broad stance, any stance, a foot at the file's zero, a mirror that stands upright and a
low middle are worth.
"""
STANCE, LEGS, LIGHTER = 0.3, 0.2, 0.2
"""Priors: what its middle over a broad stance, three feet or more, and a back lighter than its underside are worth."""
SPREAD_ENOUGH, LIGHTER_BY = 0.6, 0.1
"""Prior: a stance over this share of the shadow, or a back that sees so much more of the sky, is as good as any."""
SEEN_FACE = 0.5
"""Prior: what a face that is found the right way up is worth."""
ASKEW, ON_TIPS = 0.2, 0.5
"""Priors: sculptors work along the axes; what stands on none of them was turned by someone, which is rarer. A way that
was found by resting on it stands by that alone: on tips that lie apart any bundle of spikes does, which speaks half.
"""
STRAIGHTER = 0.002
"""Prior: a flat foot larger by this share of the squared size says that the file was turned."""
FLAT_ENOUGH, REST_ENOUGH = 0.4, 0.6
"""Prior: a flat foot of this share of what the figure covers of the table, or a stance as broad, is as good as any."""
NEAR_DEG = 9.0
"""Prior: a file is tilted by so much at most: a resting face that is nearer to a way up is that way."""
ON_FEET, BROAD = 0.05, 0.04
"""Priors: what has less of a flat foot, by what it covers of the table, stands on feet; and is set down level on them
where they span so much and are near.
"""
BASE = 0.006
"""Prior: the foot's faces lie within this share of the figure's size above its lowest point."""
SURE = 0.15
"""Prior: a guess better than the next by less is told as unsure."""
ALIKE_COS = float(np.cos(np.radians(15.0)))
"""Prior: ways up that are nearer to each other are one way up."""
CANDIDATES = 30
MOST_FACED = 3
"""So many of the likeliest are looked at for a face."""
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

    Raises:
        DirectionError: `bad-direction`.
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


def guess_up(
    mesh: Mesh,
    most: int = 6,
    mirror: Plane | None = None,
    faces: Callable[[Direction], Sequence[Face]] | None = None,
) -> list[Up]:
    """Directions that may be up, the likeliest first; the file's axes and what the figure rests on are weighed.

    `mesh` is a working mesh or a thinned copy of it, `mirror` its plane and `faces` those of a figure that stands on an
    up, where they are at hand. A flat broad foot with the
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
            more = _foot(mesh, np.array(direction)) - _foot(mesh, np.array(downs[near[0]]))
            if more > STRAIGHTER * float(mesh.size @ mesh.size):
                downs[near[0]] = tuple(direction)  # the file was turned a little, and the foot says how far
        else:
            downs.append(tuple(direction))
            steady[len(downs) - 1] = float(area)
    down = np.array(downs, float)
    hull = hull_corners(mesh)
    evidence = _evidence(mesh, hull, down, np.array([steady[i] for i in range(len(downs))]))
    stances = Stances(mesh)
    plane = mirror_plane(mesh) if mirror is None else mirror
    names = list(AXES)
    # A box is flat on all its sides: what is flat the more ways tells the less of which is a foot.
    flats = evidence.flat[: len(names)]
    rare = float(flats.sum() / max(float(flats.max()), 1e-9)) ** -0.5 if flats.max() > 0 else 1.0
    ups = []
    for i, d in enumerate(down):
        habit = HABIT.get(names[i], 0.0) if i < len(names) else 0.0
        flat, stands = min(1.0, evidence.flat[i] / FLAT_ENOUGH), min(1.0, evidence.rest[i] / REST_ENOUGH)
        across = 0.0 if plane is None else abs(float(np.dot(plane.normal, d)))
        stance = stances.of(d)
        found = i >= len(names)  # by resting on it
        rests = ON_TIPS if found and stance.feet > 1 else 1.0
        score = (
            FLAT * rare * flat * (1.0 if evidence.rest[i] > 0 else 0.5)
            + rests * (REST * stands + STANDS * (evidence.rest[i] > 0))
            + habit
        )
        score += ZERO * (evidence.zero[i] < 0.005) * (i < len(names)) + HEAVY * (0.5 - evidence.middle[i])
        score += MIRROR * (0.5 - across) if plane is not None else 0.0
        score += 0.5 * _standing(stance) - ASKEW if found else _standing(stance)
        x, y, z = unit(-d)
        why = _why(names[i] if i < len(names) else None, flat, stands, stance)
        ups.append(Up((x, y, z), float(score), why))
    ups = sorted(ups, key=lambda u: -u.score)
    ups = ups if is_sure(ups) else _by_faces(ups, faces or partial(find_faces, mesh))
    level: dict[Direction, Up] = {}
    for up in ups[:most]:  # two that are set level on the same feet are one
        direction = _levelled(mesh, hull, up.direction, rest, areas)
        level.setdefault(direction, replace(up, direction=direction))
    return list(level.values())


def _levelled(mesh: Mesh, hull: F8, up: Direction, rest: F8, areas: F8) -> Direction:
    """The up of what stands on feet and not on a foot as it would stand on a table: on the broadest resting face that
    is near.
    """
    down = -np.array(up)
    shadow = _shadow(hull, down)
    near = (rest @ down > np.cos(np.radians(NEAR_DEG))) & (areas > BROAD * shadow) if len(rest) else np.zeros(0, bool)
    if not near.any() or _foot(mesh, down) >= ON_FEET * shadow:
        return up
    return unit(-rest[int(np.argmax(np.where(near, areas, 0.0)))])


def _standing(stance: Stance) -> float:
    """What a stance speaks for its up."""
    broad = STANCE * min(1.0, stance.spread / SPREAD_ENOUGH) + LEGS * min(1.0, max(0, stance.feet - 1) / 2)
    return broad * stance.over + LIGHTER * float(np.clip(stance.lighter / LIGHTER_BY, -1, 1))


def _by_faces(ups: list[Up], faces_on: Callable[[Direction], Sequence[Face]]) -> list[Up]:
    """The likeliest asked again where they are hard to tell apart: a face is found the right way up only."""
    asked = []
    for up in ups[:MOST_FACED]:
        faces = faces_on(up.direction)
        more = SEEN_FACE * faces[0].sure if faces else 0.0
        asked.append(Up(up.direction, up.score + more, f"{up.why}, a face" if faces else up.why))
    return sorted([*asked, *ups[MOST_FACED:]], key=lambda u: -u.score)


def _why(axis: str | None, flat: float, stands: float, stance: Stance) -> str:
    frame = {"z": "as in the file", "y": "the file's y up"}.get(axis or "", f"the file's {axis} up" if axis else "")
    foot = "a flat foot" if flat > 0.6 else ""
    if not foot and stance.over and stance.feet > 1:
        foot = f"on {'two' if stance.feet == 2 else 'three' if stance.feet == 3 else 'four'} feet"
    foot = foot or ("steady as it stands" if stands > 0.3 else "" if axis else "a resting face")
    back = "its back lighter than its underside" if stance.lighter > 0.5 * LIGHTER_BY else ""
    return ", ".join(part for part in (frame, foot, back) if part)


def is_sure(ups: Sequence[Up]) -> bool:
    """Whether the first guess is clearly better than the next that stands otherwise."""
    first = np.array(ups[0].direction)
    others = [up for up in ups[1:] if float(first @ np.array(up.direction)) < ALIKE_COS]
    return not others or ups[0].score - others[0].score >= SURE


def _evidence(mesh: Mesh, hull: F8, down: F8, steady: F8) -> _Evidence:
    _, area = mesh.normals_and_areas()
    middles = mesh.middles()
    shadow = np.array([_shadow(hull, d) for d in down])
    flat, zero, middle = np.zeros(len(down)), np.ones(len(down)), np.full(len(down), 0.5)
    weight = max(float(area.sum()), 1e-12)
    for i, d in enumerate(down):
        depth = middles @ d
        low, high = float((mesh.vertices @ d).max()), float((mesh.vertices @ d).min())
        flat[i] = _foot(mesh, d) / shadow[i]
        zero[i] = abs(low) / max(low - high, 1e-12)
        middle[i] = (low - float((depth * area).sum()) / weight) / max(low - high, 1e-12)
    return _Evidence(flat, steady / shadow, zero, middle)


def _foot(mesh: Mesh, down: F8) -> float:
    """Area of the flat faces on which it would stand."""
    normal, area = mesh.normals_and_areas()
    depth, size = mesh.middles() @ down, float(np.linalg.norm(mesh.size))
    foot = (normal @ down > np.cos(np.radians(2.0))) & (depth > float((mesh.vertices @ down).max()) - BASE * size)
    return float(area[foot].sum())


def _shadow(corners: F8, down: F8) -> float:
    """Area of the outline of a hull with these corners (n, 3), seen along a direction."""
    flat = corners @ frame(down)[:2].T
    try:
        return max(float(ConvexHull(flat).volume), 1e-12)
    except QhullError:
        return 1e-12


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
