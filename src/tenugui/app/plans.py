"""Plans: their folds, computations, decisions, undo and redo, and what they export."""

from __future__ import annotations

import math
import re
from typing import Any

import orjson
from fastapi import APIRouter, Request, Response
from pydantic import ValidationError

from ..core.contract import FOLDS, next_of
from ..core.marks import KINDS, strokes_from
from ..store import blobs, figures, jobs, machines, plans
from ..store.db import Row, Store, StoreError
from ..work.inputs import folds, inputs_for, key_of
from . import live
from .models import Computation, Direction, FoldState, MarksChoice, OptionChoice, PlanState, Ranked, SizeChoice, Weighed, Wishes
from .state import computation, store_of

router = APIRouter(prefix="/api/plans", tags=["plans"])
FILES = {"stl": "model/stl", "3mf": "model/3mf", "pdf": "application/pdf"}


def plan_state(store: Store, number: int) -> PlanState:
    """A plan with its folds and running figures."""
    plan, chain = plans.one(store, number), plans.chain(store, number)
    states = folds(chain)
    newest = {row["fold"]: row for row in chain}
    with_numbers = [row["evidence"]["numbers"] for row in chain if row["evidence"].get("numbers")]
    following = plans.next_of(store, number)
    intake = jobs.result(store, key_of("intake", {"sha": plan["mesh_sha"]}))
    size = next((f.choice for f in states if f.name == "size" and f.choice), None) or {}
    return PlanState(
        id=plan["id"],
        number=plan["number"],
        figure_id=plan["figure_id"],
        figure_name=plan["figure_name"],
        file_name=plan["file_name"],
        triangles=plan["triangles"],
        preview_sha=size.get("preview_sha") or (intake["preview_sha"] if intake else plan["sight_sha"]),
        unit=plan["unit"],
        kit_id=plan["kit_id"],
        thinned=orjson.loads(plan["thinned"]) if plan["thinned"] else None,
        folds=[
            FoldState(
                name=f.name,
                state=f.state,
                ready=f.ready,
                choice=f.choice,
                reason=newest[f.name]["reason"] if f.name in newest else None,
                numbers=newest[f.name]["evidence"].get("numbers") if f.name in newest else None,
            )
            for f in states
        ],
        numbers=with_numbers[-1] if with_numbers else None,
        before=with_numbers[-2] if len(with_numbers) > 1 else None,
        can_undo=chain[-1]["fold"] if chain else None,
        can_redo=following["fold"] if following else None,
        next_fold=next_of(states),
    )


@router.get("/{number}")
def one(request: Request, number: int) -> PlanState:
    """A plan as it stands."""
    return plan_state(store_of(request), number)


@router.get("/{number}/compute/{fold}")
def compute(request: Request, number: int, fold: str, wishes: str | None = None) -> Computation:
    """The alternatives of a fold for the plan as it stands, or the job that computes them. `wishes` is the JSON of `Wishes`, for the fold Pose."""
    store = store_of(request)
    if fold not in ("pose", "supports", "layers", "proof"):
        raise StoreError("no-computation", f"The fold '{fold}' has nothing to compute.")
    return computation(store, fold, inputs_for(store, plans.one(store, number), fold, wishes=_wishes(fold, wishes)))


def given_wishes(wishes: Wishes | None) -> dict[str, Any]:
    """Wishes as inputs of a computation; checked by the core when it runs, directions made unit vectors here."""
    if wishes is None:
        return {}
    asked: dict[str, Any] = {}
    if wishes.priorities:
        asked["priorities"] = wishes.priorities
    if wishes.pinned:
        asked["pinned"] = [_unit(down) for down in wishes.pinned]
    return asked


def _unit(down: tuple[float, float, float]) -> list[float]:
    length = math.sqrt(sum(v * v for v in down))
    if not math.isfinite(length) or length < 1e-9:
        raise StoreError("bad-direction", f"{down} is not a direction.", "Give a vector that is not zero.", 422)
    return [round(v / length, 6) for v in down]


def _wishes(fold: str, text: str | None) -> dict[str, Any]:
    if text is None or fold != "pose":
        return {}
    try:
        return given_wishes(Wishes.model_validate_json(text))
    except ValidationError as reason:
        raise StoreError("bad-request", f"The wishes cannot be read: {reason.errors()[0]['msg']}.", status=422) from reason


@router.post("/{number}/marks")
def decide_marks(request: Request, number: int, choice: MarksChoice) -> PlanState:
    """Settle what is marked. Strokes are kept as they were made and done again on whatever mesh they are needed on."""
    store = store_of(request)
    strokes_from(choice.strokes)
    kinds = kinds_of(choice.strokes)
    deeds = f"{len(choice.strokes)} stroke{'s' * (len(choice.strokes) != 1)}"
    reason = choice.reason or (f"{deeds}: {', '.join(k.replace('_', ' ') for k in kinds)}" if kinds else "Nothing marked")
    held = {"strokes": choice.strokes, "kinds": kinds} | ({"priorities": choice.priorities} if choice.priorities else {})
    plans.decide(store, number, "marks", held, {}, reason)
    return plan_state(store, number)


def kinds_of(rows: list[dict[str, Any]]) -> list[str]:
    """The kinds of marks that strokes give, in their order."""
    return sorted({row["kind"] for row in rows if row.get("kind", "none") != "none"}, key=KINDS.index)


@router.post("/{number}/pose/weigh")
def weigh_one(request: Request, number: int, asked: Direction) -> Weighed:
    """What one direction costs, at once: for turning the figure by hand, and for 'why not this way?'."""
    store = store_of(request)
    plan = plans.one(store, number)
    return live.weighed(store, inputs_for(store, plan, "pose"), _unit(asked.down), asked.priorities)


@router.post("/{number}/pose/rank")
def rank(request: Request, number: int, asked: Wishes) -> Ranked:
    """The poses ranked anew by other priorities, at once and without a new search; the board with its layers follows by `compute`."""
    store = store_of(request)
    return live.ranked(store, inputs_for(store, plans.one(store, number), "pose"), asked.priorities)


@router.post("/{number}/marks/share")
def share_marks(request: Request, number: int) -> int:
    """Lay this part's proposals and priorities on the other parts of its kit; how many took them. What was painted by hand belongs to one part alone."""
    store = store_of(request)
    plan = plans.one(store, number)
    if plan["kit_id"] is None:
        raise StoreError("no-kit", "This figure belongs to no kit.", "Marks are copied between the parts of one.", 409)
    states = {f.name: f.choice or {} for f in folds(plans.chain(store, number))}
    strokes = [row for row in states["marks"].get("strokes", []) if row["tool"] == "propose"]
    priorities = states["pose"].get("wishes", {}).get("priorities") or states["marks"].get("priorities", {})
    if not strokes and not priorities:
        raise StoreError("no-marks", "There is nothing to copy: no proposal is laid on, no priority is set.", "Do that first.", 409)
    taken = 0
    for part in figures.of_kit(store, plan["kit_id"]):
        held = next((f.choice for f in folds(plans.chain(store, part["plan_id"])) if f.name == "marks"), None) or {}
        own = [row for row in held.get("strokes", []) if row["tool"] != "propose"]
        choice = {"strokes": strokes + own, "kinds": kinds_of(strokes + own), "priorities": priorities}
        if part["id"] != plan["figure_id"] and choice != held:
            plans.decide(store, part["plan_id"], "marks", choice, {"with": plan["figure_id"]}, f"As {plan['figure_name']} is marked")
            taken += 1
    return taken


@router.post("/{number}/size")
def decide_size(request: Request, number: int, choice: SizeChoice) -> PlanState:
    """Settle size, printer and material."""
    store = store_of(request)
    plan = plans.one(store, number)
    printer, material = machines.one(store, "printers", choice.printer_id), machines.one(store, "materials", choice.material_id)
    if printer["process"] != material["process"]:
        raise StoreError(
            "wrong-process",
            f"'{material['name']}' is for {material['process']}, '{printer['name']}' prints {printer['process']}.",
            "Choose a material for this printer.",
            422,
        )
    intake = jobs.result(store, key_of("intake", {"sha": plan["mesh_sha"]}))
    if intake is None:
        raise StoreError("intake-missing", "The figure has not been examined yet.", "Wait for the intake to finish.", 409)
    if (choice.height_mm is None) == (choice.factor is None):
        raise StoreError("bad-request", "Give either a height or a factor.", status=422)
    copy = _copy(store, plan, choice.mesh)
    tall = copy["size_mm"][2] if copy else intake["size_mm"][2]
    factor = choice.factor if choice.factor is not None else (choice.height_mm or 0) / tall
    settled = {
        "factor": factor,
        "height_mm": factor * tall,
        "printer_id": choice.printer_id,
        "material_id": choice.material_id,
        "printer": printer["name"],
        "material": material["name"],
        "process": printer["process"],
        "mesh": choice.mesh,
        "eye_z": choice.eye_z,
        "crown_z": choice.crown_z,
    }
    if copy:
        settled |= {"sha": copy["sha"], "preview_sha": copy["preview_sha"]}
    which = "" if choice.mesh == "original" else f", the {choice.mesh} copy"
    reason = choice.reason or f"{factor * tall:.1f} mm tall in {material['name']} on {printer['name']}{which}"
    plans.decide(store, number, "size", settled, {"file_size": intake["size_mm"], "unit_guess": intake["unit_guess"]}, reason)
    if plan["kit_id"] is not None:
        _size_with_kit(store, plan, settled)
    return plan_state(store, number)


def _copy(store: Store, plan: Row, way: str) -> dict[str, Any] | None:
    """The mended copy that is to take the original's place, or None for the original."""
    if way == "original":
        return None
    document = jobs.result(store, key_of("mend", {"sha": plan["mesh_sha"], "way": way}))
    if document is None:
        raise StoreError("not-computed", f"There is no {way} copy yet.", "Make it first.", 409)
    return dict(document)


def _size_with_kit(store: Store, plan: Row, settled: dict[str, Any]) -> None:
    """The other parts of a kit take the same factor, printer and material, or they would not fit together."""
    for part in figures.of_kit(store, plan["kit_id"]):
        if part["id"] == plan["figure_id"]:
            continue
        intake = jobs.result(store, key_of("intake", {"sha": part["mesh_sha"]}))
        held = next((f.choice for f in folds(plans.chain(store, part["plan_id"])) if f.name == "size" and f.choice), None) or {}
        if intake is None or all(held.get(k) == settled[k] for k in ("factor", "printer_id", "material_id")):
            continue
        own = {"mesh": "original", **{k: held[k] for k in ("mesh", "sha", "preview_sha") if k in held}}
        mine = {k: v for k, v in settled.items() if k not in ("mesh", "sha", "preview_sha", "eye_z", "crown_z")} | own
        mine["height_mm"] = settled["factor"] * intake["size_mm"][2]
        evidence = {"file_size": intake["size_mm"], "unit_guess": intake["unit_guess"], "with": plan["figure_id"]}
        plans.decide(store, part["plan_id"], "size", mine, evidence, f"With the kit: sized as {plan['figure_name']} was")


def _pose(option: Row, index: int, recommended: int) -> tuple[dict[str, Any], str]:
    return {"down": option["down"], "option": index, "recommended": index == recommended}, option["why"]


def _supports(option: Row, index: int, recommended: int) -> tuple[dict[str, Any], str]:
    return {
        "risk": option["risk"],
        "style": "pillars",
        "tips": option["tip_count"],
        "option": index,
    }, f"Accepted risk {option['risk']:.0%} a tip: {option['tip_count']} tips, {option['islands_after']} islands left"


def _layers(option: Row, index: int, recommended: int) -> tuple[dict[str, Any], str]:
    return {
        "layer_height_mm": option["layer_height_mm"],
        "layers": option["layers"],
        "option": index,
    }, f"{option['layer_height_mm']:g} mm, {option['step_kind']} step" if option[
        "step_kind"
    ] != "none" else f"{option['layer_height_mm']:g} mm"


BOARDS = {"pose": ("candidates", _pose), "supports": ("choices", _supports), "layers": ("choices", _layers)}


@router.post("/{number}/decide/{fold}")
def decide(request: Request, number: int, fold: str, choice: OptionChoice) -> PlanState:
    """Take an alternative of a fold's board. What is stored comes from the server's own result, never from the page."""
    store = store_of(request)
    if fold not in BOARDS and fold != "proof":
        raise StoreError("no-fold", f"'{fold}' is not a fold with a board.", "Folds are " + ", ".join(FOLDS) + ".")
    asked = given_wishes(choice.wishes) if fold == "pose" else {}
    key = key_of(fold, inputs_for(store, plans.one(store, number), fold, wishes=asked))
    document = jobs.result(store, key)
    if document is None:
        raise StoreError(
            "not-computed", "The alternatives have not been computed for the plan as it stands.", "Open the fold and wait for them.", 409
        )
    if fold == "proof":
        settled, reason, numbers = (
            {"islands": len(document["islands"]), "hazards": len(document["hazards"]), "layer_height_mm": document["layers"]["height_mm"]},
            "Every layer read",
            document["numbers"],
        )
    else:
        board, settle = BOARDS[fold]
        rows = document[board]
        if choice.option >= len(rows):
            raise StoreError("no-option", f"The board has {len(rows)} alternatives.", status=422)
        row = rows[choice.option]
        settled, reason = settle(row, choice.option, document["recommended"])
        settled |= {"wishes": asked} if asked else {}
        numbers = row["numbers"]
    plans.decide(store, number, fold, settled, {"result_key": key, "numbers": numbers}, choice.reason or reason)
    return plan_state(store, number)


@router.post("/{number}/undo")
def undo(request: Request, number: int) -> PlanState:
    """Take the last decision back."""
    plans.undo(store_of(request), number)
    return plan_state(store_of(request), number)


@router.post("/{number}/redo")
def redo(request: Request, number: int) -> PlanState:
    """Bring back what was undone last."""
    plans.redo(store_of(request), number)
    return plan_state(store_of(request), number)


@router.get("/{number}/files/{kind}", response_class=Response)
def export(request: Request, number: int, kind: str) -> Response:
    """The posed and supported figure as STL or 3MF, or the run sheet as PDF, of the proof as the plan stands."""
    store = store_of(request)
    if kind not in FILES:
        raise StoreError("no-file", f"There is no export '{kind}'.", "Ask for stl, 3mf or pdf.")
    plan = plans.one(store, number)
    document = jobs.result(store, key_of("proof", inputs_for(store, plan, "proof")))
    if document is None:
        raise StoreError("not-computed", "The plan as it stands has not been proved.", "Open the fold Proof first.", 409)
    name = re.sub(r"[^a-z0-9]+", "-", plan["figure_name"].lower()).strip("-") or "figure"
    return Response(
        blobs.get(store, document["files"][kind]),
        media_type=FILES[kind],
        headers={"Content-Disposition": f'attachment; filename="{name}-plan-{plan["number"]}.{kind}"'},
    )
