"""How supports meet the figure, and how firm they stand: gaps, interfaces, cradles, braces, feet."""

from __future__ import annotations

import math
from dataclasses import replace

import manifold3d
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial import ConvexHull

from tenugui.core.hazards import Sight, chance, found_by
from tenugui.core.machines import USUAL_RISK, Context
from tenugui.core.mesh import Mesh, Nearest
from tenugui.core.supports import Edit, SupportSet, Tip, footings, make_supports, margin_of
from tenugui.core.supports.body import RAFT_MARGIN_MM, printed, raft_margin, raft_solid, support_mesh
from tenugui.core.supports.contact import Contact
from tenugui.core.supports.edges import points_on_edges, sharp_edges
from tenugui.core.supports.firm import (
    BRACED_MM,
    FALLS_SHARE,
    FOOT_MPA,
    SWAY_MM,
    modulus,
    panels,
    posts_of,
    push_n,
    sway,
)
from tests.core.test_supports_checked import MACHINES, cage, fork, manifold, shells, solid, table
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import ball, box

DRAWN = MACHINES["filament"]


def spear(length: float, wide: float) -> Mesh:
    """A ball with a cone whose point looks down."""
    turn = np.arange(16) * 2 * np.pi / 16
    rim = np.column_stack([wide / 2 * np.cos(turn), wide / 2 * np.sin(turn), np.full(16, length)])
    vertices = np.concatenate([[[0, 0, 0]], rim, [[0, 0, length]]])
    i, j = np.arange(16) + 1, (np.arange(16) + 1) % 16 + 1
    faces = np.concatenate([np.column_stack([np.zeros(16), j, i]), np.column_stack([np.full(16, 17), i, j])])
    return Mesh.joined([Mesh(vertices + [0, 0, 10], faces.astype(np.int32)), ball(6, (0, 0, 10 + length + 3), 4)])


@pytest.mark.parametrize("style", ["pillars", "trees", "blocks"])
@pytest.mark.parametrize("figure", [table, fork, cage, shells], ids=lambda f: f.__name__)
def test_what_is_melted_on_keeps_its_gap_from_the_figure(figure, style: str) -> None:  # type: ignore[no-untyped-def]
    """By the boolean library's own distance of the two solids: no nearer than its share of the gap, by whatever part of
    a support.
    """
    made = make_supports(figure(), DRAWN, style=style)
    gap = Contact.of(DRAWN).gap
    assert gap == pytest.approx(0.24), "two layers of 0.12 mm are the fewest that hold 0.2 mm"
    whole = manifold3d.Manifold.batch_boolean([manifold(printed(t, False)) for t in made.tips], manifold3d.OpType.Add)
    assert solid(made.figure).min_gap(whole, 1.0) >= 0.5 * gap - 1e-4


def under(made: SupportSet, pads_only: bool = False) -> float:
    """Share of a table's free underside that lies farther than a mm beyond its gap from anything that is printed below
    it.
    """
    grid = np.stack(np.meshgrid(*[np.arange(-10, 10.1, 0.5)] * 2), axis=-1).reshape(-1, 2)
    grid = grid[np.abs(grid).max(axis=1) > 2.5 + 1.05]
    spots = np.column_stack([grid, np.full(len(grid), 10.0)])
    bare = support_mesh([replace(t, cap=0.0) for t in made.tips] if pads_only else made.tips, False)
    assert bare is not None
    return float((Nearest(bare).of(spots)[1] > 1.0).mean())


def test_a_flat_roof_lies_on_a_closed_interface() -> None:
    """358 mm² over pins of one line had 153 of them more than a millimetre from anything solid."""
    made = make_supports(table(), DRAWN)
    assert under(made) < 0.06 < 0.3 < under(made, pads_only=True)
    none = make_supports(table(), Context.of(KESTREL.model_copy(update={"interface_layers": 0}), FILAMENT, 0.12))
    assert not any(t.cap for t in none.tips) and under(none) > 0.3
    grips = make_supports(table(), Context.of(KESTREL.model_copy(update={"support_gap_mm": 0.0}), FILAMENT, 0.12))
    assert not any(t.gap or t.cap for t in grips.tips)


def test_an_interface_is_no_wider_than_what_it_carries() -> None:
    """A rod of 1.5 mm across the air, and a plate of 14 mm beside it."""
    rod = Mesh.joined([box((0, 0, 12), (3, 3, 24)), box((14, 0, 22), (28, 1.5, 1.5)), box((-8, 0, 22), (14, 14, 1.5))])
    made = make_supports(rod, Context.of(KESTREL.model_copy(update={"bridge_mm": 0.0}), FILAMENT, 0.12))
    on_rod = [t for t in made.tips if t.x > 3]
    on_plate = [t for t in made.tips if t.x < -3]
    assert on_rod and max(t.cap for t in on_rod) < 2.1 < 3.4 < max(t.cap for t in on_plate)


def test_a_sharp_point_that_grows_alone_gets_a_cradle_and_a_blunt_one_none() -> None:
    sharp = make_supports(spear(8.0, 2.0), Context.of(HERON, RESIN, 0.05))
    (tip,) = [t for t in sharp.tips if t.cradle]
    assert math.hypot(tip.x, tip.y) < 0.2 and tip.z == pytest.approx(sharp.figure.lower[2], abs=0.25)
    body = manifold(printed(replace(tip, cradle=0.0), sharp.with_raft))
    prongs = manifold3d.Manifold.batch_boolean([manifold(p) for p in _prongs_of(tip)], manifold3d.OpType.Add)
    assert (prongs ^ body).volume() > 0, "they grow out of the head"
    assert prongs.bounding_box()[5] == pytest.approx(tip.z + 0.8)
    assert solid(sharp.figure).min_gap(prongs, 1.0) >= 0.3
    blunt = make_supports(spear(2.0, 8.0), Context.of(HERON, RESIN, 0.05))
    assert blunt.tips and not any(t.cradle for t in blunt.tips)


def _prongs_of(tip) -> list[Mesh]:  # type: ignore[no-untyped-def]
    from tenugui.core.supports.body import _prongs

    return _prongs(tip, np.array(tip.joints[-2]))


def lofty(height: float = 45.0) -> Mesh:
    """A plate high above the ground on one leg."""
    return Mesh.joined([box((0, 0, height / 2), (6, 6, height)), box((12, 0, height + 1), (30, 12, 2))])


@pytest.mark.parametrize("machine", list(MACHINES))
def test_tall_pillars_are_braced_and_stand_firm(machine: str) -> None:
    context = MACHINES[machine]
    made = make_supports(lofty(), context)
    tall = [p for p in posts_of(made.tips) if p.top > 30]
    assert len(tall) > 4 and len(made.braces) > len(tall), "to and fro up each"
    assert made.firm is not None and made.firm.sway_mm <= SWAY_MM and made.firm.beyond == 0
    alone = max(sway(p.top, p.diameter, push_n(p.diameter, context), modulus(context)) for p in tall)
    assert alone > SWAY_MM, "they would not without"
    figure = solid(made.figure)
    for b in made.braces:
        run, rise = math.dist(b.start[:2], b.end[:2]), b.end[2] - b.start[2]
        assert rise == pytest.approx(run), "45°"
        assert BRACED_MM[0] <= run <= BRACED_MM[1]
        feet = [min(math.dist(end[:2], (p.x, p.y)) for p in posts_of(made.tips)) for end in (b.start, b.end)]
        assert max(feet) < 1e-9
    from tenugui.core.supports.body import brace_solid

    whole = manifold3d.Manifold.batch_boolean([manifold(brace_solid(b)) for b in made.braces], manifold3d.OpType.Add)
    assert figure.min_gap(whole, 1.0) >= 0.3


def test_no_brace_shuts_a_leg_in() -> None:
    """Pillars to either side of a low bar that runs between them: a strut over it would lock it to the plate."""
    bar = box((12, 0, 2), (60, 1.0, 4))
    free, shut = (make_supports(m, DRAWN) for m in (lofty(), Mesh.joined([lofty(), bar])))

    def across(made: SupportSet) -> int:
        return sum(b.start[1] * b.end[1] < 0 for b in made.braces)

    assert across(free) > 0 and across(shut) == 0


@settings(max_examples=60, deadline=None)
@given(st.floats(5, 80), st.floats(0.5, 4), st.floats(0.001, 0.1), st.floats(300, 3000))
def test_sway_follows_euler_and_bernoulli(length: float, wide: float, push: float, mpa: float) -> None:
    """A cantilever's stiffness 3 E I / L³ by integrating its curvature."""
    inertia = math.pi * (wide / 2) ** 4 / 4
    x = np.linspace(0, length, 4001)
    slope = np.concatenate([[0], np.cumsum((push * (length - (x[1:] + x[:-1]) / 2)) * np.diff(x))]) / (mpa * inertia)
    end = float(((slope[1:] + slope[:-1]) / 2 * np.diff(x)).sum())
    assert sway(length, wide, push, mpa) == pytest.approx(end, rel=1e-3)
    assert sway(length, wide, push, mpa, braced=True) == pytest.approx(end / 4, rel=1e-3)


def test_a_foot_is_as_wide_as_its_lever_asks() -> None:
    made = make_supports(lofty(), DRAWN)
    for post in posts_of(made.tips):
        length, _ = panels(post, made.braces)
        least = made.tips[post.tip].foot_least
        asked = margin_of(DRAWN, FALLS_SHARE * USUAL_RISK) * push_n(1.0, DRAWN) * length
        assert math.pi * least**3 / 32 * FOOT_MPA == pytest.approx(asked)


@pytest.mark.parametrize("risk", [0.01, 0.05, 0.2])
def test_what_its_foot_holds_is_told_and_answers_the_accepted_risk(risk: float) -> None:
    """By the widths of the solids that are printed, and the chance that a margin leaves."""
    made = make_supports(lofty(), DRAWN, risk=risk)
    rows = footings(made.tips, made.braces, DRAWN)
    assert rows and len(rows) == len(posts_of(made.tips))
    for row in rows:
        tip = made.tips[row.tip]
        low = printed(tip, False).vertices
        foot = np.linalg.norm(low[low[:, 2] < 1e-6][:, :2] - [row.x, row.y], axis=1).max()
        holds = FOOT_MPA * math.pi * (2 * foot) ** 3 / 32
        assert row.margin == pytest.approx(holds / (push_n(1.0, DRAWN) * row.lever_mm), rel=1e-6)
    sight = Sight(made.after, DRAWN, made.before, tips=made.tips, off=made.tips, braces=made.braces)
    found = found_by(sight, "falls")
    p = 1 - math.prod(1 - chance(row.margin) for row in rows)
    assert 1 - math.prod(1 - h.chance for h in found) == pytest.approx(p, rel=1e-9)
    wide = [row for row in rows if 2 * made.tips[row.tip].foot_radius >= made.tips[row.tip].foot_least - 1e-9]
    asked = margin_of(DRAWN, FALLS_SHARE * risk)
    assert wide and all(row.margin >= asked * (1 - 1e-9) for row in wide), "where there is room it is as wide as asked"
    assert all(chance(row.margin) <= FALLS_SHARE * risk + 1e-9 for row in wide)


def test_the_users_own_overhang_test_replaces_the_share_of_a_line() -> None:
    tested = KESTREL.model_copy(update={"overhang_test": (0.2, 60.0)})
    assert tested.free_reach(FILAMENT, 0.1) == pytest.approx(0.2 * math.tan(math.radians(60)))
    steep = Mesh.joined([box((0, 0, 1), (10, 10, 2)), _leaning(52.0)])
    context, freer = (Context.of(p, FILAMENT, 0.2) for p in (KESTREL, tested))
    assert make_supports(steep, context).tips and not make_supports(steep, freer).tips


def _leaning(degrees: float) -> Mesh:
    """A wall of 10 mm that leans so far from the vertical, its top level."""
    m = box((0, 0, 6), (8, 4, 12))
    shear = m.vertices.copy()
    shear[:, 0] += shear[:, 2] * math.tan(math.radians(degrees))
    return Mesh(shear, m.faces)


def test_a_raft_is_full_feet_or_none_as_it_is_wished_and_its_hold_is_told() -> None:
    stone = ball(9, (0, 0, 9), 4)
    context = Context.of(HERON, RESIN, 0.05)
    sets = {
        wish: make_supports(stone, context, edits=[Edit("raft", (0, 0, 0), raft=wish)])  # type: ignore[arg-type]
        for wish in ("full", "feet", "none")
    }
    usual = make_supports(stone, context)
    assert sets["full"].with_raft and not sets["feet"].with_raft and not sets["none"].with_raft
    assert sets["full"].after.areas[0] == usual.after.areas[0]
    areas = {wish: float(made.after.areas[0]) for wish, made in sets.items()}
    assert areas["feet"] > 3 * areas["none"]
    stands = [t for t in sets["feet"].tips if t.stands]
    assert 0.5 < areas["feet"] / (len(stands) * math.pi * 9) <= 1.0, "feet of 6 mm, which may overlap"
    lost = {
        wish: max(
            [
                t.needs / t.has
                for t in found_by(Sight(made.after, context, made.before, made.tips), "pull")
                if "on the plate" in t.message
            ],
            default=0.0,
        )
        for wish, made in sets.items()
    }
    assert max(lost["full"], lost["feet"]) < 1 < lost["none"], "bare feet let go"


def test_an_edge_within_reach_takes_the_tip() -> None:
    """A shelf of 8 x 3 mm: as many tips as before, and along its rim; a ball has no edges and none are made up."""
    shelf = Mesh.joined([box((0, 0, 12), (8, 4, 24)), box((0, -3.4, 20), (8, 3, 1.2))])
    made = make_supports(shelf, Context.of(HERON, RESIN, 0.05))
    on_shelf = np.array([[t.x, t.y] for t in made.tips if t.reason == "overhang"])
    rim = np.minimum(4.0 - np.abs(on_shelf[:, 0]), on_shelf[:, 1] + 4.9)
    assert len(on_shelf) >= 2 and (rim < 0.25).mean() >= 0.6
    round_ = ball(9, (0, 0, 9), 5)
    assert not len(sharp_edges(round_).face)
    cube = box((0, 0, 5), (4, 4, 4))
    normal, _ = cube.normals_and_areas()
    low = np.flatnonzero(normal[:, 2] < -0.9)
    points, _ = points_on_edges(cube, low, np.full(len(low), 1.0), 0.2)
    away = 2.0 - np.abs(points[:, :2]).max(axis=1)
    assert len(points) >= 4 * 16 and (away < 0.2 + 1e-9).all(), "its four rims, not its diagonal"


def test_a_notch_is_no_edge_to_hold_by() -> None:
    """The inner corner between a ledge and its wall is sharp and hollow."""
    notch = solid(Mesh.joined([box((0, 0, 10), (4, 10, 20)), box((4, 0, 15), (8, 10, 2))])).to_mesh()
    mesh = Mesh(np.asarray(notch.vert_properties[:, :3], float), np.asarray(notch.tri_verts, np.int32))
    normal, _ = mesh.normals_and_areas()
    low = np.flatnonzero((normal[:, 2] < -0.9) & (mesh.middles()[:, 2] > 10))
    points, _ = points_on_edges(mesh, low, np.full(len(low), 1.0), 0.2)
    assert len(points) and not ((points[:, 0] < 2.3) & (np.abs(points[:, 1]) < 4.7)).any(), "the wall stands at x = 2"


@settings(max_examples=40, deadline=None)
@given(st.lists(st.tuples(st.floats(-20, 20), st.floats(-20, 20)), min_size=1, max_size=12), st.floats(50, 3000))
def test_a_raft_covers_what_its_hold_asks(feet: list[tuple[float, float]], area: float) -> None:
    """By Steiner's formula for a convex outline that is grown, against the area of the raft itself."""
    tips = [Tip(x, y, 9, 0.3, (0.7, 0.7), "load", "plate", ((x, y, 0.0), (x, y, 7.0), (x, y, 9.0))) for x, y in feet]
    margin = raft_margin(tips, area, 1e3)
    solid_ = raft_solid(tips, margin)
    low = solid_.vertices[solid_.vertices[:, 2] < 1e-9][:, :2]
    hull = ConvexHull(low)
    assert margin == RAFT_MARGIN_MM or hull.volume == pytest.approx(area, rel=0.02)
    assert hull.volume >= 0.98 * area
    assert raft_margin(tips, area, 1.0) == RAFT_MARGIN_MM, "no wider than there is room, and never narrower than usual"


def test_a_foot_beside_a_base_stands_where_it_has_room_to_hold() -> None:
    """A knob that hangs over the edge of a broad base: straight down there is no room for a foot as wide as its pillar
    asks; its head leans out to where there is.
    """
    figure = Mesh.joined(
        [
            box((0, 0, 1.5), (24, 24, 3)),
            box((0, 0, 20), (6, 6, 40)),
            box((6, 0, 39), (13, 4, 2)),
            box((12.6, 0, 35), (2, 2, 7)),
        ]
    )
    made = make_supports(figure, DRAWN, risk=0.05, style="pillars")
    (start,) = made.before.islands
    (tip,) = [t for t in made.tips if (t.x, t.y, t.z) == (start.x, start.y, start.z)]
    (row,) = [r for r in footings(made.tips, made.braces, DRAWN) if made.tips[r.tip] is tip]
    assert row.margin >= margin_of(DRAWN, FALLS_SHARE * 0.05) * 0.99
    x, y, _ = tip.joints[0]
    assert max(abs(x), abs(y)) - 12 >= tip.foot_radius, "beside the base, not against it"
