"""Dataclasses of the rooms to the contract's documents. Field names are fixed; mm, mm², mm³, s, degrees."""

from __future__ import annotations

import math
from dataclasses import asdict
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..choice import Heights, Use
from ..layers import Island, Proof
from ..machines import Material, Printer
from ..mesh import Health, Mesh, fits, flat_faces, measure
from ..pose import AIMS, NAMES, PoseChoice, Search
from ..repair import Repair
from ..risk import Hazard, combined
from ..supports import SupportSet

Document = dict[str, Any]


def health_document(health: Health, repaired: Document | None = None) -> Document:
    """`tenugui/health@1`."""
    return {"schema": "tenugui/health@1", **health.as_dict(), "repaired": repaired}


def repair_document(done: Repair) -> Document:
    """What a repair did, step by step, and the figure's basics after it."""
    return {
        "steps": [asdict(step) for step in done.steps],
        "faces_new": int(done.new.sum()),
        "open_left": done.open_left,
        **asdict(measure(done.mesh)),
    }


def cuts_document(mesh: Mesh) -> list[Document]:
    """Flat cut faces, and the pegs and sockets on them: proposals for hidden and fit surfaces."""
    rows = []
    for flat in flat_faces(mesh):
        found = [{"kind": f.kind, "reach": f.reach, "place": f.centre.tolist(), "faces": len(f.faces)} for f in fits(mesh, flat)]
        rows.append(
            {"area": flat.area, "normal": flat.normal.tolist(), "place": flat.centre.tolist(), "faces": len(flat.faces), "fits": found}
        )
    return rows


def island_row(island: Island) -> Document:
    """One island."""
    return {
        "layer": island.layer,
        "z_mm": island.z,
        "x_mm": island.x,
        "y_mm": island.y,
        "area_mm2": island.area,
        "merge_layer": island.merge_layer,
        "joins_layer": island.joins_layer,
        "ground_layer": island.ground_layer,
    }


def hazard_row(hazard: Hazard) -> Document:
    """One line of the ledger."""
    return {
        "code": hazard.code,
        "severity": hazard.severity,
        "layer": hazard.layer,
        "x_mm": hazard.x,
        "y_mm": hazard.y,
        "z_mm": hazard.z,
        "message": hazard.message,
        "remedy": hazard.remedy,
        "chance": hazard.chance,
        "chance_is": "prior",
        "cost": hazard.cost,
        "has": hazard.has,
        "needs": hazard.needs,
        "unit": hazard.unit,
    }


def material_row(use: Use) -> Document:
    """Material in all, with waste."""
    return {"volume_ml": use.volume_ml, "mass_g": use.mass_g, "cost": use.cost}


def proof_document(mesh: Mesh, proof: Proof, use: Use, hazards: list[Hazard], printer: Printer, material: Material) -> Document:
    """`tenugui/proof@1`."""
    grid = proof.stack.grid
    return {
        "schema": "tenugui/proof@1",
        "model": asdict(measure(mesh)),
        "printer": printer.name,
        "material_name": material.name,
        "layers": {"height_mm": grid.height, "count": grid.layers, "pitch_mm": grid.pitch},
        "islands": [island_row(i) for i in proof.islands],
        "sealed": [
            {
                "first_layer": s.first_layer,
                "last_layer": s.last_layer,
                "peak_area_mm2": s.peak_area,
                "volume_mm3": s.volume,
                "x_mm": s.x,
                "y_mm": s.y,
            }
            for s in proof.voids.sealed
        ],
        "trapped": [{"volume_mm3": t.volume, "z_mm": [t.z_low, t.z_high]} for t in proof.voids.trapped],
        "overhang_area_mm2": proof.hang.total,
        "volume_mm3": proof.stack.volume(),
        "time_s": use.time_s,
        "time_is": "rough estimate" if use.rough else "formula",
        "material": material_row(use),
        "risk": combined(hazards),
        "risk_is": "prior",
        "hazards": [hazard_row(h) for h in hazards],
    }


def pose_document(choice: PoseChoice) -> Document:
    """`tenugui/pose@1`."""
    rows = []
    for c in choice.candidates:
        metrics: Document = dict(c.metrics)
        metrics["stable"] = c.stable
        rows.append({"down": list(c.down), "quaternion": list(c.quaternion), "metrics": metrics, "why": c.why, "best_at": list(c.best_at)})
    return {"schema": "tenugui/pose@1", "evaluated": choice.evaluated, "candidates": rows, "recommended": choice.recommended}


def map_document(search: Search, on_front: NDArray[np.bool_], wish: dict[str, float]) -> Document:
    """All weighed directions with their aims and merit, those that no other beats, and the wish that ranks them. `limit`: what faces down by
    more than this share needs a support.
    """
    table = search.table
    return {
        "down": table.down.round(4).tolist(),
        "aims": {aim: [float(f"{v:.4g}") for v in table.column(aim)] for aim in AIMS},
        "front": np.flatnonzero(on_front).tolist(),
        "merit": search.merit(wish).round(4).tolist(),
        "wish": wish,
        "limit": math.sin(search.limit_angle),
        "names": NAMES,
    }


def supports_document(supports: SupportSet) -> Document:
    """`tenugui/supports@1`."""
    return {
        "schema": "tenugui/supports@1",
        "tips": [
            {
                "x_mm": t.x,
                "y_mm": t.y,
                "z_mm": t.z,
                "diameter_mm": t.diameter,
                "pillar_mm": t.pillar,
                "reason": t.reason,
                "on": t.on,
                "joints": t.joints,
            }
            for t in supports.tips
        ],
        "raft": supports.with_raft,
        "lift_mm": float(supports.figure.lower[2]),
        "volume_ml": supports.volume_mm3 / 1000,
        "islands_before": len(supports.before.islands),
        "islands_after": len(supports.after.islands),
        "overhang_before_mm2": supports.before.hang.total,
        "overhang_after_mm2": supports.after.hang.total,
        "findings": [asdict(f) for f in supports.findings],
    }


def layers_document(heights: Heights) -> Document:
    """`tenugui/layers@1`."""
    return {
        "schema": "tenugui/layers@1",
        "choices": [
            {
                "layer_height_mm": c.height,
                "layers": c.layers,
                "time_s": c.time_s,
                "material_g": c.mass_g,
                "material_ml": c.volume_ml,
                "cost": c.cost,
                "cusp_mm": {"median": c.cusp[0], "p95": c.cusp[1], "max": c.cusp[2]},
                "step_kind": c.step_kind,
                "rounding_mm": c.rounding,
                "risk": c.risk,
                "blemishes": c.blemishes,
                "time_is": "rough estimate" if c.rough else "formula",
            }
            for c in heights.choices
        ],
        "recommended": heights.recommended,
        "why": heights.why,
    }
