"""What a plan's chain of decisions means for each computation: its inputs, and the hash under which its result is kept."""

from __future__ import annotations

import hashlib
from typing import Any

import orjson

from ..core.contract import Decision, Fold, folds_of
from ..core.machines import default_height, load_printer
from ..store import machines, plans
from ..store.db import Row, Store, StoreError

ENGINE = 18
"""Raised whenever the engine's answers change, so that cached results are not taken for today's."""

NEEDS = {
    "size": (),
    "pose": ("size",),
    "supports": ("size", "pose"),
    "layers": ("size", "pose", "supports"),
    "proof": ("size", "pose", "supports", "layers"),
}


def key_of(kind: str, given: dict[str, Any]) -> str:
    """SHA-256 of a computation's kind, inputs and engine."""
    return hashlib.sha256(orjson.dumps([ENGINE, kind, given], option=orjson.OPT_SORT_KEYS)).hexdigest()


def folds(chain: list[Row]) -> list[Fold]:
    """Fold states of a stored chain."""
    return folds_of([Decision(row["fold"], row["choice"], index) for index, row in enumerate(chain)])


def inputs_for(
    store: Store, plan: Row, kind: str, chain: list[Row] | None = None, wishes: dict[str, Any] | None = None
) -> dict[str, Any]:
    """Inputs of `kind` for a plan as it stands; `wishes` are a pose's priorities and pinned directions. Raises `StoreError` where an earlier
    fold is not settled.
    """
    states = {fold.name: fold for fold in folds(plans.chain(store, plan["id"]) if chain is None else chain)}
    for fold in NEEDS[kind]:
        if states[fold].state != "settled":
            raise StoreError("fold-open", f"The fold '{fold.title()}' is not settled.", "Decide it first.", 409)
    given: dict[str, Any] = {"sha": plan["mesh_sha"]}
    if kind == "size":
        return given
    size = states["size"].choice
    assert size is not None
    given["sha"] = size.get("sha", given["sha"])  # the original, or the copy that was taken in its place
    given["factor"] = size["factor"]
    given["printer"] = machines.one(store, "printers", size["printer_id"])["spec"]
    given["material"] = machines.one(store, "materials", size["material_id"])["spec"]
    marks = states["marks"].choice
    if marks and marks["strokes"]:
        given["strokes"] = marks["strokes"]
        if any(row.get("tool") == "file" for row in marks["strokes"]):
            given["marks_of"] = plan["mesh_sha"]
    if kind == "pose":
        held = {"priorities": marks["priorities"]} if marks and marks.get("priorities") else {}
        return given | held | (wishes or {})
    pose, supports, layers = states["pose"].choice, states["supports"].choice, states["layers"].choice
    assert pose is not None
    given["down"] = pose["down"]
    given["height"] = default_height(load_printer(given["printer"]))
    if kind == "supports":
        return given
    assert supports is not None
    given["risk"] = supports["risk"]
    if kind == "proof":
        assert layers is not None
        given["height"] = layers["layer_height_mm"]
        given["name"] = plan["figure_name"]
    return given
