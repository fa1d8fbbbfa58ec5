"""What a proved plan is offered at to somebody who orders it: its expected cost, and what they should know."""

from __future__ import annotations

from ..contract import ProofBoard, priced_at
from ..formats import OfferSheet
from ..machines import load_printer
from ..worth import rates_of
from .given import ProofGiven
from .sheet import clock

MADE_OF = {
    "resin": "resin, cured by light in layers of {height:g} mm",
    "filament": "plastic filament, in layers of {height:g} mm",
}
KNOWN = (
    "Hours by hand, and how often a print fails, are estimates (priors) until many were printed.",
    "Unpainted. Marks of supports and of layers may show at close range.",
    "A model for display: no toy for small children, and not for food. Keep it from heat and strong sun.",
)
MOST_PIECES = 10_000


def offer_sheet(
    name: str, board: ProofBoard, given: ProofGiven, picture: bytes, *, pieces: int = 1, more: float = 0.0, unit: str
) -> OfferSheet:
    """For so many `pieces`, at the rates of the plan, `more` being a share on top; amounts in `unit`. What fails on
    average is in the price: a piece costs what it takes until it is whole.
    """
    printer, proof, held = load_printer(given.printer), board.proof, board.held
    worth = priced_at(held.gift, rates_of(given.rates))
    hours = f"{clock(proof.time_s * pieces)} of machine, {clock(60 * worth.hands_min * pieces)} of hands"
    lines = [
        ("Material", worth.material),
        ("Machine", worth.machine),
        ("Work by hand", worth.hands),
        ("What fails on average", worth.loss),
    ]
    if more:
        lines.append(("Added", more * worth.total))
    tall = proof.layers.count * proof.layers.height_mm - held.lift_mm
    made_of = MADE_OF[printer.process].format(height=proof.layers.height_mm)
    return OfferSheet(
        name,
        f"{pieces:,} piece{'s' * (pieces != 1)}",
        [("Height as it is printed", f"{tall:.0f} mm"), ("Made of", made_of), ("Takes", hours)],
        [(label, f"{pieces * each:.2f} {unit}") for label, each in lines]
        + [("Together", f"{pieces * (1 + more) * worth.total:.2f} {unit}")],
        KNOWN,
        picture,
    )
