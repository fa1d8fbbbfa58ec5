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
from tenugui.core.process.sway import standing, toppling, worst_sways
from tenugui.core.supports import FOOT_MPA, Tip
from tests.given import figure_given
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import box, cone, cylinder

H = 0.2
LINE = 0.42


def top_sway(mesh: Mesh) -> float:
    parts = prove(mesh, H, 0.21).components
    return float(standing(parts, H, STIFF_MPA, line=LINE).per_n[parts.layer == parts.layer.max()].max())


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


def test_what_is_thinner_than_a_line_is_drawn_a_line_wide() -> None:
    sliver = Mesh.joined([box((0, 0, 5), (20, 20, 10)), cylinder(0.06, 8, (0, 0, 10))])
    drawn = Mesh.joined([box((0, 0, 5), (20, 20, 10)), cylinder(LINE / 2, 8, (0, 0, 10))])
    assert top_sway(sliver) == pytest.approx(top_sway(drawn), rel=0.1)
    parts = prove(sliver, H, 0.21).components
    (told,) = worst_sways(parts, 1.0, standing(parts, H, STIFF_MPA, line=LINE), 0.05)
    assert told.width == pytest.approx(LINE)


def test_where_two_join_the_stiffer_one_carries_and_a_sheet_bends_its_thin_way() -> None:
    thin, thick = cylinder(1.0, 30, (-6, 0, 0)), cylinder(3.0, 30, (6, 0, 0))
    joined = Mesh.joined([thin, thick, box((0, 0, 31), (18, 7, 2))])
    parts = prove(joined, H, 0.21).components
    far = standing(parts, H, STIFF_MPA, line=LINE).per_n
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
    found = worst_sways(parts, DRAG_N, standing(parts, H, STIFF_MPA, line=LINE), 0.05)
    assert [round(s.x) for s in found] == [0, 10, -10] and np.all(np.diff([s.mm for s in found]) <= 0)


def test_what_starts_in_mid_air_is_told_only_once_it_stands() -> None:
    """A slanting spike that comes down from a block: its point is as thin as may be, and its supports hold it."""
    block = box((0, 0, 15), (10, 10, 30))
    spike = cone(4, 12)
    hanging = Mesh(spike.vertices * [1, -1, -1] + [9, 0, 24], spike.faces)
    joined = Mesh.joined([block, hanging, box((7, 0, 25), (12, 8, 4))])
    parts = prove(joined, H, 0.21).components
    far = standing(parts, H, STIFF_MPA, line=LINE).per_n
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


@settings(max_examples=8, deadline=None)
@given(st.floats(0.6, 2.0), st.floats(5.0, 60.0))
def test_a_rod_topples_where_the_drag_at_its_top_is_more_than_its_foot_holds(radius: float, tall: float) -> None:
    """Off a foot of its own it would take d³ π / 32 times the adhesion to break it."""
    parts = prove(cylinder(radius, tall), H, 0.21).components
    holds = FOOT_MPA * math.pi * (2 * radius) ** 3 / 32
    force = 1.5 * holds / tall
    at = standing(parts, H, STIFF_MPA, force, line=LINE)
    assert at.holds.max() == pytest.approx(holds, rel=0.12)
    fallen = at.topples >= 0
    assert parts.layer[fallen].min() * H == pytest.approx(tall / 1.5, rel=0.15)
    half = standing(parts, H, STIFF_MPA, force / 2, line=LINE)
    assert (at.per_n[fallen] == 0).all() and not (half.topples >= 0).any()
    brimmed = standing(parts, H, STIFF_MPA, force, line=LINE, brim=radius / 2)
    assert brimmed.holds[-1] == pytest.approx(holds * 1.5**3, rel=0.12) and not (brimmed.topples >= 0).any()


def test_what_parts_and_meets_again_stands_on_one_foot_and_two_feet_hold_together() -> None:
    ring = Mesh.joined([cylinder(1, 10), *(box((x, 0, 15), (2, 2, 12)) for x in (-3, 3)), box((0, 0, 9), (8, 2, 2)),
                        box((0, 0, 21), (8, 2, 2))])  # fmt: skip
    one = standing(prove(ring, H, 0.21).components, H, STIFF_MPA, line=LINE).holds[-1]
    assert one == pytest.approx(FOOT_MPA * math.pi * 2**3 / 32, rel=0.12)
    two = Mesh.joined([cylinder(1, 10, (-3, 0, 0)), cylinder(1, 10, (3, 0, 0)), box((0, 0, 9), (8, 2, 2))])
    assert standing(prove(two, H, 0.21).components, H, STIFF_MPA, line=LINE).holds[-1] == pytest.approx(
        2 * one, rel=0.05
    )


def test_a_strand_that_starts_on_its_point_is_lost_and_not_the_print_and_two_supports_keep_it() -> None:
    """It sways by metres as the cantilever's law has it: a point is no root."""
    body = box((0, 0, 20), (12, 12, 40))
    spike = cone(2, 24)
    strand = Mesh(spike.vertices * [1, -1, -1] + [12, 0, 24], spike.faces)
    figure = Mesh.joined([body, strand, cylinder(0.15, 3, (12, 0, 0)), box((8, 0, 25), (14, 4, 4))])
    context = Context.of(KESTREL, FILAMENT, H)
    proof = prove(figure, H, context.reach)
    assert found_by(Sight(proof, context, proof), "sway") == []
    (lost,) = found_by(Sight(proof, context, proof), "topples")
    assert lost.loss == "part lost" and lost.has < lost.needs and abs(lost.place[0] - 12) < 1
    assert lost.needs == pytest.approx(DRAG_N * 23, rel=0.03), "up to where it joins the body"
    tips = [Tip(12 + side, 0.0, 12.0, 0.4, (1.0,), "island", "plate", ((12 + side, 0, 0), (12 + side, 0, 12)))
            for side in (-0.9, 0.9)]  # fmt: skip
    assert found_by(Sight(proof, context, proof, tips=tips), "topples") == []
    assert len(found_by(Sight(proof, context, proof, tips=tips[:1]), "topples")) == 1


def test_what_joins_within_relief_is_no_part_that_topples() -> None:
    """A wart of the underside touches the plate beside the foot, and is one with it two layers up."""
    wart, over = cylinder(0.08, 0.9, (8, 0, 0)), box((8, 0, 10.35), (6, 4, 19.3))
    figure = Mesh.joined([box((0, 0, 10), (12, 12, 20)), wart, over])
    context = Context.of(KESTREL, FILAMENT, H)
    proof = prove(figure, H, context.reach)
    how = standing(proof.components, H, STIFF_MPA, DRAG_N, line=LINE)
    assert len(toppling(proof.components, H, DRAG_N, how)) == 1, "it would"
    assert found_by(Sight(proof, context, proof), "topples") == []
