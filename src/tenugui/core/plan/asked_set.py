"""A support set as the command tells it: what is asked of each tip, what it holds, and how a cutter comes to it."""

from __future__ import annotations

from ..contract import HeldDoc, SupportsAskedDoc, TipAskedDoc, tips_from
from ..removal.cutter import reach_of
from .inputs import Inputs
from .what_if import kept_in, needed_of


def asked_set(held: Inputs, made: HeldDoc) -> SupportsAskedDoc:
    """The set of a held figure. `needed` is read from the load path alone, as the page reads it: a slope that sags
    where a tip is taken away is told by the proof, not by this.
    """
    spots, tips = made.row.spots, made.supports.tips
    needed = needed_of(kept_in(held, made.row), made.row.risk).needed
    reach = reach_of(held.placed.figure, tips_from(tips))
    told = [
        TipAskedDoc(
            **tip.model_dump(),
            load_n=spot.hold_n / spot.margin if spot.margin else 0.0,
            capacity_n=spot.hold_n,
            needed=bool(need),
            reach=float(share),
        )
        for tip, spot, need, share in zip(tips, spots, needed, reach, strict=True)
    ]
    whole = made.supports.model_dump(exclude={"tips"}, by_alias=False)
    return SupportsAskedDoc(**whole, tips=told, removal_min=made.row.off_min, risk=made.row.numbers.risk)
