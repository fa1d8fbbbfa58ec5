"""The walk through a plan's layers: sections to the closed form, what hangs in the air, where it is worth a stop."""

from __future__ import annotations

import math

import numpy as np
import pytest

from tenugui.core.contract import ProofBoard, StripDoc
from tenugui.core.errors import CoreError
from tenugui.core.formats import pack_whole
from tenugui.core.machines import FilamentPrinter, Material, ResinPrinter
from tenugui.core.mesh import Mesh
from tenugui.core.plan import MemoryShelf, PlanBase, Stacked, held_of, layer_of, run_chain, sized, spec_of
from tenugui.core.plan.given import HeldGiven
from tenugui.core.plan.inputs import HeldInputs
from tenugui.core.plan.supports import held_as_taken
from tenugui.core.plan.walk import layer_at, tops_of
from tests.given import posed_given
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import ball, box, fork

REACH = 0.3


def stacked(parts: dict[str, Mesh], height: float = 0.5) -> Stacked:
    top = max(part.upper[2] for part in parts.values())
    return Stacked(parts, np.arange(1, round(top / height) + 1) * height, REACH)


def test_a_table_on_its_leg_is_cut_where_it_is_and_its_top_hangs_beyond_what_the_leg_carries() -> None:
    parts = {"figure": Mesh.joined([box((0, 0, 5), (4, 4, 10)), box((0, 0, 10.95), (20, 12, 2))])}
    leg, top, above = (layer_of(stacked(parts), number) for number in (3, 21, 22))
    assert leg.area_mm2 == pytest.approx(16) and leg.air_mm2 == 0 and leg.z_mm == 1.5 and leg.layers == 24
    assert top.area_mm2 == pytest.approx(240)
    grown = 16 + 4 * 4 * REACH + math.pi * REACH**2
    assert top.air_mm2 == pytest.approx(240 - grown, abs=0.02), "all but the leg grown by what a layer may reach"
    assert above.air_mm2 == 0, "the layer above it lies on it"
    assert top.box == pytest.approx((-10, -6, 10, 6)) and np.ptp(np.array(top.figure[0])[:, 0]) == pytest.approx(20)
    with pytest.raises(CoreError, match="no layer 25 of 24"):
        layer_of(stacked(parts), 25)


def test_what_stands_on_the_plate_hangs_nowhere_and_a_balls_sections_are_circles() -> None:
    globe = stacked({"figure": ball(10, (0, 0, 10), fineness=5)})
    for number in (1, 11, 20, 33):
        z = (number - 0.5) * 0.5
        assert layer_of(globe, number).area_mm2 == pytest.approx(math.pi * (100 - (z - 10) ** 2), rel=0.01)
    assert layer_of(globe, 1).air_mm2 == 0


def test_supports_are_told_apart_and_carry() -> None:
    figure, post = box((0, 0, 6), (4, 4, 4)), box((0, 0, 2.1), (4, 4, 4.2))
    both = stacked({"figure": figure, "supports": post})
    low, first = layer_of(both, 2), layer_of(both, 9)
    assert low.figure == [] and len(low.supports) == 1
    assert first.supports == [] and first.air_mm2 == 0, "where both are, it is figure, and the post carries it"
    assert layer_of(stacked({"figure": figure}), 9).air_mm2 == pytest.approx(16)


def test_layers_of_bands_are_those_that_are_printed() -> None:
    shelf = MemoryShelf()
    strip = held_of(shelf, posed_given(shelf, fork(), KESTREL, FILAMENT), height=0.1, risk=0.05).row.strip
    parts = {"figure": box((0, 0, 2), (1, 1, 4))}
    banded = strip.model_copy(update={"bands": [(1.0, 0.1), (3.0, 0.2)]})
    tops = tops_of(banded, parts)
    assert tops.round(6).tolist() == [round(v, 6) for v in (*np.arange(1, 11) * 0.1, *(1 + np.arange(1, 16) * 0.2))]
    assert len(tops_of(strip, parts)) == 40 and isinstance(strip, StripDoc)
    assert (layer_at(tops, 0.95), layer_at(tops, 1.0), layer_at(tops, 1.3)) == (10, 11, 12)


@pytest.mark.parametrize(("printer", "material"), [(HERON, RESIN), (KESTREL, FILAMENT)])
def test_a_forks_second_prong_starts_at_a_stop(printer: ResinPrinter | FilamentPrinter, material: Material) -> None:
    """What starts in mid air is one, with its place, in the layer in which the walk shows it."""
    shelf = MemoryShelf()
    sha = shelf.put(pack_whole(fork()))
    base = PlanBase(
        sha=sha,
        worked=sha,
        printers={1: printer.model_dump(mode="json")},
        materials={1: material.model_dump(mode="json")},
    )
    start = sized(base, factor=1.0, height_mm=32.0, printer_id=1, material_id=1, up=(0.0, 0.0, 1.0))
    chain = run_chain(shelf, base, {"size": start})
    board, spec = chain.boards["proof"], spec_of("proof")
    assert isinstance(board, ProofBoard) and spec is not None
    inputs = HeldInputs(shelf, spec.inputs(base, chain.choices).to(HeldGiven))
    supported = held_as_taken(shelf, inputs.held)
    whole = Stacked.of(inputs, supported, board.held.strip)
    assert len(whole.tops) == board.proof.layers.count, "one count of layers everywhere"
    assert [s.layer for s in board.stops] == sorted(s.layer for s in board.stops)
    starts = [s for s in board.stops if s.kind == "starts"]
    held = [spot for spot in board.held.spots if spot.reason == "island"]
    assert bool(starts) == bool(held or board.proof.islands)
    for stop in starts:
        cut = layer_of(whole, stop.layer)
        loops = [np.array(loop) for loop in cut.figure]
        near = min(float(np.hypot(*(loop - [stop.x_mm, stop.y_mm]).T).min()) for loop in loops)
        assert near < 3.0, "something of the figure is there"
