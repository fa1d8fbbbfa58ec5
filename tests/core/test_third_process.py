"""A third process, made up here: what the engine must be told of it, and that it then goes the whole way."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
import pytest
from numpy.typing import NDArray

from tenugui.core.contract import ProofBoard
from tenugui.core.formats import pack_whole
from tenugui.core.layers import LayerStack, Proof
from tenugui.core.machines import KINDS, Context, MachineError, ProcessKind, Programme, kind_of, load_printer
from tenugui.core.machines.printer import FilamentPrinter
from tenugui.core.mesh import Mesh
from tenugui.core.plan import MemoryShelf, PlanBase, run_chain, sized
from tenugui.core.pose.price import PACES, Pace
from tenugui.core.process import Use, process_of
from tenugui.core.process.of import PROCESSES
from tenugui.core.supports.manner import MANNERS, FilamentManner
from tests.presets import FILAMENT, KESTREL
from tests.shapes import box

F8 = NDArray[np.float64]
SECONDS = 11.0


class ClayPrinter(FilamentPrinter):
    """Presses clay slip through a grid, a layer at a time: nothing peels, nothing hangs, and no line is drawn."""

    process: Literal["clay"] = "clay"  # type: ignore[assignment]
    draws_lines: ClassVar[bool] = False


class Clay:
    """See `Process`."""

    ledge_mm2, closes, pulls = 9.0, 1.0, False

    def use(self, stack: LayerStack, areas: F8, context: Context) -> Use:
        clock = np.arange(1, len(areas) + 1) * np.float64(SECONDS)
        ml = float(areas.sum()) * context.height / 1000
        return Use(float(clock[-1]), clock, ml, 1.9 * ml, 0.002 * ml, "formula", several_s=(float(clock[-1]),) * 6)

    def use_of(self, figure: Mesh, supports: Mesh | None, proof: Proof, context: Context) -> Use:
        return self.use(proof.stack, proof.areas, context)

    def pull(self, proof: Proof, context: Context) -> F8:
        return np.zeros(proof.stack.grid.layers)

    def blur_mm(self, context: Context) -> float:
        return 0.0

    def blemishes(self, height: float) -> float:
        return 0.5

    def sheet(self, context: Context) -> list[tuple[str, str]]:
        return [("Slip", "stirred, through a sieve")]


def _pace(context: Context) -> Pace:
    return Pace("clay", SECONDS / 3600 / context.height, 0.0, 2e-6, 1.9e-6, False, 1.0, 0.0)


CLAY = ProcessKind(
    name="clay",
    printer=ClayPrinter,
    material="marsh clay",
    fixed_min=7.0,
    usual_tip_mm=0.5,
    finish_at_mm=0.2,
    clings_mm=0.5,
    hands_min={"scar_area_mm2": 0.01, "support_volume_mm3": 0.0001, "minima": 0.5, "blur_mm2": 0.0},
    deciding=("scar_area_mm2", "support_volume_mm3", "minima", "height_mm", "step_cost"),
    when_off="Leather hard.",
    cautions=("Dry clay is dust: sponge, never sweep.",),
    programmes=lambda hollow: [Programme("dry", (("on the shelf", 600.0),), "Slowly, under a cloth.")],
)


@pytest.fixture
def clay(monkeypatch: pytest.MonkeyPatch) -> ClayPrinter:
    """The process told: its kind, what it takes, its supports, its pace. Four entries, and nothing else."""
    monkeypatch.setitem(KINDS, "clay", CLAY)
    monkeypatch.setitem(PROCESSES, "clay", lambda printer: Clay())
    monkeypatch.setitem(MANNERS, "clay", lambda context: FilamentManner(context, KESTREL))
    monkeypatch.setitem(PACES, "clay", _pace)
    given = KESTREL.model_dump(mode="json") | {"name": "clay pot", "process": "clay"}
    printer = load_printer(given)
    assert isinstance(printer, ClayPrinter)
    return printer


def test_what_is_not_told_is_refused_by_name() -> None:
    with pytest.raises(MachineError, match="'clay'.*resin or filament"):
        kind_of("clay")
    with pytest.raises(MachineError, match="'clay'"):
        load_printer({"process": "clay", "name": "clay pot"})


def test_a_made_up_process_walks_through_pose_supports_layers_and_proof(clay: ClayPrinter) -> None:
    mushroom = Mesh.joined([box((0, 0, 6), (5, 5, 12)), box((0, 0, 14), (24, 24, 4))])
    shelf = MemoryShelf()
    material = FILAMENT.model_dump(mode="json") | {"process": "clay", "name": "marsh clay"}
    sha = shelf.put(pack_whole(mushroom))
    base = PlanBase(sha=sha, worked=sha, printers={1: clay.model_dump(mode="json")}, materials={1: material})
    start = sized(base, factor=1.0, height_mm=16.0, printer_id=1, material_id=1, up=(0.0, 0.0, 1.0))
    chain = run_chain(shelf, base, {"size": start})
    assert {"pose", "supports", "layers", "proof"} <= set(chain.boards)
    assert not {"hollow", "walls"} & set(chain.boards), "those are of resin and of filament"
    board = chain.boards["proof"]
    assert isinstance(board, ProofBoard)
    proof = board.proof
    assert proof.islands == [] and proof.time_s == pytest.approx(SECONDS * proof.layers.count)
    assert process_of(clay).blemishes(0.1) == 0.5
