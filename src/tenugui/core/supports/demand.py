"""Where a posed figure needs holding: islands first, then slopes beyond the limit, at the pitch that load and stiffness
ask for.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..compiled import njit
from ..layers import LANDS_MM, Island, Proof, alone_mm, bridged, is_slight, relief_mm, runs_of
from ..machines import USUAL_RISK, Context
from ..mesh import Mesh
from .contact import Contact
from .edges import points_on_edges, points_on_keels
from .holds import tip_hold
from .inside import INSIDE_WEIGHT
from .load import GRIP_MM, LEAST_PULL_N, BodyLoad, body_at, body_loads
from .manner import STOUT_TIP_MM, THINNEST_TIP_MM, Manner, manner_of, margin_of, safety_factor
from .margins import Carrying, worse
from .reach import APART_MM, BARRED, REACHED_FROM_BELOW, Reachable, spread_on
from .regions import worth_carrying
from .touch import bare_below, touched

__all__ = ["Demand", "find_demand"]

F8 = NDArray[np.float64]
I8 = NDArray[np.int64]
B1 = NDArray[np.bool_]
SHARED_MM = 0.45
"""Prior: specks of relief closer than this often hang on one tip."""
LEFT_RISKS = (0.01, 0.05, 0.15)
"""Priors: who accepts such a risk a tip leaves what starts in mid air to itself where it joins within a share of what
counts as relief (`Manner.left_shares`), at the price of a mark: a film tears it off, a nozzle only draws it roughly.
"""
SPECK = 0.5
"""Prior: what is wider than this share of the pitch on a flat is no speck, however soon it joins."""
ROOM_MM, WALL_MM = 0.3, 1.0
"""A tip wants so much room between itself and a wall beside it, which is what stands so near so far below; there a
layer clings to the wall anyway.
"""
MAX_TIPS = 4000
ROUNDS = 6
"""A tip moves the middle of what holds a body; what is strained most then is asked again so many times."""
NEAR_PULL_MM = 3.0
"""Prior: a tip so much nearer to the pull is worth a scar that weighs 2 more."""
SIDEWAYS = 0.3
"""Prior: a mm beside the line from the middle of the holds to the pull is so much less bad than one short of it."""
FEW_SPOTS = 100
"""Spots that are sorted for each that is wanted; all of them only where those do not suffice."""
APART = 2.2
"""Prior: as APART_MM, in diameters of the tips."""


@dataclass(frozen=True)
class Demand:
    """Points (n, 3) in build coordinates to hold, why (`island`, `hold`, `overhang` or `load`), and the width of the
    feature there in mm; how many more there were than MAX_TIPS. `spared` (k, 4): x, y, z and width of specks that a
    neighbour's tip may hold too. `wide` (n,): diameters that are asked for, where the width does not say.
    """

    points: F8
    reasons: list[str]
    widths: F8
    left_out: int = 0
    spared: F8 | None = None
    wide: F8 | None = None


@njit()
def _thrown(points: F8, radii: F8, held: F8, share: float, most: int, order: I8) -> int:
    count = 0
    for i in range(len(points)):
        free = True
        reach = (share * radii[i]) ** 2
        for k in range(len(held)):
            x, y, z = points[i, 0] - held[k, 0], points[i, 1] - held[k, 1], points[i, 2] - held[k, 2]
            if x * x + y * y + z * z <= reach:
                free = False
                break
        for k in range(count if free else 0):
            j = order[k]
            x, y, z = points[i, 0] - points[j, 0], points[i, 1] - points[j, 1], points[i, 2] - points[j, 2]
            if x * x + y * y + z * z <= radii[j] * radii[j]:
                free = False
                break
        if free:
            order[count] = i
            count += 1
            if count == most:
                break
    return count


def _poisson(points: F8, radii: F8, held: F8, share: float = 0.7, most: int | None = None) -> I8:
    """Dart throwing over candidate points in order: kept when farther than their radius from all kept before, and than
    `share` of it from `held`, until there are `most`.
    """
    order = np.empty(len(points), np.int64)
    given = np.ascontiguousarray(points, float).reshape(-1, 3)
    there = np.ascontiguousarray(held, float).reshape(-1, 3)
    count = _thrown(
        given, np.ascontiguousarray(radii, float), there, share, len(points) if most is None else most, order
    )
    return order[:count]


def _on_steep_faces(
    mesh: Mesh, proof: Proof, context: Context, *, manner: Manner, tip_mm: float, risk: float
) -> tuple[F8, F8, B1]:
    """Candidate points on keels and on faces beyond the limit, where a scar costs least first, of those alike on sharp
    edges, then lowest first; their pitch, and which are on keels.
    """
    normal, area = mesh.normals_and_areas()
    # Nothing that ends in a gap has room so near to the plate, and what hangs there lies on it; lines sag onto whatever
    # is close below them, and out of so narrow a slot no support is got again.
    sags = 0.0 if context.printer.peels else LANDS_MM
    least = max(2 * context.height + Contact.of(context).gap, sags)
    top = mesh.vertices[mesh.faces, 2].max(axis=1)
    steep = (-normal[:, 2] > math.sin(context.limit_angle)) & (top > least) & (area > 0)
    cost = np.ones(len(mesh.faces)) if context.weights is None else context.weights
    faces = np.flatnonzero(steep & (cost < BARRED))
    slopes = np.arccos(np.clip(-normal[faces, 2], -1, 1))
    grid = np.linspace(0, math.pi / 2, 64)
    pitches = np.interp(slopes, grid, [manner.pitch_mm(float(s), tip_mm, risk) for s in grid])
    downward = (normal[:, 2] < 0) & ~steep & (top > least) & (area > 0) & (cost < BARRED)
    flat = manner.pitch_mm(0.0, tip_mm, risk)
    sharp, of_sharp = points_on_keels(mesh, downward, limit_angle=context.limit_angle, pitch=flat, inset=tip_mm / 8)
    edge, of_edge = points_on_edges(mesh, faces, pitches, tip_mm / 2)
    inner, of_inner = spread_on(mesh, faces, 8 * area[faces] / pitches**2)
    points = np.concatenate([sharp, edge, inner])
    on = np.concatenate([of_sharp, faces[of_edge], faces[of_inner]])
    pitch = np.concatenate([np.full(len(sharp), flat), pitches[of_edge], pitches[of_inner]])
    kind = np.repeat([0, 1, 2], [len(sharp), len(edge), len(inner)])
    if not len(points):
        return points, pitch, kind == 0
    # Of a large face one end may lie on the plate and the other high above it.
    kept = np.flatnonzero(points[:, 2] > least)
    # Asked of every point: of a large face one end may lie inside another shell and the other in the open. A ledge
    # clings to what lies beside it; a long slope of the least lean that wants holding has nothing within reach from so
    # far down on. Who accepts more risk lets it reach farther, as far as the safety of its root.
    clings = manner.free_mm * math.sqrt(safety_factor(USUAL_RISK) / margin_of(context, risk))
    down = max(0.0, clings / math.tan(context.limit_angle) - context.height)
    points, on, pitch, kind = points[kept], on[kept], pitch[kept], kind[kept]
    open_ = bare_below(proof, points) & bare_below(proof, points - [0.0, 0.0, down], clings)
    open_ &= bare_below(proof, points - [0.0, 0.0, WALL_MM], tip_mm / 2 + ROOM_MM)
    for deep in np.arange(context.height, sags, context.height):
        open_ &= bare_below(proof, points - [0.0, 0.0, deep])
    kept = np.flatnonzero(open_)
    kept = kept[~bridged(proof.stack, points[kept], context.bridge)]
    points, pitch, kind, price = points[kept], pitch[kept], kind[kept], cost[on[kept]]
    order = np.lexsort((points[:, 1], points[:, 0], np.round(points[:, 2], 1), kind > 1, price))
    return points[order], pitch[order], kind[order] == 0


def _island_points(proof: Proof, islands: list[Island], pitch: float) -> tuple[F8, F8]:
    """Each island's middle, and more at the pitch where its first layer is wide; with the feature's smaller width."""
    points, widths = [], []
    for island in islands:
        width = float(proof.components.width[island.component].min())
        chosen = [(island.x, island.y)]
        if island.area > pitch**2:
            runs = runs_of(proof.stack, proof.components, island.component)
            inset = 0.15
            lines = runs[:: max(1, round(pitch / proof.stack.grid.pitch / 4))]
            cells = [(x, y) for y, a, b in lines for x in np.arange(a + inset, b - inset + 1e-9, pitch / 4)]
            grid = np.array(cells).reshape(-1, 2)
            flat, taken = np.pad(grid, ((0, 0), (0, 1))), np.array([[*chosen[0], 0.0]])
            kept = _poisson(flat, np.full(len(grid), pitch), taken)
            chosen += [(float(grid[i, 0]), float(grid[i, 1])) for i in kept]
        for x, y in chosen:
            points.append((x, y, island.z))
            widths.append(width)
    return np.array(points).reshape(-1, 3), np.array(widths)


def left_alone_mm(risk: float, height: float, shares: tuple[float, float, float]) -> float:
    """Within which height what starts in mid air has to join something to be left to itself, for who accepts `risk` a
    tip.

    >>> [left_alone_mm(risk, 0.05, (0.0, 0.5, 1.0)) for risk in (0.01, 0.05, 0.2)]
    [0.0, 0.15, 0.3]
    """
    share = float(np.interp(math.log(risk), [math.log(r) for r in LEFT_RISKS], shares))
    return round(share * relief_mm(height), 9)


def left_to_itself(island: Island, height: float, left_mm: float, pitch: float) -> bool:
    """Whether nothing holds an island: it joins within `left_mm`, and is a speck beside the `pitch` of tips."""
    return alone_mm(island, height) <= left_mm and island.area <= (SPECK * pitch) ** 2


def _on_specks(proof: Proof, points: F8, left_mm: float, pitch: float) -> B1:
    """Which points (n, 3) lie on what is left to itself, below where it joins."""
    parts, height = proof.components, proof.stack.grid.height
    until = np.zeros(len(parts.layer), np.int64)
    for island in proof.islands:
        if left_to_itself(island, height, left_mm, pitch):
            until[island.component] = island.until_layer
    above, below = parts.links.T
    for _ in range(math.ceil(left_mm / height) + 1):  # as many layers as a speck has, one a round
        grows = (parts.layer[above] < until[below]) & (until[above] < until[below])
        if not grows.any():
            break
        np.maximum.at(until, above[grows], until[below[grows]])
    speck = (until > parts.layer) & (parts.area <= (SPECK * pitch) ** 2)
    on = touched(proof, points)
    return np.asarray((on >= 0) & speck[np.maximum(on, 0)])


def _held_points(mesh: Mesh, proof: Proof, hold: B1, pitch: float, taken: F8) -> F8:
    """Points on marked faces that a tip can reach from below, lowest first, at the pitch."""
    normal, area = mesh.normals_and_areas()
    faces = np.flatnonzero(hold & (normal[:, 2] < -REACHED_FROM_BELOW) & (area > 0))
    if not len(faces):
        return np.empty((0, 3))
    points, _ = spread_on(mesh, faces, 8 * area[faces] / pitch**2)
    points = points[bare_below(proof, points)]
    points = points[np.lexsort((points[:, 1], points[:, 0], np.round(points[:, 2], 1)))]
    return points[_poisson(points, np.full(len(points), pitch), taken)]


def find_demand(mesh: Mesh, proof: Proof, context: Context, where: Reachable, *, tip_mm: float, risk: float) -> Demand:
    """All points of a posed figure that need a tip; `proof` is its layer stack without supports.

    Islands are held wherever they start, specks of relief as the accepted risk asks (`left_alone_mm`); on slopes, faces
    of cost BARRED or more get no tip and cheaper ones are taken first. What the context says is to be held is, where a
    tip can reach it.
    """
    manner = manner_of(context)
    height = proof.stack.grid.height
    flat = manner.pitch_mm(0.0, tip_mm, risk)
    lasting = [i for i in proof.islands if not is_slight(i, height)]
    left_mm = left_alone_mm(risk, height, manner.left_shares)
    slight = [i for i in proof.islands if is_slight(i, height) and not left_to_itself(i, height, left_mm, flat)]
    # Relief stands close together: one tip often holds several specks; what it misses is found when its way is known.
    spread = np.array([[i.x, i.y, i.z] for i in slight]).reshape(-1, 3)
    tipped = _poisson(spread, np.full(len(spread), SHARED_MM), np.empty((0, 3)))
    kept_slight = [slight[i] for i in tipped]
    thick = np.array([float(proof.components.width[i.component].min()) for i in slight])
    spared = np.delete(np.column_stack([spread, thick]), tipped, axis=0)
    island_points, widths = _island_points(proof, lasting + kept_slight, flat)
    candidates, pitches, keels = _on_steep_faces(mesh, proof, context, manner=manner, tip_mm=tip_mm, risk=risk)
    if left_mm > 0:
        free = ~_on_specks(proof, candidates, left_mm, flat)
        candidates, pitches, keels = candidates[free], pitches[free], keels[free]
    wanted = np.empty((0, 3)) if context.hold is None else _held_points(mesh, proof, context.hold, flat, island_points)
    kept = _poisson(candidates, pitches, np.concatenate([island_points, wanted]))
    if not manner.hangs:
        worth = worth_carrying(candidates[kept], proof, context, where, manner=manner, pitch=flat, risk=risk)
        kept = kept[worth | keels[kept]]  # a sliver is drawn as a line however little of it hangs
    wide = np.full(len(wanted) + len(kept), np.inf)
    points = np.concatenate([island_points, wanted, candidates[kept]])
    reasons = ["island"] * len(island_points) + ["hold"] * len(wanted) + ["overhang"] * len(kept)
    widths = np.concatenate([widths, wide])
    diameters = manner.tips_on(widths, tip_mm)
    for _ in range(ROUNDS if manner.hangs else 0):
        more, stout = load_points(where, proof, context, (points, diameters), points, risk=risk)
        if not len(more):
            break
        points, reasons = np.concatenate([points, more]), reasons + ["load"] * len(more)
        widths, diameters = np.append(widths, np.full(len(more), np.inf)), np.append(diameters, stout)
    keep = _needed(
        where, proof, context, points=points, wide=diameters, reasons=reasons, wanted=margin_of(context, risk)
    )
    kept_too = np.flatnonzero(keep)[:MAX_TIPS]
    over = max(0, int(keep.sum()) - MAX_TIPS)
    chosen = [reasons[k] for k in kept_too]
    return Demand(points[kept_too], chosen, widths[kept_too], over, spared, diameters[kept_too])


def _needed(
    where: Reachable, proof: Proof, context: Context, *, points: F8, wide: F8, reasons: list[str], wanted: float
) -> B1:
    """Tips (n,) that stay when those for the load, which were added a few at a time, are taken back where the others
    do: the dearest scars first, and of those alike the highest.
    """
    keep = np.ones(len(points), np.bool_)
    load = np.flatnonzero(np.array(reasons) == "load")
    if not len(load):
        return keep
    carrying = Carrying.of(proof, context, where)
    on, strength = touched(proof, points), np.asarray(tip_hold(context, wide), float)
    before = carrying.walk(on, points, strength)[0].rows[:, 3]
    _, nearest = cKDTree(where.spots).query(points[load])
    for k in load[np.lexsort((-points[load, 2], -where.cost[nearest]))]:
        without = on.copy()
        without[k] = -1
        after = carrying.walk(without, points, strength)[0].rows[:, 3]
        if not worse(before, after, wanted).any():
            keep[k], on, before = False, without, np.minimum(before, np.maximum(after, wanted))
    return keep


def load_points(
    where: Reachable, proof: Proof, context: Context, held: tuple[F8, F8], tried: F8, *, risk: float
) -> tuple[F8, F8]:
    """Where more tips (n, 3) are wanted under every body that would not be carried at the accepted risk, where a scar
    costs least and the figure bears a stout one, low down first; and their diameters (n,).

    `held`: contacts (k, 3) and diameters (k,) of the tips that there are; none is wanted close to what was `tried` (t,
        3).
    """
    loads = body_loads(proof, *held, context, below=margin_of(context, risk))
    weak = [b for b in loads if b.pull > LEAST_PULL_N]
    places, diameters = [np.empty((0, 3))], [np.empty(0)]
    spots, cost, on = where.spots, where.cost, where.on
    wide = manner_of(context).holds_by_mm(cost, where.thick) if weak else np.empty(0)
    for body in weak:
        near = np.flatnonzero(body_at(proof, body.component)[on])
        usual = float(np.median(wide[near])) if len(near) else THINNEST_TIP_MM
        wanted = math.ceil((margin_of(context, risk) * body.pull - body.hold) / tip_hold(context, usual))
        # On the side of the pull where a lever strains the holds, low down where there is none.
        aside = _beside(spots[near, :2], body) / NEAR_PULL_MM if body.lever > GRIP_MM else 0.0
        # Half as wide holds a quarter: as bad as a scar that weighs 2 more.
        price = np.round(cost[near] / 2 + aside + ((STOUT_TIP_MM / wide[near]) ** 2 - 1) / 3)
        taken = np.concatenate([tried, *places])
        kept = _best(spots, near, price, taken=taken, room=max(APART_MM, APART * usual), wanted=max(wanted, 0))
        places.append(spots[kept])
        diameters.append(wide[kept])
    return np.concatenate(places), np.concatenate(diameters)


def _best(spots: F8, near: I8, price: F8, *, taken: F8, room: float, wanted: int) -> I8:
    """Which of some spots to take, the least price first, and low down; sorted are no more of them than are likely to
    be wanted.
    """
    few = FEW_SPOTS * (wanted + 1)
    if len(near) > few:
        chosen = np.flatnonzero(price <= np.partition(price, few)[few])
        kept = (
            _best(spots, near[chosen], price[chosen], taken=taken, room=room, wanted=wanted)
            if len(chosen) < len(near)
            else None
        )
        if kept is not None and len(kept) == wanted:
            return kept
    # Those that are alike are taken from all over: rows of the mesh would crowd them on one side.
    mixed = np.random.default_rng(0).permutation(len(near))
    near = near[np.lexsort((mixed, np.round(spots[near, 2]), price))]
    return near[_poisson(spots[near], np.full(len(near), room), taken, 1.0, wanted)]


def _beside(spots: F8, body: BodyLoad) -> F8:
    """How far in mm spots (n, 2) fall short of the pull as seen from the middle of the holds, and by SIDEWAYS how far
    they pass beside that line.

    A tip turns a body back from wherever it lies on the far side; between the legs of an arch, where its pull has its
    middle, there is nothing to hold.
    """
    middle = np.array(body.held_at)
    way = (np.array([body.x, body.y]) - middle) / body.lever
    off = spots - middle
    return np.asarray(np.maximum(0.0, body.lever - off @ way) + SIDEWAYS * np.abs(off @ [-way[1], way[0]]))


def barred_faces(context: Context, faces: int) -> B1:
    """Faces (m,) that may not be scarred at all, by a tip or by a foot: fits and keep-outs, not what looks into a
    cavity.
    """
    cost = context.weights
    return np.zeros(faces, np.bool_) if cost is None else np.asarray((cost >= BARRED) & (cost < INSIDE_WEIGHT))
