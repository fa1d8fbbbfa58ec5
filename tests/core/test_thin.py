"""Thinner copies: few triangles, and an honest word on how far the surface moved."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from tenugui.core.mesh import Mesh, Nearest
from tenugui.core.repair import thin
from tests.shapes import ball, box


def test_a_small_mesh_comes_back_itself() -> None:
    cube = box((0, 0, 5), (10, 10, 10))
    copy = thin(cube, 100)
    assert copy.mesh is cube and copy.deviation == 0 and copy.before == 12


def test_flat_walls_are_thinned_without_moving() -> None:
    fine = trimesh.creation.box((10, 10, 10))
    for _ in range(4):
        fine = fine.subdivide()
    copy = thin(Mesh(np.asarray(fine.vertices), np.asarray(fine.faces, np.int32)), 200)
    assert copy.before == 12 * 4**4 and len(copy.mesh.faces) <= 240
    # The walls stay; where the decimation moved an edge, the largest deviation says so.
    assert copy.usual < 1e-3
    assert copy.deviation == pytest.approx(Nearest(copy.mesh).of(np.asarray(fine.vertices))[1].max())


@pytest.mark.parametrize("faces", [300, 1_200])
def test_the_deviation_of_a_sphere_is_its_sagitta(faces: int) -> None:
    sphere = ball(10, (0, 0, 0), 4)
    copy = thin(sphere, faces)
    # An equilateral triangle of 4 pi r^2 / faces lies r - sqrt(r^2 - edge^2 / 3) below the sphere at its middle.
    edge = np.sqrt(4 * np.pi * 100 / faces * 4 / np.sqrt(3))
    sagitta = 10 - np.sqrt(100 - edge**2 / 3)
    assert 0.3 * sagitta < copy.deviation < 4 * sagitta
    assert copy.usual <= copy.deviation


def test_more_triangles_lie_nearer() -> None:
    sphere = ball(10, (0, 0, 0), 4)
    away = [thin(sphere, n).deviation for n in (200, 800, 3_000)]
    assert away[0] > away[1] > away[2] > 0


def test_no_point_of_the_original_is_farther_than_said() -> None:
    sphere = ball(10, (0, 0, 0), 4)
    copy = thin(sphere, 500)
    assert len(sphere.vertices) < 40_000, "so that every point was measured"
    assert Nearest(copy.mesh).of(sphere.vertices)[1].max() <= copy.deviation + 1e-9
