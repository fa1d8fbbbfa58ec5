"""Hollowing by arithmetic: depths, walls, struts, what a flood leaves, what a hole lets through, and holes that are
really open.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import ndimage

from tenugui.core.hollow import (
    HollowError,
    Lattice,
    depth_field,
    drained,
    drilled,
    flow,
    hollow,
    judged,
    plug,
    stays,
    suggest,
    usual_diameter,
    usual_wall,
)
from tenugui.core.hollow.field import Field, far_within
from tenugui.core.hollow.lattice import strut_distance
from tenugui.core.hollow.liquid import (
    GRAVITY_M_S2,
    JET,
    RESIN,
    STEPS_A_CELL,
    WASH,
    Fluid,
    Mouth,
    Space,
    flooded,
    space_of,
)
from tenugui.core.hollow.offset import settle
from tenugui.core.layers import prove
from tenugui.core.mesh import Mesh, Nearest, face_grid, measure
from tenugui.core.mesh.near import distance_within, winding_numbers
from tests.figures import keeper
from tests.shapes import ball, box, cylinder, hollow_ball, knobbly, mesh_of

DOWN = np.array([0.0, 0.0, -1.0])


def least_wall(made) -> float:  # type: ignore[no-untyped-def]
    """The wall by exact distances, independent of how it was made."""
    grid = face_grid(made.outer)
    return min(
        float(distance_within(np.concatenate([c.surface.vertices, c.surface.middles()]), grid, made.wall + 0.1).min())
        for c in made.cavities
    )


# How deep.


def test_cells_of_a_box_are_as_deep_as_its_nearest_side() -> None:
    field = depth_field(box((0, 0, 0), (12, 9, 15)), 0.25, 3.0)
    cells = np.argwhere(field.depth > 0)
    places = field.place(cells.astype(float))
    exact = (np.array([6, 4.5, 7.5]) - np.abs(places)).min(axis=1)
    told = field.depth[tuple(cells.T)]
    near = exact < 3.0
    assert told[near] == pytest.approx(exact[near], abs=0.26) and (told[~near] >= 3.0 - 0.26).all()
    assert len(cells) * 0.25**3 == pytest.approx(12 * 9 * 15, rel=0.03)


@settings(max_examples=10, deadline=None)
@given(st.tuples(*[st.floats(3, 9)] * 3), st.floats(0, 0.4))
def test_the_transform_is_that_of_a_general_library(size: tuple[float, float, float], off: float) -> None:
    field = depth_field(box((off, 0.2, 0.1), size), 0.5, 2.0)
    general = ndimage.distance_transform_edt(field.depth > 0) * 0.5
    near = (general > 0) & (general <= 2.0)
    # Ours knows the ends of runs along x exactly, the library counts cells: they differ by half a cell at most.
    assert near.any() and np.abs(field.depth[near] - general[near]).max() <= 0.5 + 1e-6


def test_a_crevice_between_two_scan_lines_is_seen() -> None:
    """A slot of a twentieth of a millimetre in cells of a half: no scan line need run through it."""
    solid = trimesh.creation.box((10, 10, 10))
    for at in (0.1, 0.17, 0.33):
        slot = trimesh.creation.box((11, 0.05, 6))
        slot.apply_translation((0, at, 3))
        cut = mesh_of(trimesh.boolean.difference([solid, slot]))
        field = depth_field(cut, 0.5, 2.0)
        z, y, x = field.cell(np.array([[0.0, at, 2.0]]))[0]
        assert field.depth[z, y, x] < 0.7, at


# Walls.


def test_a_balls_inside_is_a_ball() -> None:
    made = hollow(ball(10, fineness=5), 2.0)
    (cavity,) = made.cavities
    assert cavity.volume == pytest.approx(4 / 3 * math.pi * 8**3, rel=0.02)
    assert 2.0 <= cavity.min_wall < 2.06
    assert made.solid_volume == pytest.approx(4 / 3 * math.pi * 1000, rel=0.01)
    assert measure(made.mesh).watertight
    assert measure(made.mesh).volume_mm3 == pytest.approx(made.solid_volume - made.saved, rel=1e-6)


@pytest.mark.parametrize("wall", [1.0, 1.7, 3.0])
def test_a_boxs_inside_is_a_box(wall: float) -> None:
    (cavity,) = hollow(box((0, 0, 0), (24, 18, 30)), wall).cavities
    assert cavity.volume == pytest.approx((24 - 2 * wall) * (18 - 2 * wall) * (30 - 2 * wall), rel=0.03)


@pytest.mark.parametrize(
    "make",
    [lambda: knobbly(9, 4), lambda: keeper().scaled(0.7), lambda: cylinder(9, 22)],
    ids=["stone", "bust", "drum"],
)
@pytest.mark.parametrize("wall", [1.2, 2.5])
def test_no_wall_is_thinner_than_asked_nor_told_thicker_than_it_is(make, wall: float) -> None:  # type: ignore[no-untyped-def]
    made = hollow(make(), wall)
    assert made.cavities
    exact = least_wall(made)
    assert exact >= wall - 1e-3
    assert min(c.min_wall for c in made.cavities) == pytest.approx(exact, abs=0.03)


def test_a_groove_from_outside_does_not_thin_the_wall() -> None:
    groove = trimesh.creation.box((4, 30, 4))
    groove.apply_translation((0, 0, 10))
    grooved = mesh_of(trimesh.boolean.difference([trimesh.creation.box((24, 24, 24)), groove]))
    made = hollow(grooved, 2.0)
    assert least_wall(made) >= 2.0 - 1e-3


def test_the_inside_is_empty_and_the_wall_is_not() -> None:
    made = hollow(box((0, 0, 0), (20, 20, 20)), 2.0)
    asked = np.array([[0.1, 0.2, 0.3], [9.0, 0.2, 0.3], [7.9, 0.2, 0.3], [11.0, 0.1, 0.2]])
    assert winding_numbers(asked, face_grid(made.mesh)).tolist() == [0, 1, 0, 0]


def test_shells_that_overlap_are_hollowed_as_one() -> None:
    pair = Mesh.joined([box((0, 0, 0), (16, 16, 16)), box((8, 0, 0), (16, 16, 16))])
    (cavity,) = hollow(pair, 2.0).cavities
    assert cavity.volume == pytest.approx(20 * 12 * 12, rel=0.03), "one space, through where they overlap"


def test_two_bodies_on_a_thin_bridge_have_a_cavity_each() -> None:
    bridge = Mesh.joined([box((-12, 0, 0), (12, 12, 12)), box((12, 0, 0), (12, 12, 16)), box((0, 0, 0), (14, 2, 2))])
    found = hollow(bridge, 2.0).cavities
    assert len(found) == 2 and found[0].volume > found[1].volume
    assert found[1].volume == pytest.approx(8**3, rel=0.05)


def test_what_is_too_small_to_be_worth_it_stays_solid() -> None:
    made = hollow(ball(3, fineness=4), 1.0)
    assert made.cavities == () and made.left_solid == 1 and made.mesh is made.outer
    ((x, y, z, volume),) = made.solid_at
    assert np.linalg.norm(np.array([x, y, z]) - made.outer.middles().mean(axis=0)) < 0.5 and 5 < volume < 60
    assert len(hollow(ball(3, fineness=4), 1.0, least_mm3=1.0).cavities) == 1
    assert hollow(box((0, 0, 0), (30, 30, 2)), 1.2).left_solid == 0, "nothing of a plate is that deep"


@pytest.mark.parametrize(
    ("make", "wall", "lattice", "code"),
    [
        (lambda: ball(10), 0.1, None, "bad-wall"),
        (lambda: ball(10), math.nan, None, "bad-wall"),
        (lambda: ball(10), 2.0, Lattice(6, 6), "bad-lattice"),
        (lambda: ball(10), 2.0, Lattice(0.2, 0.1), "bad-lattice"),
        (lambda: Mesh(ball(10).vertices, ball(10).faces[5:]), 2.0, None, "not-closed"),
        (lambda: hollow_ball(), 0.5, None, "not-closed"),
    ],
)
def test_what_cannot_be_hollowed_is_refused_with_what_would_help(make, wall, lattice, code: str) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(HollowError) as refused:
        hollow(make(), wall, lattice)
    assert refused.value.code == code and refused.value.remedy


@given(st.floats(10, 400), st.floats(10, 400))
def test_larger_figures_get_thicker_walls_and_wider_holes(a: float, b: float) -> None:
    low, high = (np.array([10.0, 10.0, v]) for v in sorted((a, b)))
    assert 1.0 <= usual_wall(low) <= usual_wall(high) <= 4.0
    assert 1.5 <= usual_diameter(low) <= usual_diameter(high) <= 8.0


def test_points_settle_on_the_offset_and_the_lost_go_back() -> None:
    outside = Nearest(ball(10, fineness=5))
    rng = np.random.default_rng(3)
    ways = rng.normal(size=(50, 3))
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    settled = settle(ways * 7.7, outside, 2.0, 0.6)
    assert np.linalg.norm(settled, axis=1) == pytest.approx(np.full(50, 8.0), abs=0.03)
    far = settle(ways * 3.0, outside, 2.0, 0.6)
    assert (far == ways * 3.0).all(), "what is deeper than the slack is not the wall's"
    kept = settle(ways * 7.7, outside, 2.0, 0.6, np.ones(50, bool))
    assert (kept == ways * 7.7).all()


# Struts.


@pytest.mark.parametrize("kind", ["cubic", "centred"])
def test_struts_lie_where_a_plain_evaluation_puts_them(kind) -> None:  # type: ignore[no-untyped-def]
    field = Field(0.37, np.zeros(3), np.zeros((12, 11, 10), np.float32), 1.0)
    pitch = 3.1
    told = strut_distance(field, pitch, kind)
    ways = np.eye(3) if kind == "cubic" else np.array([[1, 1, 1], [1, 1, -1], [1, -1, 1], [-1, 1, 1]]) / math.sqrt(3)
    corners = np.array([[i, j, k] for i in range(-2, 4) for j in range(-2, 4) for k in range(-2, 4)], float) * pitch
    for z, y, x in np.ndindex(told.shape):
        if (z + y + x) % 3:
            continue
        away = np.array([x, y, z]) * 0.37 - corners
        exact = min(float(np.sqrt(np.maximum((away**2).sum(axis=1) - (away @ w) ** 2, 0)).min()) for w in ways)
        assert told[z, y, x] == pytest.approx(exact, abs=1e-3)


def test_a_lattice_takes_its_struts_from_the_space() -> None:
    plain, held = hollow(box((0, 0, 0), (22, 22, 22)), 2.0), hollow(box((0, 0, 0), (22, 22, 22)), 2.0, Lattice(6, 1.2))
    rod = math.pi * 0.6**2
    # Three families of struts, less what they share where they cross (Steinmetz: 16 r³ / 3 of each pair, 8 (2 - √2) r³
    # of all three).
    node = 3 * 16 / 3 * 0.6**3 - 8 * (2 - math.sqrt(2)) * 0.6**3
    share = (3 * rod * 6 - node) / 6**3
    taken = 1 - held.saved / plain.saved
    assert taken == pytest.approx(share, rel=0.25)
    assert least_wall(held) >= 2.0 - 1e-3 and measure(held.mesh).watertight


# Liquid.


def space(empty: np.ndarray, width: float = 1.0) -> Space:
    """Cells of a grid (z, y, x) as a cavity."""
    return space_of(Field(width, np.zeros(3), np.zeros((1, 1, 1), np.float32), 1.0), empty, np.zeros(3))


def cells_at(held: Space, test) -> np.ndarray:  # type: ignore[no-untyped-def]
    return np.flatnonzero([bool(test(*p)) for p in held.middles])


def test_a_bucket_stays_full_up_to_its_hole() -> None:
    held = space(np.ones((10, 4, 5), bool))
    hole = Mouth(cells_at(held, lambda x, y, z: x == 0 and z == 6), 1.0, 2.0)
    assert stays(held, [hole], DOWN).sum() == 6 * 20
    assert stays(held, [hole], -DOWN).sum() == 3 * 20
    assert stays(held, [hole], np.array([-1.0, 0, 0])).sum() == 0, "on its side it is the lowest"
    assert stays(held, [], DOWN).all(), "nothing is open"


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 2**32 - 1), st.floats(0.3, 0.9), st.integers(0, 3))
def test_sweeps_and_the_flood_leave_the_same(seed: int, share: float, sweeps: int) -> None:
    rng = np.random.default_rng(seed)
    empty = rng.random((9, 8, 7)) < share
    held = space_of(Field(1.0, np.zeros(3), np.zeros((1, 1, 1), np.float32), 1.0), empty, np.zeros(3))
    way = rng.normal(size=3)
    way /= np.linalg.norm(way)
    many = len(held.middles)
    mouths = [Mouth(rng.integers(0, many, 2), 1.0, 2.0)] if many else []
    wanted = flooded(held, mouths, way).filled
    assert (stays(held, mouths, way) == wanted).all()
    with pytest.MonkeyPatch.context() as few:
        few.setattr("tenugui.core.hollow.liquid.MOST_SWEEPS", sweeps)
        assert (stays(held, mouths, way) == wanted).all()


def test_a_spiral_of_many_turns_runs_empty_or_stays_as_its_way_leads() -> None:
    # One long way up and down again: what lies behind the crest stays, level with the crest, however far the way is.
    empty = np.zeros((12, 3, 41), bool)
    empty[:, 1, ::2] = True
    empty[0, 1, 1::4] = empty[-1, 1, 3::4] = True
    held = space(empty)
    hole = Mouth(cells_at(held, lambda x, y, z: x == 0 and z == 11), 1.0, 2.0)
    kept = stays(held, [hole], DOWN)
    assert kept.sum() == 21 * 11 + 10, "all but the topmost cell of every leg and what joins them there"
    assert stays(held, [hole], -DOWN).sum() == 20 * 11 + 10, (
        "the first leg runs out, the others have the crest before them"
    )


def test_a_wall_inside_keeps_its_own_pool() -> None:
    empty = np.ones((10, 1, 11), bool)
    empty[:7, :, 5] = False
    held = space(empty)
    hole = Mouth(cells_at(held, lambda x, y, z: x == 0 and z == 0), 1.0, 2.0)
    assert stays(held, [hole], DOWN).sum() == 7 * 5, "what lies behind the wall, to its brim"
    both = [hole, Mouth(cells_at(held, lambda x, y, z: x == 10 and z == 0), 1.0, 2.0)]
    assert stays(held, both, DOWN).sum() == 0


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000), st.integers(1, 3))
def test_the_flood_is_the_least_brim_over_all_ways_out(seed: int, holes: int) -> None:
    rng = np.random.default_rng(seed)
    held = space(rng.random((5, 5, 5)) < 0.65)
    n = len(held.middles)
    if n < holes:
        return
    open_ = rng.choice(n, holes, replace=False)
    gravity = rng.normal(size=3)
    gravity /= np.linalg.norm(gravity)
    height = -(held.middles @ gravity)
    level = np.full(n, np.inf)
    level[open_] = height[open_]
    for _ in range(n):
        for k in range(6):
            there = held.beside[:, k] >= 0
            level[there] = np.minimum(level[there], np.maximum(height[there], level[held.beside[there, k]]))
    told = stays(held, [Mouth(open_, 1.0, 1.0)], gravity)
    over = level - height - 0.5
    sure = np.abs(over) > 1 / STEPS_A_CELL
    assert (told == (over > 0))[sure].all(), "but for what heights are rounded to"
    more = stays(held, [Mouth(np.append(open_, rng.integers(n)), 1.0, 1.0)], gravity)
    assert not (more & ~told).any(), "another hole never keeps more in"


def test_flow_has_its_two_limits_and_its_threshold() -> None:
    drive = RESIN.density * GRAVITY_M_S2 * 0.05
    syrup = Fluid(100 * RESIN.viscosity, RESIN.surface, RESIN.density)  # whose speed takes nothing
    long = 100 * float(flow(1.0, 500.0, 50.0, syrup))
    assert long == pytest.approx(
        (drive - 2 * RESIN.surface / 1e-3) * math.pi * 1e-12 / (8 * RESIN.viscosity * 0.5) * 1e9, rel=0.01
    )
    thin = 100 * float(flow(1.0, 0.001, 50.0, syrup))
    assert thin == pytest.approx((drive - 2 * RESIN.surface / 1e-3) * 1e-9 / (3 * RESIN.viscosity) * 1e9, rel=0.01)
    water = Fluid(1e-9, 0.0, 1000.0)
    speed = math.sqrt(2 * GRAVITY_M_S2 * 0.05) * 1e3
    assert flow(1.0, 2.0, 50.0, water) == pytest.approx(JET * math.pi * speed, rel=1e-3), "Torricelli"
    threshold = 2 * RESIN.surface / (RESIN.density * GRAVITY_M_S2 * 1e-3) * 1e3
    assert flow(1.0, 2.0, threshold * 0.999) == 0 < flow(1.0, 2.0, threshold * 1.01)


@given(st.floats(0.2, 5), st.floats(0.5, 10), st.floats(1, 200), st.floats(1.05, 3))
def test_wider_shorter_and_deeper_never_runs_slower(radius: float, length: float, head: float, times: float) -> None:
    here = flow(radius, length, head)
    assert flow(radius * times, length, head) >= here
    assert flow(radius, length / times, head) >= here
    assert flow(radius, length, head * times) >= here


def test_washing_fluid_runs_faster_by_its_viscosity_and_clings_less() -> None:
    thick = Fluid(WASH.viscosity * 1e4, WASH.surface, WASH.density)
    thicker = Fluid(WASH.viscosity * 3e4, WASH.surface, WASH.density)
    assert float(flow(1.0, 2.0, 30.0, thick)) == pytest.approx(3 * float(flow(1.0, 2.0, 30.0, thicker)), rel=1e-3)
    tank = space(np.ones((60, 10, 10), bool))
    mouths = [
        Mouth(cells_at(tank, lambda x, y, z: z == 0 and x == 5 and y == 5), 0.4, 1.0),
        Mouth(cells_at(tank, lambda x, y, z: z == 59), 1.0, 1.0),
    ]
    resin, wash = drained(tank, mouths, DOWN), drained(tank, mouths, DOWN, WASH)
    assert wash.clings < resin.clings and wash.retained == resin.retained
    assert wash.seconds is not None and resin.seconds is not None and wash.seconds < resin.seconds / 20


def test_a_tank_empties_in_the_time_that_its_level_takes_to_fall() -> None:
    held = space(np.ones((60, 10, 10), bool), 0.5)
    bottom = Mouth(cells_at(held, lambda x, y, z: z == 0 and x == 0), 1.5, 2.0)
    top = Mouth(cells_at(held, lambda x, y, z: z == 29.5 and x == 0), 1.5, 2.0)
    told = drained(held, [bottom, top], DOWN)
    full, still = 29.5 + 2.0, 2 * RESIN.surface / (RESIN.density * GRAVITY_M_S2 * 1.5e-3) * 1e3
    heads = np.linspace(still + 0.05 * (full - still), full, 20_000)
    slices = 25.0 * (heads[1] - heads[0])
    assert told.seconds == pytest.approx(float((slices / flow(1.5, 2.0, heads)).sum()), rel=0.03)
    assert told.retained == 0 and drained(held, [bottom], DOWN).seconds is None, "no air comes in"
    narrow = Mouth(bottom.cells, 0.3, 2.0)
    assert drained(held, [narrow, top], DOWN).clings > 0.5 * held.volume


def test_a_ball_of_washing_fluid_runs_out_in_the_time_that_torricelli_gives_and_its_viscosity_adds() -> None:
    """Ball of 18 mm: dt = A(h) dh / Q, 95 % of it; a trial by another programme told 24, 8.4 and 2.7 s."""
    for wide, wanted in ((2.0, 24.0), (3.0, 8.4), (5.0, 2.7)):
        heads = np.linspace(0.01, 36.0, 4000)
        slices = math.pi * (36 * heads - heads**2) * (heads[1] - heads[0])
        counted = np.cumsum(slices[::-1])[::-1] >= 0.0
        counted &= np.cumsum(slices[::-1])[::-1] <= 0.95 * slices.sum()
        seconds = (slices / flow(wide / 2, 2.0, heads + 2.0, WASH))[counted].sum()
        assert seconds == pytest.approx(wanted, rel=0.12)


# Holes.


def test_a_ball_is_opened_by_two_holes_and_runs_empty() -> None:
    made = hollow(ball(14, (0, 0, 14), fineness=5), 2.0)
    opened = suggest(made, made.cavities[0], DOWN)
    assert len(opened.holes) == 2 and opened.vented
    assert opened.drips.retained <= 0.01 * made.cavities[0].volume and opened.drips.seconds is not None
    low, high = sorted(h.point[2] for h in opened.holes)
    assert low < 7 and high < 0.9 * 28, "one near the plate, none on the crown"
    body = drilled(made, opened.holes)
    read = measure(body)
    assert read.watertight and read.shells == 1, "outside and inside are one surface now"
    bores = sum(math.pi * h.diameter**2 / 4 * h.length for h in opened.holes)
    assert made.solid_volume - made.saved - read.volume_mm3 == pytest.approx(bores, rel=0.1)
    assert not prove(body.dropped(), 0.1, 0.3).voids.trapped
    assert prove(made.mesh.dropped(), 0.1, 0.3).voids.trapped[0].volume == pytest.approx(made.saved, rel=0.02)


def test_no_hole_is_shut_by_the_plate_that_the_figure_stands_on() -> None:
    made = hollow(box((0, 0, 15), (24, 24, 30)), 2.0)
    opened = suggest(made, made.cavities[0], DOWN)
    assert all(h.point[2] > 0.5 for h in opened.holes)
    sealed = prove(drilled(made, opened.holes), 0.2, 0.3).voids.sealed
    assert sum(s.volume for s in sealed) < 0.25 * made.saved, "it breathes from a little above the plate on"


def test_nothing_is_drilled_through_what_is_shown_and_hidden_places_come_first() -> None:
    made = hollow(box((0, 0, 15), (24, 24, 30)), 2.0)
    normal, _ = made.outer.normals_and_areas()
    with pytest.raises(HollowError) as refused:
        suggest(made, made.cavities[0], DOWN, weights=np.full(len(made.outer.faces), 5.0))
    assert refused.value.code == "no-place"
    behind = np.where(normal[:, 1] > 0.9, 0.2, 5.0)
    opened = suggest(made, made.cavities[0], DOWN, weights=behind)
    assert all(h.point[1] == pytest.approx(12, abs=1e-6) for h in opened.holes)


def test_holes_given_by_hand_are_judged_alike() -> None:
    made = hollow(ball(14, (0, 0, 14), fineness=5), 2.0)
    opened = suggest(made, made.cavities[0], DOWN)
    again = judged(made.cavities[0], opened.holes, DOWN)
    assert again.drips.retained == opened.drips.retained and again.vented
    one = judged(made.cavities[0], opened.holes[:1], DOWN)
    assert not one.vented and one.drips.seconds is None
    none = judged(made.cavities[0], [], DOWN)
    assert none.drips.retained == pytest.approx(made.cavities[0].space.volume)


@pytest.mark.parametrize("wide", [0.1, 50.0])
def test_holes_of_no_sense_are_refused(wide: float) -> None:
    made = hollow(ball(8, fineness=4), 1.5)
    with pytest.raises(HollowError, match="out of range"):
        suggest(made, made.cavities[0], DOWN, diameter=wide)


def test_a_plug_fills_its_countersunk_hole_but_for_the_play() -> None:
    made = hollow(box((0, 0, 15), (24, 24, 30)), 2.5)
    opened = suggest(made, made.cavities[0], DOWN, diameter=3.0)
    plain, sunk = (measure(drilled(made, opened.holes, countersunk=c)).volume_mm3 for c in (False, True))
    r, c = 1.5, 0.8
    cone = math.pi * c * ((r + c) ** 2 + (r + c) * r + r * r) / 3 - math.pi * r * r * c
    assert plain - sunk == pytest.approx(len(opened.holes) * cone, rel=0.05)
    part = plug(opened.holes[0])
    read = measure(part)
    shaft = r - 0.1
    head = math.pi * c * ((shaft + c) ** 2 + (shaft + c) * shaft + shaft * shaft) / 3
    stem = math.pi * shaft**2 * (0.9 * opened.holes[0].length - c)
    assert read.watertight and read.volume_mm3 == pytest.approx(head + stem, rel=0.02)
    assert part.lower[2] == 0 and part.upper[2] == pytest.approx(0.9 * opened.holes[0].length)
    normal, area = part.normals_and_areas()
    down = (normal[:, 2] < -0.5) & (part.middles()[:, 2] > 0.01) & (area > 0)
    assert not down.any(), "it prints on its head without supports"


@pytest.mark.parametrize(("pitch", "reach"), [(0.25, 3.0), (0.5, 2.0)])
def test_bounded_distances_are_those_of_the_general_library(pitch: float, reach: float) -> None:
    inside = np.random.default_rng(0).random((60, 50, 70)) > 0.002
    ours, theirs = far_within(inside, pitch, reach), ndimage.distance_transform_edt(inside, sampling=pitch)
    near = theirs <= reach
    assert np.abs(ours - theirs)[near].max() < 1e-5 and (ours[~near] >= reach - 1e-5).all()
