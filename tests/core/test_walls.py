"""Walls of filament: gaps of slopes, roofs and necks, by hand."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tenugui.core.contract import PoseChoice, WallsBoard
from tenugui.core.layers import prove
from tenugui.core.mesh import Mesh
from tenugui.core.paths import Walls, cure, necks_of, slopes, solid_share, weakest
from tenugui.core.paths.walls import BOND_MPA, lean_of, open_lean
from tenugui.core.plan import MemoryShelf, PlanBase, computed, read_folds, sized, spec_of
from tenugui.core.plan.given import WallsGiven
from tenugui.core.plan.walls import roof_opens
from tests.core.test_hollow_fold import inputs
from tests.given import posed_given
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import ball, box, cone, cylinder

LINE, HEIGHT = 0.4, 0.2
WALLS = Walls(2, 0.8, 0.2)


def roof_of(degrees: float) -> Mesh:
    """A cone whose flank rises so many degrees above the horizontal; 20 mm across."""
    return cone(10, 10 * math.tan(math.radians(degrees)))


@pytest.mark.parametrize(("step", "open_"), [(0.79, False), (0.81, True), (1.19, True), (1.21, False)])
def test_a_slope_opens_where_its_step_is_past_the_perimeters_by_less_than_a_line(step: float, open_: bool) -> None:
    slope = roof_of(math.degrees(math.atan(HEIGHT / step)))
    flank = math.pi * 10 * math.hypot(10, 10 * HEIGHT / step)
    found = slopes(slope, None, WALLS, LINE, HEIGHT)
    assert found.open_mm2 == pytest.approx(flank if open_ else 0.0, rel=0.01)
    closed_by_roofs = step > 1.2
    assert found.roofed_mm2 == pytest.approx(flank if closed_by_roofs else 0.0, rel=0.01)


def test_more_perimeters_cure_it_and_solid_is_never_open() -> None:
    slope = roof_of(math.degrees(math.atan(HEIGHT / 1.0)))
    assert cure(slope, None, WALLS, LINE, HEIGHT) == 3
    assert slopes(slope, None, Walls(2, 0.8, 1.0), LINE, HEIGHT).open_mm2 == 0
    assert slopes(slope, None, Walls(2, 0.0, 0.2), LINE, HEIGHT).roofed_mm2 == 0, "without roofs nothing closes it"
    assert open_lean(Walls(2, 0.0, 0.2), LINE, HEIGHT) == (lean_of(0.8, HEIGHT), 1.0)


@given(st.integers(1, 7), st.floats(0.05, 0.3))
def test_the_open_band_moves_to_flatter_slopes_with_every_perimeter(n: int, height: float) -> None:
    low, high = open_lean(Walls(n, 0.8, 0.2), LINE, height)
    lower, higher = open_lean(Walls(n + 1, 0.8, 0.2), LINE, height)
    assert low < high == pytest.approx(lower) and lower < higher < 1


def test_marks_weigh_what_is_open() -> None:
    slope = roof_of(math.degrees(math.atan(HEIGHT / 1.0)))
    plain = slopes(slope, np.full(len(slope.faces), 3.0), WALLS, LINE, HEIGHT)
    assert plain.open_weighed == pytest.approx(3 * plain.open_mm2)


def test_a_tube_bears_what_its_wall_leaves_of_a_round_section() -> None:
    share = solid_share(np.array([10.0]), Walls(2, 0.8, 0.2), 0.5)
    assert share[0] == pytest.approx(1 - 0.8 * (8 / 10) ** 4)
    assert solid_share(np.array([10.0]), Walls(2, 0.8, 1.0), 0.5)[0] == 1


def test_the_weakest_neck_is_a_rod_under_its_load_by_the_beam() -> None:
    """A ball on a rod on a foot: the rod's lowest section bends most; F = σ π d³ / 32 over the height above it."""
    figure = Mesh.joined([cylinder(10, 3), cylinder(1, 24), Mesh(ball(4).vertices + [0, 0, 26], ball(4).faces)])
    found = weakest(necks_of(prove(figure, HEIGHT, 0.2)), WALLS, LINE)
    assert found is not None and found.z == pytest.approx(3, abs=0.4) and found.width_mm == pytest.approx(2, rel=0.03)
    by_hand = BOND_MPA * math.pi * 2**3 / 32 / 27
    assert found.bears_n == pytest.approx(by_hand, rel=0.08)
    assert found.bears_n == pytest.approx(found.solid_n * (1 - 0.8 * 0.2**4), rel=0.01)


def test_the_underside_of_what_hangs_is_no_neck() -> None:
    drop = Mesh.joined([box((0, 0, 20), (4, 4, 40)), box((8, 0, 32), (18, 4, 16)), cone(1.5, 6)])
    tip = Mesh(cone(1.5, 6).vertices * [1, 1, -1] + [14, 0, 24], cone(1.5, 6).faces[:, ::-1])
    proof = prove(Mesh.joined([drop, tip]), HEIGHT, 0.2)
    rows = necks_of(proof)
    assert not ((np.abs(rows[:, 0] - 14) < 1.4) & (rows[:, 2] < 24)).any()
    assert weakest(np.empty((0, 6)), WALLS, LINE) is None


def test_a_roof_over_wide_infill_sags_and_more_layers_hold_it() -> None:
    chances = [roof_opens(Walls(2, roof, 0.2), LINE, HEIGHT) for roof in (0.0, 0.4, 0.8, 1.6)]
    assert chances == sorted(chances, reverse=True) and chances[0] > 0.9 and chances[-1] < 0.1
    assert roof_opens(Walls(2, 0.4, 0.14), LINE, HEIGHT) == pytest.approx(0.5), "two layers over 2.9 mm between lines"
    assert roof_opens(Walls(2, 0.4, 0.1), LINE, HEIGHT) > roof_opens(Walls(2, 0.4, 0.2), LINE, HEIGHT)


def board(mesh: Mesh, **more: object) -> WallsBoard:
    shelf = MemoryShelf()
    given_ = posed_given(shelf, mesh, KESTREL, FILAMENT).to(WallsGiven, **more)
    return computed(shelf, "walls", given_, WallsBoard)


def test_the_board_offers_the_cure_where_slopes_open_and_not_where_none_do() -> None:
    plain = board(box((0, 0, 10), (20, 20, 20)))
    assert plain.cures is None and plain.recommended == 0 and all(r.open_mm2 == 0 for r in plain.choices)
    height = plain.layer_height_mm
    flat = board(roof_of(math.degrees(math.atan(height / (3.5 * KESTREL.line_mm)))))  # type: ignore[union-attr]
    cured = next(r for r in flat.choices if r.name == "Closes its slopes")
    assert flat.cures == cured.perimeters == 4 and cured.open_mm2 == 0
    assert flat.choices[0].open_mm2 > 300 and flat.recommended != 0
    by_name = {r.name: r for r in plain.choices}
    assert by_name["Lean"].mass_g < by_name["As the machine is set"].mass_g < by_name["Solid"].mass_g


def test_each_row_tells_the_part_that_breaks_first_with_its_own_walls() -> None:
    """Two posts, of 6 mm and 40 tall, of 8 mm and 88 tall: solid the first is the weaker by 7 %, with thin walls the
    second by as much.
    """
    posts = Mesh.joined([box((0, 0, 1), (40, 20, 2)), cylinder(3, 42, (-10, 0, 0)), cylinder(4, 90, (10, 0, 0))])
    rows = {r.name: r for r in board(posts).choices}
    lean, solid = rows["Lean"], rows["Solid"]
    assert lean.weakest is not None and lean.weakest.width_mm == pytest.approx(8, rel=0.03)
    assert solid.weakest is not None and solid.weakest.width_mm == pytest.approx(6, rel=0.03)
    for row, wide, tall in ((lean, 8, 88), (solid, 6, 40)):
        share = 1 - (1 - row.infill) * max(0.0, 1 - 2 * row.perimeters * KESTREL.line_mm / wide) ** 4  # type: ignore[union-attr]
        assert row.bears_n == pytest.approx(BOND_MPA * math.pi * wide**3 / 32 / tall * share, rel=0.06)
        assert row.of_solid == pytest.approx(share, rel=0.03)


def test_ones_own_walls_are_a_row_and_what_is_taken_sets_the_machine() -> None:
    own = {"perimeters": 5, "roof_mm": 1.2, "infill": 0.4}
    found = board(box((0, 0, 10), (20, 20, 20)), own=own)
    mine = next(i for i, r in enumerate(found.choices) if r.own)
    spec = spec_of("walls")
    assert spec is not None and spec.take is not None
    choice = spec.take(found, mine).choice
    assert choice.model_dump(include=set(own)) == own
    base = PlanBase("s", "s", {1: KESTREL.model_dump(mode="json")}, {1: {}})
    size = sized(base, factor=1.0, height_mm=20.0, printer_id=1, material_id=1)
    choices = {"size": size, "pose": PoseChoice(down=(0, 0, -1)), "walls": choice}
    assert {k: inputs("supports", base, choices).printer[k] for k in own} == own
    bare = inputs("supports", base, {k: v for k, v in choices.items() if k != "walls"})
    assert bare.printer == base.printers[1]


def test_walls_are_asked_of_filament_alone_and_may_stay_open() -> None:
    base = PlanBase(
        "s",
        "s",
        {1: KESTREL.model_dump(mode="json"), 2: HERON.model_dump(mode="json")},
        {1: FILAMENT.model_dump(mode="json"), 2: RESIN.model_dump(mode="json")},
    )

    def names(machine: int, process: str) -> list[str]:
        size = sized(base, factor=1.0, height_mm=20.0, printer_id=machine, material_id=machine)
        assert size.process == process
        return [f.name for f in read_folds([("size", size.model_dump(mode="json"), None)], base)]

    assert "walls" in names(1, "filament") and "hollow" not in names(1, "filament")
    assert "walls" not in names(2, "resin") and "hollow" in names(2, "resin")
