"""A week woven, as a task of its own: it takes seconds, and whoever asked may leave."""

from __future__ import annotations

from typing import Any

from ..contract.week import WovenDoc, week_document
from ..week import WeekAsk, planned
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
    found = planned(ask, given.seconds, helps=True)
    return WovenDoc.of(week_document(found), found)
