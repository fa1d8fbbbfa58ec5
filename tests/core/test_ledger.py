"""What the ledger says of ledges, thin parts, holes and the build space, by hand; and what the accepted risk buys."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.hazards import CAP, Hazard, chance, combined, kinds
from tenugui.core.layers import prove
from tenugui.core.machines import Context, Material, Printer, thin_limits
from tenugui.core.mesh import Mesh, ThinPlace
from tenugui.core.repair import make_ready
from tenugui.core.risk import MISHAP_CHANCE, PART_MM, ledger
from tenugui.core.risk.ledges import LEAST_MM2, SHEET_MM
from tenugui.core.supports import make_supports
from tenugui.core.supports.touch import bare_below
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import ball, box, cup, cylinder

RESIN_05 = Context.of(HERON, RESIN, 0.05)
FILAMENT_2 = Context.of(KESTREL, FILAMENT, 0.2)


def told(mesh: Mesh, context: Context = RESIN_05, code: str | None = None, **more) -> list[Hazard]:  # type: ignore[no-untyped-def]
    found = ledger(prove(mesh, context.height, context.reach), context, **more)
    return [h for h in found if code in (None, h.code)]


def shelf(reach: float, thick: float = 1.0) -> Mesh:
    """A post of 6 by 10 mm with a shelf that reaches out of it to one side at 10 mm."""
    return Mesh.joined([box((0, 0, 10), (6, 10, 20)), box((3 + reach / 2, 0, 10), (reach + 0.02, 10, thick))])


@pytest.mark.parametrize("context", [RESIN_05, FILAMENT_2], ids=["resin", "filament"])
@pytest.mark.parametrize("reach", [2.0, 5.0, 9.0])
def test_a_shelf_hangs_over_by_what_lies_beyond_the_step(context: Context, reach: float) -> None:
    (one,) = told(shelf(reach), context, "overhang")
    assert one.needs == pytest.approx((reach - context.reach) * 10, rel=0.06)
    assert "nothing under them" in one.message
    assert one.place[2] == pytest.approx(9.5, abs=2 * context.height)


def test_a_shelf_that_clings_is_the_grain_of_the_scan_lines() -> None:
    assert told(shelf(RESIN_05.reach * 0.9), code="overhang") == []


def test_what_hangs_on_tips_counts_no_more_than_what_they_leave() -> None:
    bare = told(shelf(9), code="overhang")[0]
    made = make_supports(shelf(9), RESIN_05)
    held = ledger(made.after, RESIN_05, tips=made.tips, own=made.before)
    assert not [h for h in held if h.code == "overhang"] and made.tips
    assert bare.chance > 0.9 and combined(held) < 0.1


def test_the_same_area_up_a_flank_is_not_one_sheet() -> None:
    """Ten steps of a tenth each against one of the whole, all on one post."""
    steps = [box((3 + 0.45, 0, 1.5 + 2.0 * k), (0.92, 10, 0.6)) for k in range(10)]
    flank = Mesh.joined([box((0, 0, 10), (6, 10, 20)), *steps])
    lost = [h for h in told(flank, code="overhang") if h.loss == "part lost"]
    whole = [h for h in told(shelf(9), code="overhang") if h.loss == "part lost"]
    assert whole and not lost
    worst = max(h.needs for h in told(flank, code="overhang"))
    assert worst <= (0.9 - RESIN_05.reach) * 10 * (1 + SHEET_MM / 2.0) + 1.0


def test_what_sags_onto_the_plate_is_none() -> None:
    low = Mesh.joined([box((0, 0, 5), (6, 10, 10)), box((6, 0, 0.45), (6.02, 10, 0.5))])
    assert told(low, FILAMENT_2, "overhang") == []


def place(kind: str, thickness: float, extent: float, width: float) -> ThinPlace:
    return ThinPlace(0.0, 0.0, 12.0, thickness, extent, width, kind)


def one_thin(kind: str, thickness: float, extent: float, width: float, tall: float = 40.0) -> Hazard:
    (found,) = told(box((0, 0, tall / 2), (10, 10, tall)), thin=[place(kind, thickness, extent, width)], code="thin")
    return found


def test_a_long_thin_rod_is_a_part_and_a_short_one_a_chip() -> None:
    limit = thin_limits(HERON)["rod"]
    long, short = one_thin("rod", limit / 2, 12.0, 0.2), one_thin("rod", limit / 2, PART_MM * 0.9, 0.2)
    assert long.loss == "part lost" and short.loss == "scar" and short.severity == "notice"
    assert long.has == limit / 2 and long.needs == limit


def test_a_sheet_is_a_part_only_where_it_is_thin_far_in_from_its_edge() -> None:
    limit = thin_limits(HERON)["sheet"]
    assert one_thin("sheet", limit / 2, 30.0, 1.0).loss == "scar"
    assert one_thin("sheet", limit / 2, 30.0, 9.0).loss == "part lost"


def test_on_a_large_figure_a_part_must_be_larger_to_be_one() -> None:
    limit = thin_limits(HERON)["rod"]
    assert one_thin("rod", limit / 2, 5.0, 0.2, tall=40).loss == "part lost"
    assert one_thin("rod", limit / 2, 5.0, 0.2, tall=120).loss == "scar"


def test_a_part_is_one_in_whatever_pose() -> None:
    limit = thin_limits(HERON)["rod"]
    for lies in ((10.0, 10.0, 120.0), (120.0, 10.0, 10.0), (10.0, 120.0, 10.0)):
        figure = box((0, 0, lies[2] / 2), lies)
        (one,) = told(figure, thin=[place("rod", limit / 2, 5.0, 0.2)], code="thin", figure=figure)
        assert one.loss == "scar", lies


def test_edges_are_told_once_and_cost_nothing() -> None:
    """What thins out comes out rounded, and nothing breaks off with it."""
    edges = [ThinPlace(0, 0, z, 0.05, 4.0 + z, 0.5, "edge") for z in (1.0, 2.0, 3.0)]
    tower = box((0, 0, 20), (8, 8, 40))
    (one,) = told(tower, code="thin", thin=edges)
    assert one.message.startswith("3 edges are sharper than") and one.place[2] == 3.0
    assert one.chance == 0.0 and one.loss == "scar" and one.layer == int(3.0 / 0.05)
    both = told(tower, code="thin", thin=[*edges, ThinPlace(0, 0, 9.0, 0.2, 12.0, 0.2, "rod")])
    assert sorted(h.loss for h in both) == ["part lost", "scar"]
    assert combined(both) == pytest.approx(
        combined(told(tower, code="thin", thin=[ThinPlace(0, 0, 9.0, 0.2, 12.0, 0.2, "rod")]))
    )


@given(st.floats(0.06, 0.39), st.floats(0.06, 0.39))
def test_a_thinner_part_breaks_no_less_often(a: float, b: float) -> None:
    thin, thick = sorted((a, b))
    needs = thin_limits(HERON)["rod"]
    assert chance(2 * thin / needs) >= chance(2 * thick / needs) - 1e-12


def test_remedies_are_of_a_size_that_somebody_would_print() -> None:
    limit = thin_limits(HERON)["rod"]
    assert "1.25 times as large" in one_thin("rod", limit / 1.25, 12.0, 0.2).remedy
    assert "No size that you would print" in one_thin("rod", limit / 4, 12.0, 0.2).remedy


def test_a_figure_past_the_build_space_is_told_with_both_sizes() -> None:
    (out,) = told(box((0, 0, 5), (230, 20, 10)), Context.of(HERON, RESIN, 0.5), "outside-build")
    assert "230.0 x" in out.message and "207.36 x 116.64 x 240" in out.message and out.chance == CAP
    assert not told(box((0, 0, 5), (200, 20, 10)), Context.of(HERON, RESIN, 0.5), "outside-build")
    low = KESTREL.model_copy(update={"build_mm": (236.0, 228.0, 10.5)})
    tall = box((0, 0, 5), (20, 20, 10))
    assert not told(tall, Context.of(low, FILAMENT, 0.2), "outside-build")
    (out,) = told(tall, Context.of(low.model_copy(update={"raft_layers": 3}), FILAMENT, 0.2), "outside-build")
    assert "10.7 mm with the raft" in out.message


def test_a_hole_in_the_surface_is_told_by_its_share_of_scan_lines() -> None:
    whole = box((0, 0, 5), (10, 10, 10))
    normal, _ = whole.normals_and_areas()
    side = np.flatnonzero(normal[:, 0] > 0.9)[:1]
    torn = Mesh(whole.vertices, np.delete(whole.faces, side, axis=0))
    (hole,) = told(torn, code="open-surface")
    assert hole.loss == "print lost" and hole.needs == pytest.approx(0.5, abs=0.02) and hole.chance > 0.9


def test_a_plain_block_has_nothing_but_the_mishap() -> None:
    (only,) = told(box((0, 0, 5), (10, 10, 10)))
    assert only.code == "mishap" and only.chance == MISHAP_CHANCE
    assert combined([only]) == pytest.approx(MISHAP_CHANCE)


def test_every_hazard_told_has_its_code_and_its_cost() -> None:
    messy = Mesh.joined([shelf(9), ball(2, (0, 20, 30))])
    for context in (RESIN_05, FILAMENT_2):
        for h in told(messy, context):
            assert h.code in kinds() and h.loss in ("print lost", "part lost", "scar") and 0 <= h.chance <= CAP
            assert h.message and h.remedy


def test_the_costliest_comes_first() -> None:
    weight = {"print lost": 3.0, "part lost": 2.0, "scar": 0.3}
    found = told(Mesh.joined([shelf(9), ball(2, (0, 20, 30))]))
    costs = [h.chance * weight[h.loss] for h in found]
    assert costs == sorted(costs, reverse=True)


# What lies below a face of the surface.


def test_a_face_inside_another_shell_has_something_below_it() -> None:
    pair = Mesh.joined([box((0, 0, 5), (10, 10, 10)), box((0, 0, 11), (6, 6, 6))])
    proof = prove(pair, 0.05, RESIN_05.reach)
    inside, free = [0.0, 0.0, 8.0], [20.0, 0.0, 8.0]
    assert bare_below(proof, np.array([inside, free])).tolist() == [False, True]


@pytest.mark.parametrize("reach", [0.25, 1.0, 2.0])
def test_near_an_edge_the_next_layer_clings(reach: float) -> None:
    proof = prove(shelf(9), 0.05, RESIN_05.reach)
    away = np.array([0.3, 0.9, 1.9, 4.0, 8.0])
    points = np.stack([3 + away, np.zeros(5), np.full(5, 9.5)], axis=1)
    told_bare = bare_below(proof, points, reach)
    assert told_bare.tolist() == (away > reach).tolist()


# What the accepted risk buys.


@pytest.mark.parametrize("context", [RESIN_05, FILAMENT_2], ids=["resin", "filament"])
def test_a_smaller_accepted_risk_takes_more_to_cut_off_and_leaves_less_risk(context: Context) -> None:
    stone = Mesh(ball(9, fineness=4).vertices * [1.4, 1.0, 0.8], ball(9, fineness=4).faces).dropped()
    table = Mesh.joined([box((0, 0, 5), (5, 5, 10)), box((0, 0, 11), (24, 24, 2))])
    for figure in (stone, table):
        made = [make_supports(figure, context, risk=risk) for risk in (0.01, 0.05, 0.2)]
        tips = [len(m.tips) for m in made]
        section = [sum(t.diameter**2 for t in m.tips) for m in made]
        # But for a knock, against which a figure stands as wide as it happens to.
        ledgers = [ledger(m.after, context, tips=m.tips, own=m.before) for m in made]
        risks = [combined([h for h in held if h.code != "unstable"]) for held in ledgers]
        assert tips == sorted(tips, reverse=True) and section[0] > section[1] >= section[2]
        assert all(a <= b + 0.01 for a, b in itertools.pairwise(risks))


def test_a_crumb_below_an_open_foot_is_left_out_and_the_bust_keeps_its_height() -> None:
    """A bust whose foot was never closed stands over a stray crumb: the crumb is inside nothing, the bust loses
    nothing.
    """
    body = cylinder(8, 30)
    normal, _ = body.normals_and_areas()
    open_foot = Mesh(body.vertices, body.faces[~((normal[:, 2] < -0.9) & (body.middles()[:, 2] < 0.1))])
    crumb = ball(0.1, (0, 0, -2.0), fineness=1)
    ready = make_ready(Mesh.joined([open_foot, crumb]))
    assert ready.specks == 1
    assert ready.mesh.size[2] == pytest.approx(30.0, abs=0.3)
    volume = prove(ready.mesh.dropped(), 0.1, 0.1).areas.sum() * 0.1
    assert volume == pytest.approx(math.pi * 64 * 30, rel=0.03)


@settings(max_examples=20, deadline=None)
@given(st.floats(0.55, 0.95), st.floats(2.0, 12.0))
def test_a_ledge_is_never_told_smaller_than_least(share: float, reach: float) -> None:
    found = told(shelf(reach * share), code="overhang")
    assert all(h.needs >= LEAST_MM2 for h in found)


def test_what_hangs_closely_over_something_sags_onto_it_where_nothing_is_peeled() -> None:
    """The same flange of 20 x 20 mm, 0.6 mm over a plinth and 8 mm over the plate: only the second is lost, and on
    resin both hang.
    """

    def told(gap: float, printer: Printer, material: Material, height: float) -> Hazard:
        figure = Mesh.joined(
            [box((0, 0, 1), (24, 24, 2)), box((0, 0, 5), (4, 4, 10)), box((0, 0, 2 + gap + 2), (20, 20, 4))]
        )
        context = Context.of(printer, material, height)
        proof = prove(figure, height, context.reach, bridge=context.bridge)
        (found,) = (h for h in ledger(proof, context) if h.code == "overhang")
        return found

    close, high = (told(gap, KESTREL, FILAMENT, 0.2) for gap in (0.6, 8.0))
    assert (close.loss, high.loss) == ("scar", "part lost")
    assert "sag onto what lies within 1 mm" in close.message and "sag" not in high.message
    assert told(0.6, HERON, RESIN, 0.05).loss == "part lost"


def test_what_stands_on_a_plinth_scars_nothing_twice() -> None:
    """A table whose top hangs over the plinth that it stands on: the same supports, told as standing on the figure only
    where that is no plinth.
    """
    plinth = box((0, 0, 0.5), (90, 90, 1))
    figure = Mesh.joined([box((0, 0, 8), (4, 4, 14)), box((0, 0, 16), (26, 26, 2)), plinth])
    context = Context.of(KESTREL, FILAMENT, 0.2)
    bare, told = (make_supports(figure, context, risk=0.05, plinth=given) for given in (None, plinth))
    standing = [t for t in told.tips if t.on == "model"]
    assert len(standing) > 5 and not any(t.scars_twice for t in told.tips) and all(t.plinth for t in standing)
    assert [t.joints for t in bare.tips] == [t.joints for t in told.tips], "they stand where they stood"
    codes = [[h.code for h in ledger(s.after, context, tips=s.tips, own=s.before)] for s in (bare, told)]
    assert "stands-on-figure" in codes[0] and "stands-on-figure" not in codes[1]
    assert [f.code for f in told.findings] != [f.code for f in bare.findings]


# Slopes: tips hold as far as they were set apart for.


def slab(degrees: float) -> Mesh:
    """A plate of 24 by 16 by 3 mm of twelve triangles, turned up about its edge."""
    flat, a = box((0, 0, 1.5), (24, 16, 3)), math.radians(degrees)
    turn = np.array([[math.cos(a), 0, -math.sin(a)], [0, 1, 0], [math.sin(a), 0, math.cos(a)]])
    return Mesh(flat.vertices @ turn.T, flat.faces).dropped()


@pytest.mark.parametrize("context", [RESIN_05, FILAMENT_2], ids=["resin", "filament"])
@pytest.mark.parametrize("degrees", [5.0, 15.0, 35.0])
def test_a_slope_held_by_all_means_leaves_nothing_beyond_its_tips(context: Context, degrees: float) -> None:
    """Each tip holds as far as its own slope lets it, layers above it too; one that is bridged parts nothing in two."""
    made = make_supports(slab(degrees), context, risk=0.01)
    held = ledger(made.after, context, tips=made.tips, own=made.before, figure=made.figure)
    left = [h.needs for h in held if h.code == "overhang"]
    assert sum(left) < 0.01 * 24 * 16 and len(made.tips) > 4


def test_a_large_triangle_that_begins_on_the_plate_is_held_where_it_is_high() -> None:
    made = make_supports(slab(5.0), FILAMENT_2, risk=0.01)
    under = [t for t in made.tips if t.z > 1.2]
    for sign in (-1, 1):
        assert sum(sign * t.y > 3 for t in under) >= 6, "on both triangles of its underside"


def test_a_ledge_is_told_where_it_hangs_over() -> None:
    (one,) = told(shelf(9), FILAMENT_2, "overhang")
    assert one.place[0] > 3.5 and abs(one.place[1]) < 5, "out on the shelf, not in the post"


def test_a_cup_is_told_where_it_is_widest_and_what_is_too_tall_at_its_last_layer() -> None:
    """A cup upside down on the plate, 16 mm wide inside and 8 deep; and a post taller than its machine."""
    up = cup(8.0, 2.0, 2.0, 8.0)
    bell = Mesh(up.vertices * [1, 1, -1], up.faces[:, ::-1].copy()).dropped()
    (sucks,) = told(bell, code="sealed")
    assert 0 <= sucks.layer * 0.05 < 8.0 and sucks.place[2] == pytest.approx(sucks.layer * 0.05)
    kpa = HERON.suction_kpa  # type: ignore[union-attr]
    assert sucks.needs == pytest.approx(kpa * math.pi * 64 * 1e-3, rel=0.03)
    assert f"{sucks.needs:.2f} N" in sucks.message and "from 0.00 to 8.0" in sucks.message
    post = box((0, 0, 125), (4, 4, 250))
    (outside,) = told(post, Context.of(HERON, RESIN, 0.1), code="outside-build")
    assert outside.layer == 2499 and outside.needs == pytest.approx((250 + HERON.raft_mm(0.1)) / 240, rel=1e-3)


def test_a_ledge_says_between_which_layers_it_hangs_and_how_much_of_it() -> None:
    figure = shelf(9.0)
    (ledge,) = told(figure, FILAMENT_2, code="overhang")
    assert "between 9.40 and 9.60 mm with nothing under them" in ledge.message or "between 9.60" in ledge.message
    assert float(ledge.message.split(" mm²")[0]) == pytest.approx(90, rel=0.12)
