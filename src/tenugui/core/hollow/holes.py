"""Holes: where a cavity may be opened, and which few let it run empty."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..mesh import FAR, rays_of, surface_samples
from .cavities import Cavity, Hollowed, HollowError
from .drilling import Hole
from .liquid import WASH, Drained, Mouth, drained

F8 = NDArray[np.float64]
SPACING_MM = 1.2
"""Distance between the places that are tried."""
LONGEST = 2.5
"""Prior: a hole is drilled through no more than so many times the wall."""
EVEN_COS = 0.6
"""Prior: the surface is even enough for a hole where no sample within its diameter leans farther from it."""
HIDDEN_WEIGHT, OPEN_WEIGHT = 0.5, 1.0
"""Priors: scars weigh less than the first on what is hidden; a hole goes through nothing that weighs more than the
second.
"""
MOST_HOLES = 5
"""Prior: what does not run empty by so many wants another position, not another hole."""
ON_PLATE_MM = 1.0
"""Prior: what lies within this of the lowest point and looks down is shut by the plate."""
VENT_MM = 1.0
"""Prior: how far the vent near the plate may lie from where it serves best to be hidden."""
STOREYS = 4
"""The second hole is looked for at so many heights."""
PLUG_MIN, CROWN_MIN, LEFT_MIN = 4.0, 6.0, 10.0
"""Priors: minutes to plug a hole and sand it flush on an unmarked face, by its mark's weight elsewhere; what more
somebody gives not to have it on the crown, less with the square of its height; and what a cavity that stays full costs,
less with the share that stays.
"""
RESTS_SHARE = 0.005
"""Prior: what may stay in a cavity, of its volume."""


@dataclass(frozen=True)
class Opened:
    """A cavity with holes: the position to drip in that leaves least (`gravity`), what that leaves and takes, whether
    air comes in while it runs out, and what the fluid that it is washed with does in the same position.
    """

    holes: tuple[Hole, ...]
    gravity: tuple[float, float, float]
    drips: Drained
    vented: bool
    washes: Drained


def usual_diameter(size: F8) -> float:
    """mm: prior, 2 mm at 50 mm and 1 mm more for every doubling, 1.5 to 8.

    >>> usual_diameter(np.array([20.0, 20.0, 50.0])), usual_diameter(np.array([20.0, 20.0, 100.0]))
    (2.0, 3.0)
    """
    return round(float(np.clip(2.0 + np.log2(max(float(np.max(size)), 1.0) / 50.0), 1.5, 8.0)), 1)


@dataclass(frozen=True)
class _Candidates:
    """Places (n, 3) on the outside with their way in, wall, and the scar that they would be."""

    points: F8
    ways: F8
    lengths: F8
    weights: F8


def _candidates(hollowed: Hollowed, cavity: Cavity, diameter: float, plate: F8, weights: F8 | None) -> _Candidates:
    points, face = surface_samples(hollowed.outer, SPACING_MM, most=30_000)
    normal, _ = hollowed.outer.normals_and_areas()
    ways = -normal[face]
    scars = np.ones(len(points)) if weights is None else np.asarray(weights, float)[face]
    # What lies on the plate is closed by it for as long as the figure is printed.
    depth = points @ plate
    shut = (depth > float((hollowed.outer.vertices @ plate).max()) - ON_PLATE_MM) & (ways @ plate < -0.5)
    open_to = (scars <= OPEN_WEIGHT) & ~shut
    tree = cKDTree(points)
    near = tree.query_ball_point(points[open_to], diameter, workers=-1)
    even = np.array([float((normal[face[n]] @ -w).min()) for n, w in zip(near, ways[open_to], strict=True)])
    kept = np.flatnonzero(open_to)[even > EVEN_COS]
    lengths, hit = rays_of(cavity.surface).first(points[kept], ways[kept])
    fits = (hit >= 0) & (lengths < min(LONGEST * hollowed.wall, FAR))
    if hollowed.came:  # its inside is surface too, and nothing is drilled from there
        far, _ = cKDTree(cavity.space.middles).query(points[kept])
        fits &= far > 1.5 * cavity.space.width
    return _Candidates(points[kept][fits], ways[kept][fits], np.asarray(lengths[fits]), scars[kept][fits])


def mouth_of(cavity: Cavity, hole: Hole) -> Mouth:
    """The cells that a hole opens: those in its bore just behind the wall."""
    space = cavity.space
    point, axis = np.array(hole.point), np.array(hole.axis)
    away = space.middles - point
    along = away @ axis
    across = np.linalg.norm(away - along[:, None] * axis, axis=1)
    bore = (across <= max(hole.diameter / 2, space.width)) & (along > 0)
    if not bore.any():
        return Mouth(np.empty(0, np.int64), hole.diameter / 2, hole.length)
    first = float(along[bore].min())
    return Mouth(np.flatnonzero(bore & (along < first + 2 * space.width)), hole.diameter / 2, hole.length)


def _hole(place: _Candidates, i: int, diameter: float) -> Hole:
    point, way = place.points[i], place.ways[i]
    return Hole(
        (float(point[0]), float(point[1]), float(point[2])),
        (float(way[0]), float(way[1]), float(way[2])),
        diameter,
        float(place.lengths[i]),
    )


def _extreme(candidates: _Candidates, way: F8, cedes: float) -> int | None:
    """The candidate farthest along a way, on what is hidden where that costs no more than `cedes` mm of it."""
    if not len(candidates.points):
        return None
    hidden = candidates.weights < HIDDEN_WEIGHT
    return int(np.argmax(candidates.points @ way + np.where(hidden, cedes, 0.0)))


def _second(cavity: Cavity, candidates: _Candidates, vent: int, wide: float, plate: F8) -> tuple[list[int], Opened]:
    """The vent and the hole that lets air in while it runs out: of the least seen places at several heights the one
    that is the least trouble, to whoever turns the figure over the vat and to whoever plugs it.
    """
    height = -(candidates.points @ plate)
    low, tall = float(height.min()), max(float(np.ptp(height)), 1e-9)
    storey = np.minimum(((height - low) / tall * STOREYS).astype(int), STOREYS - 1)
    apart = np.linalg.norm(candidates.points - candidates.points[vent], axis=1)
    seen = PLUG_MIN * candidates.weights + CROWN_MIN * ((height - low) / tall) ** 2
    offered = []
    for k in range(STOREYS):
        mine = np.flatnonzero((storey == k) & (apart >= 3 * wide))
        if len(mine):
            least = mine[candidates.weights[mine] <= candidates.weights[mine].min() + 1e-9]
            offered.append(int(least[np.argmax(apart[least])]))
    best: tuple[float, list[int], Opened] | None = None
    for far in sorted(offered, key=lambda i: float(seen[i])):
        if best is not None and seen[far] >= best[0]:
            break  # to plug it would be more trouble than all of the best
        opened = judged(cavity, [_hole(candidates, i, wide) for i in (vent, far)], plate)
        seconds = PATIENCE_S if opened.drips.seconds is None else opened.drips.seconds
        stays = (opened.drips.retained + opened.drips.clings) / max(cavity.volume, 1e-9)
        trouble = float(seconds / 60 + LEFT_MIN * stays + seen[far])
        if best is None or trouble < best[0]:
            best = trouble, [vent, far], opened
    if best is None:  # one hole without air, where there is room for no other
        return [vent], judged(cavity, [_hole(candidates, vent, wide)], plate)
    return best[1], best[2]


def _positions(cavity: Cavity, holes: Sequence[Hole], down: F8) -> list[F8]:
    """Ways to hold it: as it was printed and upside down, and with each hole lowest."""
    middle = cavity.space.middles.mean(axis=0)
    ways = [down, -down]
    for hole in holes:
        way = np.array(hole.point) - middle
        ways += [way / max(float(np.linalg.norm(way)), 1e-9), -np.array(hole.axis)]
    return ways


def bores(hollowed: Hollowed, cavity: Cavity, down: F8, weights: F8 | None = None) -> list[Hole]:
    """Every place where a hole of the usual width may be drilled into a cavity, the one that serves best near the plate
    first; none where the surface is nowhere even enough.
    """
    wide, plate = usual_diameter(hollowed.outer.size), np.asarray(down, float) / np.linalg.norm(down)
    candidates = _candidates(hollowed, cavity, wide, plate, weights)
    vent = _extreme(candidates, plate, VENT_MM)
    if vent is None:
        return []
    return [_hole(candidates, i, wide) for i in (vent, *(k for k in range(len(candidates.points)) if k != vent))]


def judged(cavity: Cavity, holes: Sequence[Hole], down: F8) -> Opened:
    """A cavity with these holes, held in the position that leaves least. `down` points at the plate."""
    mouths = [*(mouth_of(cavity, hole) for hole in holes), *cavity.own]
    open_ = [m for m in mouths if len(m.cells)]
    tried = [(drained(cavity.space, open_, way), way) for way in _positions(cavity, holes, down)]
    best, way = min(tried, key=lambda t: (t[0].retained + t[0].clings, t[0].seconds or 0.0))
    washes = drained(cavity.space, open_, way, WASH)
    return Opened(tuple(holes), (float(way[0]), float(way[1]), float(way[2])), best, len(open_) >= 2, washes)


def suggest(
    hollowed: Hollowed,
    cavity: Cavity,
    down: F8,
    *,
    diameter: float | None = None,
    weights: F8 | None = None,
) -> Opened:
    """The fewest holes that let a cavity run empty: one near the plate, so that it breathes while it is printed, one at
    the far end, and one for each pocket that would stay.

    `weights` (faces of `made.outer`,): what a scar counts; a hole goes through nothing that counts more than an
        unmarked face.

    Raises:
        HollowError: `no-place` where nothing of the outside may be drilled.
    """
    if diameter is None:
        return _wide_enough(hollowed, cavity, down, weights)
    wide = diameter
    if not 0.3 <= wide <= 20:
        raise HollowError("bad-diameter", f"A hole of {wide:g} mm is out of range.", remedy="Give 0.3 to 20 mm.")
    plate = np.asarray(down, float) / np.linalg.norm(down)
    candidates = _candidates(hollowed, cavity, wide, plate, weights)
    # Until the layers reach its lowest hole a cavity sucks with all its section, so that one cedes nearly nothing.
    vent = _extreme(candidates, plate, VENT_MM)
    if vent is None:
        raise HollowError(
            "no-place",
            "No hole can be placed: the wall is too uneven or too thick, or everything is marked to be shown.",
            remedy="Mark a hidden place, make the wall thinner, or place the holes yourself.",
        )
    taken, opened = _second(cavity, candidates, vent, wide, plate)
    while len(taken) < MOST_HOLES and opened.drips.retained > RESTS_SHARE * cavity.volume:
        pocket = cavity.space.middles[opened.drips.filled]
        lowest = pocket[np.argmax(pocket @ np.array(opened.gravity))]
        away = np.linalg.norm(candidates.points - lowest, axis=1)
        for t in taken:
            away[np.linalg.norm(candidates.points - candidates.points[t], axis=1) < 2 * wide] = np.inf
        if not np.isfinite(away.min()):
            break
        taken.append(int(np.argmin(away)))
        better = judged(cavity, [_hole(candidates, i, wide) for i in taken], plate)
        if better.drips.retained >= opened.drips.retained:
            taken.pop()
            break
        opened = better
    return opened


WIDER, TRIES = 1.35, 4
PATIENCE_S = 240.0
"""Prior: how long somebody holds a figure over the vat."""
CLINGS_SHARE = 0.03
"""Prior: what surface tension may hold back in the lowest hole, of the cavity, before a wider one is taken."""


def _wide_enough(hollowed: Hollowed, cavity: Cavity, down: F8, weights: F8 | None) -> Opened:
    """Holes of the usual width, or wider where the liquid would not come out of those; the last that could be
    placed.
    """
    wide, best = usual_diameter(hollowed.outer.size), None
    for _ in range(TRIES):
        try:
            opened = suggest(hollowed, cavity, down, diameter=round(wide, 1), weights=weights)
        except HollowError:
            if best is None:
                raise
            break
        if best is None or opened.drips.clings + opened.drips.retained < best.drips.clings + best.drips.retained:
            best = opened
        seconds = opened.drips.seconds
        if opened.drips.clings <= CLINGS_SHARE * cavity.volume and seconds is not None and seconds <= PATIENCE_S:
            break
        wide *= WIDER
    assert best is not None
    return best
