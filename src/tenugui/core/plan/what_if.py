"""What a change of supports would do, before it is made: the kept load path is walked anew, nothing is cut and nothing is placed."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from ..contract import ChangeDoc, HeldDoc, WhatIfDoc
from ..machines import Context, default_height
from ..supports import Carrying, manner_of, safety_factor, tip_hold, what_if
from .held import HELD
from .inputs import Inputs
from .shelf import Shelf
from .tasks import Given, kept, key_of


def what_if_of(
    shelf: Shelf,
    given: Given,
    *,
    risk: float,
    style: str,
    edits: Sequence[dict[str, Any]],
    gone: Sequence[int],
    put: Sequence[Sequence[float]],
) -> WhatIfDoc | None:
    """The set of these inputs without the tips numbered `gone` and with more at `put` (build coordinates); None where it has not been made yet."""
    printer = Inputs(shelf, given).printer
    asked = {k: v for k, v in given.items() if k in HELD} | {
        "height": default_height(printer),
        "risk": risk,
        "style": style,
    }
    if edits:
        asked["edits"] = list(edits)
    try:
        held = shelf.memory.recall(("held", key_of("held", asked)), lambda: _made(shelf, asked))
    except LookupError:
        return None
    row = held.row
    carrying = shelf.memory.recall(("carrying", row.carrying_sha), lambda: Carrying.unpack(shelf.get(row.carrying_sha)))
    context = Context.of(printer, Inputs(shelf, given).material, asked["height"])
    wanted = safety_factor(risk)
    found = what_if(
        carrying,
        np.array([s.component for s in row.spots], np.int32),
        np.array([s.at for s in row.spots], float).reshape(-1, 3),
        np.array([s.hold_n for s in row.spots], float),
        gone=[k for k in gone if 0 <= k < len(row.spots)],
        put=np.array(put, float).reshape(-1, 3),
        put_strength=float(tip_hold(context, manner_of(context).tip_mm(risk))),
        wanted=wanted,
    )
    return WhatIfDoc(
        worse=[
            ChangeDoc(
                place=(c.x, c.y, c.z),
                pull_n=c.pull,
                share=c.share,
                before=_told(c.before, carrying),
                after=_told(c.after, carrying),
            )
            for c in found.worse
        ],
        wanted=wanted if carrying.peeled else 1.0,
        margins=[float(m) if carrying.peeled and np.isfinite(m) else None for m in found.margins],
        vain=found.vain,
    )


def _told(margin: float, carrying: Carrying) -> float:
    """A margin where something is peeled; else 1 for what is held and 0 for what is not."""
    return margin if carrying.peeled else float(margin > 0)


def _made(shelf: Shelf, asked: Given) -> HeldDoc:
    found = kept(shelf, "held", asked, HeldDoc)
    if found is None:
        raise LookupError
    return found
