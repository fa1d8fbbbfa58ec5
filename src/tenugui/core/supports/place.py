"""Placing tips and their ways: what wants one, from where it is reached, and again until no island is left that can be
held.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..layers import Proof, Solid, read_solid
from ..machines import Context, as_filament
from ..mesh import Mesh
from .areas import FROM_MM2, FROM_TIPS, Areas, areas
from .around import Around
from .body import PENETRATION_MM, proved, raft_solid
from .contact import Contact, fitted
from .demand import MAX_TIPS, Demand, barred_faces, find_demand, left_alone_mm, left_to_itself, load_points
from .firm import foot_mm
from .manner import Manner, manner_of
from .reach import Reachable
from .route import Route, allowed, room_for_feet, roomier
from .style import routes_in
from .tip import Tip

F8 = NDArray[np.float64]
B1 = NDArray[np.bool_]
PASSES, LOAD_ROUNDS = 4, 10
"""A rod that leans out is carried a few mm farther by each round; most figures want one or two."""

ISLAND_DENSITY = 0.35
"""Prior: what starts in mid air is carried on lines as dense as this at least, so that its first ones do not fall
between them.
"""
WORTH, BY_HAND = (FROM_TIPS, FROM_MM2), (2, 4.0)
"""Contacts and mm² that a body of an area carries at least: by itself, and where somebody asks for one."""


@dataclass(frozen=True)
class Job:
    """What a set is made for: the figure where it stands, its own proof, where tips can push, how surely and in which
    style.
    """

    figure: Mesh
    before: Proof
    context: Context
    where: Reachable
    risk: float
    style: str

    @cached_property
    def manner(self) -> Manner:
        """How supports are dimensioned here."""
        return manner_of(self.context)

    @cached_property
    def tip_mm(self) -> float:
        """A tip on a feature wide enough."""
        return self.manner.tip_mm(self.risk)

    @cached_property
    def flat_mm(self) -> float:
        """The pitch of tips under what is level."""
        return self.manner.pitch_mm(0.0, self.tip_mm, self.risk)

    @cached_property
    def around(self) -> Around:
        """The figure as ways ask for it."""
        return Around.of(self.figure)

    @cached_property
    def barred(self) -> B1:
        """Faces that no support stands on."""
        return barred_faces(self.context, len(self.figure.faces))

    @cached_property
    def contact(self) -> Contact:
        """What tips end in."""
        return Contact.of(self.context)

    def carry(self, demand: Demand) -> tuple[list[Tip], B1]:
        """Bodies that somebody asks for under the undersides of a demand (n,), and which of it they carry: however
        small they are, as long as they stand; none where tips grip.
        """
        if not self.contact.gap:
            return [], np.zeros(len(demand.points), np.bool_)
        made = self._areas(demand, BY_HAND)
        return made.tips, made.carried

    def _areas(self, demand: Demand, least: tuple[int, float]) -> Areas:
        made = areas(
            self.around,
            demand,
            pitch=self.flat_mm,
            line=self.tip_mm,
            gap=self.contact.gap,
            weights=self.context.weights,
            least=least,
        )
        usual = as_filament(self.context.printer).support_density
        tips = [replace(t, density=ISLAND_DENSITY) if t.reason == "island" else t for t in made.tips]
        return made if usual >= ISLAND_DENSITY else replace(made, tips=tips)

    def carried(self, demand: Demand) -> Areas:
        """Bodies under the undersides of a demand that are wide enough to be worth one."""
        return self._areas(demand, WORTH)

    def pillars(self, points: F8) -> F8:
        """Diameters of pillars to points (n, 3)."""
        return np.array([self.manner.pillar_mm(self.tip_mm, z) for z in points[:, 2]])


@dataclass(frozen=True)
class Placed:
    """Tips with their ways, the stack read with them, and how many points more wanted one than there may be."""

    tips: list[Tip]
    read: Solid | Proof
    left_out: int


def placed(job: Job, raft: bool) -> Placed:
    """Tips until no island is left that can be held, mended up to PASSES times."""
    demand = find_demand(job.figure, job.before, job.context, job.where, tip_mm=job.tip_mm, risk=job.risk)
    left_out, asked = demand.left_out, demand.points
    tips, solids, read = list[Tip](), list[Mesh](), 0
    stack: Solid | Proof = job.before
    for turn in range(PASSES):
        for more_load in range(LOAD_ROUNDS if job.manner.hangs else 1):
            if not len(demand.points) or len(tips) >= MAX_TIPS:
                break
            if job.style == "areas" and job.contact.gap and turn == more_load == 0:
                demand = _carried(job, demand, tips)
            tips += reached(job, demand, tips, job.style if turn == more_load == 0 else "pillars")
            # Where no way was found to some of its tips, a body may still not be carried.
            missed = _missed(demand.spared, tips, job.context.height) if demand.spared is not None else None
            demand = missed or _loaded(job, tips, asked)
            asked = np.concatenate([asked, demand.points])
        if len(tips) == read:
            break
        on_raft = raft and any(tip.stands for tip in tips)
        tips[read:] = fitted(job.around, tips[read:], job.contact, job.flat_mm)
        solids += [proved(tip, on_raft) for tip in tips[read:]]
        read = len(tips)
        stack = read_solid(job.before.stack, Mesh.joined([*solids, *([raft_solid(tips)] if on_raft else [])]))
        demand = _again(stack, tips, left_alone_mm(job.risk, job.context.height, job.manner.left_shares), job.flat_mm)
    return Placed(tips, stack, left_out)


def _carried(job: Job, demand: Demand, tips: list[Tip]) -> Demand:
    """What areas do not carry of a demand; their bodies join the tips."""
    made = job.carried(demand)
    tips += made.tips
    left = np.flatnonzero(~made.carried)
    reasons = [demand.reasons[i] for i in left]
    wide = None if demand.wide is None else demand.wide[left]
    return Demand(demand.points[left], reasons, demand.widths[left], demand.left_out, demand.spared, wide)


def reached(job: Job, demand: Demand, tips: list[Tip], style: str) -> list[Tip]:
    """Tips at the points of a demand to which a way was found beside the `tips` that stand."""
    pillars = job.pillars(demand.points)
    routes = routes_in(
        job.around,
        demand,
        pillars / 2,
        tips=tips,
        style=style,
        pitch=job.flat_mm,
        low=float(job.figure.lower[2]),
        upright=bool(job.contact.pad),
    )
    routes = allowed(job.around, demand.points, routes, job.barred)
    if not job.manner.hangs and len(demand.points):
        needs = foot_mm(job.context, np.maximum(demand.points[:, 2], 0.0), job.risk)
        routes = roomier(job.around, demand.points, routes, pillars / 2, needs=needs, floor=0.0)
    wide = job.manner.tips_on(demand.widths, job.tip_mm) if demand.wide is None else demand.wide
    return with_ways(job.around, demand, routes, wide, pillars)


def with_ways(rays: Around, demand: Demand, routes: list[Route], diameters: F8, pillars: F8) -> list[Tip]:
    """Tips of the points that have a way: `diameters`, `pillars` (n,) in mm."""
    tips = []
    feet = np.array([way.joints[0] if way.on == "plate" else np.full(3, np.nan) for way in routes]).reshape(-1, 3)
    rooms = np.where(np.isnan(feet[:, 0]), np.inf, 2 * room_for_feet(rays, np.nan_to_num(feet)))
    given = zip(demand.points, demand.reasons, diameters, pillars, routes, rooms, strict=True)
    for point, reason, d, pillar, way, room in given:
        if way.on == "none":
            continue
        if way.radii is not None:
            widths = 2 * way.radii
        elif way.branch:
            widths = np.array([min(pillar, 2 * d)])
        else:
            widths = np.full(len(way.joints) - 1, min(pillar, max(0.8, 2 * d)) if way.on == "model" else pillar)
        tips.append(
            Tip(
                float(point[0]),
                float(point[1]),
                float(point[2]),
                float(d),
                tuple(float(w) for w in widths),
                reason,
                way.on,
                tuple((float(x), float(y), float(z)) for x, y, z in way.joints),
                way.branch,
                way.square,
                float(room),
            )
        )
    return tips


def _loaded(job: Job, tips: list[Tip], tried: F8) -> Demand:
    """More tips under bodies that the tips do not carry; on machines that pull at none, nothing."""
    more, wide = np.empty((0, 3)), np.empty(0)
    if job.context.printer.hangs:
        held = (np.array([[t.x, t.y, t.z] for t in tips]).reshape(-1, 3), np.array([t.diameter for t in tips]))
        more, wide = load_points(job.where, job.before, job.context, held, tried, risk=job.risk)
    return Demand(more, ["load"] * len(more), np.full(len(more), np.inf), wide=wide)


def _missed(specks: F8, tips: list[Tip], height: float) -> Demand | None:
    """Of specks (n, 4: x, y, z, width) those that no tip reaches just below their first layer; None where there are
    none.
    """
    joint, point = (np.array([t.joints[k] for t in tips]).reshape(-1, 3) for k in (-2, -1))
    way = point - joint
    long = np.maximum(np.linalg.norm(way, axis=1), 1e-9)
    into = point + way / long[:, None] * PENETRATION_MM
    below = specks[:, 2, None] - height / 2
    share = (below - joint[:, 2]) / np.maximum(into[:, 2] - joint[:, 2], 1e-9)
    x, y = (joint[:, k] + share * (into[:, k] - joint[:, k]) for k in (0, 1))
    # A tip narrows from its last joint to its contact.
    wide = np.interp(share, (0, 1), (1, 0)) * np.array([t.widths[-1] - t.diameter for t in tips])
    reach = (np.array([t.diameter for t in tips]) + wide + specks[:, 3, None]) / 2
    reached = (np.hypot(x - specks[:, 0, None], y - specks[:, 1, None]) <= reach) & (share >= 0) & (share <= 1)
    bare = specks[~reached.any(axis=1)]
    return Demand(bare[:, :3], ["island"] * len(bare), bare[:, 3]) if len(bare) else None


def _again(held: Solid, tips: list[Tip], left_mm: float, pitch: float) -> Demand:
    """What is still an island after a pass, but for what is left to itself, and not at a place that has been tried."""
    tried = {(round(t.x, 2), round(t.y, 2), round(t.z, 2)) for t in tips}
    height = held.stack.grid.height
    left = [
        i
        for i in held.islands
        if not left_to_itself(i, height, left_mm, pitch) and (round(i.x, 2), round(i.y, 2), round(i.z, 2)) not in tried
    ]
    widths = np.array([float(held.components.width[i.component].min()) for i in left])
    return Demand(np.array([[i.x, i.y, i.z] for i in left]).reshape(-1, 3), ["island"] * len(left), widths)
