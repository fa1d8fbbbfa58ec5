"""The fold Walls: how many perimeters, how thick a roof and how much infill a filament figure gets in its pose."""

from __future__ import annotations

from typing import Any

from ..contract import NeckDoc, OwnWalls, WallsBoard, WallsRow, gift_of, priced_at, strip_document, worth_of
from ..hazards import chance
from ..layers import Proof
from ..machines import Context, FilamentPrinter, as_filament, default_height, kind_of
from ..paths import Walls, cure, necks_of, slopes, weakest
from ..pose import beside
from ..process import process_of
from ..removal.hands import finish_min, mean_lean
from ..risk import MISHAP_CHANCE
from ..worth import Gift, least, rates_of
from .given import WallsGiven
from .inputs import F8, PosedInputs
from .pose import numbers_of
from .shelf import Shelf
from .tasks import Progress, task

LEAN, STURDY = Walls(2, 0.6, 0.10), Walls(4, 1.0, 0.25)
"""Priors: the leanest and the sturdiest walls that figures are usually given, short of solid."""
OPEN_MM2 = 2.0
"""Prior: less open surface is a dot that primer closes."""
FILL_MIN = 0.05
"""Prior: minutes to fill a mm² that stays open or sags, on an unmarked face."""
SAGS_MM2 = 100.0
"""Prior: where a roof sags, so much of it does before somebody sees it, and prints it with more layers."""
SHOWS_MIN = {1: 6.0, 2: 1.5}
"""Prior: minutes to sand away the infill's pattern where so few perimeters let it show."""
ROOF_LAYERS, ROOF_PER_MM = 1.0, 0.35
"""Prior: layers that close a roof over infill at an even chance: one, and so many more for each mm between its lines.
"""


def ways(printer: FilamentPrinter, cured: int | None, own: OwnWalls | None) -> list[tuple[str, Walls]]:
    """The rows: the machine's own walls, leaner, what closes its slopes, sturdier, solid, and what was asked for; each
    once.
    """
    mine = Walls(printer.perimeters, printer.roof_mm, printer.infill)
    named = [("As the machine is set", mine), ("Lean", LEAN)]
    if cured is not None:
        named.append(("Closes its slopes", Walls(cured, printer.roof_mm, printer.infill)))
    named += [("Sturdy", STURDY), ("Solid", Walls(printer.perimeters, printer.roof_mm, 1.0))]
    ways: list[tuple[str, Walls]] = []
    for name, walls in named:
        if all(walls != other for _, other in ways):
            ways.append((name, walls))
    if own:
        ways.append(("Yours", Walls(own.perimeters, own.roof_mm, own.infill)))
    return ways


def roof_opens(walls: Walls, line_mm: float, height: float) -> float:
    """Chance that a roof or floor over infill is not closed: its layers against those that a gap between infill lines
    asks for.

    >>> roof_opens(Walls(3, 0.8, 1.0), 0.42, 0.16)
    0.0
    """
    if walls.infill >= 1:
        return 0.0
    if walls.infill <= 0:
        return chance(0.0)
    asked = ROOF_LAYERS + ROOF_PER_MM * line_mm / walls.infill
    return chance(int(walls.roof_mm / height + 1e-9) / asked)


@task("walls", WallsGiven, WallsBoard, rests_on=("proposed", "coarse"))
def walls_board(shelf: Shelf, given: WallsGiven, progress: Progress) -> WallsBoard:
    """Walls side by side: what stays open, what they weigh and take, and what the weakest part bears."""
    inputs = PosedInputs(shelf, given)
    context = inputs.placed_context(default_height(inputs.printer))
    printer = as_filament(inputs.printer)  # the fold is asked of no other
    progress(0.1, "reading every layer")
    proof = inputs.before(context)
    progress(0.6, "looking for slopes that open and parts that break")
    figure, weights = inputs.placed.whole, context.weights
    mine = Walls(printer.perimeters, printer.roof_mm, printer.infill)
    opens = slopes(figure, weights, mine, printer.line_mm, context.height).open_mm2 > OPEN_MM2
    cured = cure(figure, weights, mine, printer.line_mm, context.height) if opens else mine.perimeters
    necks = necks_of(proof)
    rows = [
        _row(inputs, context, proof, necks=necks, name=name, walls=walls)
        for name, walls in ways(printer, cured if cured > mine.perimeters else None, given.own)
    ]
    rates = rates_of(given.rates)
    worths = [priced_at(row.gift, rates) for row in rows]
    best = least(worths, 0)
    return WallsBoard(
        choices=[r.model_copy(update={"worth": worth_of(w)}) for r, w in zip(rows, worths, strict=True)],
        recommended=best,
        why=beside(worths, best, best).strip(),
        cures=cured if cured > mine.perimeters else None,
        layer_height_mm=context.height,
        matrix=inputs.placed.matrix,
        down=given.down,
    )


def _row(inputs: PosedInputs, context: Context, proof: Proof, *, necks: F8, name: str, walls: Walls) -> WallsRow:
    printer = walled(inputs.printer, walls)
    line, figure, weights = printer.line_mm, inputs.placed.whole, context.weights
    use = process_of(printer).use_of(figure, {}, proof, context)
    gap = slopes(figure, weights, walls, line, context.height)
    sags = roof_opens(walls, line, context.height)
    weak = weakest(necks, walls, line)
    hands = (
        kind_of(printer.process).fixed_min
        + finish_min(mean_lean(figure, weights), context.height, printer.process)
        + FILL_MIN * (gap.open_weighed + sags * min(gap.roofed_mm2, SAGS_MM2))
        + (SHOWS_MIN.get(walls.perimeters, 0.0) if walls.infill < 1 else 0.0)
    )
    return WallsRow(
        name=name,
        perimeters=walls.perimeters,
        roof_mm=walls.roof_mm,
        infill=walls.infill,
        own=name == "Yours",
        open_mm2=gap.open_mm2,
        open_lean=gap.lean,
        roofed_mm2=gap.roofed_mm2,
        roof_opens=sags,
        weakest=weak
        and NeckDoc(x_mm=weak.x, y_mm=weak.y, z_mm=weak.z, width_mm=weak.width_mm, carries_mm=weak.carries_mm),
        bears_n=weak.bears_n if weak else None,
        of_solid=weak.bears_n / weak.solid_n if weak else None,
        mass_g=use.mass_g,
        strip=strip_document(proof, use, [], [], context),
        numbers=numbers_of(figure, context, use, MISHAP_CHANCE, unheld=True),
        gift=gift_of(Gift(context.printer.hands_times * hands, use.time_s / 3600, use.cost, MISHAP_CHANCE)),
    )


def walled(printer: Any, walls: Walls) -> FilamentPrinter:
    """The machine as it is set for these walls."""
    changed: FilamentPrinter = printer.model_copy(
        update={"perimeters": walls.perimeters, "roof_mm": walls.roof_mm, "infill": walls.infill}
    )
    return changed
