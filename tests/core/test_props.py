"""Lines of supports: their density by region and by machine, the interface's form, and what lines too far apart do."""

from __future__ import annotations

import math
from statistics import NormalDist

import numpy as np
import pytest

from tenugui.core.layers import prove
from tenugui.core.machines import SPREAD, Context, FilamentPrinter
from tenugui.core.mesh import Mesh
from tenugui.core.paths import Path, Props, planned, sampled_use
from tenugui.core.paths.lines import INTERFACE, SUPPORT, pitch_of
from tenugui.core.plan.parts import carried_in, props_in, support_name
from tenugui.core.risk import ledger
from tenugui.core.risk.meeting import MENDED_MM2, SAGS, SAGS_MM, carries_mm2
from tenugui.core.supports import Edit, make_supports
from tenugui.core.supports.manner import BRIDGE_MM
from tenugui.core.supports.place import ISLAND_DENSITY
from tests.core.test_regions_by_hand import LEFT, RIGHT, made, side
from tests.presets import FILAMENT, KESTREL
from tests.shapes import ball, box

H = 0.2
ROOF = box((0, 0, 8), (44, 44, 2))
"""A slab 7 mm up."""


def on(props: Props, printer: FilamentPrinter = KESTREL) -> Path:
    return planned(ROOF, props, printer, H)


def sparse_mm(path: Path, low_x: float, high_x: float) -> float:
    """Length of straight support lines, walls left out, in some layers half way up, by their middle's x."""
    ends = path.points[1:], path.points[:-1]
    middle = (ends[0] + ends[1]) / 2
    slanted = np.abs(np.abs(ends[0][:, 0] - ends[1][:, 0]) - np.abs(ends[0][:, 1] - ends[1][:, 1])) < 1e-3
    mine = (path.kind == SUPPORT) & slanted & (path.layer >= 10) & (path.layer < 20)
    mine &= (middle[:, 0] > low_x) & (middle[:, 0] < high_x)
    return float(np.linalg.norm((ends[0] - ends[1])[mine], axis=1).sum())


@pytest.mark.parametrize("share", [0.1, 0.4, 0.8])
def test_a_body_is_filled_by_its_density(share: float) -> None:
    """A line every pitch / share mm: its length times that is the area within the walls."""
    body = box((0, 0, 3.4), (40, 40, 6.8))
    length = sparse_mm(on({share: body}), -30, 30)
    within = (40 - 2 * pitch_of(KESTREL.line_mm, H)) ** 2
    assert length / 10 * pitch_of(KESTREL.line_mm, H) / share == pytest.approx(within, rel=0.04)
    own = KESTREL.model_copy(update={"support_density": share})
    assert sparse_mm(on({None: body}, own), -30, 30) == pytest.approx(length)


def test_a_second_wall_sheathes_a_body() -> None:
    """By hand: a square of 40 mm less half a line, and one a line farther in."""
    body: Props = {None: box((0, 0, 3.4), (40, 40, 6.8))}
    pitch = pitch_of(KESTREL.line_mm, H)

    def drawn(path: Path) -> float:
        way = path.points[1:] - path.points[:-1]
        along = (path.kind == SUPPORT) & (path.layer == 12) & (np.minimum(np.abs(way[:, 0]), np.abs(way[:, 1])) < 1e-6)
        return float(np.linalg.norm(way[along], axis=1).sum())

    assert drawn(on(body)) == pytest.approx(4 * (40 - pitch), rel=0.01)
    two = drawn(on(body, KESTREL.model_copy(update={"support_walls": 2})))
    assert two == pytest.approx(4 * (40 - pitch) + 4 * (40 - 3 * pitch), rel=0.01)


def test_bodies_of_two_densities_lie_beside_each_other_and_the_denser_one_wins() -> None:
    left, right = box((-10, 0, 3.4), (22, 40, 6.8)), box((10, 0, 3.4), (22, 40, 6.8))
    path, pitch = on({None: left, 0.6: right}), pitch_of(KESTREL.line_mm, H)
    for share, low, high, wide in ((0.2, -30, -1, 20), (0.6, -1, 30, 22)):
        within = (wide - pitch) * (40 - 2 * pitch)
        assert sparse_mm(path, low, high) / 10 * pitch / share == pytest.approx(within, rel=0.04)


def test_an_interface_in_rings_or_with_gaps() -> None:
    body: Props = {None: box((0, 0, 3.4), (40, 40, 6.8))}

    def drawn(path: Path) -> tuple[float, float]:
        mine = path.kind == INTERFACE
        way = path.points[1:] - path.points[:-1]
        straight = np.minimum(np.abs(way[:, 0]), np.abs(way[:, 1])) < 1e-6
        long = np.linalg.norm(way, axis=1)
        return float(long[mine].sum()), float(long[mine & straight].sum() / long[mine].sum())

    closed, open_ = on(body), on(body, KESTREL.model_copy(update={"interface_density": 0.5}))
    ringed = on(body, KESTREL.model_copy(update={"interface_form": 1}))
    assert drawn(open_)[0] == pytest.approx(drawn(closed)[0] / 2, rel=0.03)
    assert drawn(ringed)[0] == pytest.approx(drawn(closed)[0], rel=0.03), "both close it"
    assert drawn(closed)[1] < 0.01 and drawn(ringed)[1] > 0.9, "lines lie across, rings along its edges"


def test_a_sample_of_layers_tells_what_denser_lines_take() -> None:
    body = box((0, 0, 3.4), (40, 40, 6.8))
    whole = Mesh.joined([ROOF, body])
    proof = prove(whole, H, 0.4)
    left, right = box((-10, 0, 3.4), (20, 40, 6.8)), box((10, 0, 3.4), (20, 40, 6.8))
    every: list[Props] = [{None: body}, {0.6: body}, {None: left, 0.6: right}]
    for props in every:
        path = on(props)
        told = sampled_use(
            ROOF, props, KESTREL, material=FILAMENT, height=H, rough=(proof.areas, proof.stack.contour_mm)
        )
        took = KESTREL.start_s + path.seconds.sum() + KESTREL.layer_change_s * path.layers
        assert told.time_s == pytest.approx(took, rel=0.04)


def test_a_region_is_drawn_as_densely_as_it_is_told_to() -> None:
    plain, held = made(style="areas"), made(Edit("density", LEFT, density=0.6), style="areas")
    assert [t.density for t in side(held, -1)] == [0.6] * len(side(plain, -1))
    assert side(held, 1) == side(plain, 1)
    assert set(held.props) == {None, 0.6} and set(plain.props) == {None}
    assert sum(len(solid.faces) for solid in held.props.values()) == len(plain.props[None].faces)


def test_what_starts_in_mid_air_is_carried_more_densely() -> None:
    slab = Mesh.joined([box((0, 0, 4), (6, 6, 8)), box((0, 0, 9), (40, 6, 2)), box((18, 0, 7), (12, 12, 2))])
    context = Context.of(KESTREL, FILAMENT, H)
    held = make_supports(slab, context, style="areas")
    bodies = [t for t in held.tips if t.cells]
    assert {t.reason: t.density for t in bodies}["island"] == ISLAND_DENSITY
    own = KESTREL.model_copy(update={"support_density": 0.5})
    dense = make_supports(slab, Context.of(own, FILAMENT, H), style="areas")
    assert all(t.density is None for t in dense.tips), "where the machine's own are as dense, they are its own"


@pytest.mark.parametrize(("share", "layers"), [(0.05, 0), (0.05, 2), (0.4, 0)])
def test_lines_too_far_apart_sag_by_their_prior(share: float, layers: int) -> None:
    """By hand: a layer's height over a bridged span, by the square, half of it for each layer of interface."""
    printer = KESTREL.model_copy(update={"interface_layers": layers})
    context = Context.of(printer, FILAMENT, H)
    figure = Mesh.joined([box((0, 0, 8), (26, 16, 16)), box((-22, 0, 13), (18, 16, 2)), box((22, 0, 13), (18, 16, 2))])
    edits = [Edit("density", at, density=share) for at in (LEFT, RIGHT)]
    held = make_supports(figure, context, style="areas", edits=edits)
    told = {h.code: h for h in ledger(held.after, context, tips=held.tips, own=held.before)}
    droop = H * (pitch_of(printer.line_mm, H) / share / BRIDGE_MM) ** 2 / 2**layers
    shown = 1 - math.exp(-sum(map(carries_mm2, held.tips)) / MENDED_MM2)
    needs = held.tips[0].gap + droop
    by_hand = min(0.95, NormalDist().cdf(-math.log(max(SAGS * H, SAGS_MM) / needs) / SPREAD) * shown)
    assert ("gap-sags" in told) == (by_hand > 0.02)
    if by_hand > 0.02:
        assert told["gap-sags"].chance == pytest.approx(by_hand, rel=1e-4)
    assert (share > 0.1) == (by_hand < 0.02) or layers


def test_parts_are_called_by_their_density() -> None:
    parts = {"figure": ball(3), "plinth": ball(2), support_name(None): ball(1), support_name(0.125): ball(1.5)}
    assert {d: len(m.faces) for d, m in props_in(parts).items()} == {
        None: len(parts["supports"].faces),
        0.125: len(parts["supports at 12.5 %"].faces),
    }
    assert len(carried_in(parts).faces) == len(parts["figure"].faces) + len(parts["plinth"].faces)
