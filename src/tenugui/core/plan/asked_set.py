"""A support set as the command tells it: what is asked of each tip, what it holds, and how a cutter comes to it."""

from __future__ import annotations

from ..contract import HeldDoc, SupportsAskedDoc, TipAskedDoc, tips_from
from ..removal.cutter import reach_of
from .inputs import PosedInputs
from .what_if import kept_in, needed_of


def asked_set(inputs: PosedInputs, supported: HeldDoc) -> SupportsAskedDoc:
    """The set of a held figure. `needed` is read from the load path alone, as the page reads it: a slope that sags
    where a tip is taken away is told by the proof, not by this.
    """
    spots, tips = supported.row.spots, supported.supports.tips
    needed = needed_of(kept_in(inputs, supported.row), supported.row.risk).needed
    reach = reach_of(inputs.placed.figure, tips_from(tips))
    tip_rows = [
        TipAskedDoc(
            **tip.model_dump(),
            load_n=spot.hold_n / spot.margin if spot.margin else 0.0,
            capacity_n=spot.hold_n,
            needed=bool(need),
            reach=float(share),
        )
        for tip, spot, need, share in zip(tips, spots, needed, reach, strict=True)
    ]
    whole = supported.supports.model_dump(exclude={"tips"}, by_alias=False)
    return SupportsAskedDoc(**whole, tips=tip_rows, removal_min=supported.row.off_min, risk=supported.row.numbers.risk)
