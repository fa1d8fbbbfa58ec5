"""Why a board recommends what it does: each part's law and priors, and what would change the answer."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict

from ..contract import Document, HollowBoard, LayersBoard, PoseBoard, SupportsBoard, WallsBoard, WorthDoc
from ..contract.why import BoundDoc, PriorDoc, TurnRateDoc, WhyDoc, WhyPartDoc
from ..errors import CoreError
from ..machines import kind_of, load_printer
from ..pose.price import FINISH_MIN
from ..supports.minutes import CUT_MIN, PIECE_MIN, SAND_MIN, SCAR_MIN
from ..worth import (
    HANDS_UNSURE,
    RISK_UNSURE,
    Rates,
    alike,
    bounds,
    cheapest,
    compared,
    gift_of_worth,
    rates_of,
    turns,
)
from ..worth.price import CLEAN_MIN, PART_SHARE
from .given import FigureGiven, PoseGiven
from .pose import plain_wish

Law = tuple[str, tuple[tuple[str, float, str], ...]]
HANDS: Law = (
    "Every support is cut off and its scar sanded, by how much people look at the place; steps on slopes are smoothed "
    "where primer does not hide them; what may be marked counts by its chance.",
    (
        ("to cut a tip of the usual width", CUT_MIN, "min"),
        ("to sand its scar on an unmarked face", SAND_MIN, "min"),
        ("to take a piece out", PIECE_MIN, "min"),
        ("to mend a scar that comes true", SCAR_MIN, "min"),
        ("to smooth a figure stepped all over", FINISH_MIN, "min"),
        ("how far minutes of hands may be off", 100 * HANDS_UNSURE, "%"),
    ),
)
MACHINE: dict[bool, Law] = {
    True: ("Each layer waits its exposure, lift and rest, however much of it is solid: hours go with height.", ()),
    False: ("The path of lines at the machine's speeds and accelerations, layer by layer.", ()),
}
MATERIAL: Law = ("What the figure, its supports and its raft use, at the price of the material that was chosen.", ())
RISK: Law = (
    "What may be lost in a thousand prints of this alternative: what holds against what pulls, each drawn with its "
    "spread. A lost print is cleared away and made again; a lost part costs its share.",
    (
        ("to clear a lost print away", CLEAN_MIN, "min"),
        ("a lost part, of a print", 100 * PART_SHARE, "%"),
        ("how far a chance may be off", 100 * RISK_UNSURE, "%"),
    ),
)


def worths_in(board: Document) -> tuple[list[WorthDoc], int]:
    """What the alternatives of a board are worth, and which is recommended.

    Raises:
        CoreError: `no-worth` where its alternatives have no price.
    """
    rows: Sequence[WorthDoc | None] = []
    recommended = 0
    if isinstance(board, PoseBoard):
        rows, recommended = [row.pose.metrics.worth for row in board.candidates], board.recommended
    elif isinstance(board, LayersBoard):
        rows, recommended = [row.held.worth for row in board.choices], board.recommended
    elif isinstance(board, HollowBoard | WallsBoard | SupportsBoard):
        rows, recommended = [row.worth for row in board.choices], board.recommended
    told = [row for row in rows if row is not None]
    if not told or len(told) < len(rows):
        raise CoreError(
            "no-worth", "Nothing is weighed against each other here.", "", "Ask at a board of alternatives."
        )
    return told, recommended


def rates_for(given: FigureGiven) -> Rates:
    """The rates that a board of these inputs was weighed at."""
    if isinstance(given, PoseGiven):
        return plain_wish(given.wish).rates
    return rates_of(getattr(given, "rates", None))


def why_of(board: Document, given: FigureGiven, shown: int | None) -> WhyDoc:
    """Why the alternative `shown` (the recommended one where None) is, or is not, the one to take.

    Raises:
        CoreError: `no-worth`, `no-such-row`.
    """
    rows, recommended = worths_in(board)
    shown = recommended if shown is None else shown
    if not 0 <= shown < len(rows):
        raise CoreError("no-such-row", f"There are {len(rows)} alternatives.", "", "Ask for one of them.")
    worths, rates = [row.worth() for row in rows], rates_for(given)
    gifts = [gift_of_worth(worth) for worth in worths]
    least = cheapest(gifts, rates)
    rest = sorted((k for k in range(len(rows)) if k != shown), key=lambda k: worths[k].total)
    other = recommended if shown != recommended else rest[0] if rest else shown
    worth, printer = worths[shown], load_printer(given.printer)
    fixed = ("to set a print up, and what follows every one", kind_of(printer.process).fixed_min, "min")
    by_hand = (HANDS[0], (fixed, *HANDS[1]))
    cheaper, dearer = sorted((worth, worths[other]), key=lambda w: w.total)
    return WhyDoc(
        shown=shown,
        recommended=recommended,
        cheapest=least,
        other=other,
        against=compared(worth, worths[other]),
        alike=alike(dearer, cheaper),
        parts=[
            _part(
                "hands",
                worth.hands_min,
                "min",
                rate=rates.minute,
                coins=worth.hands,
                law=by_hand,
            ),
            _part("machine", worth.machine_h, "h", rate=rates.hour, coins=worth.machine, law=MACHINE[printer.hangs]),
            _part("material", worth.material, "coins", rate=None, coins=worth.material, law=MATERIAL),
            _part("risk", 100 * worth.risk, "%", rate=None, coins=worth.loss, law=RISK),
        ],
        turns=[TurnRateDoc(**asdict(turn)) for turn in turns(gifts, rates)],
        bounds=[BoundDoc(**asdict(bound)) for bound in bounds(gifts, rates, shown)],
        learnt=[],
    )


def _part(part: str, amount: float, unit: str, *, rate: float | None, coins: float, law: Law) -> WhyPartDoc:
    text, priors = law
    return WhyPartDoc(
        part=part,
        amount=amount,
        unit=unit,
        rate=rate,
        coins=coins,
        law=text,
        priors=[PriorDoc(name=name, value=value, unit=of) for name, value, of in priors],
    )
