"""The same of a figure that is on the bench: kept like every other result, and all that it rests on is there for
whoever opens its plan in the morning.
"""

from __future__ import annotations

from ..contract import IntakeDoc
from ..contract.night import NightRow
from .figure import working
from .folds import FOLDS
from .given import MeshGiven, OvernightGiven
from .night import Night, NightFigure, mended_words, planned_on
from .shelf import Shelf
from .size import upright_of
from .tasks import Progress, computed, task, within


@task(
    "overnight",
    OvernightGiven,
    NightRow,
    rests_on=("intake", "upright", *(spec.task for spec in FOLDS if spec.task)),
)
def overnight(shelf: Shelf, given: OvernightGiven, progress: Progress) -> NightRow:
    """A figure on every machine that was named, each way with its picture; limits are held to it later."""
    examined = computed(shelf, "intake", MeshGiven(sha=given.sha), IntakeDoc, within(progress, 0.0, 0.05))
    ready = examined.ready
    if ready.refused is not None:
        return NightRow(file="", key="", size_mm=[], ways=[], best=None, look=[], refused=[ready.refused], seconds=0.0)
    mended = mended_words(ready.steps, closed=ready.watertight)
    figure = NightFigure(
        given.sha, given.worked, working(shelf, given.worked).mesh, upright_of(shelf, given.worked), mended
    )
    night = Night(given.machines, given.height)
    row, pictures = planned_on(shelf, figure, night, within(progress, 0.05, 1.0))
    ways = [way.model_copy(update={"picture": shelf.put(png)}) for way, png in zip(row.ways, pictures, strict=True)]
    return row.model_copy(update={"ways": ways})
