"""Make a support set and prove it: tips, pillars, raft; then the layer stack with them, until no island is left that
can be held.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..errors import CoreError
from ..layers import Proof, Solid, alone_mm, completed, prove, read_solid
from ..machines import LIFT_MM, USUAL_RISK, Context, Printer
from ..mesh import Mesh
from .around import Around
from .body import PENETRATION_MM, RAFT_MARGIN_MM, RAFT_MM, brace_solid, proved, raft_margin, raft_solid, support_mesh
from .byhand import Edit, changed, raft_of, ways
from .contact import Contact, cradled, fitted
from .demand import (
    MAX_TIPS,
    Demand,
    barred_faces,
    find_demand,
    left_alone_mm,
    left_to_itself,
    load_points,
)
from .firm import braces_between, firmness, footed, thickened
from .holds import PLATE_KPA, pulls_of
from .inside import stays_inside
from .manner import FLAT_FOOT, Manner, manner_of, margin_of
from .reach import Reachable, reachable
from .route import Route, allowed, room_for_feet
from .style import routes_in
from .support_set import SupportFinding, SupportSet
from .tip import Brace, Tip
from .told import findings_of

F8 = NDArray[np.float64]
B1 = NDArray[np.bool_]
PASSES, LOAD_ROUNDS = 4, 10
"""A rod that leans out is carried a few mm farther by each round; most figures want one or two."""
MOST_ISLANDS = 20_000
"""A surface with more places that start in mid air is noise, and placing tips under it would take hours."""
ON_PLINTH_MM = 0.05
FEET_MM = 6.0
"""Prior: width of feet that stand without a raft."""


class SupportError(CoreError):
    """Supports that cannot be placed."""


def needs_lift(mesh: Mesh, printer: Printer) -> bool:
    """Whether a dropped figure should hang on supports: on a machine where parts hang, what touches the plate with
    little of its shadow.
    """
    if not printer.hangs:
        return False
    low = mesh.vertices[:, 2] < 0.1
    touching = low[mesh.faces].all(axis=1)
    normal, area = mesh.normals_and_areas()
    foot = float((area * np.maximum(-normal[:, 2], 0))[touching].sum())
    shadow = float((area * np.maximum(-normal[:, 2], 0)).sum())
    return foot < FLAT_FOOT * shadow


def _tips(rays: Around, demand: Demand, routes: list[Route], diameters: F8, pillars: F8) -> list[Tip]:
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


def raised(mesh: Mesh, printer: Printer) -> Mesh:
    """A dropped figure raised by LIFT_MM where it should hang on its supports, else itself."""
    return Mesh(mesh.vertices + np.array([0, 0, LIFT_MM]), mesh.faces) if needs_lift(mesh, printer) else mesh


def make_supports(
    mesh: Mesh,
    context: Context,
    *,
    risk: float = USUAL_RISK,
    style: str = "pillars",
    pitch: float | None = None,
    before: Proof | None = None,
    where: Reachable | None = None,
    edits: Sequence[Edit] = (),
    came: tuple[list[Tip], list[Brace], bool] | None = None,
    plinth: Mesh | None = None,
) -> SupportSet:
    """Support a figure in build coordinates; one that lies on the plate is raised first where it does not rest flat on
    a machine where parts hang.

    `risk` is the accepted chance that a tip fails; `before` the figure's own proof at this height, and `where` tips can
    push, where they are at hand; `style` one of STYLES. The set is proved by the layer stack and mended up to PASSES
    times; what hands then change (`edits`) is proved too, and left as they want it. Tips, braces and raft that it
    `came` with are taken as they are. `plinth`: the part of it that only carries the rest.

    Raises:
        SupportError: the surface is so broken that nearly everything starts in mid air.
    """
    figure = mesh if mesh.lower[2] > 1e-6 else raised(mesh, context.printer)
    before = (
        prove(figure, context.height, context.reach, pitch, bridge=context.bridge)
        if before is None or figure is not mesh
        else before
    )
    if len(before.islands) > MOST_ISLANDS:
        raise SupportError(
            "too-many-islands",
            f"{len(before.islands):,} places start in mid air; more than {MOST_ISLANDS:,} are noise of the surface.",
            f"{before.stack.grid.layers:,} layers",
            "Repair or remesh the figure in the fold Size, or choose a coarser layer height.",
        )
    manner = manner_of(context)
    tip_mm = manner.tip_mm(risk)
    wished = raft_of(edits)
    with_raft = (manner.hangs if wished is None else wished == "full") and bool(figure.lower[2] > 2 * RAFT_MM)
    rays = Around.of(figure)
    where = reachable(figure, before, context) if where is None or figure is not mesh else where
    barred = barred_faces(context, len(figure.faces))
    flat = manner.pitch_mm(0.0, tip_mm, risk)
    contact = Contact.of(context)
    held: Solid | Proof = before
    tips, braces, left_out = list[Tip](), list[Brace](), 0
    if came is None:
        tips, held, left_out = _placed(rays, before, context, where, barred, risk=risk, style=style, raft=with_raft)
    else:
        tips, braces, with_raft = list(came[0]), list(came[1]), came[2] if wished is None else with_raft
    vain = 0
    if edits:
        tips, vain = _by_hand(rays, tips, edits, manner=manner, tip_mm=tip_mm, barred=barred)
        tips = fitted(rays, tips, contact, flat) if came is None else tips
    read_as = list(tips) if came is None else []
    if wished == "feet":
        tips = [replace(t, foot_least=FEET_MM) if t.stands and not t.square else t for t in tips]
    with_raft = with_raft and any(tip.stands for tip in tips)
    firmer = tips
    if came is None:
        if manner.hangs:
            tips = cradled(rays, tips, _alone(before))
        braces = braces_between(rays, tips, context)
        firmer = footed(thickened(rays, tips, braces, context), braces, context)
    margin = _raft_margin(firmer, before, context) if with_raft and manner.hangs else RAFT_MARGIN_MM
    if tips and (edits or braces or firmer != read_as or margin > RAFT_MARGIN_MM):
        tips = firmer
        whole = [*(proved(tip, with_raft) for tip in tips), *map(brace_solid, braces)]
        held = read_solid(before.stack, Mesh.joined([*whole, *([raft_solid(tips, margin)] if with_raft else [])]))
    elif not tips:
        held = before
    after = completed(held, context.reach, bridge=context.bridge) if isinstance(held, Solid) else held
    solid = support_mesh(tips, with_raft, braces, margin=margin)
    volume = max(0.0, after.stack.volume() - before.stack.volume())
    asked = context.hold is not None and bool(context.hold.any())
    inside = stays_inside(figure, context.weights, tips)
    firm = firmness(tips, braces, context)
    if plinth is not None:
        top = float(plinth.upper[2] + figure.lower[2] - mesh.lower[2]) + ON_PLINTH_MM
        tips = [replace(t, plinth=t.on == "model" and t.joints[0][2] <= top) for t in tips]
    made_set = SupportSet(tips, with_raft, figure, solid, before, after, volume, [], inside, braces, firm, margin)
    made_set.findings.extend(findings_of(made_set, context, asked=asked, left_out=left_out))
    if vain:
        text = (
            f"{vain} change{'s' * (vain != 1)} by hand found no tip near, or no way to "
            f"the place: take {'it' if vain == 1 else 'them'} back, or point elsewhere."
        )
        made_set.findings.append(SupportFinding("hand-missed", "warning", vain, text))
    return made_set


def _placed(
    rays: Around, before: Proof, context: Context, where: Reachable, barred: B1, *, risk: float, style: str, raft: bool
) -> tuple[list[Tip], Solid | Proof, int]:
    """Tips with their ways until no island is left that can be held; the stack with them, and how many points more
    wanted one than there may be.
    """
    figure, manner = rays.figure, manner_of(context)
    tip_mm = manner.tip_mm(risk)
    demand = find_demand(figure, before, context, where, tip_mm=tip_mm, risk=risk)
    flat = manner.pitch_mm(0.0, tip_mm, risk)
    contact = Contact.of(context)
    left_out = demand.left_out
    tips: list[Tip] = []
    solids: list[Mesh] = []
    read = 0
    held: Solid | Proof = before
    asked_for = demand.points
    for turn in range(PASSES):
        for more_load in range(LOAD_ROUNDS if manner.hangs else 1):
            if not len(demand.points) or len(tips) >= MAX_TIPS:
                break
            diameters = manner.tips_on(demand.widths, tip_mm)
            pillars = np.array([manner.pillar_mm(tip_mm, z) for z in demand.points[:, 2]])
            first = turn == 0 and more_load == 0
            low = float(figure.lower[2])
            routes = routes_in(
                rays,
                demand,
                pillars / 2,
                tips=tips,
                style=style if first else "pillars",
                pitch=flat,
                low=low,
                upright=bool(contact.pad),
            )
            routes = allowed(rays, demand.points, routes, barred)
            tips += _tips(rays, demand, routes, diameters, pillars)
            # Where no way was found to some of its tips, a body may still not be carried.
            missed = _missed(demand.spared, tips, context.height) if demand.spared is not None else None
            demand = missed or _loaded(where, before, context, tips, asked_for, tip_mm=tip_mm, risk=risk)
            asked_for = np.concatenate([asked_for, demand.points])
        if len(tips) == read:
            break
        on_raft = raft and any(tip.stands for tip in tips)
        tips[read:] = fitted(rays, tips[read:], contact, flat)
        solids += [proved(tip, on_raft) for tip in tips[read:]]
        read = len(tips)
        held = read_solid(before.stack, Mesh.joined([*solids, *([raft_solid(tips)] if on_raft else [])]))
        demand = _again(held, tips, left_alone_mm(risk, context.height), flat)
    return tips, held, left_out


WIDEST_RAFT_MM = 12.0
"""Prior: a raft that reaches farther is trouble to get off the plate."""
RAFT_RISK = 0.01
"""Prior: the accepted chance that a raft lets go."""


def _raft_margin(tips: list[Tip], before: Proof, context: Context) -> float:
    """How far past its feet a raft reaches so that it holds the strongest layer."""
    parts = before.components
    pulls = np.bincount(parts.layer, weights=pulls_of(before, context), minlength=1)
    area = margin_of(context, RAFT_RISK) * float(pulls.max()) / (PLATE_KPA * 1e-3)
    feet = np.array([tip.joints[0][:2] for tip in tips if tip.stands])
    room = float((np.array(context.printer.build_mm[:2]) - np.ptp(feet, axis=0)).min()) / 2
    return raft_margin(tips, area, min(room, WIDEST_RAFT_MM))


ALONE_MM = 1.5
"""Prior: what grows alone for so long drifts, where it is as thin as a point."""


def _alone(before: Proof) -> F8:
    """Where points begin (n, 3) that grow alone for long."""
    height = before.stack.grid.height
    return np.array([[i.x, i.y, i.z] for i in before.islands if alone_mm(i, height) > ALONE_MM]).reshape(-1, 3)


def _by_hand(
    rays: Around, tips: list[Tip], edits: Sequence[Edit], *, manner: Manner, tip_mm: float, barred: B1
) -> tuple[list[Tip], int]:
    """Tips after changes by hand, and how many changes came to nothing."""
    edited = changed(tips, edits, tip_mm)
    routes, pillars = ways(rays, edited, lambda z: manner.pillar_mm(tip_mm, z))
    routes = allowed(rays, edited.demand.points, routes, barred)
    more = _tips(rays, edited.demand, routes, edited.demand.widths, pillars)
    return edited.kept + more, edited.missed + len(routes) - len(more)


def _loaded(
    where: Reachable, before: Proof, context: Context, tips: list[Tip], tried: F8, *, tip_mm: float, risk: float
) -> Demand:
    """More tips under bodies that the tips do not carry; on machines that pull at none, nothing."""
    held = (np.array([[t.x, t.y, t.z] for t in tips]).reshape(-1, 3), np.array([t.diameter for t in tips]))
    more = np.empty((0, 3))
    if context.printer.hangs:
        more = load_points(where, before, context, held, tried, tip_mm=tip_mm, risk=risk)
    return Demand(more, ["load"] * len(more), np.full(len(more), np.inf))


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
