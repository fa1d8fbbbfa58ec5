"""A figure is cut into a kit: two parts on the bench, at one size, with their marks and their joint."""

from __future__ import annotations

from ..core.contract import IntakeDoc, SizeChoice
from ..core.contract.parting import CutAsk, PartedDoc
from ..core.plan import computed
from ..core.plan.given import Given, MeshGiven
from ..core.plan.parting import PartGiven
from ..core.plan.size import copy_of
from ..core.plan.tasks import Progress, within
from ..store import figures, kits, plans
from ..store.db import StoreError
from .chores import Done, chore
from .folds import Standing, stored, want_examined
from .shelf import StoreShelf


class CutGiven(Given):
    """A plan whose figure is cut, where, and how its peg fits; `names` of the body and the limb."""

    plan: int
    cut: CutAsk
    clearance: float
    least: float
    names: tuple[str, str]


def part_given(standing: Standing, cut: CutAsk, clearance: float, least: float) -> PartGiven:
    """What a figure that is sized is parted from.

    Raises:
        StoreError: `fold-open` where it has no size yet.
    """
    return standing.given("pose").to(PartGiven, cut=cut, clearance=clearance, least=least)


@chore("cut", CutGiven)
def cut(shelf: StoreShelf, asked: CutGiven, progress: Progress) -> Done:
    """Part a plan's figure, keep both parts as figures of a kit, and size them as it was. A figure that belongs to a
    kit leaves it for its parts, and is put away. Done again, it finds what it did.

    Raises:
        StoreError: `fold-open` where it has no size.
        PartingError: why it cannot be parted there.
    """
    store = shelf.store
    standing = Standing.of(store, asked.plan)
    size = standing.choice(SizeChoice)
    if size is None:
        raise StoreError("fold-open", "The figure has no size yet.", "Settle its size first.", 409)
    about = shelf.about(size.sha)
    given = part_given(standing, asked.cut, asked.clearance, asked.least)
    document = computed(about, "parted", given, PartedDoc, within(progress, 0.0, 0.4))
    figure = figures.one(store, standing.plan["figure_id"])
    new = [
        figures.NewFigure(
            name=name,
            file_name=f"cut from {figure['name']}"[:255],
            source_sha=part.sha,
            triangles=part.triangles,
            sight_sha=part.preview_sha,
            mesh_sha=part.sha,
            unit="mm",
        )
        for name, part in zip(asked.names, document.parts, strict=True)
    ]
    joint = document.model_dump(mode="json", exclude={"parts"}) | {"names": list(asked.names)}
    kept = kits.parted(store, asked.plan, figure["id"], new, joint)
    for k, (number, plan) in enumerate(kept.parts):
        part = document.parts[k]
        at = within(progress, 0.4 + 0.3 * k, 0.7 + 0.3 * k)
        mine = shelf.about(part.sha)
        read = computed(mine, "intake", MeshGiven(sha=part.sha), IntakeDoc, at)
        want_examined(store, part.sha, f"Examining {asked.names[k]}", number)
        if read.ready.refused is None and not plans.chain(store, plan):
            _decided(shelf, plan, size, part.sha, part.marks_sha)
    return {"kit": kept.kit}


def _decided(shelf: StoreShelf, plan: int, size: SizeChoice, sha: str, marks: str) -> None:
    """The size that the figure had, in mm, and the marks that were on it."""
    copy = copy_of(shelf, sha, "ready")
    assert copy is not None  # its intake is there
    choice = size.model_copy(
        update={
            "sha": copy.sha,
            "preview_sha": copy.preview_sha,
            "factor": 1.0,
            "height_mm": copy.height(shelf, size.up),
            "mesh": "ready",
            "eye_z": None,
            "crown_z": None,
        }
    )
    evidence = {"numbers": None}
    plans.decide(
        shelf.store,
        plan,
        "size",
        choice=stored(choice),
        evidence=evidence,
        reason="Cut at its size; all parts share it",
    )
    strokes = [{"tool": "file", "what": marks}]
    plans.decide(
        shelf.store,
        plan,
        "marks",
        choice={"strokes": strokes, "kinds": []},
        evidence=evidence,
        reason="As the figure was marked; its joint is hidden, its peg fits",
    )
