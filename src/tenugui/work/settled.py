"""A plan settled by what is recommended: of the demo's figures, and of what was planned over night."""

from __future__ import annotations

from collections.abc import Sequence

from ..core.contract import IntakeDoc
from ..core.plan import FOLDS, FoldSpec, Progress, computed, copy_of, model_of, recommended, sized
from ..core.plan.given import Given, MeshGiven
from ..core.plan.tasks import within
from ..store import figures, plans
from .chores import Done, chore
from .folds import Standing, base_of, evidence_of, stored
from .shelf import StoreShelf


class SettledGiven(Given):
    """A plan, and what its figure is to be: `height` in mm, None as its file has it."""

    plan: int
    printer_id: int
    material_id: int
    height: float | None = None


@chore("settled", SettledGiven)
def settled(shelf: StoreShelf, given: SettledGiven, progress: Progress) -> Done:
    """Size a plan and take what is recommended, from where it stands; its proof is left to a person to accept."""
    size_plan(shelf, given)
    choices = Standing.of(shelf.store, given.plan).choices
    asked = [s for s in FOLDS if s.task and s.name != "proof" and (not s.free or s.worth_asking(choices))]
    take_recommended(shelf, given.plan, asked, progress)
    return {"plan": given.plan}


def size_plan(shelf: StoreShelf, given: SettledGiven) -> None:
    """Settle the size of a plan where it is open, as its figure stands by itself."""
    store, standing = shelf.store, Standing.of(shelf.store, given.plan)
    if standing.fold("size").state == "settled":
        return
    sha = standing.plan["mesh_sha"]
    intake = computed(shelf.about(sha), "intake", MeshGiven(sha=sha), IntakeDoc)
    figures.examined(store, sha, intake.picture_sha, intake.ready.sha)
    copy = copy_of(shelf, sha, "ready")
    assert copy is not None
    up = copy.upright.ups[0].up
    tall = copy.height(shelf, up)
    factor = 1.0 if given.height is None else given.height / tall
    choice = sized(
        base_of(standing.plan, standing.workshop),
        factor=factor,
        height_mm=tall * factor,
        printer_id=given.printer_id,
        material_id=given.material_id,
        up=up,
        sha=copy.sha,
        preview_sha=copy.preview_sha,
    )
    reason = f"{tall * factor:.1f} mm tall in {choice.material} on {choice.printer}"
    plans.decide(
        store,
        given.plan,
        "size",
        choice=stored(choice),
        evidence={"numbers": None},
        reason=reason,
        expected=standing.head,
    )


def take_recommended(shelf: StoreShelf, plan: int, specs: Sequence[FoldSpec], progress: Progress) -> None:
    """Take the recommended alternative of these folds where they are not settled, in their order."""
    for done, spec in enumerate(specs):
        standing = Standing.of(shelf.store, plan)
        if standing.fold(spec.name).state == "settled":
            continue
        assert spec.task and spec.take
        inputs = standing.given(spec.name)
        part = within(progress, done / len(specs), (done + 1) / len(specs))
        board = computed(shelf.about(inputs.sha), spec.task, inputs, model_of(spec), part)
        taken = spec.taken(board, recommended(board), standing.fold(spec.name).asked)
        plans.decide(
            shelf.store,
            plan,
            spec.name,
            choice=stored(taken.choice),
            evidence=evidence_of(spec.task, inputs, taken),
            reason=taken.reason,
            expected=standing.head,
        )
