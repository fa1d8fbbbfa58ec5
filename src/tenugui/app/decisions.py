"""Decisions: what is stored comes from the server's own results, and only onto the head that the page has seen."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request

from ..core.contract import MarksChoice, PoseChoice, SizeChoice, WishAsk
from ..core.marks import KINDS, strokes_from
from ..core.plan import board_size, copy_of, kept, key_of, model_of, spec_of
from ..core.pose import unit
from ..store import figures, machines, plans
from ..store.db import StoreError
from ..store.plans import Decided
from ..work.folds import Standing, evidence_of, stored
from ..work.kit_size import with_kit
from ..work.shelf import StoreShelf
from .models import MarksDecision, OptionDecision, PlanState, Seen, SizeDecision
from .plans import plan_state, said
from .state import store_of

router = APIRouter(prefix="/api/plans", tags=["decisions"])


@router.post("/{number}/size")
def decide_size(request: Request, number: int, choice: SizeDecision) -> PlanState:
    """Settle size, printer and material, and which copy of the figure is worked on."""
    store = store_of(request)
    plan = plans.one(store, number)
    printer, material = (
        machines.one(store, "printers", choice.printer_id),
        machines.one(store, "materials", choice.material_id),
    )
    if printer["process"] != material["process"]:
        what = f"'{material['name']}' is for {material['process']}, '{printer['name']}' prints {printer['process']}."
        raise StoreError("wrong-process", what, "Choose a material for this printer.", 422)
    if (choice.height_mm is None) == (choice.factor is None):
        raise StoreError("bad-request", "Give either a height or a factor.", status=422)
    shelf = StoreShelf(store)
    copy = copy_of(shelf, plan["mesh_sha"], choice.mesh)
    if copy is None:
        what = (
            "The figure has not been examined yet."
            if choice.mesh == "ready"
            else f"There is no {choice.mesh} copy yet."
        )
        raise StoreError("not-computed", what, "Wait for it, or make it first.", 409)
    up = unit(choice.up) if choice.up else copy.upright.ups[0].up
    front = unit(choice.front) if choice.front else copy.front(shelf, up)
    tall = copy.height(shelf, up)
    factor = choice.factor if choice.factor is not None else (choice.height_mm or 0) / tall
    settled = SizeChoice(
        sha=copy.sha,
        preview_sha=copy.preview_sha,
        factor=factor,
        height_mm=factor * tall,
        up=up,
        front=front,
        printer_id=choice.printer_id,
        material_id=choice.material_id,
        printer=printer["name"],
        material=material["name"],
        process=printer["process"],
        mesh=choice.mesh,
        eye_z=choice.eye_z,
        crown_z=choice.crown_z,
    )
    which = "" if choice.mesh == "ready" else f", the {choice.mesh} copy"
    reason = choice.reason or f"{factor * tall:.1f} mm tall in {material['name']} on {printer['name']}{which}"
    own = Decided(number, "size", stored(settled), {"numbers": None}, reason, choice.head)
    plans.decide_all(store, [own, *with_kit(store, plan, settled)])
    return plan_state(store, number)


@router.post("/{number}/marks")
def decide_marks(request: Request, number: int, choice: MarksDecision) -> PlanState:
    """Settle what is marked. Strokes are kept as they were made and done again on whatever mesh they are needed on."""
    store = store_of(request)
    strokes = [row.model_dump(exclude_none=True) for row in choice.strokes]
    strokes_from(strokes)
    kinds = kinds_of(strokes)
    deeds = f"{len(strokes)} stroke{'s' * (len(strokes) != 1)}"
    reason = choice.reason or (
        f"{deeds}: {', '.join(k.replace('_', ' ') for k in kinds)}" if kinds else "Nothing marked"
    )
    reason += ", bare of what it says itself" if choice.bare else ""
    marks = MarksChoice(
        strokes=choice.strokes, kinds=kinds, bare=choice.bare, faceless=choice.faceless, wish=choice.wish
    )
    plans.decide(
        store, number, "marks", choice=stored(marks), evidence={"numbers": None}, reason=reason, expected=choice.head
    )
    return plan_state(store, number)


def kinds_of(rows: list[dict[str, Any]]) -> list[str]:
    """The kinds of marks that strokes give, in their order."""
    return sorted({row["kind"] for row in rows if row.get("kind", "none") != "none"}, key=KINDS.index)


@router.post("/{number}/marks/share")
def share_marks(request: Request, number: int) -> int:
    """Lay this part's proposals and wish on the other parts of its kit; how many took them. What was painted by hand
    belongs to one part alone.
    """
    store = store_of(request)
    standing = Standing.of(store, number)
    plan = standing.plan
    if plan["kit_id"] is None:
        raise StoreError("no-kit", "This figure belongs to no kit.", "Marks are copied between the parts of one.", 409)
    mine, pose = standing.choice(MarksChoice) or MarksChoice(), standing.choice(PoseChoice)
    strokes = [row for row in mine.strokes if row.tool == "propose"]
    # What was asked of poses, where they were asked; else what came with the marks.
    wish = pose.wishes.wish if pose and pose.wishes else mine.wish
    if not strokes and wish in (None, WishAsk()):
        raise StoreError(
            "no-marks", "There is nothing to copy: no proposal is laid on, no wish is said.", "Do that first.", 409
        )
    taken = list[Decided]()
    for part in figures.of_kit(store, plan["kit_id"]):
        if part["id"] == plan["figure_id"]:
            continue
        marks = Standing.of(store, part["plan_id"]).choice(MarksChoice)
        before = marks or MarksChoice()
        laid = [*strokes, *(row for row in before.strokes if row.tool != "propose")]
        kinds = kinds_of([row.model_dump() for row in laid])
        # Its own bareness stays, and its own wish where none is shared.
        choice = before.model_copy(update={"strokes": laid, "kinds": kinds, "wish": wish or before.wish})
        if choice != marks:
            reason = f"As {plan['figure_name']} is marked"
            taken.append(Decided(part["plan_id"], "marks", stored(choice), {"numbers": None}, reason))
    plans.decide_all(store, taken)
    return len(taken)


@router.post("/{number}/decide/{fold}")
def decide(request: Request, number: int, fold: str, choice: OptionDecision) -> PlanState:
    """Take an alternative of the board that was seen: its key must be that of the plan as it stands."""
    store = store_of(request)
    spec = spec_of(fold)
    if spec is None or spec.take is None or spec.task is None:
        raise StoreError("no-fold", f"'{fold[:40]}' is not a fold with a board.")
    standing = Standing.of(store, number)
    asked = said(spec, choice.wishes) or standing.fold(fold).asked
    given = standing.given(fold, asked)
    if key_of(spec.task, given) != choice.key:
        what = f"The board of {spec.title} that was seen is not that of the plan as it stands."
        raise StoreError("changed-meanwhile", what, "Look at it as it is now, then decide again.", 409)
    board = kept(StoreShelf(store), spec.task, given, model_of(spec))
    if board is None:
        raise StoreError(
            "not-computed", "The alternatives have not been computed for the plan as it stands.", "Wait for them.", 409
        )
    if choice.option >= board_size(board):
        raise StoreError("no-option", f"The board has {board_size(board)} alternatives.", status=422)
    if (unsaid := spec.unsaid(board, choice.option, asked)) is not None:
        raise StoreError("wants-your-word", unsaid, "Say so, then take it.", 409)
    taken = spec.taken(board, choice.option, asked)
    evidence = evidence_of(spec.task, given, taken)
    plans.decide(
        store,
        number,
        fold,
        choice=stored(taken.choice),
        evidence=evidence,
        reason=choice.reason or taken.reason,
        expected=choice.head,
    )
    return plan_state(store, number)


@router.post("/{number}/undo")
def undo(request: Request, number: int, seen: Seen) -> PlanState:
    """Take the last decision back."""
    plans.undo(store_of(request), number, seen.head)
    return plan_state(store_of(request), number)


@router.post("/{number}/redo")
def redo(request: Request, number: int, seen: Seen) -> PlanState:
    """Bring back what was undone last."""
    plans.redo(store_of(request), number, seen.head)
    return plan_state(store_of(request), number)
