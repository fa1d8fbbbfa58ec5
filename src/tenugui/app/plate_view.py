"""Plates of one order as the page sees them."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.contract.plate import piece_of, plates_document
from ..core.finish.steps import STRING_MIN, STRINGS
from ..core.machines import Printer, as_filament, draws_lines, load_printer
from ..core.plate import (
    CUTTER_MM,
    READY,
    TAKES_LATER,
    VAT_ML,
    Box,
    InTurn,
    Look,
    Nested,
    Piece,
    Plate,
    Plates,
    Spent,
    between,
    in_turn,
    looks,
    plate_of,
    spent_on,
    trespasses,
)
from ..core.worth import rates_of
from ..store import machines, plates
from ..store.db import Row, Store
from .counted import Standings
from .left import left_by_material
from .plates_models import Batch, BetweenRow, Body, InTurnRow, OnePlate, PlateWhole, RunOfBatch, WrongRow

Key = tuple[int, int]
"""A plan's number and which copy of it."""


@dataclass(frozen=True)
class Sight:
    """A plate's row, what it keeps, its printer, and how its plans stand."""

    row: Row
    body: Body
    printer: Printer
    stand: Standings

    @staticmethod
    def of(row: Row, body: Body, stand: Standings) -> Sight:
        """From a plate's row."""
        return Sight(row, body, load_printer(row["printer"]), stand)

    def pieces(self) -> dict[Key, Piece]:
        """Every copy of every plan that is ready."""
        return {
            (line.plan_id, copy): piece_of(str(line.plan_id), counted.plan, copy, counted.apart)
            for line in self.body.pieces
            if (counted := self.stand.counted.get(line.plan_id))
            for copy in range(1, line.copies + 1)
        }

    @property
    def takes(self) -> float | None:
        """How often a piece that is lost takes another with it, where that is not as usual."""
        return TAKES_LATER if self.body.in_turn else None

    def free(self) -> list[Box]:
        """What is kept free."""
        return [Box(**box.model_dump()) for box in self.body.free]

    def laid(self) -> dict[int, list[tuple[Piece, Nested]]]:
        """Pieces that are ready where they lie, by the number of their plate, counted from 0."""
        pieces = self.pieces()
        found: dict[int, list[tuple[Piece, Nested]]] = {}
        for at in sorted(self.body.laid, key=lambda at: at.plate):
            piece = pieces.get((at.plan_id, at.nth))
            if piece is not None:
                where = Nested(0, at.plate, at.x_mm, at.y_mm, at.turn_deg)
                found.setdefault(at.plate, []).append((piece, where))
        return found

    def material(self, plate: Plate) -> tuple[str, float]:
        """The material's name and the layer height of a plate's first piece."""
        plan = self.stand.counted[int(plate.items[0][0].plan)].plan
        return plan.proof.material_name, plan.layer_height_mm


def made_of(sight: Sight) -> dict[int, Plate]:
    """What lies on each plate that is not empty, and what that takes."""
    return {k: plate_of(items, hangs=sight.printer.hangs, takes=sight.takes) for k, items in sight.laid().items()}


def turns_of(sight: Sight, plate: Plate) -> InTurn:
    """Whether its pieces can be printed one after the other."""
    nozzle = as_filament(sight.printer)
    return in_turn(plate, nozzle.head_mm, nozzle.rail_mm)


KINDS = {
    "outside": "{0} sticks out of the plate by {mm:.1f} mm.",
    "near": "{0} and {1} are {mm:.1f} mm nearer to each other than the gap.",
    "free": "{0} lies on a place that is kept free.",
    "unlike": "{0} is of another material or layer height than the rest.",
}


def whole_of(store: Store, sight: Sight) -> PlateWhole:
    """All that the page shows of it."""
    row, body, stand = sight.row, sight.body, sight.stand
    names = {state.plan_id: state.figure_name for state in stand.states}
    numbered = made_of(sight)
    made = list(numbered.values())
    hours, good = sum(p.time_s for p in made) / 3600, sum(p.good for p in made)
    vat = VAT_ML if sight.printer.hangs else None
    document = plates_document(
        Plates(made, [], hours / good if good > 0 else None), body.curve, vat_ml=vat, stock_g=None
    )
    pinned = {(at.plan_id, at.nth): at.pinned for at in body.laid}
    left_g = _left(store)
    shown = []
    for doc, (number, plate) in zip(document.plates, numbered.items(), strict=True):
        told = _between(sight, plate)
        shown.append(
            OnePlate(
                number=number,
                doc=doc,
                pinned=[pinned.get((int(p.plan), p.copy), False) for p, _ in plate.items],
                wrong=_wrong(sight, plate, names),
                spent=_spent(sight, plate, told.hairs_min),
                between=told,
                in_turn=_turns(sight, plate),
                ready=list(READY["hangs" if sight.printer.hangs else "stands"]),
                looks=_looks(sight, plate),
                vat_ml=vat,
                left_g=left_g.get(sight.material(plate)[0]),
            )
        )
    wanted = sum(line.copies for line in body.pieces)
    return PlateWhole(
        id=row["id"],
        name=row["name"],
        version=row["version"],
        printer_id=row["printer_id"],
        printer_name=row["printer_name"],
        process=row["process"],
        build_mm=sight.printer.build_mm,
        gap_mm=body.gap_mm,
        rates=body.rates,
        pieces=stand.states,
        free=body.free,
        plates=shown,
        unlaid=wanted - sum(len(plate.items) for plate in made) - sum(left.copies for left in body.left),
        left=body.left,
        hours_per_good_piece=document.hours_per_good_piece,
        curve=body.curve,
        in_turn=body.in_turn,
        ticked=body.ticked,
        can_undo=row["did"] if row["back"] else None,
        can_redo=row["forth"],
        batches=[
            Batch(
                **{name: batch[name] for name in ("id", "number", "planned_s", "started_at")},
                runs=[RunOfBatch(**{name: run[name] for name in RunOfBatch.model_fields}) for run in batch["runs"]],
            )
            for batch in plates.batches(store, row["id"])
        ],
    )


def _left(store: Store) -> dict[str, float]:
    """Grams that are left of each material whose stock is known."""
    by_id = left_by_material(store)
    left = {row["name"]: by_id[row["id"]] for row in machines.every(store, "materials")}
    return {name: grams for name, grams in left.items() if grams is not None}


def _wrong(sight: Sight, plate: Plate, names: dict[int, str]) -> list[WrongRow]:
    called = [f"{names.get(int(p.plan), '')} {p.copy}" for p, _ in plate.items]
    found = trespasses(plate, sight.printer.build_mm, gap=sight.body.gap_mm, free=sight.free())
    rows = [
        WrongRow(kind=t.kind, items=list(t.items), said=KINDS[t.kind].format(*(called[k] for k in t.items), mm=t.by_mm))
        for t in found
    ]
    if sight.body.in_turn and (told := _turns(sight, plate)) is not None and not told.can:
        rows.append(WrongRow(kind="in-turn", items=[], said=f"Not one after the other: {told.why}"))
    return rows


def _between(sight: Sight, plate: Plate) -> BetweenRow:
    draws = draws_lines(sight.printer)
    read = between(plate, sight.material(plate)[1], draws=draws and not sight.body.in_turn)
    return BetweenRow(**vars(read), hairs_min=STRING_MIN * read.crossings / STRINGS, cutter_mm=CUTTER_MM)


def _turns(sight: Sight, plate: Plate) -> InTurnRow | None:
    if not draws_lines(sight.printer):
        return None
    told = turns_of(sight, plate)
    return InTurnRow(can=told.can, why=told.why)


def _spent(sight: Sight, plate: Plate, more_min: float) -> Spent:
    dear = [sight.stand.counted[int(piece.plan)].dear for piece, _ in plate.items]
    rates, printer = rates_of(sight.body.rates), sight.printer
    return spent_on(plate, dear, rates, hangs=printer.hangs, times=printer.hands_times, more_min=more_min)


def _looks(sight: Sight, plate: Plate) -> list[Look]:
    threats = {piece.plan: sight.stand.counted[int(piece.plan)].threats for piece, _ in plate.items}
    order = turns_of(sight, plate).order if sight.body.in_turn else None
    return looks(plate, threats, hangs=sight.printer.hangs, order=order)
