"""Rays, windings, distances and edges against plain arithmetic and a general library."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.mesh import Mesh, Nearest
from tenugui.core.mesh.distance import point_triangle
from tenugui.core.mesh.edges import edges_of, face_volumes, neighbours, repeats
from tenugui.core.mesh.fit import compact, fit_for_work, repeating, subset
from tenugui.core.mesh.near import distance_within, face_grid, leave_solid, nearest_hit, winding_numbers
from tenugui.core.mesh.rays import FAR, RayMesh, rays_of
from tenugui.core.mesh.samples import surface_samples
from tenugui.core.mesh.shells import shell_boxes, shell_labels
from tenugui.core.mesh.winding import solid_angles
from tests.shapes import ball, box, cylinder, knobbly, mesh_of

coordinate = st.floats(-5, 5, allow_nan=False).map(lambda v: round(v, 3))
point = st.tuples(coordinate, coordinate, coordinate).map(np.array)


def hit(mesh: Mesh, origin: np.ndarray, way: np.ndarray, reach: float = 100.0) -> tuple[float, int]:
    return nearest_hit(face_grid(mesh), *origin, *way, reach)


def left(
    mesh: Mesh, origin: np.ndarray, way: np.ndarray, winding: int = 1, reach: float = 100.0
) -> tuple[float, int, int]:
    return leave_solid(face_grid(mesh), *origin, *way, reach, winding)


def test_the_grid_names_every_face_in_every_cell_that_its_box_meets() -> None:
    stone = knobbly(fineness=3)
    grid = face_grid(stone)
    low, high = stone.corners().min(axis=1), stone.corners().max(axis=1)
    first = np.clip(((low - grid.lower) / grid.cell).astype(int), 0, grid.dims - 1)
    last = np.clip(((high - grid.lower) / grid.cell).astype(int), 0, grid.dims - 1)
    assert len(grid.items) == int((last - first + 1).prod(axis=1).sum())
    assert set(grid.items.tolist()) == set(range(len(stone.faces)))


def test_no_ray_slips_through_the_seams_of_a_closed_mesh() -> None:
    """Aimed from inside at corners and at the middles of edges: a robust tree misses none."""
    stone = knobbly(12, 3)
    begin = (stone.lower + stone.upper) / 2
    a, b = stone.vertices[stone.faces[:, 0]], stone.vertices[stone.faces[:, 1]]
    for at in (stone.vertices, (a + b) / 2):
        length, face = rays_of(stone).first(np.broadcast_to(begin, at.shape), at - begin)
        assert (face >= 0).all() and (length <= 1 + 1e-4).all()


def test_rays_on_nothing_hit_nothing_and_scenes_are_given_back() -> None:
    none = Mesh(np.empty((0, 3)), np.empty((0, 3), np.int32))
    length, face = rays_of(none).first(np.zeros((1, 3)), np.array([0.0, 0, 1]))
    assert length[0] == FAR and face[0] == -1
    for _ in range(50):
        assert RayMesh(box((0, 0, 0), (1, 1, 1))).first(np.zeros((1, 3)), np.array([0.0, 0, 1]))[0][0] == 0.5


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10_000))
def test_a_ray_from_within_a_ball_meets_it_where_the_quadratic_says(seed: int) -> None:
    rng = np.random.default_rng(seed)
    origin = rng.normal(size=3)
    origin *= rng.uniform(0, 0.7) * 5 / np.linalg.norm(origin)
    way = rng.normal(size=3)
    way /= np.linalg.norm(way)
    b = origin @ way
    exact = -b + np.sqrt(b * b - origin @ origin + 25)
    told, face = hit(ball(5.0), origin, way)
    # The ball is of facets: each lies inside the sphere by its sagitta at most, seen at a slant.
    assert face >= 0 and told == pytest.approx(exact, abs=0.02) and told <= exact + 1e-9


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000))
def test_near_rays_agree_with_the_ray_library(seed: int) -> None:
    rng = np.random.default_rng(seed)
    stone = knobbly(fineness=3)
    inside = rng.normal(size=(20, 3)) * 3 + (stone.lower + stone.upper) / 2
    ways = rng.normal(size=(20, 3))
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    lengths, _ = rays_of(stone).first(inside, ways)
    for origin, way, length in zip(inside, ways, lengths, strict=True):
        told, _ = hit(stone, origin, way)
        assert told == pytest.approx(min(length, 100.0), rel=1e-4)


def test_a_ray_that_meets_nothing_says_so_at_once_and_far_away() -> None:
    cube = box((0, 0, 0), (2, 2, 2))
    assert hit(cube, np.array([5.0, 0, 0]), np.array([0.0, 0.0, 1.0]), 7.0) == (7.0, -1)
    length, face = rays_of(cube).first(np.array([[5.0, 0, 0]]), np.array([0.0, 0.0, 1.0]))
    assert length[0] == FAR and face[0] == -1


def test_two_boxes_pushed_into_each_other_are_left_once_at_the_far_side() -> None:
    both = Mesh.joined([box((0, 0, 0), (4, 4, 4)), box((3, 0, 0), (4, 4, 4))])
    way = np.array([1.0, 0.001, 0.002])
    length, face, total = left(both, np.array([-1.0, 0.1, 0.2]), way)
    assert length == pytest.approx(6.0, abs=0.01) and face >= 0 and total == -1
    alone, _, _ = left(box((0, 0, 0), (4, 4, 4)), np.array([-1.0, 0.1, 0.2]), way)
    assert alone == pytest.approx(3.0, abs=0.01)


def test_a_cavity_is_left_at_its_wall() -> None:
    hollow = Mesh.joined([box((0, 0, 0), (10, 10, 10)), mesh_of(trimesh.creation.box((6, 6, 6)))])
    turned = Mesh(hollow.vertices, np.concatenate([hollow.faces[:12], hollow.faces[12:, ::-1]]))
    length, _, _ = left(turned, np.array([-4.5, 0.1, 0.2]), np.array([1.0, 0.001, 0.002]))
    assert length == pytest.approx(1.5, abs=0.01), "the wall is 2 mm, of which half a millimetre lies behind"


@settings(max_examples=25, deadline=None)
@given(st.lists(st.tuples(point, st.floats(0.5, 3)), min_size=1, max_size=4), st.lists(point, min_size=1, max_size=8))
def test_windings_count_the_boxes_around_a_point(
    boxes: list[tuple[np.ndarray, float]], asked: list[np.ndarray]
) -> None:
    mesh = Mesh.joined([box(tuple(c), (2 * r, 2 * r, 2 * r)) for c, r in boxes])
    asked = [p + [0.00037, 0.00053, 0.00071] for p in asked]
    clear = [p for p in asked if all(np.abs(np.abs(p - c) - r).min() > 1e-4 for c, r in boxes)]
    if not clear:
        return
    counted = [sum(bool((np.abs(p - c) < r).all()) for c, r in boxes) for p in clear]
    assert winding_numbers(np.array(clear), face_grid(mesh)).tolist() == counted
    assert np.round(solid_angles(np.array(clear), mesh.vertices, mesh.faces)).tolist() == counted


def test_the_solid_angle_of_a_face_of_a_cube_is_a_sixth() -> None:
    cube = box((0, 0, 0), (2, 2, 2))
    normal, _ = cube.normals_and_areas()
    top = cube.faces[normal[:, 2] > 0.9]
    assert solid_angles(np.zeros((1, 3)), cube.vertices, top)[0] == pytest.approx(1 / 6)


@settings(max_examples=200, deadline=None)
@given(point, point, point, point)
def test_a_point_is_as_far_from_a_triangle_as_its_nearest_sample(
    p: np.ndarray, a: np.ndarray, b: np.ndarray, c: np.ndarray
) -> None:
    told = np.sqrt(point_triangle(p, np.array([a, b, c]), 0, 1, 2))
    u, v = np.meshgrid(np.linspace(0, 1, 60), np.linspace(0, 1, 60))
    keep = u + v <= 1 + 1e-12
    cloud = a + u[keep][:, None] * (b - a) + v[keep][:, None] * (c - a)
    sampled = float(np.linalg.norm(cloud - p, axis=1).min())
    coarse = max(np.linalg.norm(b - a), np.linalg.norm(c - a)) / 59
    assert told <= sampled + 1e-7 and sampled <= told + coarse + 1e-7


def test_distances_to_a_ball_are_those_to_its_sphere() -> None:
    mesh = ball(6.0)
    rng = np.random.default_rng(4)
    points = rng.normal(size=(200, 3))
    points *= (rng.uniform(1, 9, 200) / np.linalg.norm(points, axis=1))[:, None]
    exact = np.abs(np.linalg.norm(points, axis=1) - 6.0)
    assert Nearest(mesh).of(points)[1] == pytest.approx(exact, abs=0.02)
    near = distance_within(points, face_grid(mesh), 2.0)
    assert near == pytest.approx(np.minimum(exact, 2.0), abs=0.02)
    assert len(Nearest(mesh).of(np.empty((0, 3)))[1]) == 0


@pytest.mark.parametrize(
    "shape", [ball(3.0, fineness=2), box((1, 2, 3), (2, 3, 4)), cylinder(2.0, 5.0), knobbly(fineness=2)]
)
def test_a_closed_surface_has_every_edge_twice_and_euler_holds(shape: Mesh) -> None:
    edges = edges_of(shape)
    assert not edges.boundary.any() and not edges.crowded.any() and not edges.unbalanced.any()
    assert len(shape.vertices) - len(edges.pairs) + len(shape.faces) == 2
    across, same = neighbours(shape.faces)
    assert (across >= 0).all() and not same.any()
    for f in range(0, len(shape.faces), max(1, len(shape.faces) // 20)):
        assert all(len(set(shape.faces[f]) & set(shape.faces[g])) == 2 for g in across[f])
    general = trimesh.Trimesh(shape.vertices, shape.faces, process=False)
    assert float(face_volumes(shape).sum()) == pytest.approx(general.volume)
    assert shape.normals_and_areas()[1].sum() == pytest.approx(general.area)


def test_a_third_face_on_an_edge_is_nobodys_neighbour() -> None:
    fan = np.array([[0, 1, 2], [1, 0, 3], [0, 1, 4]], np.int32)
    mesh = Mesh(np.random.default_rng(0).normal(size=(5, 3)), fan)
    edges = edges_of(mesh)
    assert edges.crowded.sum() == 1 and edges.boundary.sum() == 6
    across, _ = neighbours(fan)
    assert (across == -1).all()


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(*[st.integers(0, 40)] * 3), min_size=1, max_size=200), st.integers(0, 60))
def test_edges_are_those_that_plain_counting_finds(rows: list[tuple[int, int, int]], spokes: int) -> None:
    rows = [*rows, *((0, k, k + 1) for k in range(41, 41 + spokes))]  # a hub of many
    counted: dict[tuple[int, int], list[int]] = {}
    for row in rows:
        for a, b in zip(row, (*row[1:], row[0]), strict=True):
            if a != b:
                counted.setdefault((min(a, b), max(a, b)), [0, 0])[int(a > b)] += 1
    edges = edges_of(Mesh(np.zeros((102, 3)), np.array(rows, np.int32)))
    assert [tuple(pair) for pair in edges.pairs.tolist()] == sorted(counted)
    assert np.stack([edges.forward, edges.backward], axis=1).tolist() == [counted[key] for key in sorted(counted)]


def test_neighbours_that_run_the_same_way_are_told() -> None:
    across, same = neighbours(np.array([[0, 1, 2], [0, 1, 3]], np.int32))
    assert across[0, 0] == 1 and same[0, 0] and same[1, 0]


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(*[st.integers(0, 6)] * 3), min_size=1, max_size=40))
def test_repeats_group_faces_by_their_corners(rows: list[tuple[int, int, int]]) -> None:
    faces = np.array(rows, np.int32)
    group, sizes = repeats(faces)
    keys = [tuple(sorted(r)) for r in rows]
    assert len(sizes) == len(set(keys)) and sizes.sum() == len(rows)
    for i in range(len(rows)):
        for j in range(i):
            assert (group[i] == group[j]) == (keys[i] == keys[j])
    assert repeating(faces).tolist() == [len(set(r)) < 3 for r in rows]


@settings(max_examples=40, deadline=None)
@given(st.lists(st.tuples(*[st.integers(0, 9)] * 3), min_size=1, max_size=30))
def test_work_drops_what_repeats_a_vertex_and_remembers_where_the_rest_came_from(
    rows: list[tuple[int, int, int]],
) -> None:
    mesh = Mesh(np.random.default_rng(1).normal(size=(10, 3)), np.array(rows, np.int32))
    sound = [i for i, r in enumerate(rows) if len(set(r)) == 3]
    if not sound:
        return
    made = fit_for_work(mesh)
    assert made.faces.tolist() == sound
    for new, old in enumerate(made.faces):
        assert np.allclose(made.mesh.vertices[made.mesh.faces[new]], mesh.vertices[mesh.faces[old]])


def test_compact_leaves_no_vertex_that_nothing_names() -> None:
    cube = box((0, 0, 0), (1, 1, 1))
    loose = Mesh(np.concatenate([[[99.0, 99, 99]], cube.vertices]), cube.faces + 1)
    tight = compact(loose)
    assert len(tight.vertices) == 8 and tight.upper.max() == pytest.approx(0.5)
    one = subset(cube, np.arange(12) < 1)
    assert len(one.faces) == 1 and len(one.vertices) == 3


def test_samples_lie_on_their_faces_and_spread_by_area() -> None:
    slab = box((0, 0, 0), (20, 10, 0.5))
    points, face = surface_samples(slab, 0.3)
    assert distance_within(points, face_grid(slab), 1.0).max() < 1e-9
    _, area = slab.normals_and_areas()
    share = np.bincount(face, minlength=12) / len(face)
    assert share == pytest.approx(area / area.sum(), abs=0.01)
    again, _ = surface_samples(slab, 0.3)
    assert (points == again).all(), "the same figure is measured at the same places"
    assert len(surface_samples(Mesh(np.zeros((3, 3)), np.array([[0, 1, 2]], np.int32)), 0.3)[0]) == 0


def test_shells_are_told_apart_and_boxed() -> None:
    three = Mesh.joined([box((0, 0, 0), (1, 1, 1)), ball(1.0, (5, 0, 0), fineness=2), box((0, 9, 0), (2, 2, 2))])
    label, count = shell_labels(three.faces, len(three.vertices))
    assert count == 3 and label[0] == 0 and label[-1] == 2
    lower, upper = shell_boxes(three, label, count)
    assert lower[2] == pytest.approx([-1, 8, -1]) and upper[1][0] == pytest.approx(6.0)
