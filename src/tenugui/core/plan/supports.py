"""The fold Supports: three accepted risks side by side."""

from __future__ import annotations

from ..contract import HeldDoc, SupportsBoard, SupportsRow, priced_at, worth_of
from ..machines import default_height
from ..pose import beside
from ..worth import Worth, least, rates_of
from .held import HELD
from .inputs import Inputs
from .shelf import Shelf
from .tasks import Given, Progress, computed, task

RISKS = (0.01, 0.05, 0.2)
"""The three accepted risks that the board compares."""
EXPECTED = 1
"""The usual risk is taken where nobody could tell the three apart."""


def held_of(shelf: Shelf, given: Given, *, height: float, risk: float, style: str = "pillars") -> HeldDoc:
    """The supported figure of these inputs at a layer height and an accepted risk."""
    return computed(shelf, "held", given | {"height": height, "risk": risk, "style": style}, HeldDoc)


def at_rates(row: SupportsRow, worth: Worth) -> SupportsRow:
    """A row with its worth."""
    return row.model_copy(update={"worth": worth_of(worth)})


TAKES = (*(n for n in HELD if n not in ("height", "risk", "style")), "rates")


@task("supports", 2, TAKES, SupportsBoard, rests_on=("held",))
def supports(shelf: Shelf, given: Given, progress: Progress) -> SupportsBoard:
    """Three support sets, from held by all means to as few as hold, each proved."""
    height = default_height(Inputs(shelf, given).printer)
    rows = []
    for index, risk in enumerate(RISKS):
        progress(0.05 + 0.31 * index, f"placing and proving supports, set {index + 1} of {len(RISKS)}")
        rows.append(held_of(shelf, given, height=height, risk=risk).row)
    rates = rates_of(given.get("rates"))
    worths = [priced_at(row.gift, rates) for row in rows]
    best = least(worths, EXPECTED)
    return SupportsBoard(
        choices=[at_rates(row, worth) for row, worth in zip(rows, worths, strict=True)],
        recommended=best,
        why=beside(worths, best, best).strip(),
        layer_height_mm=height,
    )
