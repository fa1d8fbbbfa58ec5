"""The fold Supports: three accepted risks side by side."""

from __future__ import annotations

from ..contract import HeldDoc, SupportsBoard
from ..machines import default_height
from .held import HELD
from .inputs import Inputs
from .shelf import Shelf
from .tasks import Given, Progress, computed, task

RISKS = (0.01, 0.05, 0.2)
"""The three accepted risks that the board compares."""
RECOMMENDED = 1


def held_of(shelf: Shelf, given: Given, *, height: float, risk: float, style: str = "pillars") -> HeldDoc:
    """The supported figure of these inputs at a layer height and an accepted risk."""
    return computed(shelf, "held", given | {"height": height, "risk": risk, "style": style}, HeldDoc)


@task("supports", 1, tuple(n for n in HELD if n not in ("height", "risk", "style")), SupportsBoard, rests_on=("held",))
def supports(shelf: Shelf, given: Given, progress: Progress) -> SupportsBoard:
    """Three support sets, from held by all means to as few as hold, each proved."""
    height = default_height(Inputs(shelf, given).printer)
    rows = []
    for index, risk in enumerate(RISKS):
        progress(0.05 + 0.31 * index, f"placing and proving supports, set {index + 1} of {len(RISKS)}")
        rows.append(held_of(shelf, given, height=height, risk=risk).row)
    return SupportsBoard(choices=rows, recommended=RECOMMENDED, layer_height_mm=height)
