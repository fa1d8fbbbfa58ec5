"""A better version of a sculpt takes over what was decided of the one before: every fold in its order, as far as it
still applies; what does not is said in the decision's reason.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..core.contract import (
    Ask,
    Choice,
    HollowAsk,
    HollowChoice,
    MarksChoice,
    NoAsk,
    OwnHollow,
    OwnSupports,
    OwnWalls,
    PoseAsk,
    PoseChoice,
    SizeChoice,
    SupportsAsk,
    SupportsChoice,
    WallsAsk,
    WallsChoice,
)
from ..core.marks import KINDS
from ..core.plan import Progress, copy_of
from ..core.plan.figure import working
from ..core.plan.given import Given
from ..core.plan.reading import recommended
from ..core.plan.tasks import within
from ..core.plan.version import Carried, carried, lies
from ..store import kits, plans
from ..store.db import StoreError
from .chores import Done, board_of, chore
from .folds import Standing, evidence_of, stored
from .shelf import StoreShelf


class VersionGiven(Given):
    """The plan of a new version of a figure, nothing of it decided, and a plan of the one before."""

    plan: int
    base: int


@chore("version", VersionGiven)
def version(shelf: StoreShelf, given: VersionGiven, progress: Progress) -> Done:
    """Decide every fold that is settled in the old plan; of a part of a kit it takes the place. Done again, it goes on
    where it stopped.

    Raises:
        CoreError: `not-alike`.
        StoreError: `fold-open`, `not-computed`.
    """
    old = Standing.of(shelf.store, given.base)
    carry = _sized(shelf, old, given.plan, within(progress, 0.0, 0.1))
    from_ = f"From {old.plan['figure_name']}, plan {old.plan['number']}"
    marks = old.choice(MarksChoice)
    if marks is not None and not _settled(shelf, given.plan, "marks"):
        kinds = sorted({s.kind for s in carry.strokes if s.kind != "none"}, key=KINDS.index)
        choice = marks.model_copy(update={"strokes": carry.strokes, "kinds": kinds})
        reason = _reason(from_, "as it was marked", carry.lost.get("marks"))
        plans.decide(shelf.store, given.plan, "marks", choice=stored(choice), evidence={"numbers": None}, reason=reason)
    asking: dict[str, Callable[[], Ask]] = {
        "pose": lambda: _pose(old),
        "hollow": lambda: _hollow(old, carry),
        "walls": lambda: _walls(old),
        "supports": lambda: _supports(old, carry),
    }
    wanted = [f.name for f in old.folds if f.name in old.choices and f.spec.task]
    for done, name in enumerate(wanted):
        if not _settled(shelf, given.plan, name):
            low, high = (0.1 + 0.9 * (done + k) / len(wanted) for k in (0, 1))
            asked = asking[name]() if name in asking else NoAsk()
            again = Again(given.plan, name, asked, _wanted(old, name, carry), from_, carry.lost.get(name, ""))
            _taken(shelf, again, within(progress, low, high))
    figure = plans.one(shelf.store, given.plan)["figure_id"]
    kit = kits.take_place(shelf.store, int(old.plan["figure_id"]), int(figure))
    return {"plan": given.plan, "lost": carry.lost, "kit": kit}


def _settled(shelf: StoreShelf, plan: int, name: str) -> bool:
    return any(row["fold"] == name for row in plans.chain(shelf.store, plan))


def _reason(from_: str, said: str, *more: str | None) -> str:
    return f"{from_}: {said}" + "".join(f"; {text}" for text in more if text)


def _sized(shelf: StoreShelf, old: Standing, plan: int, progress: Progress) -> Carried:
    """Settle the size as it was, in mm, and find what of the old plan's deeds lies on the new figure."""
    progress(0.1, "laying the two versions on each other")
    size = old.choice(SizeChoice)
    if size is None:
        raise StoreError("fold-open", "The plan before has no size.", "Choose one that was planned.", 409)
    row = plans.one(shelf.store, plan)
    copy = copy_of(shelf, row["mesh_sha"], "ready")
    if copy is None:
        raise StoreError("not-computed", "The new version has not been examined yet.", "Wait for it.", 409)
    new = working(shelf, copy.sha).mesh
    way = lies(working(shelf, size.sha).mesh, new)
    progress(0.7, "looking which marks still lie on it")
    factor = size.factor / way.times
    hollow, supports, marks = old.choice(HollowChoice), old.choice(SupportsChoice), old.choice(MarksChoice)
    carry = carried(
        way,
        new,
        factor,
        strokes=marks.strokes if marks else (),
        edits=supports.edits if supports else (),
        holes=hollow.holes if hollow else (),
    )
    if not _settled(shelf, plan, "size"):
        choice = size.model_copy(
            update={
                "sha": copy.sha,
                "preview_sha": copy.preview_sha,
                "factor": factor,
                "height_mm": factor * copy.height(shelf, size.up),
                "front": size.front or copy.front(shelf, size.up),
                "mesh": "ready",
                "eye_z": None,
                "crown_z": None,
            }
        )
        text = f"{factor * copy.height(shelf, size.up):.1f} mm, as large as it was; surfaces {way.off:.2%} apart"
        name = f"From {old.plan['figure_name']}, plan {old.plan['number']}"
        plans.decide(
            shelf.store,
            plan,
            "size",
            choice=stored(choice),
            evidence={"numbers": None, "version_of": old.plan["id"]},
            reason=_reason(name, text.replace("%", " %")),
        )
    return carry


def _pose(old: Standing) -> Ask:
    """The same direction to the plate, whatever a new search offers beside it."""
    pose = old.choice(PoseChoice)
    assert pose is not None  # it is settled
    asked = pose.wishes or PoseAsk()
    pinned = [down for down in asked.pinned if down != pose.down]
    return asked.model_copy(update={"pinned": [*pinned[-3:], pose.down]})


def _hollow(old: Standing, carry: Carried) -> Ask:
    hollow = old.choice(HollowChoice)
    if hollow is None or hollow.wall is None or hollow.wall < 0:
        return HollowAsk()
    holes = carry.holes if len(carry.holes) >= 2 else None
    own = OwnHollow(wall_mm=hollow.wall, lattice_mm=hollow.lattice, holes=holes)
    return HollowAsk(own=own, plugs=bool(hollow.wishes and hollow.wishes.plugs))


def _walls(old: Standing) -> Ask:
    walls = old.choice(WallsChoice)
    assert walls is not None  # it is settled
    return WallsAsk(own=OwnWalls(perimeters=walls.perimeters, roof_mm=walls.roof_mm, infill=walls.infill))


def _supports(old: Standing, carry: Carried) -> Ask:
    taken = old.choice(SupportsChoice)
    assert taken is not None  # it is settled
    may = bool(taken.wishes and taken.wishes.may_break)
    own = OwnSupports(risk=taken.risk, style=taken.style, edits=carry.edits)  # type: ignore[arg-type]
    return SupportsAsk(own=own if carry.edits else None, may_break=may)


@dataclass(frozen=True)
class Again:
    """A fold of the new plan to be decided: what is asked of its board, which choice is wanted of that, whose it was,
    and what of it is lost.
    """

    plan: int
    name: str
    asked: Ask
    wanted: Choice
    from_: str
    lost: str


def _wanted(old: Standing, name: str, carry: Carried) -> Choice:
    choice = old.choices[name]
    if isinstance(choice, SupportsChoice):
        return choice.model_copy(update={"edits": carry.edits})
    if isinstance(choice, HollowChoice):
        return choice.model_copy(update={"holes": carry.holes})
    return choice


def _taken(shelf: StoreShelf, again: Again, progress: Progress) -> None:
    """Compute a fold's board and take the same alternative, or, where it is not there any more, the recommended one."""
    standing = Standing.of(shelf.store, again.plan)
    spec = standing.fold(again.name).spec
    board, given = board_of(shelf, standing, again.name, again.asked, progress)
    index, said = spec.same(again.wanted, board), "as it was"
    if index is None:
        index, said = recommended(board), "what was taken is not offered for this version; what is recommended is taken"
    if (unsaid := spec.unsaid(board, index, again.asked)) is not None:
        what = f"{spec.title} of the new version wants a person: {unsaid}"
        raise StoreError("wants-your-word", what, "What comes before it was taken over; go on from there.", 409)
    taken = spec.taken(board, index, again.asked)
    assert spec.task
    plans.decide(
        shelf.store,
        again.plan,
        again.name,
        choice=stored(taken.choice),
        evidence=evidence_of(spec.task, given, taken),
        reason=_reason(again.from_, said, again.lost, taken.reason),
        expected=standing.head,
    )
