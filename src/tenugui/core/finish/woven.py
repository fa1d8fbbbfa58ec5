"""Steps off the plate as a week weaves them: joined where one person goes on, and each at its station."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from ..week import StepAsk
from .steps import Step

Until = Literal["off the plate", "clean", "primed", "coated"]
"""How far an order goes."""
STATIONS = {
    "first bath": "wash",
    "cleaner fluid": "wash",
    "dry in the air": "drying",
    "cure one side": "lamp",
    "turn it": "lamp",
    "cure the other side": "lamp",
    "cure the cavity": "lamp",
    "primer dries": "drying",
    "it dries": "drying",
}
"""Kinds of station by step: the rest is done at the bench."""
_BY_ITSELF = ("let it drip", "let it cool", "off the plate")
"""What a week counts as lifting off."""
SITTING_MIN, MOST_SITTINGS = 30.0, 16
"""Prior: work by hand can be put down after so long; and into how many sittings one step is laid at most."""
_LAST = {"clean": "sand the scars", "primed": "first coat"}


def steps_until(steps: Sequence[Step], until: Until) -> list[StepAsk]:
    """Steps of a week up to where an order goes."""
    if until == "off the plate":
        return []
    rows: list[tuple[str, str | None, float, bool]] = []
    for step in steps:
        if step.name == _LAST.get(until) or (until == "clean" and step.name.startswith("smooth")):
            break
        if step.name in _BY_ITSELF:
            continue
        station, name = STATIONS.get(step.name), step.name
        if station == "lamp":
            # Whoever turns it is there for a moment; a week does not split the lamp for that.
            name, hands = "cure", False
        else:
            hands = step.hands
        if name.startswith("supports off"):
            name = "supports off"
        if rows and rows[-1][1] == station and rows[-1][3] == hands:
            before = rows[-1]
            joined = before[0] if before[0] == name or station else f"{before[0]}, {name}"
            rows[-1] = (joined[:60], station, before[2] + step.minutes, hands)
        else:
            rows.append((name, station, step.minutes, hands))
    return [step for row in rows for step in _sittings(*row)]


def _sittings(name: str, station: str | None, minutes: float, hands: bool) -> list[StepAsk]:
    """Work by hand is put down and taken up again; what goes alone is not."""
    many = max(1, math.ceil(minutes / SITTING_MIN)) if hands else 1
    if many > MOST_SITTINGS:
        many = MOST_SITTINGS
    return [
        StepAsk(
            step=name if many == 1 else f"{name[:46]}, {k + 1} of {many}",
            station=station,
            minutes=math.ceil(minutes / many),
            hands=hands,
        )
        for k in range(many)
    ]
