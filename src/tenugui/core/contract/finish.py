"""`tenugui/finish@1`: what is done off the plate, and whether a failed print is mended."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Literal

from pydantic import Field

from ..finish import Finishing, Step, TrayStep, Way, ends_by
from ..worth import Gift
from .base import Document
from .week import Minute


class OffPlateDoc(Document):
    """What a plan says of its work off the plate: (side, tips, minutes) of each group of supports in their order; mm²
    that supports touch; minutes by hand in all; machine hours and coins of material that it takes; `times`: what these
    hands take beside what is reckoned.
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
    times: float = 1.0

    @property
    def work(self) -> Finishing:
        """As the steps are laid out from it: minutes as they are reckoned for anybody, and the times that they take."""
        groups = tuple((side, tips, minutes / self.times) for side, tips, minutes in self.groups)
        of_all = (self.hands_min / self.times, self.holes, self.plugs, self.strings, self.times)
        return Finishing(self.process, groups, self.contact_mm2, *of_all)

    def takes(self, risk: float) -> Gift:
        """What printing it again takes, at the risk of its proof."""
        return Gift(self.hands_min, self.machine_h, self.material, risk)


class FinishStepDoc(Document):
    """One step, when it starts, for how long, by hand or alone, how much of what with what, and what to mind; `parts`:
    for a tray of figures, how much of each.
    """

    name: str
    start: Minute
    minutes: float
    hands: bool
    amount: str
    with_: str = Field(alias="with")
    caution: str
    parts: list[str] = Field(default_factory=list)


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
    steps: Sequence[Step | TrayStep],
    school: Literal["before", "after"],
    begin: datetime,
    ways: tuple[Way, Way] | None,
) -> FinishDoc:
    """As a document."""
    rows = [row if isinstance(row, TrayStep) else TrayStep(row) for row in steps]
    return FinishDoc(
        school=school,
        steps=[
            FinishStepDoc(
                name=row.step.name,
                start=begin + timedelta(minutes=row.step.start),
                minutes=row.step.minutes,
                hands=row.step.hands,
                amount=row.step.amount,
                with_=row.step.using,
                caution=row.step.caution,
                parts=list(row.parts),
            )
            for row in rows
        ],
        hands_min=sum(row.step.minutes for row in rows if row.step.hands),
        ready=begin + timedelta(minutes=ends_by([row.step for row in rows])),
        mend_or_print=None if ways is None else MendOrPrintDoc.of(ways),
    )
