"""What sways under the nozzle: the cantilever's own formula, chains that join, and what is told of a figure."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.contract import PoseBoard
from tenugui.core.hazards import Sight, found_by
from tenugui.core.layers import prove
from tenugui.core.machines import NOZZLE_DRAG_N as DRAG_N
from tenugui.core.machines import PLASTIC_MPA as STIFF_MPA
from tenugui.core.machines import Context
from tenugui.core.mesh import Mesh
from tenugui.core.plan import MemoryShelf, computed
from tenugui.core.plan.given import PoseGiven
from tenugui.core.process.sway import sways, worst_sways
from tests.given import figure_given
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import box, cone, cylinder

H = 0.2


def top_sway(mesh: Mesh) -> float:
    parts = prove(mesh, H, 0.21).components
    return float(sways(parts, H, STIFF_MPA)[parts.layer == parts.layer.max()].max())


@settings(max_examples=8, deadline=None)
@given(st.floats(1.0, 4.0), st.floats(10.0, 60.0))
def test_a_rod_sways_as_a_cantilever_does(radius: float, tall: float) -> None:
    law = tall**3 / (3 * STIFF_MPA * math.pi / 4 * radius**4)
    assert top_sway(cylinder(radius, tall)) == pytest.approx(law, rel=0.12)


def test_twice_as_tall_sways_eight_times_and_a_broad_foot_hardly_matters() -> None:
    one, two = top_sway(cylinder(1.5, 20)), top_sway(cylinder(1.5, 40))
    assert two / one == pytest.approx(8, rel=0.05)
    footed = Mesh.joined([box((0, 0, 5), (20, 20, 10)), cylinder(1.5, 30, (0, 0, 10))])
    assert top_sway(footed) == pytest.approx(top_sway(cylinder(1.5, 30)), rel=0.15)


def test_where_two_join_the_stiffer_one_carries_and_a_sheet_bends_its_thin_way() -> None:
    thin, thick = cylinder(1.0, 30, (-6, 0, 0)), cylinder(3.0, 30, (6, 0, 0))
    joined = Mesh.joined([thin, thick, box((0, 0, 31), (18, 7, 2))])
    parts = prove(joined, H, 0.21).components
    far = sways(parts, H, STIFF_MPA)
    at = parts.layer == round(31 / H)
    assert far[at].max() < 1.6 * top_sway(cylinder(3.0, 31))
    before = parts.layer == round(29 / H)
    assert far[before].max() > 20 * far[before].min(), "each alone until they join"
    sheet = box((0, 0, 10), (20, 1, 20))
    assert top_sway(sheet) == pytest.approx(20**3 / (3 * STIFF_MPA * 20 / 16), rel=0.15)


def test_a_thin_staff_is_told_on_filament_and_a_stout_one_is_not() -> None:
    def told(mesh: Mesh, printer, material, height: float):  # type: ignore[no-untyped-def]
        context = Context.of(printer, material, height)
        proof = prove(mesh, height, context.reach)
        return found_by(Sight(proof, context, proof), "sway")

    staff = Mesh.joined([box((0, 0, 1), (20, 20, 2)), cylinder(0.9, 60, (0, 0, 2))])
    (threat,) = told(staff, KESTREL, FILAMENT, H)
    assert threat.loss == "scar" and threat.needs > threat.has and threat.place[2] > 55, "it comes out rough"
    (wire,) = told(Mesh.joined([box((0, 0, 1), (20, 20, 2)), cylinder(0.55, 60, (0, 0, 2))]), KESTREL, FILAMENT, H)
    assert wire.loss == "part lost" and wire.needs > 5 * threat.needs
    assert threat.needs == pytest.approx(DRAG_N * top_sway(staff), rel=0.05)
    assert told(cylinder(3, 60), KESTREL, FILAMENT, H) == [], "a stout rod stands"
    assert told(staff, HERON, RESIN, 0.05) == [], "nothing drags at what hangs in resin"


def test_of_places_close_together_the_worst_is_told() -> None:
    staffs = Mesh.joined(
        [box((0, 0, 1), (30, 8, 2)), *(cylinder(0.7, t, (x, 0, 2)) for x, t in ((-10, 30), (0, 40), (10, 35)))]
    )
    parts = prove(staffs, H, 0.21).components
    found = worst_sways(parts, H, STIFF_MPA, DRAG_N, 0.05)
    assert [round(s.x) for s in found] == [0, 10, -10] and np.all(np.diff([s.mm for s in found]) <= 0)


def test_what_starts_in_mid_air_is_told_only_once_it_stands() -> None:
    """A slanting spike that comes down from a block: its point is as thin as may be, and its supports hold it."""
    block = box((0, 0, 15), (10, 10, 30))
    spike = cone(4, 12)
    hanging = Mesh(spike.vertices * [1, -1, -1] + [9, 0, 24], spike.faces)
    joined = Mesh.joined([block, hanging, box((7, 0, 25), (12, 8, 4))])
    parts = prove(joined, H, 0.21).components
    far = sways(parts, H, STIFF_MPA)
    alone = (parts.centre[:, 0] > 6) & (parts.layer * H < 22)
    assert alone.sum() > 20 and (far[alone] == 0).all()
    top = far[parts.layer * H > 24]
    assert 0 < top.max() < 2 * top_sway(block)


def test_a_pose_says_which_part_would_be_lost_and_the_one_beside_it_why_it_is_not_the_usual_one() -> None:
    """A body with a staff of 0.6 mm and 45 mm: upright the nozzle sways it by millimetres."""
    staff = Mesh.joined([box((0, 0, 1.5), (20, 20, 3)), box((0, 0, 12), (9, 7, 20)), cylinder(0.3, 45, (8, 0, 2.5))])
    shelf = MemoryShelf()
    board = computed(shelf, "pose", figure_given(shelf, staff, KESTREL, FILAMENT).to(PoseGiven), PoseBoard)
    best, *others = board.candidates
    upright = next(row for row in board.candidates if row.pose.down[2] < -0.99)
    assert upright.numbers.risk > 0.5 and "sways it by" in upright.pose.why
    assert best is not upright and "As it is usually placed, at" in best.pose.why and "sways it by" in best.pose.why
    assert best.numbers.risk <= min(row.numbers.risk for row in others) + 0.3
