"""Worth as documents."""

from __future__ import annotations

from dataclasses import asdict

from ..worth import Worth
from .base import Document


class WorthDoc(Document):
    """What an alternative takes, and in coins at the person's rates: `hands`, `machine`, `material`, `loss` and all in `total`, known to `unsure`."""

    hands_min: float
    machine_h: float
    material: float
    risk: float
    hands: float
    machine: float
    loss: float
    total: float
    unsure: float


class RatesDoc(Document):
    """Coins for a minute and an hour, and how many times over a lost print is felt."""

    minute: float
    hour: float
    lost: float


def worth_of(worth: Worth) -> WorthDoc:
    """A worth."""
    return WorthDoc(**asdict(worth))
