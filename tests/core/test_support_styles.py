"""Trees and blocks: the same points held, by other ways, and proved like pillars."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.layers import prove
from tenugui.core.machines import Context, free_reach, load_material, load_printer
from tenugui.core.mesh import Mesh, measure
from tenugui.core.plan.supports import cheapest
from tenugui.core.removal.hands import off_minutes
from tenugui.core.supports import STYLES, Brace, SupportSet, Tip, make_supports, manner_of, pieces
from tenugui.core.supports.around import Around
from tenugui.core.supports.minutes import HAIR_MIN, PEELS, PIECE_MIN
from tenugui.core.supports.place import _missed
from tenugui.core.supports.trees import grow, meeting_point
from tenugui.core.worth import Gift, Rates, Worth, priced
from tests.presets import bearing
from tests.shapes import ball, box, fork

HERON, KESTREL = load_printer("heron"), load_printer("kestrel")
TABLE = Mesh.joined([box((0, 0, 5), (6, 6, 10)), box((0, 0, 11), (24, 24, 2))])
FAR_AWAY = ball(1, (500, 500, 500))


def made(mesh: Mesh, printer, style: str) -> SupportSet:  # type: ignore[no-untyped-def]
    return make_supports(
        mesh, Context.of(printer, load_material(None, printer), 0.1 if printer is HERON else 0.2), style=style
    )


@pytest.mark.parametrize("printer", [HERON, KESTREL], ids=["resin", "filament"])
@pytest.mark.parametrize("style", STYLES)
def test_every_style_is_proved(printer, style: str) -> None:  # type: ignore[no-untyped-def]
    held = made(fork(), printer, style)
    assert len(held.before.islands) >= 2 and held.after.islands == []
    height = held.after.stack.grid.height
    again = prove(bearing(held), height, free_reach(printer, load_material(None, printer), height))
    assert again.islands == [], "the written mesh proves it too"


@pytest.mark.parametrize("style", STYLES)
def test_every_solid_is_closed_and_turned_outwards(style: str) -> None:
    mesh = made(TABLE, KESTREL, style).mesh
    assert mesh is not None
    read = measure(mesh)
    assert read.watertight and read.volume_mm3 > 0


def test_the_same_points_are_held_in_every_style() -> None:
    points = [{(t.x, t.y, t.z) for t in made(TABLE, KESTREL, style).tips} for style in STYLES]
    assert points[0] == points[1] == points[2]


def test_trees_stand_on_fewer_feet_than_they_have_tips() -> None:
    trees = made(TABLE, KESTREL, "trees")
    feet = [t for t in trees.tips if t.on == "plate" and not t.branch]
    assert len(feet) < 0.5 * len(trees.tips)


def test_a_branch_starts_on_a_trunk_that_stands_and_no_strut_leans_beyond_45_degrees() -> None:
    tips = made(TABLE, KESTREL, "trees").tips
    on_trunks = {joint for tip in tips for joint in tip.joints[1:]}
    for tip in tips:
        joints = np.array(tip.joints)
        if tip.branch:
            assert tip.joints[0] in on_trunks
        steps = np.diff(joints, axis=0)
        assert (steps[:, 2] >= np.hypot(steps[:, 0], steps[:, 1]) - 1e-6).all()
        assert len(tip.widths) == len(joints) - 1
        assert (np.diff(tip.widths) <= 1e-9).all(), "a trunk grows no thinner towards its foot"


def test_trees_keep_clear_of_the_figure() -> None:
    shaded = Mesh.joined([box((0, 0, 10), (4, 4, 20)), box((0, 0, 6), (16, 16, 2)), box((0, 0, 19), (20, 20, 2))])
    held = made(shaded, HERON, "trees")
    rays = Around.of(held.figure)
    for tip in (t for t in held.tips if t.on == "plate"):
        joints = np.array(tip.joints)
        for a, b in pairwise(joints[:-1]):
            way = b - a
            distance, _ = rays.first(a[None], way / np.linalg.norm(way))
            assert distance[0] >= np.linalg.norm(way) - 1e-6


def test_two_neighbours_meet_half_way_at_45_degrees() -> None:
    rays = Around.of(FAR_AWAY)
    tips = np.array([[0.0, 0, 30], [6.0, 0, 30]])
    one, other = grow(rays, tips, np.full(2, 0.4), 0.0)
    ends, trunk = (one, other) if one.branch else (other, one)
    assert ends.branch and not trunk.branch
    assert (
        ends.joints[0].tolist() == trunk.joints[1].tolist() == [3.0, 0.0, 25.0]
    )  # heads of 2 mm, then 3 mm aside and down
    assert trunk.joints[0].tolist() == [3.0, 0.0, 0.0]
    assert trunk.radii is not None and trunk.radii[0] == pytest.approx(0.4 * 2 ** (1 / 3))


def test_what_stands_far_apart_stands_alone() -> None:
    tips = np.array([[0.0, 0, 30], [60.0, 0, 30]])
    assert not any(way.branch for way in grow(Around.of(FAR_AWAY), tips, np.full(2, 0.4), 0.0))


def test_a_tip_over_closed_ground_joins_a_neighbour_and_need_not_stand_on_the_figure() -> None:
    # The ledge closes the ground under the first tip; a strut at 45° passes its edge to the second.
    ledge = box((0, 0, 5), (6, 60, 1))
    tips = np.array([[0.0, 0, 30], [10.0, 0, 30]])
    ways = grow(Around.of(ledge), tips, np.full(2, 0.4), 0.0)
    assert [way.on for way in ways] == ["plate", "plate"]
    assert sorted(way.branch for way in ways) == [False, True]


@settings(max_examples=60, deadline=None)
@given(st.tuples(*[st.floats(-30, 30)] * 2, st.floats(0, 60)), st.tuples(*[st.floats(-30, 30)] * 2, st.floats(0, 60)))
def test_a_meeting_point_is_reached_by_both_at_45_degrees_or_steeper(
    a: tuple[float, ...], b: tuple[float, ...]
) -> None:
    p, q = (np.array(a), np.array(b)) if a[2] >= b[2] else (np.array(b), np.array(a))
    m = meeting_point(p, q)
    for end in (p, q):
        assert end[2] - m[2] >= np.hypot(*(end - m)[:2]) - 1e-6


def test_blocks_are_columns_that_fuse_and_say_what_they_pull() -> None:
    filament = made(TABLE, KESTREL, "blocks")
    square = [t for t in filament.tips if t.square]
    assert len(filament.tips) > 20 and len(square) > 0.85 * len(filament.tips), "beside the post there is no room"
    # Halfway up, the fused block covers nearly the whole underside of the table beside its leg.
    middle = int(5 / 0.2)
    added = filament.after.areas[middle] - filament.before.areas[middle]
    assert 0.6 * (24**2 - 6**2) < added < 1.1 * (24**2 - 6**2)
    assert not any(f.code == "block-pulls" for f in filament.findings)
    assert any(f.code == "block-pulls" for f in made(TABLE, HERON, "blocks").findings)


def test_a_column_without_room_becomes_a_pillar() -> None:
    walled = Mesh.joined([TABLE, box((11, 0, 4), (1, 24, 8))])
    held = made(walled, KESTREL, "blocks")
    assert 0 < sum(t.square for t in held.tips) < len(held.tips)
    rays = Around.of(held.figure)
    for tip in (t for t in held.tips if t.square):
        half = tip.widths[0] / 2 / np.sqrt(2)
        for dx, dy in ((half, half), (-half, half), (half, -half), (-half, -half)):
            distance, _ = rays.first(np.array([[tip.x + dx, tip.y + dy, 0.01]]), np.array([0.0, 0.0, 1.0]))
            assert distance[0] >= tip.joints[1][2] - 0.02


def test_pillars_are_as_thick_as_their_length_asks() -> None:
    resin, filament = (manner_of(Context.of(p, load_material(None, p))) for p in (HERON, KESTREL))
    assert resin.pillar_mm(0.35, 60) == pytest.approx(60 / 48) and resin.pillar_mm(0.35, 5) == pytest.approx(0.7)
    assert filament.pillar_mm(0.42, 100) == pytest.approx(4.0)


def test_the_cheapest_row_is_taken_the_safest_of_those_as_cheap() -> None:
    def worths(*coins: float, risks: tuple[float, ...] = (0.0,) * 4) -> list[Worth]:
        return [
            replace(priced(Gift(c, 0.0, 0.0, 0.0), Rates(1.0, 1.0, 1.0)), risk=r)
            for c, r in zip(coins, risks, strict=True)
        ]

    assert cheapest(worths(9, 10, 8, 11)) == 2
    assert cheapest(worths(12, 10, 11, 9)) == 3, "trees"
    risks = (0.05, 0.15, 0.3, 0.15)
    assert cheapest(worths(8.65, 8.73, 9.6, 8.64, risks=risks)) == 0, (
        "a coin in a thousand is no price for ten points of risk"
    )
    assert cheapest(worths(9.6, 8.73, 9.6, 8.64, risks=risks)) == 3, "a tenth of all coins is"
    risks = (0.03, 0.06, 0.28, 0.03)
    assert cheapest(worths(8.88, 8.44, 9.74, 9.14, risks=risks)) == 1, "150 tips where 67 are cheaper as they fail"
    assert cheapest(worths(8.60, 8.44, 9.74, 9.14, risks=risks)) == 0, "what nobody can tell apart is no price"


def test_a_block_is_one_piece_and_a_branch_none() -> None:
    def tip(x: float, **more: object) -> Tip:
        return Tip(x, 0, 9, 0.4, (2.0, 1.0), "island", "plate", ((x, 0, 0), (x, 0, 5), (x, 0, 9)), **more)  # type: ignore[arg-type]

    assert pieces([]) == 0 and pieces([tip(0), tip(9)]) == 2
    assert pieces([tip(0), tip(1, branch=True), tip(2, branch=True)]) == 1
    row = [tip(x, square=True) for x in (0.0, 1.2, 2.4, 9.0)]
    assert pieces(row) == 2, "three columns overlap, one stands alone"
    assert pieces([*row, tip(20)]) == 3


def test_a_speck_is_missed_where_no_tip_reaches_just_below_it() -> None:
    stone = make_supports(
        Mesh(ball(6).vertices + [0, 0, 14], ball(6).faces), Context.of(HERON, load_material(None, HERON), 0.05)
    )
    tip = stone.tips[0]
    specks = np.array([[tip.x, tip.y, tip.z, 0.1], [tip.x + 5, tip.y, tip.z, 0.1], [tip.x, tip.y, tip.z + 3, 0.1]])
    missed = _missed(specks, [tip], 0.05)
    assert missed is not None and missed.points.tolist() == specks[1:, :3].tolist()
    assert _missed(specks[:1], [tip], 0.05) is None


def test_what_braces_or_interfaces_join_comes_out_as_one() -> None:
    def tip(x: float, **more: object) -> Tip:
        return Tip(x, 0, 9, 0.4, (1.0, 1.0), "overhang", "plate", ((x, 0, 0), (x, 0, 5), (x, 0, 9)), **more)  # type: ignore[arg-type]

    row = [tip(0.0), tip(4.0), tip(8.0)]
    assert pieces(row) == 3
    assert pieces(row, [Brace((0, 0, 2), (4, 0, 6), 0.4)]) == 2
    assert pieces(row, [Brace((0, 0, 2), (4, 0, 6), 0.4), Brace((8, 0, 2), (4, 0, 6), 0.4)]) == 1
    capped = [tip(x, cap=3.0, pad=0.4, gap=0.2) for x in (0.0, 2.5, 9.0)]
    assert pieces(capped) == 2, "two pads close to one"
    higher = replace(capped[1], z=12.0)
    assert pieces([capped[0], higher, capped[2]]) == 3, "at other heights they do not meet"


def test_what_keeps_a_gap_peels_off_sooner_and_braces_save_pieces() -> None:
    def tip(x: float, **more: object) -> Tip:
        return Tip(x, 0, 9, 0.42, (1.0, 1.0), "overhang", "plate", ((x, 0, 0), (x, 0, 5), (x, 0, 9)), **more)  # type: ignore[arg-type]

    costs = np.ones(4)
    grips = [tip(3.0 * k) for k in range(4)]
    gapped = [replace(t, gap=0.2) for t in grips]
    off = [off_minutes(tips, costs, "filament") for tips in (grips, gapped)]
    hairs = HAIR_MIN * 4 * 9  # of what is drawn in lines, a mm of each pillar
    assert off[1] - PIECE_MIN * 4 - hairs == pytest.approx(PEELS * (off[0] - PIECE_MIN * 4))
    braced = off_minutes(grips, costs, "filament", [Brace((0, 0, 1), (3, 0, 4), 0.4)])
    assert off[0] - braced == pytest.approx(PIECE_MIN)
    assert off_minutes(grips, 20 * costs, "filament") > 3 * off[0], "where a mark says that it matters"


def test_styles_are_mixed_by_height_and_the_first_island_stands_on_a_block() -> None:
    """Two balls in the air, one low and one high, and a post: the low one's point is the figure's first."""
    figure = Mesh.joined([ball(4, (0, 0, 9), 4), box((0, 0, 16), (3, 3, 14)), box((12, 0, 24), (26, 14, 2))])
    context = Context.of(HERON, load_material(None, HERON), 0.05)
    sets = {style: make_supports(figure, context, style=style) for style in ("pillars", "trees", "mixed")}
    for made_set in sets.values():
        squares = [t for t in made_set.tips if t.square]
        assert [t.reason for t in squares] == ["island"] and squares[0].z < made_set.figure.lower[2] + 1
    high = {style: [t for t in s.tips if t.z > 20] for style, s in sets.items()}
    joins = {style: sum(t.branch for t in tips) for style, tips in high.items()}
    assert joins["mixed"] == joins["trees"] > joins["pillars"]
    assert not any(f.code == "block-pulls" for f in sets["pillars"].findings), "one block is next to nothing"
