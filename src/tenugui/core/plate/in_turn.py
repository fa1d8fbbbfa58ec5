"""Pieces printed one after the other: whether the machine's head has room, and in which order."""

from __future__ import annotations

from dataclasses import dataclass

from .by_hand import apart
from .footprint import turned
from .plates import Plate

TAKES_LATER = 0.1
"""Prior: a piece that is lost takes another with it so often where they are printed one after the other."""


@dataclass(frozen=True)
class InTurn:
    """The order of a plate's pieces, by their place on it, the tallest last; or why they cannot be printed so."""

    order: list[int]
    why: str = ""

    @property
    def can(self) -> bool:
        """Whether they can."""
        return not self.why


def in_turn(plate: Plate, head_mm: float | None, rail_mm: float | None) -> InTurn:
    """Whether pieces stand so far apart that the head passes (`head_mm` around the nozzle), and all but the last so low
    that the rail does (`rail_mm` over its tip).
    """
    order = sorted(range(len(plate.items)), key=lambda k: (plate.items[k][0].tall_mm, k))
    if head_mm is None or rail_mm is None:
        return InTurn(order, "How much room its head and rail want is not on the shelf.")
    for k in order[:-1]:
        tall = plate.items[k][0].tall_mm
        if tall > rail_mm:
            return InTurn(order, f"Piece {k + 1} is {tall:.0f} mm tall; the rail passes at {rail_mm:.0f}.")
    outlines = [
        [ring + (at.x_mm, at.y_mm) for ring in turned(piece.outlines, at.turn_deg)] for piece, at in plate.items
    ]
    for n, k in enumerate(order):
        for j in order[:n]:
            if (away := apart(outlines[j], outlines[k])) < head_mm:
                pair = f"{min(j, k) + 1} and {max(j, k) + 1}"
                return InTurn(order, f"Pieces {pair} are {away:.0f} mm apart; the head wants {head_mm:.0f}.")
    return InTurn(order)
