"""A week woven, as a task of its own: it takes seconds, and whoever asked may leave."""

from __future__ import annotations

from typing import Any

from ..contract.week import WovenDoc, walled, week_document
from ..week import Clocks, WeekAsk, evened, planned
from .given import Given
from .shelf import Shelf
from .tasks import Progress, task


class WeekGiven(Given):
    """`ask`: the week as JSON; `seconds` that the solver may look."""

    ask: dict[str, Any]
    seconds: float = 2.0


@task("week", WeekGiven, WovenDoc)
def week(shelf: Shelf, given: WeekGiven, progress: Progress) -> WovenDoc:
    """Weave it, and see which one move would most help the date that is least sure."""
    ask = WeekAsk.model_validate(given.ask)
    progress(0.1, "weaving")
    return woven(ask, given.seconds, helps=True)


def woven(ask: WeekAsk, seconds: float, *, helps: bool = False) -> WovenDoc:
    """A week planned, by the hours that really pass where the clocks of its place change within it.

    Raises:
        WeekError: `bad-zone`.
    """
    clocks = Clocks(ask.zone, ask.start) if ask.zone else None
    if clocks is None or not clocks.change(ask.end):
        found = planned(ask, seconds, helps=helps)
        return WovenDoc.of(week_document(found), found)
    found = planned(evened(ask, clocks), seconds, helps=helps)
    return walled(WovenDoc.of(week_document(found), found), clocks)
