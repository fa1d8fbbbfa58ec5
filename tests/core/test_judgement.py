"""What is recommended is what a practitioner would take: the first row of every figure of the club, on both
machines.
"""

from __future__ import annotations

import numpy as np
import pytest
from _pytest.mark import ParameterSet

from tenugui.core.contract import PoseBoard
from tenugui.core.formats import pack_whole
from tenugui.core.plan import MemoryShelf, PlanBase, run_chain, sized, upright_of
from tenugui.core.repair import make_ready
from tests.figures import CASES
from tests.presets import FILAMENT, HERON, KESTREL, RESIN

MACHINES = {"resin": (HERON, RESIN), "filament": (KESTREL, FILAMENT)}
FACE_CLEAR_MM = 1.5


def in_turn() -> list[ParameterSet]:
    """Every figure on both machines; in the quick part each on one of them, by turns."""
    return [
        pytest.param(name, process, marks=[pytest.mark.long] if (k + j) % 2 else [])
        for k, name in enumerate(sorted(CASES))
        for j, process in enumerate(MACHINES)
    ]


@pytest.mark.parametrize(("name", "process"), in_turn())
def test_the_first_row_is_accepted_and_no_row_is_laughable(name: str, process: str) -> None:
    case, (printer, material) = CASES[name], MACHINES[process]
    shelf = MemoryShelf()
    mesh = make_ready(case.make()).mesh
    sha = shelf.put(pack_whole(mesh))
    base = PlanBase(sha, sha, {1: printer.model_dump(mode="json")}, {1: material.model_dump(mode="json")})
    up = upright_of(shelf, sha).ups[0].up
    size = sized(base, factor=1.0, height_mm=1.0, printer_id=1, material_id=1, up=up)
    board = run_chain(shelf, base, {"size": size}, until="pose").boards["pose"]
    assert isinstance(board, PoseBoard)
    best = board.candidates[board.recommended].pose
    accepted = case.resin if process == "resin" else case.filament
    assert accepted.holds(best.down), (accepted.why, best.down, best.why)
    assert best.metrics.worth.risk < 0.3, best.why
    if case.face is not None:
        depths = mesh.vertices @ np.array(best.down)
        assert float(depths.max() - np.dot(case.face, best.down)) > FACE_CLEAR_MM, "its face does not lie on the plate"
    least = min(row.pose.metrics.worth.total for row in board.candidates)
    unsure = max(row.pose.metrics.worth.unsure for row in board.candidates)
    assert best.metrics.worth.total <= least + 0.5 * unsure
    assert any(float(np.dot(row.pose.down, up)) < -0.99 for row in board.candidates), (
        "the upright one is there to compare"
    )
    for row in board.candidates:
        assert row.pose.why and row.pose.metrics.worth.risk <= 1
