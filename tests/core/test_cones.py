"""Cones that bound where a vertex can be lowest: none too narrow, and narrow enough to be of use."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.mesh import Mesh
from tenugui.core.pose import spread_directions, weigh
from tenugui.core.pose.cones import cones
from tenugui.core.pose.search import _adjacency
from tests.shapes import ball, box, cone, knobbly


def cones_of(mesh: Mesh) -> np.ndarray:  # type: ignore[type-arg]
    start, near = _adjacency(mesh)
    out = np.empty((4, len(mesh.vertices)), np.float32)
    cones(mesh.vertices, start, near, 0, len(mesh.vertices), out)
    return out


def candidates(held: np.ndarray, down: np.ndarray) -> np.ndarray:  # type: ignore[type-arg]
    return down @ held[:3] >= held[3]


def lowest(mesh: Mesh, down: np.ndarray) -> np.ndarray:  # type: ignore[type-arg]
    """Vertices no neighbour of which lies further down, by looking at every edge."""
    deep = mesh.vertices @ down
    beaten = np.zeros(len(deep), bool)
    for a, b in ((0, 1), (1, 2), (2, 0)):
        i, j = mesh.faces[:, a], mesh.faces[:, b]
        beaten[i[deep[j] > deep[i] + 1e-12]] = True
        beaten[j[deep[i] > deep[j] + 1e-12]] = True
    return ~beaten


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_no_lowest_vertex_is_left_out(seed: int) -> None:
    rng = np.random.default_rng(seed)
    stone = knobbly(9, 4)
    rough = Mesh(stone.vertices + rng.normal(scale=0.15, size=stone.vertices.shape), stone.faces)
    held = cones_of(rough)
    for down in rng.normal(size=(6, 3)):
        down /= np.linalg.norm(down)
        assert candidates(held, down)[lowest(rough, down)].all()


def test_few_others_are_looked_at() -> None:
    sphere = ball(10, (0, 0, 0), 5)
    held = cones_of(sphere)
    for down in spread_directions(10):
        assert 1 <= candidates(held, down).sum() <= 0.02 * len(sphere.vertices)


def test_a_boxs_corners_look_into_their_octants() -> None:
    cube = box((0, 0, 0), (2, 2, 2))
    held = cones_of(cube)
    for i, vertex in enumerate(cube.vertices):
        # The axis may lean with the diagonals of the walls; the octant must be inside the cap.
        for d in np.abs(spread_directions(100)) * np.sign(vertex):
            assert d @ held[:3, i] >= held[3, i] - 1e-6


def test_a_saddle_is_lowest_for_nothing() -> None:
    x, y = np.meshgrid(np.arange(-2.0, 3), np.arange(-2.0, 3))
    points = np.stack([x.ravel(), y.ravel(), (x * x - y * y).ravel() / 4], axis=1)
    corner = (np.arange(4)[:, None] * 5 + np.arange(4)).ravel()
    faces = np.concatenate(
        [np.stack([corner, corner + 1, corner + 5], 1), np.stack([corner + 1, corner + 6, corner + 5], 1)]
    )
    held = cones_of(Mesh(points, faces.astype(np.int32)))
    assert not any(candidates(held, d)[12] for d in spread_directions(200))


def test_a_tip_points_one_way_and_never_the_other() -> None:
    spike = cone(10, 5)
    apex = int(np.argmax(spike.vertices[:, 2]))
    held = cones_of(spike)
    assert candidates(held, np.array([0.0, 0, 1]))[apex]
    upright = weigh(spike, np.array([[0.0, 0, -1], [0, 0, 1]]), 0.8).column("minima")
    assert upright.tolist() == [0, 0], (
        "the apex is no start in mid air when it points up, and touches the plate when it points down"
    )


@pytest.mark.parametrize(
    "mesh", [ball(6, (0, 0, 0), 3), knobbly(9, 4), box((0, 0, 0), (4, 5, 6))], ids=["ball", "stone", "box"]
)
def test_a_direction_weighed_with_its_opposite_weighs_the_same_alone(mesh: Mesh) -> None:
    downs = spread_directions(24)
    together = weigh(mesh, downs, 0.9).aims
    alone = np.concatenate([weigh(mesh, d[None], 0.9).aims for d in downs])
    assert together == pytest.approx(alone, rel=1e-4, abs=1e-3)


def test_the_section_of_a_box_is_its_base() -> None:
    table = weigh(box((0, 0, 0), (10, 20, 30)), np.array([[0, 0, -1.0], [0, -1.0, 0], [1.0, 0, 0]]), 0.8)
    assert table.column("peak_section_mm2") == pytest.approx([200, 300, 600], rel=1e-4)


def test_the_section_of_a_sphere_is_its_great_circle() -> None:
    table = weigh(ball(10, (3, 4, 5), 5), spread_directions(12), 0.8)
    assert table.column("peak_section_mm2") == pytest.approx(np.full(12, np.pi * 100), rel=0.01)
