"""The whole chain with recommended choices: what the headless `plan` runs in memory and the demo runs on its store."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from ..contract import Choice, Document, SizeChoice
from ..pose import Z_UP, Direction
from .folds import FOLDS
from .reading import model_of, recommended
from .shelf import Shelf
from .spec import Chosen, FoldSpec, PlanBase, Taken
from .tasks import Progress, computed, key_of, quiet, within


@dataclass
class Chain:
    """Choices so far, and the boards they were taken from."""

    choices: dict[str, Choice] = field(default_factory=dict)
    boards: dict[str, Document] = field(default_factory=dict)


def sized(
    base: PlanBase,
    *,
    factor: float,
    height_mm: float,
    printer_id: int,
    material_id: int,
    up: Direction = Z_UP,
    sha: str | None = None,
    preview_sha: str | None = None,
) -> SizeChoice:
    """The choice of the fold Size, for the copy that is worked on unless another is given."""
    printer = base.printers[printer_id]
    return SizeChoice(
        sha=base.worked if sha is None else sha,
        preview_sha=preview_sha,
        factor=factor,
        up=up,
        height_mm=height_mm,
        printer_id=printer_id,
        material_id=material_id,
        printer=printer["name"],
        material=base.materials[material_id].get("name", ""),
        process=printer["process"],
    )


def run_chain(
    shelf: Shelf,
    base: PlanBase,
    start: Chosen,
    *,
    until: str | None = None,
    progress: Progress = quiet,
    taken: Callable[[FoldSpec, Taken, str], None] = lambda spec, choice, key: None,
) -> Chain:
    """Compute every board from Pose to `until`, else to the last, and take what it recommends; `start` holds the
    choices of Size and Marks, and whatever else was answered before, which is not asked again. A fold that may stay
    open is asked only where it is worth asking.

    `taken` is told of every choice with the key of the inputs it rests on.
    """
    chain = Chain(dict(start))
    wanted = [s for s in FOLDS if s.task and s.name not in start and (not s.free or s.worth_asking(start))]
    for done, spec in enumerate(wanted):
        assert spec.task
        asked = spec.asked(chain.choices)
        given = spec.inputs(base, chain.choices, asked)
        low, high = done / len(wanted), (done + 1) / len(wanted)
        board = computed(shelf, spec.task, given, model_of(spec), within(progress, low, high))
        choice = spec.taken(board, recommended(board), asked)
        chain.choices[spec.name], chain.boards[spec.name] = choice.choice, board
        taken(spec, choice, key_of(spec.task, given))
        if spec.name == until:
            break
    return chain
