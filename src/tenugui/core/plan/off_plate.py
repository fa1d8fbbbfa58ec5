"""What a proved plan says of its work off the plate."""

from __future__ import annotations

import math

from ..contract import HeldDoc, ProofBoard
from ..contract.finish import OffPlateDoc
from .given import PosedGiven


def off_plate(given: PosedGiven, board: ProofBoard, held: HeldDoc) -> OffPlateDoc:
    """From its proof, its supports and how it is hollow."""
    strings = next((h.needs for h in board.proof.hazards if h.code == "strings"), 0.0)
    return OffPlateDoc(
        process=given.printer["process"],
        groups=[(g.side, len(g.tips), g.minutes) for g in board.removal.groups],
        contact_mm2=sum(math.pi / 4 * tip.diameter_mm**2 for tip in held.supports.tips),
        hands_min=held.row.gift.hands_min,
        machine_h=board.proof.time_s / 3600,
        material=board.proof.material.cost,
        holes=len(given.hollow.holes) if given.hollow else 0,
        plugs=bool(given.hollow and given.hollow.plugs),
        strings=strings,
        times=given.printer.get("hands_times", 1.0),
    )
