"""Repair: a sound mesh is left alone bit for bit; each fault is mended, and the change is told in numbers."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.mesh import Mesh, Nearest, examine, measure
from tenugui.core.repair import find_props, repair, without_faces
from tests.shapes import ball, box, cup, cylinder, fork, hollow_ball, knobbly

BALL = ball(5)


@pytest.mark.parametrize(
    "mesh", [BALL, fork(), hollow_ball(), cup(), knobbly()], ids=["ball", "overlapping boxes", "hollow", "cup", "stone"]
)
def test_a_sound_mesh_passes_through_untouched(mesh: Mesh) -> None:
    done = repair(mesh)
    assert done.mesh is mesh and not done.steps and not done.new.any() and done.open_left == 0


def test_a_cube_with_a_face_missing_is_closed() -> None:
    cube = box((0, 0, 5), (10, 10, 10))
    done = repair(Mesh(cube.vertices, cube.faces[2:]))
    assert [s.code for s in done.steps] == ["fill"] and done.steps[0].added == 2 and done.open_left == 0
    assert measure(done.mesh).volume_mm3 == pytest.approx(1000) and done.new.sum() == 2
    # The middles of the two new triangles lie 10/3/√2 from the rim that was left.
    assert done.steps[0].deviation_mm == pytest.approx(10 / 3 / np.sqrt(2), rel=1e-6)


def test_a_shell_turned_inside_out_is_turned_back() -> None:
    done = repair(ball(5, inside_out=True))
    assert [s.code for s in done.steps] == ["turn"] and measure(done.mesh).volume_mm3 == pytest.approx(
        measure(BALL).volume_mm3
    )
    assert done.steps[0].volume_mm3 == pytest.approx(2 * measure(BALL).volume_mm3)


@settings(max_examples=15, deadline=None)
@given(st.integers(0, 10**6), st.floats(0.01, 0.45))
def test_faces_turned_at_random_all_come_back(seed: int, share: float) -> None:
    small = ball(5, fineness=3)
    turned = np.random.default_rng(seed).random(len(small.faces)) < share
    faces = small.faces.copy()
    faces[turned] = faces[turned][:, ::-1]
    assert np.array_equal(repair(Mesh(small.vertices, faces)).mesh.faces[~turned], small.faces[~turned])
    assert measure(repair(Mesh(small.vertices, faces)).mesh).watertight


@settings(max_examples=15, deadline=None)
@given(st.integers(0, 10**6), st.integers(1, 60))
def test_faces_lost_at_random_leave_a_closed_surface_of_nearly_the_same_volume(seed: int, lost: int) -> None:
    small = ball(5, fineness=4)
    gone = np.random.default_rng(seed).choice(len(small.faces), lost, replace=False)
    done = repair(Mesh(small.vertices, np.delete(small.faces, gone, axis=0)))
    after = measure(done.mesh)
    assert after.watertight and after.volume_mm3 == pytest.approx(measure(small).volume_mm3, rel=0.01)
    assert max(s.deviation_mm for s in done.steps) < 0.5


def test_corners_that_nearly_meet_are_joined_and_the_move_is_told() -> None:
    left, right = BALL.faces[: len(BALL.faces) // 2], BALL.faces[len(BALL.faces) // 2 :]
    torn = Mesh(
        np.vstack([BALL.vertices, BALL.vertices + 3e-5]), np.vstack([left, right + len(BALL.vertices)]).astype(np.int32)
    )
    assert not measure(torn).watertight
    done = repair(torn)
    assert done.steps[0].code == "weld" and done.steps[0].deviation_mm == pytest.approx(3e-5 * np.sqrt(3), rel=1e-6)
    assert measure(done.mesh).watertight and measure(done.mesh).volume_mm3 == pytest.approx(
        measure(BALL).volume_mm3, rel=1e-4
    )


def test_doubled_faces_and_faces_without_area_go() -> None:
    doubled = Mesh(BALL.vertices, np.vstack([BALL.faces, BALL.faces[:3], [[7, 7, 9]]]).astype(np.int32))
    assert {"double-faces", "zero-area"} <= {f.code for f in examine(doubled).findings}
    done = repair(doubled)
    assert done.steps[0].code == "drop" and done.steps[0].removed == 4
    assert measure(done.mesh).watertight and measure(done.mesh).volume_mm3 == pytest.approx(measure(BALL).volume_mm3)


def test_overlapping_shells_are_united_only_when_asked() -> None:
    pair = Mesh.joined([box((0, 0, 5), (10, 10, 10)), box((5, 0, 5), (10, 10, 10))])
    assert repair(pair).mesh is pair
    done = repair(pair, join_shells=True)
    assert measure(done.mesh).shells == 1 and measure(done.mesh).volume_mm3 == pytest.approx(1500)
    assert done.steps[0].volume_mm3 == pytest.approx(-500) and done.steps[0].deviation_mm < 1e-6
    kept = repair(hollow_ball(), join_shells=True)
    assert [s.code for s in kept.steps] == ["unite-refused"] and measure(kept.mesh).shells == 2


def test_three_faces_at_an_edge_are_left_and_told_and_the_last_resort_closes_them() -> None:
    """Two tetrahedra that share an edge, and a fin: no turning or filling makes that a manifold."""
    cube = box((0, 0, 5), (10, 10, 10))
    fin = Mesh(
        np.vstack([cube.vertices, [[0, 0, 30]]]), np.vstack([cube.faces, [[*cube.faces[0, :2], 8]]]).astype(np.int32)
    )
    assert "crowded-edges" in {f.code for f in examine(fin).findings}
    done = repair(fin, last_resort=True)
    after = measure(done.mesh)
    assert (
        done.steps[-1].code in ("remesh", "fill")
        and after.watertight
        and after.volume_mm3 == pytest.approx(1000, rel=0.02)
    )


def test_distance_to_a_surface_is_exact() -> None:
    cube = box((0, 0, 0), (2, 2, 2))
    points = np.array([[0, 0, 3.0], [3, 3, 3], [0, 0, 0], [1.5, 0, 0], [0.2, 0.9, 0.1]])
    assert Nearest(cube).of(points)[1] == pytest.approx([2, np.sqrt(12), 1, 0.5, 0.1])


def propped(united: bool) -> Mesh:
    """A ball on eight pillars with narrow tips and a raft, as separate shells or as one surface."""
    import manifold3d

    parts = [ball(8, (0, 0, 16), 4), box((0, 0, 0.5), (18, 18, 1.0))]
    for k in range(8):
        x, y = 4.5 * np.cos(k * np.pi / 4), 4.5 * np.sin(k * np.pi / 4)
        reach = 16 - np.sqrt(64 - 4.5**2)
        parts.append(cylinder(0.7, reach - 2.0, (x, y, 0.9)))
        parts.append(cylinder(0.2, 1.4, (x, y, reach - 1.2)))
    if not united:
        whole = [parts[0], parts[1]]
        for thick, thin in zip(parts[2::2], parts[3::2], strict=True):
            solid = manifold3d.Manifold.batch_boolean([_solid(thick), _solid(thin)], manifold3d.OpType.Add)
            whole.append(_mesh(solid))
        return Mesh.joined(whole)
    return _mesh(manifold3d.Manifold.batch_boolean([_solid(p) for p in parts], manifold3d.OpType.Add))


def _solid(mesh: Mesh):  # type: ignore[no-untyped-def]
    import manifold3d

    return manifold3d.Manifold(manifold3d.Mesh(mesh.vertices.astype(np.float32), mesh.faces.astype(np.uint32)))


def _mesh(solid) -> Mesh:  # type: ignore[no-untyped-def]
    made = solid.to_mesh()
    return Mesh(np.asarray(made.vert_properties[:, :3], float), np.asarray(made.tri_verts, np.int32))


@pytest.mark.parametrize("united", [False, True], ids=["shells of their own", "one surface"])
def test_supports_that_came_with_the_file_are_found_and_stripped(united: bool) -> None:
    figure = propped(united)
    props = find_props(figure)
    assert props is not None and props.count == 8 and props.raft and props.told_by == ("necks" if united else "shells")
    left = repair(without_faces(figure, props.faces))
    after = measure(left.mesh)
    assert after.watertight and after.volume_mm3 == pytest.approx(4 / 3 * np.pi * 8**3, rel=0.02)
    assert after.size_mm[2] == pytest.approx(16, rel=0.05)


@pytest.mark.parametrize(
    "mesh",
    [
        fork(),
        knobbly(),
        cup(),
        Mesh.joined([box((4 * k, 0, 10), (1, 1, 20)) for k in range(4)] + [box((6, 0, 22), (16, 4, 4))]),
    ],
)
def test_a_figures_own_legs_are_not_taken_for_supports(mesh: Mesh) -> None:
    assert find_props(mesh) is None
