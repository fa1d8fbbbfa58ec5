"""Support sets by an independent measure: the boolean library intersects them with the figure, and every flat place is
asked for its nearest tip.
"""

from __future__ import annotations

import math

import manifold3d
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.machines import Context
from tenugui.core.marks.kinds import SCAR_WEIGHT
from tenugui.core.mesh import Mesh
from tenugui.core.mesh.nearest import STEP_MM, Nearest
from tenugui.core.supports import SupportSet, Tip, make_supports, tip_pitch
from tenugui.core.supports.body import PENETRATION_MM, printed
from tenugui.core.supports.heads import CLEARANCE_MM
from tenugui.core.supports.solids import tube
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import ball, box, cylinder

MACHINES = {"resin": Context.of(HERON, RESIN, 0.05), "filament": Context.of(KESTREL, FILAMENT, 0.12)}


def ledge() -> Mesh:
    """A tower with a ledge: what lies over the tower itself wants no support."""
    return Mesh.joined([box((0, 0, 20), (12, 12, 40)), box((10, 0, 30), (16, 12, 3))])


def fork() -> Mesh:
    return Mesh.joined(
        [
            box((0, 0, 2), (30, 6, 4)),
            box((-10, 0, 20), (4, 4, 36)),
            box((10, 0, 20), (4, 4, 36)),
            box((0, 0, 37), (30, 6, 4)),
        ]
    )


def table() -> Mesh:
    """20.6 mm square: 400 mm² around its leg."""
    return Mesh.joined([box((0, 0, 5), (5, 5, 10)), box((0, 0, 11), (20.6, 20.6, 2))])


def cage(bars_around: int = 8) -> Mesh:
    bars = [
        Mesh(cylinder(1.0, 22).vertices + [9 * np.cos(a), 9 * np.sin(a), 1], cylinder(1.0, 22).faces)
        for a in np.arange(bars_around) * 2 * np.pi / bars_around
    ]
    return Mesh.joined([box((0, 0, 0), (24, 24, 2)), box((0, 0, 24), (24, 24, 2)), *bars]).dropped()


def shells() -> Mesh:
    """Balls and a block that run into each other."""
    return Mesh.joined(
        [ball(8, (0, 0, 12), 4), ball(7, (5, 0, 16), 4), box((0, 0, 3), (10, 10, 6)), ball(6, (16, 0, 20), 3)]
    )


FIGURES = {f.__name__: f for f in (ledge, fork, table, cage, shells)}


def manifold(mesh: Mesh) -> manifold3d.Manifold:
    return manifold3d.Manifold(
        manifold3d.Mesh(np.asarray(mesh.vertices, np.float32), np.asarray(mesh.faces, np.uint32))
    )


def solid(mesh: Mesh) -> manifold3d.Manifold:
    """All shells united."""
    from tenugui.core.mesh import shell_labels
    from tenugui.core.mesh.fit import subset

    label, count = shell_labels(mesh.faces, len(mesh.vertices))
    parts = [manifold(subset(mesh, label == k)) for k in range(count)]
    return manifold3d.Manifold.batch_boolean(parts, manifold3d.OpType.Add)


def inside(made: SupportSet) -> float:
    """mm³ of supports in the figure."""
    parts = [manifold(printed(t, made.with_raft)) for t in made.tips]
    whole = manifold3d.Manifold.batch_boolean(parts, manifold3d.OpType.Add)
    return float((whole ^ solid(made.figure)).volume())


@pytest.mark.parametrize("style", ["pillars", "trees", "blocks"])
@pytest.mark.parametrize("machine", list(MACHINES))
@pytest.mark.parametrize("name", list(FIGURES))
def test_nothing_of_a_support_lies_in_the_figure_but_what_reaches_in_to_hold(
    name: str, machine: str, style: str
) -> None:
    made = make_supports(FIGURES[name](), MACHINES[machine], style=style)
    assert made.tips and not made.islands
    grips = [t for t in made.tips if not t.gap]
    assert len(grips) == (len(made.tips) if machine == "resin" else 0), "what is melted on keeps a gap"
    grip = sum(math.pi * t.diameter**2 / 4 * PENETRATION_MM * (2 if t.on == "model" else 1) for t in grips)
    assert inside(made) <= 1.05 * grip + 0.02


def flat_places(mesh: Mesh) -> np.ndarray:
    """The underside of the table, on a grid, but for what its leg carries and the layer that clings to it."""
    grid = np.stack(np.meshgrid(*[np.arange(-10.2, 10.3, 0.4)] * 2), axis=-1).reshape(-1, 2)
    free = np.abs(grid).max(axis=1) > 2.5 + 1.05
    return np.column_stack([grid[free], np.full(free.sum(), 10.0)])


@pytest.mark.parametrize("machine", list(MACHINES))
def test_a_table_of_400_mm2_gets_what_a_practitioner_expects_and_no_place_is_left_out(machine: str) -> None:
    made = make_supports(table(), MACHINES[machine])
    assert 45 <= len(made.tips) <= 90, "once 367 on resin"
    at = np.array([[t.x, t.y, t.z] for t in made.tips])
    spots = flat_places(made.figure) + [0, 0, made.figure.lower[2]]
    far = np.linalg.norm(spots[:, None] - at[None], axis=2).min(axis=1)
    pitch = tip_pitch(MACHINES[machine], 0.0, 0.35 if machine == "resin" else 0.42, 0.05)
    assert far.max() <= 1.15 * pitch
    apart = np.linalg.norm(at[:, None] - at[None], axis=2) + 99 * np.eye(len(at))
    assert np.median(apart.min(axis=1)) > 0.6 * pitch, "neighbours do not crowd"


@settings(max_examples=60, deadline=None)
@given(st.floats(0, 80), st.floats(0.02, 0.4), st.sampled_from([0.03, 0.05, 0.1]))
def test_pitch_grows_with_the_slope_and_falls_with_the_risk_and_nowhere_jumps(
    degrees: float, risk: float, height: float
) -> None:
    context = Context.of(HERON, RESIN, height)
    here, beyond = (tip_pitch(context, math.radians(d), 0.35, risk) for d in (degrees, degrees + 0.01))
    assert here <= beyond + 1e-9 and beyond - here < 0.25
    assert tip_pitch(context, math.radians(degrees), 0.35, risk / 2) <= here + 1e-9


def test_no_foot_is_wider_than_the_figure_beside_it_lets_it_be() -> None:
    """Posts around a low plinth: their feet would spread into it."""
    figure = Mesh.joined([box((0, 0, 2), (10, 10, 4)), box((0, 0, 8), (4, 4, 10)), box((0, 0, 14), (13, 13, 2))])
    made = make_supports(figure, MACHINES["filament"])

    def room(t: Tip) -> float:
        return math.hypot(*(max(abs(v) - 5.0, 0.0) for v in t.joints[0][:2]))

    beside = [t for t in made.tips if t.stands and room(t) < 1.6]
    assert beside and all(t.foot < 2.2 * t.pillar for t in beside)
    for t in beside:
        assert max(t.pillar, min(t.foot, 2.2 * t.pillar)) / 2 < room(t) + 1e-6


def test_no_foot_stands_where_nothing_may_be_scarred() -> None:
    """The floor of a close cage is marked to be kept out but for a strip: feet lean onto the strip, or there is
    no tip.
    """
    figure = cage(20)
    floor = (figure.middles()[:, 2] < 2.1) & (figure.normals_and_areas()[0][:, 2] > 0.9)
    context = Context(HERON, RESIN, 0.1, weights=np.where(floor, float(max(SCAR_WEIGHT)), 1.0))
    plain, kept = make_supports(figure, Context(HERON, RESIN, 0.1)), make_supports(figure, context)

    def on_floor(made: SupportSet) -> int:
        low = made.figure.lower[2]
        return sum(t.on == "model" and abs(t.joints[0][2] - low - 2.0) < 0.1 for t in made.tips)

    assert on_floor(plain) > 0 and on_floor(kept) == 0
    strip = Mesh.joined([figure, box((0, 0, 2.05), (4, 16, 0.3))])
    weights = np.concatenate([context.weights, np.ones(12)])  # type: ignore[list-item]
    more = make_supports(strip, Context(HERON, RESIN, 0.1, weights=weights))
    feet = np.array([t.joints[0] for t in more.tips if t.on == "model"]).reshape(-1, 3)
    assert len(feet) and (np.abs(feet[:, 0]) <= 2.0).all() and (feet[:, 2] > 2.1 + more.figure.lower[2]).all()


@pytest.mark.parametrize(("machine", "style"), [("resin", "pillars"), ("resin", "trees"), ("filament", "trees")])
@pytest.mark.parametrize("name", list(FIGURES))
def test_no_shaft_comes_nearer_to_the_figure_than_the_clearance(name: str, machine: str, style: str) -> None:
    """By the boolean library's own distance of two solids; the last part of a head narrows to its contact."""
    made = make_supports(FIGURES[name](), MACHINES[machine], style=style)
    figure = solid(made.figure)
    shafts = []
    for t in made.tips:
        joints, radii = np.array(t.joints), np.array([*t.widths, t.diameter]) / 2
        if len(joints) < 3:
            continue  # a stub between the plate and a place just above it
        start = np.where(t.on == "model", 1, 0)
        ends = np.array([*joints[start:-1], joints[-2] + 0.4 * (joints[-1] - joints[-2])])
        wide = np.array([*radii[start:-1], 0.6 * radii[-2] + 0.4 * radii[-1]])
        if len(ends) > 1:
            shafts.append(manifold(tube(ends, wide)))
    whole = manifold3d.Manifold.batch_boolean(shafts, manifold3d.OpType.Add)
    assert shafts and figure.min_gap(whole, 2 * CLEARANCE_MM) >= CLEARANCE_MM - STEP_MM / 2


@settings(max_examples=80, deadline=None)
@given(
    st.tuples(*[st.floats(-14, 14)] * 3),
    st.tuples(*[st.floats(-14, 14)] * 3),
    st.floats(0.05, 2),
    st.floats(0.05, 2),
)
def test_a_rod_keeps_off_a_ball_exactly_where_its_nearest_point_does(
    a: tuple[float, ...], b: tuple[float, ...], thick: float, thin: float
) -> None:
    """A ball's distance is known; between the two bounds of a fine ball and of what a step may miss either answer is
    right.
    """
    p, q = np.array(a), np.array(b)
    t = np.linspace(0, 1, 4001)
    away = np.linalg.norm(p + t[:, None] * (q - p), axis=1) - 6.0
    room = float((np.abs(away) - (thick + (thin - thick) * t)).min())
    keeps = bool(Nearest(ball(6.0, (0, 0, 0), 5)).keeps_off(p[None], q[None], np.array([[thick, thin]]), 0.3)[0])
    if room < 0.3 - STEP_MM / 2 - 0.03:
        assert not keeps
    if room > 0.3 + 0.03:
        assert keeps


def test_what_starts_in_mid_air_and_is_wide_is_no_speck_however_soon_it_joins() -> None:
    """A plate of 6 x 6 mm that joins its post after two layers of 0.12 mm is held; a crumb of a quarter mm² is left."""
    post = box((0, 0, 6), (3, 3, 12))
    plate, arm = box((6, 0, 10.12), (6, 6, 0.24)), box((4.5, 0, 11), (9, 6, 1.52))
    wide = make_supports(Mesh.joined([post, plate, arm]), MACHINES["filament"])
    at = np.array([[t.x, t.y] for t in wide.tips if t.z < 10.1])
    assert len(at) >= 4 and (np.abs(at - [6, 0]) <= 3).all()
