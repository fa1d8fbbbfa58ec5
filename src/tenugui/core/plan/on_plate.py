"""What a plate wants to know of a proved plan, and what it is printed from."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..contract import HeldDoc, PrintFileDoc
from ..contract.on_plate import OnPlateDoc
from ..machines import FilamentPrinter, as_filament, load_material, load_printer, peels
from ..mesh import Mesh
from ..paths import Path, blemishes_of, planned
from ..paths.sequence import one_after_another, shifted
from ..plate import footprint_of
from .bands import bands_as_taken
from .given import BandedGiven, Given, PosedGiven
from .inputs import PosedInputs
from .parts import SUPPORTS, parts_of, props_in
from .printfile import as_gcode, as_layers
from .shelf import Shelf
from .supported import PlanError
from .supports import held_as_taken
from .tasks import Progress, task, within

F8 = NDArray[np.float64]


def on_plate(shelf: Shelf, given: PosedGiven, held: HeldDoc) -> OnPlateDoc:
    """Of a held figure with its supports."""
    parts = parts_of(PosedInputs(shelf, given), held)
    strip, printer = held.row.strip, load_printer(given.printer)
    return OnPlateDoc(
        footprint=footprint_of(list(parts.values())),
        tall_mm=strip.layers * strip.layer_height_mm,
        pull_n=strip.pull_n if strip.has_pull else [],
        pull_step_mm=strip.layer_height_mm * strip.layers_per_column,
        clock_s=strip.clock_s,
        start_s=printer.start_s,
        hangs=printer.hangs,
        build_mm=printer.build_mm,
    )


@task("footprint", BandedGiven, OnPlateDoc, rests_on=("held",))
def footprint(shelf: Shelf, given: BandedGiven, progress: Progress) -> OnPlateDoc:
    """What a plate wants to know of a plan."""
    progress(0.1, "drawing its footprint")
    return on_plate(shelf, given, held_as_taken(shelf, given))


class PieceGiven(Given):
    """A piece of a plate: its plan, where its origin lies from the plate's front left corner, and its turn."""

    plan: BandedGiven
    x_mm: float
    y_mm: float
    turn_deg: float


class PlateGiven(Given):
    """All pieces of one plate, of one machine, material and layer height; `in_turn`: printed one after the other, in
    their order.
    """

    pieces: tuple[PieceGiven, ...]
    in_turn: bool = False


def parts_on_plate(shelf: Shelf, given: PlateGiven) -> dict[str, Mesh]:
    """Figures (with what they stand on) and supports of all pieces where they lie, about the middle of the plate."""
    known: dict[str, dict[str, Mesh]] = {}
    solid: dict[str, list[Mesh]] = {"figure": []}
    for piece in given.pieces:
        key = repr(piece.plan.plain())
        if key not in known:
            known[key] = parts_of(PosedInputs(shelf, piece.plan), held_as_taken(shelf, piece.plan))
        a = np.radians(piece.turn_deg)
        turn = np.array([[np.cos(a), -np.sin(a), 0.0], [np.sin(a), np.cos(a), 0.0], [0.0, 0.0, 1.0]])
        wide, deep, _ = load_printer(piece.plan.printer).build_mm
        shift = np.array([piece.x_mm - wide / 2, piece.y_mm - deep / 2, 0.0])
        for name, part in known[key].items():
            group = name if name.startswith(SUPPORTS) else "figure"
            solid.setdefault(group, []).append(Mesh(part.vertices @ turn.T + shift, part.faces))
    return {name: Mesh.joined(parts) for name, parts in solid.items() if parts}


@task("plate", PlateGiven, PrintFileDoc, rests_on=("held",))
def plate(shelf: Shelf, given: PlateGiven, progress: Progress) -> PrintFileDoc:
    """The machine's own file of a whole plate: layers of all pieces together, or one path through all of them. What is
    read back is what was planned.

    Raises:
        PlanError: `unlike-pieces`, `no-pieces`, `turned`.
    """
    if not given.pieces:
        raise PlanError("no-pieces", "The plate is empty.", "", "Lay something on it.")
    first = given.pieces[0].plan
    for piece in given.pieces:
        alike = (piece.plan.printer, piece.plan.material, piece.plan.height) == (
            first.printer, first.material, first.height,
        )  # fmt: skip
        if not alike or (piece.plan != first and (piece.plan.bands or first.bands)):
            what = "Its pieces are of more than one machine, material or layering."
            raise PlanError("unlike-pieces", what, "", "Lay them on plates of their own.")
    progress(0.02, "laying the pieces")
    parts = parts_on_plate(shelf, given)
    printer = load_printer(first.printer)
    material = load_material(first.material, printer)
    if peels(printer):
        return as_layers(
            parts, printer, material, height=first.height, put=shelf.put, progress=within(progress, 0.05, 1.0)
        )
    progress(0.1, "planning every line")
    nozzle = as_filament(printer)
    # Bands follow a figure's own slopes: whoever is printed in such has a plate of its kind.
    bands = bands_as_taken(PosedInputs(shelf, first), first)
    heights = first.height if bands is None else bands.heights
    if given.in_turn:
        path = one_after_another([_alone(shelf, piece, nozzle, heights) for piece in given.pieces], nozzle)
    else:
        path = planned(parts["figure"], props_in(parts), nozzle, heights)
    blemishes = blemishes_of(path, None, nozzle.least_layer_s)
    return as_gcode(path, blemishes, nozzle, material=material, put=shelf.put, progress=progress, in_turn=given.in_turn)


def _alone(shelf: Shelf, piece: PieceGiven, nozzle: FilamentPrinter, heights: float | F8) -> Path:
    """The path of one piece where it lies, planned once for each plan: what stands is never turned."""
    if piece.turn_deg:
        raise PlanError("turned", "What is printed one after the other is not turned.", "", "Lay the plate out again.")
    key = ("alone", repr(piece.plan.plain()))

    def plan() -> Path:
        parts = parts_of(PosedInputs(shelf, piece.plan), held_as_taken(shelf, piece.plan))
        solid: dict[str, list[Mesh]] = {"figure": []}
        for name, part in parts.items():
            solid.setdefault(name if name.startswith(SUPPORTS) else "figure", []).append(part)
        whole = {name: Mesh.joined(meshes) for name, meshes in solid.items() if meshes}
        return planned(whole["figure"], props_in(whole), nozzle, heights)

    wide, deep, _ = nozzle.build_mm
    return shifted(shelf.memory.recall(key, plan), np.array([piece.x_mm - wide / 2, piece.y_mm - deep / 2, 0.0]))
