"""Files of a plate: a 3MF of every piece where it lies, and a sheet to take to the machine."""

from __future__ import annotations

import io
from collections.abc import Sequence

from ..core.contract import HeldDoc
from ..core.formats import RunSheet, Spot, plate_picture, write_plate, write_run_sheet
from ..core.machines import Printer, cautions
from ..core.mesh import Mesh
from ..core.plan import PlanError, clock, kept, parts_of
from ..core.plan.inputs import PosedInputs
from ..core.plate import Nested, Piece
from ..work.shelf import StoreShelf
from .counted import Standings
from .plate_view import Sight, made_of
from .plates_models import OnePlate

Items = Sequence[tuple[Piece, Nested]]


def package_of(shelf: StoreShelf, stand: Standings, items: Items, printer: Printer) -> bytes:
    """Each plan's figure, plinth and supports once, each piece an instance of them where it lies.

    Raises:
        PlanError: `not-computed`.
    """
    plans: dict[str, dict[str, Mesh]] = {}
    for piece, _ in items:
        if piece.plan in plans:
            continue
        given = stand.given[int(piece.plan)]
        held = kept(shelf, "held", given, HeldDoc)
        if held is None:
            raise PlanError("not-computed", "A plan of this plate is not proved as it stands.", "", "Prove it again.")
        plans[piece.plan] = parts_of(PosedInputs(shelf, given), held)
    out = io.BytesIO()
    spots = [Spot(piece.plan, piece.copy, at.x_mm, at.y_mm, at.turn_deg) for piece, at in items]
    write_plate(plans, spots, out)
    return out.getvalue()


def sheet_of(name: str, k: int, plate: OnePlate, items: Items, sight: Sight) -> bytes:
    """What lies where, what it takes, what stands ready, and when to look at what."""
    doc, printer = plate.doc, sight.printer
    names = {str(state.plan_id): state.figure_name for state in sight.stand.states}
    each: dict[str, list[int]] = {}
    for number, (piece, _) in enumerate(items, 1):
        each.setdefault(piece.plan, []).append(number)
    material, height = sight.material(made_of(sight)[k - 1])
    settings = [
        ("Printer", printer.name),
        ("Material", material),
        ("Layers", f"{height:g} mm"),
        ("Pieces", str(len(items))),
        ("Time", clock(doc.time_s)),
        ("Material in all", f"{doc.material_ml:.1f} ml, {doc.material_g:.0f} g"),
        ("Comes off whole", f"{doc.good:.1f} of {len(items)} on average (prior)"),
        *([("Largest pull", f"{doc.peak_pull_n:.1f} N (prior)")] if doc.peak_pull_n else []),
        *((names[plan], f"number {', '.join(map(str, numbers))}") for plan, numbers in each.items()),
    ]
    looks = [
        ("notice" if look.chance < 0.02 else "warning", f"After {clock(look.at_s)}, at {look.z_mm:.1f} mm", look.said)
        for look in plate.looks
    ]
    outlines = [[item.footprint, *item.more] for item in doc.items]
    out = io.BytesIO()
    sheet = RunSheet(
        f"{name}, plate {k}",
        f"{len(items)} pieces on {printer.name}",
        settings,
        looks,
        [*plate.ready, *cautions(printer.process)],
        plate_picture(outlines, printer.build_mm[:2]),
    )
    write_run_sheet(sheet, out)
    return out.getvalue()
