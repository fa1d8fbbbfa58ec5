"""What a plate costs, and what a good piece of it: where the coins go."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..worth import Rates
from .plates import Plate

PLATE_MIN = {"hangs": 6.0, "stands": 4.0}
"""Priors: minutes by hand that a plate takes whatever lies on it: filled, levelled, begun, looked after, lifted off."""
WATTS = {"hangs": 60.0, "stands": 120.0}
"""Priors: power that a machine draws while it prints."""
COINS_PER_KWH = 0.3
"""Prior: what a kilowatt hour costs, in coins."""
NOZZLE_COINS, NOZZLE_HOURS = 4.0, 500.0
"""Priors: what a nozzle costs, and the hours that it draws clean lines for; what is abrasive wears it far sooner."""
STUFF = {"hangs": 0.8, "stands": 0.05}
"""Priors: coins of gloves, wipes, washing fluid and what stays in the vat, a plate; of a wipe for a bare plate."""


@dataclass(frozen=True)
class Spent:
    """Coins of a plate by where they go: material with supports, the machine's hours, its power, hands, wear of the
    film or the nozzle, what is used up, and what is lost with pieces that fail; `each` of a piece that comes off whole.
    """

    material: float
    machine: float
    power: float
    hands: float
    film: float
    stuff: float
    lost: float
    total: float
    each: float | None


@dataclass(frozen=True)
class Dear:
    """What one piece costs by itself: coins of material, minutes of hands, and coins of the film that it wears."""

    material: float
    hands_min: float
    film: float


def spent_on(
    plate: Plate, dear: Sequence[Dear], rates: Rates, *, hangs: bool, times: float = 1.0, more_min: float = 0.0
) -> Spent:
    """Coins of a plate whose pieces cost `dear`, in their order; `times`: what these hands take beside what is
    reckoned, counted in the minutes of the pieces already; `more_min`: of the plate as a whole, such as hairs between
    its pieces.

    A piece that is lost has cost its material and its share of the machine, and is made again; its hands are not spent
    on it.
    """
    kind = "hangs" if hangs else "stands"
    hours, many = plate.time_s / 3600, len(plate.items)
    whole = plate.good / many if many else 1.0
    material = sum(d.material for d in dear)
    film = sum(d.film for d in dear) + (0.0 if hangs else hours / NOZZLE_HOURS * NOZZLE_COINS)
    machine, power = hours * rates.hour, hours * WATTS[kind] / 1000 * COINS_PER_KWH
    hands = (times * (PLATE_MIN[kind] + more_min) + whole * sum(d.hands_min for d in dear)) * rates.minute
    spent = material + machine + power + film + STUFF[kind]
    # What failed pieces took of it, once for each time that they are made until they come off.
    lost = spent * (1 / whole - 1) if whole > 0 else 0.0
    total = spent + hands + lost
    return Spent(
        material, machine, power, hands, film, STUFF[kind], lost, total, total / many if many and whole > 0 else None
    )  # fmt: skip
