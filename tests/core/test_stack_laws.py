"""Laws that every layer stack keeps, whatever the figure: symmetry, scale, winding, and an order in what merges."""

from __future__ import annotations

import manifold3d
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.layers import Proof, cut, cut_onto, grid_for, prove
from tenugui.core.mesh import Mesh
from tests.shapes import ball, box, cone, cup, cylinder, fork, knobbly

STEP = 0.2
FIGURES = {"gate": fork(), "stone": knobbly(10, 4), "bowl": cup(6, 1.5, 1.5, 9)}


def turned(mesh: Mesh, degrees: float) -> Mesh:
    a = np.radians(degrees)
    return mesh.transformed(np.round(np.array([[np.cos(a), -np.sin(a), 0], [np.sin(a), np.cos(a), 0], [0, 0, 1]]), 12))


def told(proof: Proof) -> tuple[list[tuple[int, int | None]], int, float]:
    """Islands by birth and merge, how many sealed spaces, and their volume."""
    return (
        [(i.layer, i.merge_layer) for i in proof.islands],
        len(proof.voids.sealed),
        sum(s.volume for s in proof.voids.sealed),
    )


@pytest.mark.parametrize("name", FIGURES)
@pytest.mark.parametrize("degrees", [90, 180, 270])
def test_a_quarter_turn_changes_nothing_but_the_place(name: str, degrees: float) -> None:
    figure = FIGURES[name]
    here, there = prove(figure, 0.1, STEP), prove(turned(figure, degrees), 0.1, STEP)
    assert there.areas == pytest.approx(here.areas, rel=0.01, abs=0.05)
    islands, cups, volume = told(here)
    assert (
        told(there)[0] == islands
        and told(there)[1] == cups
        and told(there)[2] == pytest.approx(volume, rel=0.02, abs=0.1)
    )


@pytest.mark.parametrize("name", FIGURES)
def test_the_mirror_image_is_told_alike(name: str) -> None:
    figure = FIGURES[name]
    mirrored = figure.transformed(np.diag([-1.0, 1.0, 1.0]))
    here, there = prove(figure, 0.1, STEP), prove(mirrored, 0.1, STEP)
    assert there.stack.volume() == pytest.approx(here.stack.volume(), rel=1e-3)
    assert told(there)[:2] == told(here)[:2]


@pytest.mark.parametrize("name", FIGURES)
def test_twice_the_size_on_twice_the_grid_is_the_same_figure(name: str) -> None:
    figure = FIGURES[name]
    small, large = prove(figure, 0.1, 0.2, 0.1), prove(figure.scaled(2.0), 0.2, 0.4, 0.2)
    assert large.areas == pytest.approx(4 * small.areas, rel=1e-6, abs=1e-6)
    assert large.hang.total == pytest.approx(4 * small.hang.total, rel=1e-3, abs=1e-6)
    assert told(large)[:2] == told(small)[:2] and told(large)[2] == pytest.approx(8 * told(small)[2], rel=1e-6)


@settings(max_examples=15, deadline=None)
@given(st.integers(0, 2**32 - 1), st.integers(2, 5))
def test_overlapping_balls_count_as_their_union(seed: int, count: int) -> None:
    """The winding number does what a robust boolean does, without one."""
    rng = np.random.default_rng(seed)
    balls = [ball(float(rng.uniform(2, 5)), tuple(rng.uniform(-4, 4, 3) + [0, 0, 12]), 3) for _ in range(count)]
    solids = [
        manifold3d.Manifold(manifold3d.Mesh(b.vertices.astype(np.float32), b.faces.astype(np.uint32))) for b in balls
    ]
    union = manifold3d.Manifold.batch_boolean(solids, manifold3d.OpType.Add)
    assert prove(Mesh.joined(balls), 0.1, STEP).stack.volume() == pytest.approx(union.volume(), rel=0.01)


def test_a_figure_turned_inside_out_is_still_the_figure() -> None:
    stone = knobbly(8, 4)
    inside_out = Mesh(stone.vertices, np.ascontiguousarray(stone.faces[:, ::-1]))
    assert prove(inside_out, 0.1, STEP).stack.volume() == pytest.approx(prove(stone, 0.1, STEP).stack.volume())


def test_a_shell_pushed_into_a_body_changes_no_layer() -> None:
    body = cylinder(6, 12)
    assert prove(Mesh.joined([body, box((1, 1, 6), (3, 3, 4))]), 0.1, STEP).areas == pytest.approx(
        prove(body, 0.1, STEP).areas
    )


@pytest.mark.parametrize("height", [0.02, 0.05, 0.1, 0.2])
def test_layers_are_as_many_as_the_height_asks_for(height: float) -> None:
    proof = prove(cylinder(4, 6), height, STEP)
    assert proof.stack.grid.layers == round(6 / height)
    assert proof.areas == pytest.approx(np.full(proof.stack.grid.layers, np.pi * 16), rel=0.01)


def test_a_cone_narrows_by_the_square() -> None:
    proof = prove(cone(10, 20), 0.1, STEP, 0.05)
    z = (np.arange(len(proof.areas)) + 0.5) * 0.1
    assert proof.areas == pytest.approx(np.pi * (10 * (1 - z / 20)) ** 2, rel=0.02, abs=0.1)
    assert not proof.islands and not proof.voids.sealed


parts = st.lists(
    st.tuples(*[st.integers(-8, 8) for _ in range(2)], st.integers(0, 14), *[st.integers(1, 7) for _ in range(3)]),
    min_size=1,
    max_size=7,
)


@settings(max_examples=40, deadline=None)
@given(parts)
def test_what_merges_keeps_an_order(rows: list[tuple[int, ...]]) -> None:
    figure = Mesh.joined([box((x + w / 2, y + d / 2, z + h / 2), (w, d, h)) for x, y, z, w, d, h in rows])
    proof = prove(figure, 0.5, STEP, 0.25)
    top = proof.stack.grid.layers
    for island in proof.islands:
        assert 0 < island.layer < island.until_layer <= top and island.area > 0
        if island.merge_layer is not None:
            assert island.layer < island.merge_layer < top
        if island.ground_layer is not None:
            assert island.merge_layer is not None and island.ground_layer >= island.merge_layer
        if island.joins_layer is not None:
            assert island.until_layer == island.joins_layer
    births = [i.layer for i in proof.islands]
    assert births == sorted(births), "told from the plate upwards"
    assert proof.hang.by_layer.min() >= 0 and proof.hang.by_layer.sum() == pytest.approx(proof.hang.total)
    assert (proof.voids.sealed_area >= 0).all()
    assert sum(t.volume for t in proof.voids.trapped) <= sum(s.volume for s in proof.voids.sealed) + 1e-6, (
        "what is trapped was sealed first"
    )
    assert proof.stack.volume() == pytest.approx(proof.areas.sum() * 0.5)


@pytest.mark.parametrize("gap", [0.0, 1.0])
def test_a_gap_in_the_wall_vents_the_cup_down_to_its_sill(gap: float) -> None:
    """Four walls on a floor; one of them begins `gap` above the floor."""
    walls = [box((s * 5.5, 0, 6), (1, 12, 10)) for s in (-1, 1)] + [box((0, 5.5, 6), (10, 1, 10))]
    front = box((0, -5.5, 6 + gap / 2), (10, 1, 10 - gap))
    proof = prove(Mesh.joined([box((0, 0, 0.5), (12, 12, 1)), *walls, front]), 0.1, STEP)
    assert len(proof.voids.sealed) == (0 if gap else 1)
    if not gap:
        assert proof.voids.sealed[0].volume == pytest.approx(1000, rel=0.01)


@pytest.mark.parametrize("tines", [1, 2, 5])
def test_every_tine_is_an_island_of_its_own(tines: int) -> None:
    beam = Mesh.joined([box((0, 0, 30), (40, 4, 4)), box((-18, 0, 15), (4, 4, 30))])
    hanging = [box((-10 + 6 * n, 0, (28 + 8 + n) / 2), (2, 2, 28 - 8 - n)) for n in range(tines)]
    islands = prove(Mesh.joined([beam, *hanging]), 0.1, STEP).islands
    assert [i.layer for i in islands] == [10 * (8 + n) for n in range(tines)]
    assert {i.merge_layer for i in islands} == {280}


@settings(max_examples=40, deadline=None)
@given(
    st.lists(
        st.tuples(*[st.floats(-9, 9)] * 2, st.floats(1, 9), *[st.floats(0.5, 6)] * 3),
        min_size=1,
        max_size=4,
    ),
    st.sampled_from(sorted(FIGURES)),
)
def test_what_is_cut_onto_a_stack_is_as_if_all_had_been_cut_at_once(
    boxes: list[tuple[float, float, float, float, float, float]], name: str
) -> None:
    figure = FIGURES[name].dropped()
    more = Mesh.joined([box((x, y, z + c / 2), (a, b, c)) for x, y, z, a, b, c in boxes])
    laid = cut_onto(cut(figure, grid_for(figure, 0.25, 0.1)), more)
    whole = Mesh.joined([figure, more])
    once = cut(whole, grid_for(whole, 0.25, 0.1))
    assert laid.grid == once.grid
    assert (laid.row_start == once.row_start).all() and laid.contour_mm == pytest.approx(once.contour_mm, rel=1e-4)
    # Ends are rounded in one frame or the other: a step of a run's end is pitch / 256.
    assert np.abs(laid.x_in - once.x_in).max(initial=0) <= 1
    assert np.abs(laid.x_out - once.x_out).max(initial=0) <= 1
