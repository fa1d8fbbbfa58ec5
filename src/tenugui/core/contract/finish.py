"""`tenugui/finish@1`: what is done off the plate, and whether a failed print is mended."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Literal

from pydantic import Field

from ..finish import Finishing, Step, Way, ends_by
from .base import Document
from .week import Minute


class OffPlateDoc(Document):
    """What a plan says of its work off the plate: (side, tips, minutes) of each group of supports in their order; mm²
    that supports touch; minutes by hand in all; machine hours and coins of material that it takes.
    """

    process: str
    groups: list[tuple[str, int, float]]
    contact_mm2: float
    hands_min: float
    machine_h: float
    material: float
    holes: int
    plugs: bool
    strings: float

    @property
    def work(self) -> Finishing:
        """As the steps are laid out from it."""
        return Finishing(
            self.process, tuple(self.groups), self.contact_mm2, self.hands_min, self.holes, self.plugs, self.strings
        )


class FinishStepDoc(Document):
    """One step, when it starts, for how long, by hand or alone, how much of what with what, and what to mind."""

    name: str
    start: Minute
    minutes: float
    hands: bool
    amount: str
    with_: str = Field(alias="with")
    caution: str


class WayDoc(Document):
    """One way out: minutes, hours, coins with its doubt, and the chance that it comes out."""

    way: str
    hands_min: float
    hours: float
    coins: float
    chance: float
    said: str

    @staticmethod
    def of(way: Way) -> WayDoc:
        """As a document."""
        return WayDoc(**vars(way))


class MendOrPrintDoc(Document):
    """Mended, or printed again."""

    mend: WayDoc
    print_: WayDoc = Field(alias="print")
    recommended: Literal["mend", "print"]

    @staticmethod
    def of(ways: tuple[Way, Way]) -> MendOrPrintDoc:
        """As a document; the cheaper is recommended."""
        mend, again = ways
        best: Literal["mend", "print"] = "mend" if mend.coins <= again.coins else "print"
        return MendOrPrintDoc(mend=WayDoc.of(mend), print_=WayDoc.of(again), recommended=best)


class FinishDoc(Document):
    """Steps in their order, and when all is ready."""

    schema_: Literal["tenugui/finish@1"] = Field("tenugui/finish@1", alias="schema")
    school: Literal["before", "after"]
    steps: list[FinishStepDoc]
    hands_min: float
    ready: Minute
    mend_or_print: MendOrPrintDoc | None


def finish_document(
    steps: list[Step], school: Literal["before", "after"], begin: datetime, ways: tuple[Way, Way] | None
) -> FinishDoc:
    """As a document."""
    return FinishDoc(
        school=school,
        steps=[
            FinishStepDoc(
                name=step.name,
                start=begin + timedelta(minutes=step.start),
                minutes=step.minutes,
                hands=step.hands,
                amount=step.amount,
                with_=step.using,
                caution=step.caution,
            )
            for step in steps
        ],
        hands_min=sum(step.minutes for step in steps if step.hands),
        ready=begin + timedelta(minutes=ends_by(steps)),
        mend_or_print=None if ways is None else MendOrPrintDoc.of(ways),
    )
