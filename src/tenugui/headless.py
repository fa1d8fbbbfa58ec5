"""The contract's commands, each a few calls into the core."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
import orjson
from numpy.typing import NDArray

from .core.choice import compare_heights, use_of
from .core.contract import (
    health_document,
    layers_document,
    make_plan,
    pose_document,
    proof_document,
    repair_document,
    run_sheet_for,
    supports_document,
)
from .core.contract.plan import thin_parts
from .core.errors import CoreError
from .core.formats import read, write_3mf, write_obj, write_ply, write_run_sheet, write_stl
from .core.layers import prove
from .core.machines import Material, Printer, allowed_step, default_height, load_material, load_printer, printer_heights
from .core.marks import MarkError, labels_from_lists, scar_weights, to_hold
from .core.mesh import UNITS, Mesh, examine
from .core.pose import choose_poses
from .core.repair import repair
from .core.risk import ledger
from .core.supports import SupportSet, make_supports

Labels = NDArray[np.uint8]


def _read(path: str, unit: str) -> tuple[Mesh, Labels | None]:
    """The figure, and the labels of its faces where the file itself marks them (3MF)."""
    with open(path, "rb") as handle:
        held = read(handle)
    own = None
    if held.marks:
        own = np.concatenate([held.marks.get(name, np.zeros(len(part.faces), np.uint8)) for name, part in held.parts.items()])
    mesh = held.whole
    return (mesh if unit == "mm" else mesh.scaled(UNITS[unit])), own


def _labels(path: str | None, faces: int, own: Labels | None) -> Labels | None:
    """Labels (faces,) from a marks file: {"faces": {"show": [...], ...}} with indices in file order; without one, the figure file's own."""
    if path is None:
        return own
    try:
        held = orjson.loads(Path(path).read_bytes())
    except orjson.JSONDecodeError as reason:
        raise MarkError("bad-marks", f"The marks cannot be read: {reason}.", path) from reason
    return labels_from_lists(held.get("faces") if isinstance(held, dict) else None, faces, path)


WRITERS: dict[str, Callable[[dict[str, Mesh], BinaryIO], None]] = {
    ".3mf": write_3mf,
    ".stl": lambda parts, handle: write_stl(Mesh.joined(list(parts.values())), handle),
    ".obj": write_obj,
    ".ply": lambda parts, handle: write_ply(Mesh.joined(list(parts.values())), handle),
}


def _write_parts(parts: dict[str, Mesh], out: str, labels: Labels | None = None) -> None:
    writer = WRITERS.get(Path(out).suffix.lower())
    if writer is None:
        raise CoreError("bad-format", f"{out} does not end in {', '.join(WRITERS)}.", remedy="Choose one of these.")
    with open(out, "wb") as handle:
        if writer is write_3mf and labels is not None:
            write_3mf(parts, handle, {"figure": labels})
        else:
            writer(parts, handle)


def _write(supports: SupportSet, out: str, labels: Labels | None = None) -> None:
    _write_parts({"figure": supports.figure} | ({} if supports.mesh is None else {"supports": supports.mesh}), out, labels)


def _height(given: float | None, printer: Printer) -> float:
    if given is not None and not 0.005 <= given <= 2:
        raise CoreError("bad-height", f"A layer height of {given} mm is out of range.", remedy="Give 0.005 to 2 mm.")
    return default_height(printer) if given is None else given


def _health(given: argparse.Namespace, mesh: Mesh) -> dict[str, Any]:
    if not given.repair:
        return health_document(examine(mesh))
    done = repair(mesh, given.unite, given.remesh)
    _write_parts({"figure": done.mesh}, given.repair)
    return health_document(examine(mesh), repair_document(done))


def _proof(given: argparse.Namespace, mesh: Mesh, printer: Printer, material: Material) -> dict[str, Any]:
    height = _height(given.layer_height, printer)
    placed = mesh if given.as_is else mesh.dropped()
    if given.supports == "auto":
        supports = make_supports(placed, printer, material, height)
        proof, tips, placed = supports.after, supports.tips, supports.figure
    else:
        proof, tips = prove(placed, height, allowed_step(printer, material, height)), []
    hazards = ledger(proof, printer, material, tips, bool(placed.lower[2] > 0), thin_parts(placed, printer))
    return proof_document(mesh, proof, use_of(proof.stack, proof.areas, printer, material), hazards, printer, material)


def _layers(given: argparse.Namespace, mesh: Mesh, printer: Printer, material: Material, labels: Labels | None) -> dict[str, Any]:
    try:
        wanted = [float(h) for h in given.heights.split(",")] if given.heights else printer_heights(printer)
    except ValueError as reason:
        raise CoreError("bad-height", f"--heights is not a list of numbers: {given.heights}.") from reason
    placed = mesh.dropped()
    return layers_document(
        compare_heights(
            placed,
            printer,
            material,
            [_height(h, printer) for h in wanted],
            thin=thin_parts(placed, printer),
            weights=None if labels is None else scar_weights(labels),
        )
    )


def _plan(given: argparse.Namespace, mesh: Mesh, printer: Printer, material: Material) -> dict[str, Any]:
    if given.height is not None and not 1 <= given.height <= 2000:
        raise CoreError("bad-height", f"A figure {given.height} mm tall is out of range.", remedy="Give 1 to 2000 mm.")
    plan = make_plan(
        mesh, printer, material, given.height, progress=lambda share, what: print(f"{share:4.0%} {what}", file=sys.stderr, flush=True)
    )
    out = Path(given.out)
    out.mkdir(parents=True, exist_ok=True)
    name = Path(given.file).stem
    _write(plan.supports, str(out / f"{name}.3mf"))
    _write(plan.supports, str(out / f"{name}.stl"))
    with open(out / f"{name}-run-sheet.pdf", "wb") as handle:
        write_run_sheet(run_sheet_for(name, plan.supports, plan.proof, plan.use, plan.hazards, printer, material), handle)
    document = {
        "schema": "tenugui/plan@1",
        "layer_height_mm": plan.height,
        "files": [f"{name}.3mf", f"{name}.stl", f"{name}-run-sheet.pdf", "plan.json"],
        "pose": pose_document(plan.choice),
        "supports": supports_document(plan.supports),
        "layers": layers_document(plan.heights),
        "proof": proof_document(plan.supports.figure, plan.proof, plan.use, plan.hazards, printer, material),
    }
    (out / "plan.json").write_bytes(orjson.dumps(document, option=orjson.OPT_INDENT_2 | orjson.OPT_SERIALIZE_NUMPY))
    return document


def run(given: argparse.Namespace, printer_given: str | dict[str, Any] | None, material_given: str | dict[str, Any] | None) -> None:
    """Run a headless command and print its document, or a short reading of it."""
    if printer_given is not None:
        printer = load_printer(printer_given)
        material = load_material(material_given, printer)
    mesh, own = _read(given.file, given.unit)
    labels = _labels(getattr(given, "marks", None), len(mesh.faces), own)
    weights = None if labels is None else scar_weights(labels)
    if given.command == "health":
        document = _health(given, mesh)
    elif given.command == "proof":
        document = _proof(given, mesh, printer, material)
    elif given.command == "pose":
        if not 1 <= given.count <= 24:
            raise CoreError("bad-count", f"{given.count} candidates are out of range.", remedy="Give 1 to 24.")
        document = pose_document(choose_poses(mesh, printer, material, given.count, weights=weights))
    elif given.command == "supports":
        supports = make_supports(
            mesh.dropped(),
            printer,
            material,
            _height(given.layer_height, printer),
            given.risk,
            weights=weights,
            style=given.style,
            hold=None if labels is None else to_hold(labels),
        )
        if given.out:
            _write(supports, given.out, labels)
        document = supports_document(supports)
    elif given.command == "layers":
        document = _layers(given, mesh, printer, material, labels)
    else:
        document = _plan(given, mesh, printer, material)
    text = orjson.dumps(document, option=orjson.OPT_SERIALIZE_NUMPY | (0 if given.json else orjson.OPT_INDENT_2))
    sys.stdout.write(text.decode() + "\n")
