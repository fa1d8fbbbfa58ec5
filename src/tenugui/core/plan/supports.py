"""The fold Supports: three accepted risks side by side, and the cheaper of the two safer ones in trees, mixed, and for
filament on areas.
"""

from __future__ import annotations

from collections.abc import Sequence

from ..compiled import both_cores
from ..contract import EditAsk, HeldDoc, SupportsBoard, SupportsRow, priced_at, worth_of
from ..machines import Printer, default_height
from ..mesh import rays_of
from ..pose import beside
from ..supports.style import TALL_MM
from ..worth import Worth, rates_of
from .came import CAME, came_with
from .given import HeldGiven, PosedGiven, SupportsGiven
from .inputs import PosedInputs
from .shelf import Shelf
from .size import thin_of
from .supported import held_given
from .tasks import Progress, computed, draft, task

RISKS = (0.01, 0.05, 0.2)
"""The three accepted risks that the board compares."""
ALIKE = 0.03
"""Prior: rows of one pose are wrong together, in the same minutes a tip; what still tells so little of the coins apart
tells nothing, and nobody gives up safety for it. Nor does anybody set twice the tips where fewer are told to be cheaper
with all that they fail.
"""


def held_of(
    shelf: Shelf,
    given: PosedGiven,
    *,
    height: float,
    risk: float,
    style: str = "pillars",
    edits: Sequence[EditAsk] = (),
) -> HeldDoc:
    """The supported figure of these inputs at a layer height and an accepted risk, with changes by hand."""
    return held_as_taken(shelf, held_given(given, height=height, risk=risk, style=style, edits=edits))


def held_as_taken(shelf: Shelf, given: HeldGiven) -> HeldDoc:
    """The supported figure of a plan's own inputs: its height, risk, style and changes by hand."""
    return computed(shelf, "held", given, HeldDoc)


def at_rates(row: SupportsRow, worth: Worth) -> SupportsRow:
    """A row with its worth."""
    return row.model_copy(update={"worth": worth_of(worth)})


def cheapest(worths: list[Worth]) -> int:
    """The row of least worth; of those that are as cheap the safest."""
    least = min(worth.total for worth in worths)
    alike = [i for i, worth in enumerate(worths) if worth.total <= least * (1 + ALIKE)]
    return min(alike, key=lambda i: (round(worths[i].risk, 2), worths[i].total))


FEW_FOR_AREAS = 12
"""Prior: fewer tips than this share no body."""


def other_styles(printer: Printer, row: SupportsRow) -> tuple[str, ...]:
    """What is offered beside the pillars of a row: a mixed set where some tips are high and some are not, areas where
    many stand close and no film pulls.
    """
    high = [spot.at[2] > TALL_MM for spot in row.spots]
    mixed = ("mixed",) if any(high) and not all(high) else ()
    broad = ("areas",) if not printer.hangs and row.tip_count >= FEW_FOR_AREAS else ()
    return ("trees", *mixed, *broad)


@task("supports", SupportsGiven, SupportsBoard, rests_on=("held",))
def supports(shelf: Shelf, given: SupportsGiven, progress: Progress) -> SupportsBoard:
    """Support sets from held by all means to as few as hold, and in trees, and one with changes by hand where there are
    any; two are made at a time.
    """
    inputs = PosedInputs(shelf, given)
    height, rates = default_height(inputs.printer), rates_of(given.rates)
    progress(0.05, "reading every layer without supports")
    context = inputs.placed_context(height)
    whole = inputs.placed.whole

    def read() -> object:
        return inputs.reachable(context), thin_of(shelf, given, inputs.printer), inputs.basics

    # Once for all sets; what two threads ask for at the same time is made twice.
    both_cores(lambda made: made(), [(lambda: rays_of(whole),), (read,)])

    def one(risk: float, style: str) -> SupportsRow:
        return held_of(shelf, given, height=height, risk=risk, style=style).row

    progress(0.2, "placing and proving supports at three accepted risks")

    def told(rows: Sequence[SupportsRow], best: int) -> SupportsBoard:
        worths = [priced_at(row.gift, rates) for row in rows]
        return SupportsBoard(
            choices=[at_rates(row, worth) for row, worth in zip(rows, worths, strict=True)],
            recommended=best,
            why=beside(worths, best, best).strip(),
            layer_height_mm=height,
        )

    rows = both_cores(one, [(risk, "pillars") for risk in RISKS[:2]])
    draft(shelf, "supports", given, told(rows, cheapest([priced_at(row.gift, rates) for row in rows])))
    progress(0.6, "as few as hold, and trees")
    better = RISKS[cheapest([priced_at(row.gift, rates) for row in rows])]
    more = [(RISKS[2], "pillars")]
    if max(row.tip_count for row in rows) > 1:
        more += [(better, style) for style in other_styles(inputs.printer, rows[0])]
    came = came_with(shelf, inputs, given.came)
    if came is not None:
        more.append((came.risk, CAME))
    rows += both_cores(one, more)
    # Changes of one's own are never recommended: they were made against what was.
    best = cheapest([priced_at(row.gift, rates) for row in rows])
    own = given.own
    if own is not None:
        progress(0.85, "with your changes")
        own_set = held_of(shelf, given, height=height, risk=own.risk, style=own.style, edits=own.edits)
        rows.append(own_set.row.model_copy(update={"own": True}))
    return told(rows, best)
