"""Supports: islands gone by proof, clear of the figure, by load and not by density."""

from __future__ import annotations

import math

import numpy as np
import pytest
import trimesh

from tenugui.core.layers import prove
from tenugui.core.machines import CURES_ON_MM, Context, free_reach, load_material, load_printer
from tenugui.core.mesh import Mesh, measure, rays_of
from tenugui.core.supports import make_supports, needs_lift, raised, safety_factor, tip_pitch
from tenugui.core.supports.solids import raft, tube
from tests.presets import bearing
from tests.shapes import ball, box, cone, cylinder, fork, knobbly

HERON, KESTREL = load_printer("heron"), load_printer("kestrel")
RESIN, FILAMENT = load_material(None, HERON), load_material(None, KESTREL)


@pytest.mark.parametrize("printer", [HERON, KESTREL], ids=["resin", "filament"])
def test_the_forks_islands_are_gone(printer) -> None:  # type: ignore[no-untyped-def]
    material = load_material(None, printer)
    height = 0.1 if printer is HERON else 0.2
    made = make_supports(fork(), Context.of(printer, material, height))
    assert len(made.before.islands) >= 2 and made.after.islands == []
    assert all(f.code == "stands-on-figure" for f in made.findings)
    again = prove(bearing(made), height, free_reach(printer, material, height))
    assert again.islands == [], "the written mesh proves it too"


def test_a_table_is_held_by_the_pitch_that_load_asks_for() -> None:
    table = Mesh.joined([box((0, 0, 5), (6, 6, 10)), box((0, 0, 11), (24, 24, 2))])
    made = make_supports(table, Context.of(KESTREL, FILAMENT, 0.2))
    points = np.array([[t.x, t.y] for t in made.tips])
    away = np.linalg.norm(points[:, None] - points[None], axis=2) + 1e9 * np.eye(len(points))
    pitch = tip_pitch(Context.of(KESTREL, FILAMENT, 0.2), 0.0, 0.42, 0.05)
    assert away.min() >= 0.95 * pitch
    assert (24 * 24 - 36) / pitch**2 * 0.5 < len(points) < (24 * 24) / pitch**2 * 2


def test_pillars_keep_clear_of_the_figure() -> None:
    # A wide ledge shades the ground: the tip above it must lean out or stand on it, never run through it.
    shaded = Mesh.joined([box((0, 0, 10), (4, 4, 20)), box((0, 0, 6), (16, 16, 2)), box((0, 0, 19), (20, 20, 2))])
    made = make_supports(shaded, Context.of(HERON, RESIN, 0.1))
    rays = rays_of(made.figure)
    for tip in (t for t in made.tips if t.on == "plate" and not t.branch):
        foot, joint = np.array(tip.joints[0]), np.array(tip.joints[1])
        distance, _ = rays.first((foot + [0, 0, 1e-3])[None], np.array([0.0, 0.0, 1.0]))
        assert distance[0] > joint[2] - foot[2] - 1e-2
    assert made.after.islands == []


def test_a_figure_that_rests_flat_stays_down_and_a_tilted_one_is_raised() -> None:
    assert (
        not needs_lift(cylinder(8, 20), HERON)
        and needs_lift(ball(8, (0, 0, 8)), HERON)
        and not needs_lift(ball(8, (0, 0, 8)), KESTREL)
    )
    made = make_supports(ball(8, (0, 0, 8)), Context.of(HERON, RESIN, 0.1))
    assert made.figure.lower[2] == pytest.approx(5) and made.with_raft and made.after.islands == []
    assert raised(cylinder(8, 20), HERON).lower[2] == pytest.approx(0)


def test_less_accepted_risk_means_more_hold() -> None:
    contact = []
    for risk in (0.01, 0.05, 0.2):
        made = make_supports(knobbly(), Context.of(HERON, RESIN, 0.1), risk=risk)
        contact.append(sum(t.diameter**2 for t in made.tips))
    assert contact[0] > contact[1] > contact[2]
    assert safety_factor(0.01) > safety_factor(0.05) > safety_factor(0.2) > 1


def test_what_needs_nothing_gets_nothing() -> None:
    made = make_supports(cone(10, 30).dropped(), Context.of(KESTREL, FILAMENT, 0.2))
    assert made.tips == [] and made.mesh is None and made.volume_mm3 == 0


def test_the_slab_formula_by_hand() -> None:
    # A layer of 0.05 mm cures 0.1 mm deeper where nothing is above it: a slab of 0.15 mm, E 500 MPa, sag 0.02 mm under
    # 8 kPa.
    d = 500 * (0.05 + CURES_ON_MM) ** 3 / (12 * (1 - 0.35**2))
    # Who accepts that every second tip fails divides the load by 1, and the sag by as much less than usual.
    sag = 0.02 * safety_factor(0.05)
    by_hand = (sag * d / (0.00581 * 8e-3)) ** 0.25
    assert by_hand == pytest.approx(3.5, abs=0.1)
    context = Context.of(HERON, RESIN, 0.05)
    assert tip_pitch(context, 0.0, 10.0, 0.5) == pytest.approx(by_hand, rel=1e-6)
    most = 5.0 * safety_factor(0.05)
    # A strip that sags no farther than that as a cantilever needs no tip for its stiffness.
    alone = (8 * sag * d / 8e-3) ** 0.25
    assert tip_pitch(context, math.atan(0.05 / (0.99 * alone)), 10.0, 0.5) == pytest.approx(most)
    between = math.atan(0.05 / ((alone + by_hand) / 2))
    assert tip_pitch(context, between, 10.0, 0.5) == pytest.approx((most + by_hand) / 2, rel=1e-6)


def test_tubes_and_rafts_are_closed_and_turned_outwards() -> None:
    bent = tube(np.array([[0, 0, 0], [0, 0, 5], [2, 0, 9.0]]), np.array([1.0, 0.8, 0.2]), 24)
    plate = raft(np.array([[0, 0], [10, 0], [0, 10.0]]), 2.0, 0.6)
    for solid in (bent, plate):
        basics = measure(solid)
        assert basics.watertight and basics.volume_mm3 > 0
    straight = tube(np.array([[0, 0, 0], [0, 0, 4.0]]), np.array([1.0, 1.0]), 96)
    assert measure(straight).volume_mm3 == pytest.approx(4 * np.pi, rel=0.01)


def test_no_tip_stands_on_a_fit_and_cheap_faces_come_first() -> None:
    import trimesh

    from tests.shapes import mesh_of

    slab = trimesh.creation.box((24, 24, 2)).subdivide().subdivide().subdivide()
    slab.apply_translation((0, 0, 11))
    table = Mesh.joined([box((0, 0, 5), (6, 6, 10)), mesh_of(slab)])
    middle = table.corners().mean(axis=1)
    weights = np.where(middle[:, 0] > 0, 20.0, 1.0)
    made = make_supports(table, Context(KESTREL, FILAMENT, 0.2, weights=weights))
    assert made.tips and all(t.x <= 1e-6 for t in made.tips if t.reason == "overhang")


def fine_bar() -> Mesh:
    """A post with an arm at 20 to 23 mm, both cut small; the arm's underside slopes gently and needs nothing by itself
    on filament.
    """
    post = trimesh.creation.box((4, 4, 23)).subdivide_to_size(0.8)
    arm = trimesh.PointCloud(
        [(2, y, z) for y in (-2, 2) for z in (8, 23)] + [(14, y, z) for y in (-2, 2) for z in (20, 23)]
    ).convex_hull.subdivide_to_size(0.8)
    return Mesh.joined(
        [
            Mesh(post.vertices + [0, 0, 11.5], np.asarray(post.faces, np.int32)),
            Mesh(arm.vertices, np.asarray(arm.faces, np.int32)),
        ]
    )


def test_what_is_marked_to_be_held_is_held_in_any_case() -> None:
    bar = fine_bar()
    middles, (normals, _) = bar.corners().mean(axis=1), bar.normals_and_areas()
    hold = (middles[:, 0] > 9) & (normals[:, 2] < 0)
    free, held = (
        make_supports(bar, Context.of(KESTREL, FILAMENT, 0.2)),
        make_supports(bar, Context(KESTREL, FILAMENT, 0.2, hold=hold)),
    )
    assert not [t for t in free.tips if t.x > 9], "the computation asks for nothing there"
    mine = [t for t in held.tips if t.reason == "hold"]
    assert mine and all(t.x > 8.5 and t.z > 14 for t in mine)
    away = np.array([[t.x, t.y, t.z] for t in mine])
    gaps = np.linalg.norm(away[:, None] - away[None], axis=2) + 1e9 * np.eye(len(away))
    assert gaps.min() > 0.9 * tip_pitch(Context.of(KESTREL, FILAMENT, 0.2), 0.0, 0.42, 0.05)
    assert not [f for f in held.findings if f.code == "hold-unreached"]


def test_a_hold_that_looks_up_is_told() -> None:
    bar = fine_bar()
    normals, _ = bar.normals_and_areas()
    made = make_supports(bar, Context(KESTREL, FILAMENT, 0.2, hold=normals[:, 2] > 0.9))
    (found,) = [f for f in made.findings if f.code == "hold-unreached"]
    assert "looks upwards" in found.message and not [t for t in made.tips if t.reason == "hold"]


def test_a_support_on_a_low_ledge_ends_above_the_plate() -> None:
    # A tip that stands on a foot thinner than its root reaches in must not run through it into the plate.
    low = Mesh.joined([box((0, 0, 0.05), (30, 30, 0.1)), box((-8, 0, 6), (4, 4, 12)), box((2, 0, 11), (24, 4, 2))])
    for printer, material in ((KESTREL, FILAMENT), (HERON, RESIN)):
        made = make_supports(low, Context.of(printer, material, 0.1))
        assert [t for t in made.tips if t.on == "model"] and made.whole.lower[2] >= -1e-9
        assert made.after.islands == []
