"""The run sheet of a proved plan: the page to take to the machine."""

from __future__ import annotations

from ..contract import ProofBoard
from ..formats import RunSheet
from ..machines import Context, cautions, load_material, load_printer
from ..process import process_of
from .given import FigureGiven

MOST_HAZARDS = 7


def clock(seconds: float) -> str:
    """Hours and minutes.

    >>> clock(7500)
    '2 h 05 min'
    """
    minutes = round(seconds / 60)
    return f"{minutes // 60} h {minutes % 60:02d} min"


def removal_notes(board: ProofBoard) -> list[str]:
    """How supports come off, for the sheet: when, and by groups in their order."""
    removal = board.removal
    if not removal.groups and not removal.unreached:
        return []
    said = [
        f"{k + 1}. {len(g.tips)} tip{'s' * (len(g.tips) != 1)} "
        f"{'from below' if g.side == 'below' else f'from its {g.side}'}{', cut, do not snap' if g.delicate else ''}"
        for k, g in enumerate(removal.groups)
    ]
    if removal.unreached:
        said.append(f"{len(removal.unreached)} that no small cutter reaches: break them off by the pillar")
    if removal.locked:
        said.append(f"{len(removal.locked)} locked in: in pieces")
    return [f"Supports off: {removal.when}", "; ".join(said) + "."]


def run_sheet(name: str, board: ProofBoard, given: FigureGiven, picture: bytes) -> RunSheet:
    """From the proof's document and the machine of its inputs alone, so that it can be printed again at any time."""
    printer = load_printer(given.printer)
    context = Context.of(printer, load_material(given.material, printer), board.proof.layers.height_mm)
    proof, supported, material = board.proof, board.held, context.material
    formula = {"formula": "by formula", "path": "from its planned path"}.get(proof.time_is, proof.time_is)
    settings = [
        ("Printer", context.printer.name),
        ("Material", material.name),
        ("Layer height", f"{proof.layers.height_mm:g} mm, {proof.layers.count:,} layers"),
        *process_of(context.printer).sheet(context),
        ("Time", f"{clock(proof.time_s)} ({formula})"),
        (
            "Material needed",
            f"{proof.material.volume_ml:.1f} ml, {proof.material.mass_g:.0f} "
            f"g, {proof.material.cost:.2f} with {material.waste:.0%} waste",
        ),
        ("Height with supports", f"{proof.layers.count * proof.layers.height_mm:.1f} mm"),
        (
            "Supports",
            f"{supported.tip_count} tips, {supported.volume_ml:.2f} ml" + (", raft" if supported.raft else ""),
        ),
        (
            "Islands left",
            f"{supported.islands_after}, specks of relief that nothing holds: "
            f"{len(proof.islands) - supported.islands_after}",
        ),
        *(
            [("Film", f"{supported.numbers.film_share:.0%} of its usual life worn (prior)")]
            if supported.numbers.film_share
            else []
        ),
        ("Risk of failing", f"{proof.risk:.0%} (prior)"),
    ]
    weighty: list[tuple[str, str, str]] = [
        (h.severity, h.message, h.remedy) for h in proof.hazards if h.severity != "notice"
    ]
    more = len(weighty) - MOST_HAZARDS
    notes = [f"In the ledger of the proof, of lesser cost: {more} more."] if more > 0 else []
    notes += removal_notes(board)
    line = "Run sheet. Numbers marked as prior or rough are not yet learned from your own log."
    return RunSheet(name, line, settings, weighty[:MOST_HAZARDS], cautions(context.printer.process), picture, notes)
