"""Keels: a sharp edge that lies in the air starts as a sliver as long as itself, however steep both its flanks are."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy.spatial import ConvexHull

from tenugui.core.machines import Context
from tenugui.core.mesh import Mesh
from tenugui.core.supports import Tip, make_supports
from tenugui.core.supports.edges import points_on_keels
from tenugui.core.supports.manner import BRIDGE_MM
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import ball, box

LINES = Context.of(KESTREL, FILAMENT, 0.2)
PEELED = Context.of(HERON, RESIN, 0.05)


def keel(long: float = 40.0, flank_deg: float = 60.0, rises_deg: float = 0.0) -> Mesh:
    """An upside-down roof on a leg at one end, its edge 15 mm up and more, rising along it."""
    half, deep = long / 2, 8 * math.tan(math.radians(flank_deg))
    rise = long * math.tan(math.radians(rises_deg))
    corners = [
        (x, y, 15 + (x + half) / long * rise + z)
        for x in (-half, half)
        for y, z in ((0, 0), (-8, deep), (8, deep), (-8, deep + 2), (8, deep + 2))
    ]
    points = np.array(corners, float)
    hull = ConvexHull(points)
    faces = hull.simplices.copy()
    a, b, c = (points[faces[:, k]] for k in range(3))
    inward = np.einsum("ij,ij->i", np.cross(b - a, c - a), hull.equations[:, :3]) < 0
    faces[inward] = faces[inward][:, ::-1]
    leg = box((-half + 3, 0, 9), (5, 5, 18))
    return Mesh.joined([Mesh(points, faces.astype(np.int32)), leg])


def along(tips: list[Tip], lift: float = 0.0) -> np.ndarray:
    """Where tips on the keel stand along it."""
    return np.sort([t.x for t in tips if abs(t.y) < 0.5 and 14.5 < t.z - lift < 15.5])


@pytest.mark.parametrize("style", ["pillars", "trees"])
def test_on_filament_its_whole_length_is_held(style: str) -> None:
    made = make_supports(keel(), LINES, style=style)
    assert made.before.hang.total > 6 and made.after.hang.total < 0.3
    at = along(made.tips)
    assert np.diff(at).max() <= BRIDGE_MM + 0.5 and at.min() < -14 + BRIDGE_MM and at.max() > 20 - BRIDGE_MM


def test_of_areas_it_is_carried_by_a_wall() -> None:
    made = make_supports(keel(), LINES, style="areas")
    wall = np.array([cell for tip in made.tips for cell in tip.cells])
    assert np.ptp(wall[:, 0]) > 5 * np.ptp(wall[:, 1]) and np.ptp(wall[:, 0]) > 10
    assert made.after.hang.total < 0.15 * made.before.hang.total


def test_on_resin_too() -> None:
    made = make_supports(keel(), PEELED)
    at = along(made.tips, lift=5.0)
    assert len(at) >= 8 and at.max() > 15 and np.diff(at).max() < 4


def count(mesh: Mesh, pitch: float = 2.5) -> int:
    normal, _ = mesh.normals_and_areas()
    limit = LINES.limit_angle
    downward = (normal[:, 2] < 0) & (-normal[:, 2] <= math.sin(limit))
    points, _ = points_on_keels(mesh, downward, limit_angle=limit, pitch=pitch, inset=0.0)
    return len(points)


def test_what_is_none() -> None:
    assert count(keel()) == 2 * math.ceil(4 * 40 / 2.5), "met from both sides"
    assert count(keel(flank_deg=20)) == 0, "its flanks are held themselves"
    assert count(keel(rises_deg=60)) == 0, "every layer lies on the one below"
    assert count(keel(rises_deg=30)) > 0
    assert count(keel(), pitch=41) == 0, "shorter than what bridges"
    assert count(ball(4)) == 0
    turned = keel()
    assert count(Mesh(turned.vertices * [1, -1, -1] + [0, 0, 60], turned.faces)) == 0, "it looks up"
