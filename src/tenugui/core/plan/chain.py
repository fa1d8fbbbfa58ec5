"""The whole chain with recommended choices: what the headless `plan` runs in memory and the demo runs on its store."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from ..contract import Document
from ..pose import Z_UP, Direction
from .folds import FOLDS, Choice, FoldSpec, Taken, model_of, recommended
from .shelf import Shelf
from .tasks import Given, Progress, computed, key_of, quiet, within

ASKED_FROM_MM = 60.0
"""Prior, as the page's way from Pose has it: smaller figures are printed solid, or with the walls that the machine is set to."""


@dataclass
class Chain:
    """Choices so far, and the boards they were taken from."""

    choices: dict[str, Choice] = field(default_factory=dict)
    boards: dict[str, Document] = field(default_factory=dict)


def sized(
    base: Given,
    *,
    factor: float,
    height_mm: float,
    printer_id: int,
    material_id: int,
    way: str = "ready",
    up: Direction = Z_UP,
) -> Choice:
    """The choice of the fold Size. `base` holds the mesh to work on as `worked`, and printers and materials by id."""
    printer = base["printers"][printer_id]
    return {
        "sha": base["worked"],
        "factor": factor,
        "up": list(up),
        "height_mm": height_mm,
        "printer_id": printer_id,
        "material_id": material_id,
        "printer": printer["name"],
        "material": base["materials"][material_id]["name"],
        "process": printer["process"],
        "mesh": way,
    }


def _asked(spec: FoldSpec, start: dict[str, Choice]) -> bool:
    """Whether a fold is asked: one that may stay open only of figures so large that it matters, and not where it was answered before."""
    worth = start["size"]["height_mm"] >= ASKED_FROM_MM and spec.asks(start) and spec.name not in start
    return worth if spec.free else True


def run_chain(
    shelf: Shelf,
    base: Given,
    start: dict[str, Choice],
    *,
    until: str = "proof",
    progress: Progress = quiet,
    taken: Callable[[FoldSpec, Taken, str], None] = lambda spec, choice, key: None,
) -> Chain:
    """Compute every board from Pose to `until` and take what it recommends; `start` holds the choices of Size and Marks, and of Hollow or
    Walls where they are given.

    `taken` is told of every choice with the key of the inputs it rests on.
    """
    chain = Chain(dict(start))
    wanted = [spec for spec in FOLDS if spec.task and _asked(spec, start)]
    for done, spec in enumerate(wanted):
        assert spec.task and spec.given and spec.take
        given = spec.given(base, chain.choices)
        low, high = done / len(wanted), (done + 1) / len(wanted)
        board = computed(shelf, spec.task, given, model_of(spec), within(progress, low, high))
        choice = spec.take(board, recommended(board))
        chain.choices[spec.name], chain.boards[spec.name] = choice.choice, board
        taken(spec, choice, key_of(spec.task, given))
        if spec.name == until:
            break
    return chain
