"""Worth as documents."""

from __future__ import annotations

from dataclasses import asdict

from ..worth import Gift, Rates, Worth, priced
from .base import Document


class WorthDoc(Document):
    """What an alternative takes, and in coins at the person's rates: `hands`, `machine`, `material`, `loss` and all in
    `total`, known to `unsure`; `harm`: the chance of a loss, a lost part by its share of a print.
    """

    hands_min: float
    machine_h: float
    material: float
    risk: float
    hands: float
    machine: float
    loss: float
    total: float
    unsure: float
    harm: float

    def worth(self) -> Worth:
        """As it was reckoned."""
        return Worth(**self.model_dump())


class GiftDoc(Document):
    """What an alternative takes, whoever pays: minutes, hours, coins of material, and chances."""

    hands_min: float
    machine_h: float
    material: float
    lost: float
    part_lost: float


class RatesDoc(Document):
    """Coins for a minute and an hour, and how many times over a lost print is felt."""

    minute: float
    hour: float
    lost: float


def worth_of(worth: Worth) -> WorthDoc:
    """A worth."""
    return WorthDoc(**asdict(worth))


def gift_of(gift: Gift) -> GiftDoc:
    """A gift."""
    return GiftDoc(**asdict(gift))


def priced_at(gift: GiftDoc, rates: Rates) -> Worth:
    """A gift's worth at a person's rates."""
    return priced(Gift(**gift.model_dump()), rates)
