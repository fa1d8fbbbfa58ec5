"""Why a board recommends what it does: each part's law and priors, and what would change the answer."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict

from ..contract import Document, HollowBoard, LayersBoard, PoseBoard, SupportsBoard, WallsBoard, WorthDoc
from ..contract.why import BoundDoc, PriorDoc, TurnRateDoc, WhyDoc, WhyPartDoc
from ..errors import CoreError
from ..machines import load_printer
from ..worth import Rates, Worth, alike, bounds, compared, gift_of_worth, least, rates_of, turns
from .given import FigureGiven, PoseGiven
from .laws import Law, laws_of
from .pose import plain_wish


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


def why_of(fold: str, board: Document, given: FigureGiven, shown: int | None) -> WhyDoc:
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
    cheapest = least(worths)
    rest = sorted((k for k in range(len(rows)) if k != shown), key=lambda k: worths[k].total)
    other = recommended if shown != recommended else rest[0] if rest else shown
    worth, laws = worths[shown], laws_of(fold, load_printer(given.printer))
    return WhyDoc(
        shown=shown,
        recommended=recommended,
        cheapest=cheapest,
        other=other,
        against=compared(worth, worths[other]),
        alike=_near(worth, worths[other]),
        near=_near(worths[recommended], worths[cheapest]),
        over=worths[recommended].total - worths[cheapest].total,
        parts=[
            _part("hands", worth.hands_min, "min", rate=rates.minute, coins=worth.hands, law=laws.hands),
            _part("machine", worth.machine_h, "h", rate=rates.hour, coins=worth.machine, law=laws.machine),
            _part("material", worth.material, "coins", rate=None, coins=worth.material, law=laws.material),
            _part("risk", 100 * worth.risk, "%", rate=None, coins=worth.loss, law=laws.risk),
        ],
        turns=[TurnRateDoc(**asdict(turn)) for turn in turns(gifts, rates)],
        bounds=[BoundDoc(**asdict(bound)) for bound in bounds(gifts, rates, shown)],
        learnt=[],
    )


def _near(one: Worth, other: Worth) -> bool:
    """Whether the dearer of two cannot be told from the cheaper."""
    cheaper, dearer = sorted((one, other), key=lambda w: w.total)
    return alike(dearer, cheaper)


def _part(part: str, amount: float, unit: str, *, rate: float | None, coins: float, law: Law) -> WhyPartDoc:
    return WhyPartDoc(
        part=part,
        amount=amount,
        unit=unit,
        rate=rate,
        coins=coins,
        law=law.text,
        priors=[PriorDoc(name=name, value=value, unit=of) for name, value, of in law.priors],
    )
