"""The whole chain with recommended choices: size, pose, supports, layer height, proof."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..choice import Heights, Use, compare_heights, use_of
from ..formats import RunSheet
from ..layers import Proof
from ..machines import Material, Printer, ResinPrinter, cautions, default_height, motor_step, printer_heights, thin_limits
from ..mesh import Mesh, ThinPlace, decimate, local_thickness, picture, thin_places
from ..pose import PoseChoice, choose_poses, posed
from ..risk import Hazard, combined, ledger
from ..supports import SupportSet, make_supports, raised

Progress = Callable[[float, str], None]


@dataclass(frozen=True)
class Plan:
    """Everything decided and proved for one figure on one printer."""

    figure: Mesh
    choice: PoseChoice
    supports: SupportSet
    heights: Heights
    height: float
    proof: Proof
    use: Use
    hazards: list[Hazard]
    thin: list[ThinPlace]


def thin_parts(figure: Mesh, printer: Printer) -> list[ThinPlace]:
    """Places of the posed figure thinner than the printer's process should print."""
    limits = thin_limits(printer)
    widest = max(limits.values())
    places = thin_places(figure, local_thickness(figure, beyond=widest), widest)
    return [p for p in places if p.thickness < limits[p.kind]]


def make_plan(
    mesh: Mesh,
    printer: Printer,
    material: Material,
    height_mm: float | None = None,
    risk: float = 0.05,
    progress: Progress = lambda share, what: None,
) -> Plan:
    """Plan a figure from its mesh in mm; `height_mm` resizes its largest upright extent (file z) first."""
    if height_mm is not None:
        mesh = mesh.scaled(height_mm / float(mesh.size[2]))
    progress(0.05, "weighing poses")
    choice = choose_poses(mesh, printer, material)
    figure = raised(posed(mesh, choice.candidates[choice.recommended].down, printer), printer)
    progress(0.35, "placing supports")
    supports = make_supports(figure, printer, material, default_height(printer), risk)
    thin = thin_parts(supports.figure, printer)
    lifted = supports.figure.lower[2] > 0
    progress(0.6, "comparing layer heights")
    heights = compare_heights(supports.figure, printer, material, printer_heights(printer), risk, thin)
    height = heights.choices[heights.recommended].height
    progress(0.85, "proving every layer")
    if height != default_height(printer):
        supports = make_supports(figure, printer, material, height, risk)
    proof = supports.after
    use = use_of(proof.stack, proof.areas, printer, material)
    return Plan(
        figure, choice, supports, heights, height, proof, use, ledger(proof, printer, material, supports.tips, bool(lifted), thin), thin
    )


def clock(seconds: float) -> str:
    """Hours and minutes.

    >>> clock(7500)
    '2 h 05 min'
    """
    minutes = round(seconds / 60)
    return f"{minutes // 60} h {minutes % 60:02d} min"


def run_sheet_for(
    name: str, supports: SupportSet, proof: Proof, use: Use, hazards: list[Hazard], printer: Printer, material: Material
) -> RunSheet:
    """The page to take to the machine."""
    grid = proof.stack.grid
    x, y, z = supports.whole.size
    settings = [
        ("Printer", printer.name),
        ("Material", material.name),
        ("Layer height", f"{grid.height:g} mm, {grid.layers:,} layers"),
        ("Time", clock(use.time_s) + (" (rough estimate)" if use.rough else " (by formula)")),
        ("Material needed", f"{use.volume_ml:.1f} ml, {use.mass_g:.0f} g, {use.cost:.2f} with {material.waste:.0%} waste"),
        ("Size with supports", f"{x:.1f} x {y:.1f} x {z:.1f} mm"),
        ("Supports", f"{len(supports.tips)} tips, {supports.volume_mm3 / 1000:.2f} ml" + (", raft" if supports.with_raft else "")),
        ("Islands left", str(len(proof.islands))),
        ("Risk of failing", f"{combined(hazards):.0%} (prior)"),
    ]
    if isinstance(printer, ResinPrinter):
        settings[3:3] = [
            (
                "Exposure",
                f"{material.exposure_s * grid.height / material.exposure_base_mm:.2f} s; first {printer.bottom_layers} layers {material.bottom_exposure_s:g} s, {printer.transition_layers} transition layers",
            ),
            ("Lift", " then ".join(f"{d:g} mm at {v:g} mm/s" for d, v in zip(printer.lift_mm, printer.lift_mm_s, strict=True))),
        ]
    else:
        settings[3:3] = [
            (
                "Lines",
                f"{printer.line_mm:g} mm from a {printer.nozzle_mm:g} mm nozzle, {printer.perimeters} perimeters, {printer.infill:.0%} infill",
            ),
            ("Motor step", motor_step(printer, grid.height)[0]),
        ]
    coarse = decimate(supports.figure, 80_000)
    seen = coarse if supports.mesh is None else Mesh.joined([coarse, supports.mesh])
    groups = np.zeros(len(seen.faces))
    groups[len(coarse.faces) :] = 1
    worst = [(h.severity, h.message, h.remedy) for h in hazards if h.severity != "notice"][:7]
    more = sum(h.severity != "notice" for h in hazards) - len(worst)
    notes = [f"{more} further hazard(s) of lesser cost are in the ledger of the proof."] if more > 0 else []
    return RunSheet(
        name,
        "Run sheet. Numbers marked as prior or rough are not yet learned from your own log.",
        settings,
        worst,
        cautions(printer.process),
        picture(seen, size=(300, 420), groups=groups),
        notes,
    )
