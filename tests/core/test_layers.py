"""The layer stack against arithmetic."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.layers import LayerError, cut, find_islands, grid_for, prove, solid_components
from tenugui.core.mesh import Mesh
from tests.shapes import ball, box, cup, cylinder, fork, hollow_ball, knobbly

STEP = 0.2


def test_a_sphere_of_two_shells_traps_its_inside() -> None:
    proof = prove(hollow_ball(10, 8, 6), 0.05, STEP)
    assert proof.stack.volume() == pytest.approx(4 / 3 * np.pi * (1000 - 512), rel=0.01)
    (trapped,) = proof.voids.trapped
    assert trapped.volume == pytest.approx(4 / 3 * np.pi * 512, rel=0.01)
    assert np.hypot(trapped.x, trapped.y) < 8, "its place lies inside it"
    assert (trapped.z_low, trapped.z_high) == (pytest.approx(2, abs=0.1), pytest.approx(18, abs=0.1))
    (sealed,) = proof.voids.sealed
    assert sealed.peak_area == pytest.approx(np.pi * 64, rel=0.01)


def test_a_way_out_frees_the_trapped_space() -> None:
    """A closed box of six walls traps its inside; with the lid moved aside by two millimetres nothing is trapped, only
    sealed below it.
    """
    walls = [
        box((0, 0, 0.5), (12, 12, 1)),
        *(box((s * 5.5, 0, 6), (1, 12, 10)) for s in (-1, 1)),
        *(box((0, s * 5.5, 6), (10, 1, 10)) for s in (-1, 1)),
    ]
    closed = prove(Mesh.joined([*walls, box((0, 0, 11.5), (12, 12, 1))]), 0.1, STEP)
    assert [t.volume for t in closed.voids.trapped] == [pytest.approx(1000, rel=0.01)]
    ajar = prove(Mesh.joined([*walls, box((3, 0, 11.5), (12, 12, 1))]), 0.1, STEP)
    assert not ajar.voids.trapped
    assert [s.volume for s in ajar.voids.sealed] == [pytest.approx(1000, rel=0.01)]


def test_an_upright_cup_seals_from_floor_to_rim() -> None:
    proof = prove(cup(4, 1, 1, 10), 0.05, STEP)
    (sealed,) = proof.voids.sealed
    assert (sealed.first_layer, sealed.last_layer) == (20, 219)
    assert sealed.peak_area == pytest.approx(np.pi * 16, rel=0.01)
    assert sealed.volume == pytest.approx(np.pi * 160, rel=0.01)
    assert not proof.voids.trapped
    assert (
        proof.voids.sealed_area[19] == 0
        and proof.voids.sealed_area[20] > 0
        and proof.voids.sealed_area.sum() * 0.05 == pytest.approx(sealed.volume, rel=1e-6)
    )


def test_a_cup_upside_down_seals_on_the_plate_but_traps_nothing() -> None:
    upright = cup(4, 1, 1, 10)
    proof = prove(upright.transformed(np.diag([1.0, 1.0, -1.0])).dropped(), 0.05, STEP)
    (sealed,) = proof.voids.sealed
    assert sealed.first_layer == 0
    assert not proof.voids.trapped


def test_a_gap_to_the_plate_vents_the_upturned_cup() -> None:
    raised = cup(4, 1, 1, 10).transformed(np.diag([1.0, 1.0, -1.0])).dropped()
    lifted = Mesh(raised.vertices + [0, 0, 2.0], raised.faces)
    assert not prove(lifted, 0.05, STEP).voids.sealed


def test_a_fork_gives_two_islands_that_merge_at_the_beam() -> None:
    proof = prove(fork(), 0.05, STEP)
    assert [(i.layer, i.merge_layer, i.ground_layer) for i in proof.islands] == [(200, 560, 560), (260, 560, 560)]
    assert [i.z for i in proof.islands] == [pytest.approx(10), pytest.approx(13)]
    assert [(i.x, i.y) for i in proof.islands] == [
        (pytest.approx(0, abs=0.03), pytest.approx(0, abs=0.03)),
        (pytest.approx(8, abs=0.03), pytest.approx(0, abs=0.03)),
    ]
    assert all(i.area == pytest.approx(4, rel=0.02) for i in proof.islands)


def test_a_fork_in_mid_air_merges_with_itself_but_never_with_the_plate() -> None:
    tines = Mesh.joined([box((0, 0, 30), (40, 4, 4)), box((0, 0, 20), (2, 2, 20)), box((8, 0, 22), (2, 2, 18))])
    islands = prove(tines, 0.05, STEP).islands
    assert [i.merge_layer for i in islands] == [560, 560]
    assert [i.ground_layer for i in islands] == [None, None]
    assert [i.joins_layer for i in islands] == [None, 560], "the elder goes on, the younger joins it"


def test_what_stands_on_the_plate_is_no_island() -> None:
    assert not prove(Mesh.joined([box((0, 0, 5), (4, 4, 10)), box((10, 0, 5), (4, 4, 10))]), 0.05, STEP).islands


def test_overlapping_shells_count_once_and_cavities_not_at_all() -> None:
    twice = Mesh.joined([box((0, 0, 5), (10, 10, 10)), box((5, 0, 5), (10, 10, 10))])
    assert prove(twice, 0.05, STEP).stack.volume() == pytest.approx(1500, rel=1e-3)
    same = Mesh.joined([box((0, 0, 5), (10, 10, 10)), box((0, 0, 5), (10, 10, 10))])
    assert prove(same, 0.05, STEP).stack.volume() == pytest.approx(1000, rel=1e-3)


def test_overhang_is_the_area_beyond_the_allowed_step() -> None:
    # A table: a 20 x 20 plate on a 4 x 4 leg. Its underside reaches out by 8 mm; 0.2 of it is allowed.
    table = Mesh.joined([box((0, 0, 5), (4, 4, 10)), box((0, 0, 11), (20, 20, 2))])
    hang = prove(table, 0.05, 0.2).hang
    rounded = 4.0 * 4 + 4 * 4 * 0.2 + np.pi * 0.04
    assert hang.total == pytest.approx(400 - rounded, rel=0.005)
    assert np.flatnonzero(hang.by_layer).tolist() == [200]


def test_an_allowed_slope_has_no_overhang() -> None:
    slope = ball(10, (0, 0, 10))
    hang = prove(slope, 0.05, 0.2).hang
    # A sphere's layer reaches out more than 0.2 a layer only below the polar angle whose tangent is h / s.
    angle = np.arctan(0.05 / 0.2)
    limit = 10 - 10 * np.cos(angle)
    assert all(layer * 0.05 <= limit + 0.1 for layer in np.flatnonzero(hang.by_layer > 0.01))


def test_areas_and_centroids_of_a_box() -> None:
    proof = prove(box((3, -2, 4), (6, 5, 8)), 0.1, STEP, 0.05)
    assert proof.areas == pytest.approx(np.full(80, 30.0), rel=2e-3)
    assert proof.centroids == pytest.approx(np.tile([3.0, -2.0], (80, 1)), abs=0.03)


def test_contour_length_of_a_cylinder() -> None:
    stack = cut(cylinder(5, 4), grid_for(cylinder(5, 4), 0.1))
    assert stack.contour_mm[20] == pytest.approx(2 * np.pi * 5, rel=2e-3)


def test_soup_and_welded_mesh_give_the_same_runs() -> None:
    welded = knobbly()
    soup = Mesh(welded.corners().reshape(-1, 3), np.arange(3 * len(welded.faces), dtype=np.int32).reshape(-1, 3))
    grid = grid_for(welded, 0.1)
    a, b = cut(welded, grid), cut(soup, grid)
    assert (
        np.array_equal(a.x_in, b.x_in) and np.array_equal(a.x_out, b.x_out) and np.array_equal(a.row_start, b.row_start)
    )
    assert a.open_rows == 0


def test_a_hole_in_the_surface_is_counted_not_hidden() -> None:
    stone = knobbly()
    assert cut(Mesh(stone.vertices, stone.faces[:-40].copy()), grid_for(stone, 0.1)).open_rows > 0


def test_refusals() -> None:
    with pytest.raises(LayerError, match="below the plate"):
        grid_for(box((0, 0, 0), (2, 2, 2)), 0.05)
    with pytest.raises(LayerError, match="more than this engine"):
        grid_for(box((0, 0, 50_000), (2, 2, 100_000)), 0.05)
    for height in (0.0, -1.0, float("nan")):
        with pytest.raises(LayerError, match="cannot be cut"):
            grid_for(box((0, 0, 1), (2, 2, 2)), height)


boxes = st.lists(
    st.tuples(*[st.integers(-8, 8) for _ in range(2)], st.integers(0, 12), *[st.integers(1, 8) for _ in range(3)]),
    min_size=1,
    max_size=6,
)


def on_a_grid(parts: list[tuple[int, ...]], margin: int) -> tuple[np.ndarray, Mesh]:
    """Boxes on whole millimetres as cells of 1 mm, and as overlapping shells."""
    side = 16 + 2 * margin
    solid = np.zeros((side, side, 24), bool)
    for x, y, z, w, d, h in parts:
        solid[x + margin : x + margin + w, y + margin : y + margin + d, z : z + h] = True
    return solid, Mesh.joined([box((x + w / 2, y + d / 2, z + h / 2), (w, d, h)) for x, y, z, w, d, h in parts])


@settings(max_examples=30, deadline=None)
@given(boxes)
def test_the_stack_agrees_with_a_dense_grid(parts: list[tuple[int, ...]]) -> None:
    """Boxes on whole millimetres against voxels of 1 mm: volume, islands and trapped space by brute force."""
    from scipy import ndimage

    solid, figure = on_a_grid(parts, 12)
    proof = prove(figure, 1.0, 0.5, 0.25)
    assert proof.stack.volume() == pytest.approx(float(solid.sum()), abs=1e-6)
    expected = 0
    for k in range(1, solid.shape[2]):
        labels, count = ndimage.label(solid[:, :, k], np.ones((3, 3)))
        expected += sum(not solid[:, :, k - 1][labels == n].any() for n in range(1, count + 1))
    assert len(find_islands(proof.stack, solid_components(proof.stack))) == expected
    empty, count = ndimage.label(~np.pad(solid, 1))
    inside = sum(int((empty == n).sum()) for n in range(1, count + 1) if n != empty[0, 0, 0])
    assert sum(t.volume for t in proof.voids.trapped) == pytest.approx(inside, abs=1e-6)


@settings(max_examples=20, deadline=None)
@given(st.floats(0.02, 0.3), st.floats(0.03, 0.2), st.floats(2, 9))
def test_a_ball_keeps_its_volume_at_any_height_and_pitch(height: float, pitch: float, radius: float) -> None:
    stone = ball(radius, fineness=4)
    exact = float(
        np.einsum("ij,ij->i", stone.corners()[:, 0], np.cross(stone.corners()[:, 1], stone.corners()[:, 2])).sum() / 6
    )
    assert prove(stone.dropped(), height, 0.2, pitch).stack.volume() == pytest.approx(exact, rel=0.02)


@settings(max_examples=25, deadline=None)
@given(boxes, st.integers(0, 3))
def test_overhang_agrees_with_a_dense_grid(parts: list[tuple[int, ...]], step: int) -> None:
    """Boxes on whole millimetres: the overhang for a step of `step` mm against a disc dilation of pixels."""
    from scipy import ndimage

    solid, figure = on_a_grid(parts, 16)
    fine = np.repeat(np.repeat(solid, 4, axis=0), 4, axis=1)
    reach = np.arange(-4 * step - 1, 4 * step + 2)
    disc = reach[:, None] ** 2 + reach[None, :] ** 2 <= (4 * step) ** 2
    area = sum(
        float((fine[:, :, k] & ~ndimage.binary_dilation(fine[:, :, k - 1], disc)).sum()) / 16 for k in range(1, 24)
    )
    hang = prove(figure, 1.0, max(step, 1e-9), 0.25).hang
    assert hang.total == pytest.approx(area, abs=0.06 * area + 0.8)
    assert hang.by_component.sum() == pytest.approx(hang.total)


@settings(max_examples=25, deadline=None)
@given(boxes)
def test_sealed_space_agrees_with_a_flood_of_every_layer(parts: list[tuple[int, ...]]) -> None:
    """Sealed area of each layer by brute force: empty cells of layers 0..k that no path joins to the outside, counted
    in layer k.
    """
    from scipy import ndimage

    solid, figure = on_a_grid(parts, 12)
    proof = prove(figure, 1.0, 0.5, 0.25)
    for k in range(proof.stack.grid.layers):
        empty, _ = ndimage.label(~solid[:, :, : k + 1])
        outside = empty[0, 0, 0]
        by_hand = int(((empty[:, :, k] != outside) & (empty[:, :, k] > 0)).sum())
        assert proof.voids.sealed_area[k] == pytest.approx(by_hand, abs=1e-6)


def test_merge_layers_of_a_comb_follow_the_elder_rule() -> None:
    """Three teeth of different lengths under a bar in mid air: the oldest lives on, the others join it where the bar
    begins.
    """
    comb = Mesh.joined(
        [
            box((0, 0, 41), (30, 4, 2)),
            *(box((x, 0, (40 + low) / 2), (2, 2, 40 - low)) for x, low in ((-10, 10), (0, 20), (10, 30))),
        ]
    )
    islands = prove(comb, 0.1, STEP).islands
    assert [i.layer for i in islands] == [100, 200, 300]
    assert [i.merge_layer for i in islands] == [400, 400, 400]
    assert [i.joins_layer for i in islands] == [None, 400, 400]
    assert [i.until_layer for i in islands] == [420, 400, 400]


def test_the_clock_of_layer_runs_reads_back_the_section() -> None:
    proof = prove(cylinder(5, 4), 0.1, STEP, 0.05)
    runs = proof.stack.layer_runs(20)
    assert (runs[:, 2] - runs[:, 1]).sum() * 0.05 == pytest.approx(np.pi * 25, rel=2e-3)
    assert np.abs(np.hypot(runs[:, 2], runs[:, 0]) - 5).max() < 0.06


def test_every_overlap_of_crossing_bars_is_found_however_many_there_are() -> None:
    n = 14
    bars = [box(((i - n / 2) * 2, 0, 0.5), (1, 2 * n, 1)) for i in range(n)]
    across = [box((-1, (i - n / 2) * 2 + 1, 1.5), (2 * n, 1, 1)) for i in range(n)]
    parts = prove(Mesh.joined(bars + across), 1.0, 0.5).components
    assert len(parts.layer) == 2 * n and len(parts.links) == n * n
    assert len(np.unique(parts.links, axis=0)) == n * n
