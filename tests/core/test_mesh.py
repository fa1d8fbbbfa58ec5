"""Mesh basics, health, thickness, preview."""

from __future__ import annotations

import ctypes

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from tenugui.core.contract import pack_mesh, unpack_mesh
from tenugui.core.errors import CoreError
from tenugui.core.mesh import (
    CODES,
    Mesh,
    Nearest,
    cluster,
    decimate,
    examine,
    guess_unit,
    local_thickness,
    measure,
    picture,
    shell_labels,
    thin_places,
    weld,
)
from tenugui.core.mesh.distance import nearest_on
from tests.shapes import ball, box, cylinder, hollow_ball, knobbly


def codes(mesh: Mesh) -> dict[str, int]:
    return {f.code: f.count for f in examine(mesh).findings}


def test_measures_of_a_box() -> None:
    basics = measure(box((5, 5, 5), (20, 30, 40)))
    assert (basics.triangles, basics.vertices, basics.shells, basics.watertight) == (12, 8, 1, True)
    assert basics.volume_mm3 == pytest.approx(24_000) and basics.area_mm2 == pytest.approx(2 * (600 + 800 + 1200))


def test_a_good_figure_has_no_findings() -> None:
    assert codes(ball(20)) == {}


def test_a_missing_face_is_three_open_edges() -> None:
    whole = ball(20)
    assert codes(Mesh(whole.vertices, whole.faces[1:].copy())) == {"open-edges": 3}


def test_a_face_turned_inside_out() -> None:
    whole = ball(20)
    faces = whole.faces.copy()
    faces[7] = faces[7][::-1]
    assert codes(Mesh(whole.vertices, faces)) == {"turned-faces": 3}


def test_a_doubled_face_and_a_degenerate_one() -> None:
    whole = ball(20)
    faces = np.vstack([whole.faces, whole.faces[:1], [[3, 3, 4]]]).astype(np.int32)
    found = codes(Mesh(whole.vertices, faces))
    assert found["double-faces"] == 1 and found["zero-area"] == 1 and found["crowded-edges"] == 3


def test_a_shell_inside_out_is_found_and_a_cavity_is_not() -> None:
    assert codes(ball(20, inside_out=True)) == {"inside-out-shell": 1}
    assert codes(Mesh.joined([ball(20), ball(8, (60, 0, 0), inside_out=True)]))["inside-out-shell"] == 1
    assert "inside-out-shell" not in codes(hollow_ball(20, 15))


def test_specks_are_counted_and_placed() -> None:
    found = {f.code: f for f in examine(Mesh.joined([ball(20), box((30, 0, 0), (0.01, 0.01, 0.01))])).findings}
    assert found["specks"].count == 1 and found["specks"].place == pytest.approx((30, 0, 0), abs=0.1)


def test_every_code_reported_is_listed() -> None:
    broken = Mesh(ball(0.5).vertices, ball(0.5).faces[5:].copy())
    assert set(codes(broken)) <= set(CODES)


@pytest.mark.parametrize(("extent", "unit"), [(54, "mm"), (2.1, "in"), (5.4, "cm"), (0.054, "m"), (250, "mm")])
def test_unit_guess(extent: float, unit: str) -> None:
    assert guess_unit(extent) == unit


@settings(max_examples=40, deadline=None)
@given(
    arrays(
        np.float32, st.tuples(st.integers(1, 60).map(lambda n: 3 * n), st.just(3)), elements=st.floats(-4, 4, width=16)
    )
)
def test_weld_keeps_every_corner_exactly(corners: np.ndarray) -> None:
    mesh = weld(corners)
    assert np.array_equal(np.float32(mesh.corners().reshape(-1, 3)), corners + np.float32(0))
    assert len(np.unique(mesh.vertices, axis=0)) == len(mesh.vertices)


def test_shells_of_three_parts() -> None:
    parts = Mesh.joined([box((0, 0, 0), (1, 1, 1)), box((3, 0, 0), (1, 1, 1)), ball(1, (9, 0, 0))])
    labels, count = shell_labels(parts.faces, len(parts.vertices))
    assert count == 3 and (np.bincount(labels)[:2] == 12).all()


@pytest.mark.parametrize("thick", [0.2, 0.5, 1.0])
def test_thickness_of_a_plate_and_a_rod(thick: float) -> None:
    plate = box((0, 0, 0), (30, 30, thick))
    measured = local_thickness(plate)
    flat = np.abs(plate.normals_and_areas()[0][measured.faces][:, 2]) > 0.9
    # At the rim less than half of a fan leaves through the other side.
    assert (
        np.median(measured.mm[flat]) == pytest.approx(thick, rel=0.05) and np.isfinite(measured.mm[flat]).mean() > 0.9
    )
    rod = cylinder(thick / 2, 20)
    sides = np.abs(rod.normals_and_areas()[0][:, 2]) < 0.1
    assert np.median(local_thickness(rod).mm[sides[local_thickness(rod).faces]]) == pytest.approx(thick, rel=0.15)


def test_thin_places_find_the_spear_and_not_the_body() -> None:
    spear = cylinder(0.12, 20, (15, 0, 0))
    (place,) = thin_places(local_thickness(Mesh.joined([ball(8, (0, 0, 8)), spear]), 2.0), 0.3)
    assert (
        place.x == pytest.approx(15, abs=0.3) and place.thickness == pytest.approx(0.24, rel=0.15) and place.extent > 10
    )


def test_a_sharp_edge_is_not_thin() -> None:
    ridge = box((0, 0, 0), (20, 20, 20)).transformed(np.eye(3))
    assert thin_places(local_thickness(ridge), 0.4) == []


def test_preview_packs_to_one_part_in_65535() -> None:
    stone = knobbly()
    again = unpack_mesh(pack_mesh(stone))
    assert np.array_equal(again.faces, stone.faces)
    assert np.abs(again.vertices - stone.vertices).max() <= stone.size.max() / 65535


def test_decimation_keeps_the_volume() -> None:
    stone = knobbly(fineness=6)
    small = decimate(stone, 8000)
    assert len(small.faces) <= 8800 and measure(small).volume_mm3 == pytest.approx(measure(stone).volume_mm3, rel=0.01)


def test_the_first_sight_is_coarse_and_of_the_same_shape() -> None:
    stone = knobbly(fineness=6)
    coarse = cluster(stone, 8000)
    assert 4000 < len(coarse.faces) < 12_000 and cluster(coarse, 10**6) is coarse
    assert measure(coarse).volume_mm3 == pytest.approx(measure(stone).volume_mm3, rel=0.03)
    assert coarse.size == pytest.approx(stone.size, rel=0.05)


def test_a_picture_shows_the_figure_and_nothing_else() -> None:
    import io

    from PIL import Image

    shown = np.asarray(Image.open(io.BytesIO(picture(ball(5, fineness=3), size=(60, 60)))))
    covered = (shown[..., 3] > 128).mean()
    assert covered == pytest.approx(np.pi / 4 / 1.04**2, rel=0.03)
    assert shown[0, 0, 3] == 0 and shown[30, 30, 3] == 255


# The nearest point.


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 10_000), st.integers(1, 60))
def test_the_nearest_point_is_that_of_all_faces(seed: int, faces: int) -> None:
    rng = np.random.default_rng(seed)
    mesh = Mesh(rng.normal(size=(3 * faces, 3)) * 5, np.arange(3 * faces, dtype=np.int32).reshape(-1, 3))
    points = rng.normal(size=(20, 3)) * rng.choice([1.0, 8.0, 100.0])
    at, far = Nearest(mesh).of(points)
    v = mesh.vertices
    each = np.array([[nearest_on(*p, v, *face) for face in mesh.faces] for p in points])
    away = np.linalg.norm(each - points[:, None], axis=2)
    assert far == pytest.approx(away.min(axis=1), rel=1e-12)
    assert np.linalg.norm(at - points, axis=1) == pytest.approx(far, rel=1e-9)


def test_a_sphere_is_as_far_as_its_radius_says_from_deep_inside_and_far_out() -> None:
    ways = np.random.default_rng(1).normal(size=(300, 3))
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    asked = Nearest(ball(10, fineness=5))
    for radius in (0.0, 3.0, 9.9, 10.0, 14.0, 1e4):
        assert asked.of(ways * radius)[1] == pytest.approx(np.full(300, abs(10 - radius)), abs=0.02)
    assert asked.of(np.empty((0, 3)))[1].shape == (0,)


def test_a_ray_library_of_another_layout_is_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    """Its answers are read by offsets: were they others, distances would be noise."""
    from tenugui.core.mesh import embree

    embree._check_layout()

    def of_another_layout(scene: int, ray: int, arguments: object) -> None:
        ctypes.memset(ray + 32, 0, 24)

    monkeypatch.setattr(embree._LIB, "rtcIntersect1", ctypes.CFUNCTYPE(None, *[ctypes.c_void_p] * 3)(of_another_layout))
    with pytest.raises(CoreError, match="another layout"):
        embree._check_layout()
