"""Load the demo into an empty store: figures, plans at different stages, and two weeks of made-up log."""

from __future__ import annotations

import io
from collections.abc import Callable
from datetime import datetime, timedelta
from pathlib import Path

import numpy as np

from ..core.contract import SIGHT_FACES, pack_mesh
from ..core.formats import load as load_mesh
from ..core.formats import pack_whole, write_3mf
from ..core.mesh import Mesh, cluster
from ..store import blobs, figures, jobs, machines, plans, runs
from ..store.db import Store
from ..work.inputs import inputs_for, key_of
from ..work.tasks import TASKS
from .figures import NAMES, demo_files

PLANNED = (
    # name, height in mm, printer, material, folds to settle
    ("reed-warden", 54.0, "heron", "lantern grey", 5),
    ("toad-abbot", 40.0, "heron", "reed tough", 3),
    ("heron-courier", 60.0, "heron", "lantern grey", 1),
    ("ferry-keeper", 100.0, "kestrel", "marsh matte", 4),
    ("shrine-lantern", 60.0, "heron", "lantern grey", 2),
)
WAITING = ("reed-warden-broken", "toad-abbot-inches", "ferry-keeper-presupported")
KIT = ("stilt-giant.3mf", ("stilt-giant-upper", "stilt-giant-stilts"))
RISE_MM = 77.8
"""How far the giant's trunk stands above its own frame when its collars rest on the stilts'."""
MARKED = ("reed-warden", "toad-abbot")
"""Figures on which what they say of themselves is laid: what is seen from around the table, and what never is."""
LAID = [{"tool": "propose", "what": "unseen", "kind": "hidden"}, {"tool": "propose", "what": "seen", "kind": "show"}]
ORDER = ("pose", "supports", "layers", "proof")
BOARD = {"pose": "candidates", "supports": "choices", "layers": "choices"}


def compute(store: Store, kind: str, given: dict[str, object]) -> dict[str, object]:
    """A result, computed here where it is not cached."""
    key = key_of(kind, given)
    document = jobs.result(store, key)
    if document is None:
        jobs.keep_result(store, key, kind, TASKS[kind](store, given, lambda share, doing: None))
        document = jobs.result(store, key)
    assert document is not None
    return dict(document)


def settle(store: Store, plan_id: int, height_mm: float, printer: str, material: str, folds: int, marked: bool) -> None:
    """Take the recommended alternative of the first `folds` folds."""
    plan = plans.one(store, plan_id)
    intake = compute(store, "intake", {"sha": plan["mesh_sha"]})
    size = intake["size_mm"]
    assert isinstance(size, list)
    machine = next(m for m in machines.every(store, "printers") if m["name"] == printer)
    stuff = next(m for m in machines.every(store, "materials") if m["name"] == material)
    choice = {
        "factor": height_mm / size[2],
        "height_mm": height_mm,
        "printer_id": machine["id"],
        "material_id": stuff["id"],
        "printer": printer,
        "material": material,
        "process": machine["process"],
    }
    plans.decide(
        store,
        plan_id,
        "size",
        choice,
        {"file_size": size, "unit_guess": intake["unit_guess"]},
        f"{height_mm:.1f} mm tall in {material} on {printer}",
    )
    if marked:
        compute(store, "proposals", {"sha": plan["mesh_sha"]})
        plans.decide(store, plan_id, "marks", {"strokes": LAID, "kinds": ["show", "hidden"]}, {}, "As the figure itself says")
    for fold in ORDER[: folds - 1]:
        given = inputs_for(store, plan, fold)
        document = compute(store, fold, given)
        evidence = {"result_key": key_of(fold, given)}
        if fold == "proof":
            made = {
                "islands": len(document["islands"]),
                "hazards": len(document["hazards"]),
                "layer_height_mm": document["layers"]["height_mm"],
            }  # type: ignore[arg-type,index]
            plans.decide(store, plan_id, fold, made, {**evidence, "numbers": document["numbers"]}, "Every layer read")
            continue
        index = document["recommended"]
        row = document[BOARD[fold]][index]  # type: ignore[index]
        taken = {
            "pose": lambda r: {"down": r["down"]},
            "supports": lambda r: {"risk": r["risk"], "style": "pillars", "tips": r["tip_count"]},
            "layers": lambda r: {"layer_height_mm": r["layer_height_mm"], "layers": r["layers"]},
        }[fold](row)
        reason = row["why"] if fold == "pose" else document.get("why", f"Accepted risk {row.get('risk', 0):.0%} a tip")
        plans.decide(store, plan_id, fold, {**taken, "option": index}, {**evidence, "numbers": row["numbers"]}, str(reason))


def log_two_weeks(store: Store, plan_id: int, now: datetime) -> None:
    """Made-up runs of one settled plan over the last fortnight."""
    chain = plans.chain(store, plan_id)
    numbers, size = chain[-1]["evidence"]["numbers"], chain[0]["choice"]
    rng = np.random.default_rng(17)
    told = [
        ("good", 2, "clean, one hair at the spear's tip"),
        ("scarred", 3, "pits under the cloak's hem, sanded with 220"),
        ("good", 2, ""),
        ("part lost", 4, "spear snapped while clipping, glued"),
        ("good", 1, "supports off before curing, warm water"),
        ("print lost", None, "came off the plate at layer 212; plate cleaned and levelled"),
        ("good", 2, ""),
        ("good", 2, "for the ferry diorama"),
    ]
    for day, (result, removal, note) in zip(np.linspace(13.4, 0.6, len(told)), told, strict=True):
        begun = (now - timedelta(days=float(day))).replace(minute=int(rng.integers(0, 60)), second=0, microsecond=0)
        run = runs.start(
            store,
            plan_id,
            chain[-1]["id"],
            size["printer_id"],
            size["material_id"],
            (numbers["time_s"], numbers["mass_g"], numbers["risk"]),
            begun,
        )
        lost = result == "print lost"
        runs.end(
            store,
            run,
            {
                "result": result,
                "real_s": float(numbers["time_s"] * rng.normal(1.04, 0.02)),
                "real_g": float(numbers["mass_g"] * rng.normal(1.06, 0.05)),
                "failed_layer": 212 if lost else None,
                "removal": removal,
                "note": note,
            },
        )


def load_kit(store: Store, files: dict[str, Path]) -> None:
    """The stilt giant as one 3MF of two parts, each placed, as a sculptor would send it."""
    parts = {}
    for name in KIT[1]:
        with open(files[name], "rb") as handle:
            mesh = load_mesh(handle)
        parts[name.replace("-", " ").capitalize()] = Mesh(
            mesh.vertices + np.array([0, 0, RISE_MM if name.endswith("upper") else 0]), mesh.faces
        )
    packed = io.BytesIO()
    write_3mf(parts, packed)
    sha = blobs.put(store, packed)
    kit = figures.add_kit(store, "Stilt giant", sha, True)
    for name, mesh in parts.items():
        mesh_sha = blobs.put_bytes(store, pack_whole(mesh))
        sight = blobs.put_bytes(store, pack_mesh(cluster(mesh, SIGHT_FACES)))
        compute(store, "intake", {"sha": mesh_sha})
        plans.create(store, figures.add(store, figures.NewFigure(name, KIT[0], sha, len(mesh.faces), sight, mesh_sha, "mm", kit)))


def load_machines(store: Store) -> None:
    """The shipped presets, where they are missing."""
    from dataclasses import asdict

    from ..core.machines import material_presets, printer_presets

    for table, presets in (("printers", printer_presets()), ("materials", material_presets())):
        held = {row["name"] for row in machines.every(store, table)}
        for name, preset in presets.items():  # type: ignore[attr-defined]
            if name not in held:
                machines.keep(store, table, asdict(preset), stock_g=850.0 if table == "materials" else None)


def load_demo(store: Store, folder: Path, now: datetime, tell: Callable[[str], None]) -> None:
    """Everything that is not there yet; taken up again where an earlier start was interrupted."""
    held = {row["file_name"]: row for row in figures.every(store)}
    if KIT[0] in held and all(f"{name}.stl" in held for name in NAMES if name not in KIT[1]) and runs.every(store):
        return
    tell("sculpting the demo's figures, once (about a minute)")
    files = demo_files(folder)
    if KIT[0] not in held:
        tell("examining the stilt giant, a kit of two parts")
        load_kit(store, files)
    for name in (*reversed(WAITING), *(row[0] for row in reversed(PLANNED))):
        if f"{name}.stl" in held:
            continue
        tell(f"examining {name}")
        with open(files[name], "rb") as handle:
            sha = blobs.put(store, handle)
            mesh = load_mesh(handle)
        sight = blobs.put_bytes(store, pack_mesh(cluster(mesh, SIGHT_FACES)))
        compute(store, "intake", {"sha": sha})
        plans.create(
            store, figures.add(store, figures.NewFigure(name.replace("-", " ").capitalize(), f"{name}.stl", sha, len(mesh.faces), sight))
        )
    numbers = {row["file_name"]: row["plan_id"] for row in figures.every(store)}
    for name, height, printer, material, folds in PLANNED:
        if not plans.chain(store, numbers[f"{name}.stl"]):
            tell(f"planning {name}")
            settle(store, numbers[f"{name}.stl"], height, printer, material, folds, name in MARKED)
    if not runs.every(store):
        log_two_weeks(store, numbers["reed-warden.stl"], now)
