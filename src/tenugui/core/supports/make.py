"""Make a support set and prove it, in steps: placed, changed by hand, made firm, given a raft, read again."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..errors import CoreError
from ..layers import Proof, Solid, alone_mm, completed, prove, read_solid
from ..machines import LIFT_MM, USUAL_RISK, Context, Printer
from ..mesh import Mesh
from .body import RAFT_MARGIN_MM, RAFT_MM, brace_solid, proved, raft_margin, raft_solid, support_mesh
from .byhand import Edit, changed, on_surface, raft_of, ways
from .contact import cradled, fitted
from .firm import braces_between, firmness, footed, thickened
from .holds import PLATE_KPA, pulls_of
from .inside import stays_inside
from .manner import FLAT_FOOT, margin_of
from .place import Job, placed, with_ways
from .reach import Reachable, reachable
from .route import allowed
from .support_set import SupportFinding, SupportSet
from .tip import Brace, Tip
from .told import findings_of

F8 = NDArray[np.float64]
MOST_ISLANDS = 20_000
"""A surface with more places that start in mid air is noise, and placing tips under it would take hours."""
ON_PLINTH_MM = 0.05
FEET_MM = 6.0
"""Prior: width of feet that stand without a raft."""
WIDEST_RAFT_MM = 12.0
"""Prior: a raft that reaches farther is trouble to get off the plate."""
RAFT_RISK = 0.01
"""Prior: the accepted chance that a raft lets go."""
ALONE_MM = 1.5
"""Prior: what grows alone for so long drifts, where it is as thin as a point."""
Came = tuple[list[Tip], list[Brace], bool]


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


def raised(mesh: Mesh, printer: Printer) -> Mesh:
    """A dropped figure raised by LIFT_MM where it should hang on its supports, else itself."""
    return Mesh(mesh.vertices + np.array([0, 0, LIFT_MM]), mesh.faces) if needs_lift(mesh, printer) else mesh


@dataclass(frozen=True)
class Draft:
    """A set on its way, no step of which changes another's: tips, braces, whether a raft carries them and how far it
    reaches past their feet; the stack as it was last read, and with which tips; points that wanted a tip and got none,
    and changes by hand that came to nothing.
    """

    tips: list[Tip]
    braces: list[Brace]
    raft: bool
    read: Solid | Proof
    read_with: list[Tip]
    margin: float = RAFT_MARGIN_MM
    left_out: int = 0
    vain: int = 0


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
    came: Came | None = None,
    plinth: Mesh | None = None,
) -> SupportSet:
    """Support a figure in build coordinates; one that lies on the plate is raised first where it does not rest flat on
    a machine where parts hang.

    `risk` is the accepted chance that a tip fails; `before` the figure's own proof at this height, and `where` tips can
    push, where they are at hand; `style` one of STYLES. The set is proved by the layer stack and mended; what hands
    then change (`edits`) is proved too, and left as they want it. Tips, braces and raft that it `came` with are taken
    as they are. `plinth`: the part of it that only carries the rest.

    Raises:
        SupportError: the surface is so broken that nearly everything starts in mid air.
    """
    figure = mesh if mesh.lower[2] > 1e-6 else raised(mesh, context.printer)
    if before is None or figure is not mesh:
        before, where = prove(figure, context.height, context.reach, pitch, bridge=context.bridge), None
    _refuse_noise(before)
    job = Job(figure, before, context, reachable(figure, before, context) if where is None else where, risk, style)
    draft = _begun(job, edits, came)
    steps: list[Callable[[Job, Draft], Draft]] = [lambda job, draft: _by_hand(job, draft, edits, came is not None)]
    if raft_of(edits) == "feet":
        steps.append(_on_feet)
    if came is None:
        steps.append(_firm)
    for step in (*steps, _on_raft, _read_again):
        draft = step(job, draft)
    stands_on = None if plinth is None else float(plinth.upper[2] + figure.lower[2] - mesh.lower[2]) + ON_PLINTH_MM
    return _finished(job, draft, stands_on)


def _refuse_noise(before: Proof) -> None:
    if len(before.islands) > MOST_ISLANDS:
        raise SupportError(
            "too-many-islands",
            f"{len(before.islands):,} places start in mid air; more than {MOST_ISLANDS:,} are noise of the surface.",
            f"{before.stack.grid.layers:,} layers",
            "Repair or remesh the figure in the fold Size, or choose a coarser layer height.",
        )


def _begun(job: Job, edits: Sequence[Edit], came: Came | None) -> Draft:
    """As the computation places it, or as it came."""
    wished = raft_of(edits)
    raft = (job.manner.hangs if wished is None else wished == "full") and bool(job.figure.lower[2] > 2 * RAFT_MM)
    if came is not None:
        return Draft(list(came[0]), list(came[1]), came[2] if wished is None else raft, job.before, [])
    begun = placed(job, raft)
    return Draft(begun.tips, [], raft, begun.read, list(begun.tips), left_out=begun.left_out)


def _by_hand(job: Job, draft: Draft, edits: Sequence[Edit], came: bool) -> Draft:
    """With changes by hand, and how many of them came to nothing."""
    if not edits:
        return draft
    edits, astray = on_surface(job.around, edits)
    edited = changed(draft.tips, edits, job.tip_mm, pitch=job.flat_mm, carry=job.carry)
    routes, pillars = ways(job.around, edited, lambda z: job.manner.pillar_mm(job.tip_mm, z))
    routes = allowed(job.around, edited.demand.points, routes, job.barred)
    more = with_ways(job.around, edited.demand, routes, edited.demand.widths, pillars)
    tips, vain = edited.kept + more, edited.missed + len(routes) - len(more) + astray
    return replace(draft, tips=tips if came else fitted(job.around, tips, job.contact, job.flat_mm), vain=vain)


def _on_feet(job: Job, draft: Draft) -> Draft:
    """Every pillar on a foot of its own."""
    wide = [replace(t, foot_least=FEET_MM) if t.stands and not (t.square or t.cells) else t for t in draft.tips]
    return replace(draft, tips=wide)


def _firm(job: Job, draft: Draft) -> Draft:
    """Cradled where points grow alone, braced, and as thick as they must be to hold still."""
    tips = cradled(job.around, draft.tips, _alone(job.before)) if job.manner.hangs else draft.tips
    braces = braces_between(job.around, tips, job.context)
    firmer = footed(thickened(job.around, tips, braces, job.context), braces, job.context, job.risk)
    return replace(draft, tips=firmer, braces=braces)


def _on_raft(job: Job, draft: Draft) -> Draft:
    """On a raft that holds the strongest layer, where something stands on it."""
    raft = draft.raft and any(tip.stands for tip in draft.tips)
    margin = _raft_margin(job, draft.tips) if raft and job.manner.hangs else RAFT_MARGIN_MM
    return replace(draft, raft=raft, margin=margin)


def _read_again(job: Job, draft: Draft) -> Draft:
    """The stack with all that came since it was read."""
    if not draft.tips:
        return replace(draft, read=job.before)
    if not draft.braces and draft.tips == draft.read_with and draft.margin <= RAFT_MARGIN_MM:
        return draft
    solids = [*(proved(tip, draft.raft) for tip in draft.tips), *map(brace_solid, draft.braces)]
    raft = [raft_solid(draft.tips, draft.margin)] if draft.raft else []
    return replace(draft, read=read_solid(job.before.stack, Mesh.joined([*solids, *raft])), read_with=draft.tips)


def _finished(job: Job, draft: Draft, plinth_mm: float | None) -> SupportSet:
    """The set, proved and told. `plinth_mm`: what stands no higher stands on the plinth."""
    context, tips, braces, before = job.context, draft.tips, draft.braces, job.before
    after = completed(draft.read, context.reach, bridge=context.bridge) if isinstance(draft.read, Solid) else draft.read
    solid = support_mesh(tips, draft.raft, braces, margin=draft.margin)
    volume = max(0.0, after.stack.volume() - before.stack.volume())
    inside, firm = stays_inside(job.figure, context.weights, tips), firmness(tips, braces, context)
    if plinth_mm is not None:
        tips = [replace(t, plinth=t.on == "model" and t.joints[0][2] <= plinth_mm) for t in tips]
    made = SupportSet(
        tips, draft.raft, job.figure, solid, before, after, volume, [], inside, braces, firm, draft.margin
    )
    asked = context.hold is not None and bool(context.hold.any())
    made.findings.extend(findings_of(made, context, asked=asked, left_out=draft.left_out))
    if draft.vain:
        text = (
            f"{draft.vain} change{'s' * (draft.vain != 1)} by hand found no tip near, or no way to "
            f"the place: take {'it' if draft.vain == 1 else 'them'} back, or point elsewhere."
        )
        made.findings.append(SupportFinding("hand-missed", "warning", draft.vain, text))
    return made


def _raft_margin(job: Job, tips: list[Tip]) -> float:
    """How far past its feet a raft reaches so that it holds the strongest layer."""
    parts = job.before.components
    pulls = np.bincount(parts.layer, weights=pulls_of(job.before, job.context), minlength=1)
    area = margin_of(job.context, RAFT_RISK) * float(pulls.max()) / (PLATE_KPA * 1e-3)
    feet = np.array([foot for tip in tips if tip.stands for foot in tip.feet])
    room = float((np.array(job.context.printer.build_mm[:2]) - np.ptp(feet, axis=0)).min()) / 2
    return raft_margin(tips, area, min(room, WIDEST_RAFT_MM))


def _alone(before: Proof) -> F8:
    """Where points begin (n, 3) that grow alone for long."""
    height = before.stack.grid.height
    return np.array([[i.x, i.y, i.z] for i in before.islands if alone_mm(i, height) > ALONE_MM]).reshape(-1, 3)
