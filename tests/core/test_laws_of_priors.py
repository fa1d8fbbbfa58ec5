"""What follows from each prior, by hand: how blemishes fall with the layer, which suction breaks, when a ledge is lost,
what a hollow costs.
"""

from __future__ import annotations

import math
from types import SimpleNamespace
from typing import Any

import pytest

from tenugui.core.layers import prove
from tenugui.core.machines import Context
from tenugui.core.mesh import Mesh
from tenugui.core.plan.holes import SLOW_DRAIN_S
from tenugui.core.plan.hollow_alternative import DRIP_SHARE, FLUSH_MIN, HOLE_MIN, LEAKS, STRUTS_MIN, _hollow_min, _leaks
from tenugui.core.plan.layers import _batches
from tenugui.core.process import process_of
from tenugui.core.process.filament import BLEMISH_AT_QUARTER
from tenugui.core.risk import ledger
from tenugui.core.worth import Gift, Rates, priced
from tests.presets import HERON, KESTREL, RESIN
from tests.shapes import box, cup


@pytest.mark.parametrize(("part_of_nozzle", "times"), [(8, 4.0), (4, 1.0), (2, 0.25), (0.5, 1 / 16)])
def test_blemishes_fall_with_the_square_of_the_layer_as_far_as_a_whole_nozzle(
    part_of_nozzle: float, times: float
) -> None:
    height = KESTREL.nozzle_mm / part_of_nozzle  # type: ignore[union-attr]
    assert process_of(KESTREL).blemishes(height) == pytest.approx(times * BLEMISH_AT_QUARTER)
    assert process_of(HERON).blemishes(height) == 0.0


@pytest.mark.parametrize(("force", "low", "high"), [(5.0, 0.05, 0.11), (10.0, 0.47, 0.53), (20.0, 0.89, 0.95)])
def test_a_cup_breaks_every_second_print_at_ten_newtons(force: float, low: float, high: float) -> None:
    """Suction times the area that the rim closes, at 20 kPa: 500 mm² suck with 10 N."""
    inner = math.sqrt(force / (HERON.suction_kpa * 1e-3) / math.pi)  # type: ignore[union-attr]
    upside_down = cup(inner=inner, wall=1.5, floor=1.0, height=8.0)
    figure = Mesh(upside_down.vertices * (1, 1, -1), upside_down.faces[:, ::-1]).dropped()
    context = Context.of(HERON, RESIN, 0.1)
    (found,) = [h for h in ledger(prove(figure, 0.1, context.reach), context) if h.code == "sealed"]
    assert found.needs == pytest.approx(force, rel=0.02) and low <= found.chance <= high


@pytest.mark.parametrize(("beyond", "loss"), [(3.8, "scar"), (6.0, "part lost")])
def test_a_ledge_is_lost_from_four_times_what_half_of_all_survive(beyond: float, loss: str) -> None:
    """A shelf of 10 mm out of a column, as far beyond the reach: by hand 10 times that, where 12 mm² survive every
    second time.
    """
    context = Context.of(HERON, RESIN, 0.1)
    far = context.reach + beyond
    shelf = Mesh.joined([box((0, 0, 5), (10, 10, 10)), box((far / 2, 0, 10.5), (10 + far, 10, 1))])
    (found,) = [h for h in ledger(prove(shelf, 0.1, context.reach), context) if h.code == "overhang"]
    assert found.needs == pytest.approx(10 * beyond, rel=0.05) and found.loss == loss


def test_plates_are_filled_evenly_with_what_stands_beside_each_other() -> None:
    """Two by two of 100 mm squares fit; five are a plate of three and one of two, and each plate takes its own time."""
    printer = KESTREL.model_copy(update={"build_mm": (236.0, 228.0, 250.0)})
    seconds = (100.0, 190.0, 270.0, 400.0, 800.0, 1600.0)
    held: Any = SimpleNamespace(printer=printer)
    row: Any = SimpleNamespace(footprint_mm=(100.0, 100.0), several_s=seconds)
    found = {b.count: (b.plates, b.time_s) for b in _batches(held, row)}
    four = 270.0 + (400.0 - 270.0) / 2
    assert found[1] == (1, 100.0) and found[3] == (1, 270.0)
    assert found[5] == (2, 270.0 + 190.0)
    assert found[10][0] == 3 and found[10][1] == pytest.approx(four + 2 * 270.0)
    long: Any = SimpleNamespace(footprint_mm=(20.0, 230.0), several_s=seconds)
    assert {b.count: b.plates for b in _batches(held, long)}[10] == 1, "ten lie beside each other once turned"
    half: Any = SimpleNamespace(footprint_mm=(118.0, 150.0), several_s=seconds)
    assert {b.count: b.plates for b in _batches(held, half)}[2] == 2, "two halves of a plate leave no room between"


@pytest.mark.parametrize(("cavities", "chance"), [(0, 0.0), (1, LEAKS), (3, 1 - (1 - LEAKS) ** 3)])
def test_each_cavity_may_leak(cavities: int, chance: float) -> None:
    made: Any = SimpleNamespace(cavities=[None] * cavities)
    assert _leaks(made) == pytest.approx(chance) and _leaks(None) == 0.0


def test_minutes_of_a_hollow_are_its_holes_its_flushing_and_its_dripping() -> None:
    made: Any = SimpleNamespace(cavities=[None, None])
    by_hand = 3 * HOLE_MIN + 2 * FLUSH_MIN + DRIP_SHARE * 2.0
    assert _hollow_min(made, 3, 120.0, struts=False) == pytest.approx(by_hand)
    assert _hollow_min(made, 3, 120.0, struts=True) == pytest.approx(by_hand + 2 * STRUTS_MIN)
    slow = 3 * HOLE_MIN + 2 * FLUSH_MIN + DRIP_SHARE * SLOW_DRAIN_S / 60
    assert _hollow_min(made, 3, None, struts=False) == _hollow_min(made, 3, 1e6, struts=False) == pytest.approx(slow)
    assert _hollow_min(None, 3, 120.0, struts=True) == 0.0


def test_what_is_not_known_of_a_worth_is_half_of_its_hands_and_half_of_its_loss() -> None:
    """The two err apart, so their squares add."""
    w = priced(Gift(30, 2, 1.0, 0.4), Rates(0.2, 0.5, 1.0))
    by_hand = math.hypot(0.5 * 6.0, 0.5 * w.loss)
    assert w.hands == pytest.approx(6.0) and w.loss > 0
    assert w.unsure == pytest.approx(by_hand) and w.unsure < 0.5 * (w.hands + w.loss)
