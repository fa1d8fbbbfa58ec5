"""The evidence of what a board recommends: what each part rests on, and what would change the answer."""

from __future__ import annotations

from .base import Document


class PriorDoc(Document):
    """What is no law: in words, its value and unit."""

    name: str
    value: float
    unit: str


class WhyPartDoc(Document):
    """A part of what an alternative takes: `amount` of `unit`, coins for one of these (None where that is no price),
    coins in all, the law behind it, and the priors in that.
    """

    part: str
    amount: float
    unit: str
    rate: float | None
    coins: float
    law: str
    priors: list[PriorDoc]


class TurnRateDoc(Document):
    """At `then` in place of `now` of a rate of one's own the alternative `row` would be the cheapest."""

    rate: str
    now: float
    then: float
    row: int


class BoundDoc(Document):
    """Were a part of the alternative shown `times` what is reckoned (`now`), `row` would be the cheapest."""

    part: str
    now: float
    times: float
    row: int


class LearntDoc(Document):
    """A value of the machine or the material that its own prints have taught, in place of what it was set to."""

    name: str
    value: float
    printer_id: int


class WhyDoc(Document):
    """Why an alternative is, or is not, the recommended one. `other`: the one that it is held against, and `against`
    what it costs beside that; `alike`: nobody could tell the two apart by what is known. The recommended one is `over`
    coins dearer than the cheapest, which is less than what is not known where it is `near` that.
    """

    shown: int
    recommended: int
    cheapest: int
    other: int
    against: str
    alike: bool
    near: bool
    over: float
    parts: list[WhyPartDoc]
    turns: list[TurnRateDoc]
    bounds: list[BoundDoc]
    learnt: list[LearntDoc]
