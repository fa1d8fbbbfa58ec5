"""The table of the free space: its distances, and that it finds a way exactly where there is one."""

from __future__ import annotations

import itertools

import numpy as np
import pytest

from tenugui.core.mesh import Mesh, Nearest
from tenugui.core.supports.around import Around
from tenugui.core.supports.heads import CLEARANCE_MM
from tenugui.core.supports.route import MOST_LEAN, bent
from tenugui.core.supports.ways import EXACT_MM, NEAR_MM, Ways, table_of
from tests.shapes import ball, box, knobbly


def test_a_table_never_tells_more_room_than_there_is_and_is_exact_where_rods_fit() -> None:
    figure = Mesh.joined([knobbly(8, 4), box((14, 0, 3), (2, 9, 6))])
    table = table_of(figure)
    k, j, i = np.indices(table.room.shape)
    at = np.column_stack([v.ravel() for v in (i, j, k)]) * [table.aside, table.aside, table.up] + table.origin
    true, told = Nearest(figure).of(at)[1], table.room.ravel()
    fits, beyond = (true >= NEAR_MM) & (true <= EXACT_MM), true > EXACT_MM
    assert fits.sum() > 1000 and np.abs(told - true)[fits].max() < 1e-6
    assert (told[true < NEAR_MM] < NEAR_MM).all()
    assert (told[beyond] <= true[beyond] + 1e-6).all() and (told[beyond] >= EXACT_MM - 1e-6).all()
    assert told[true > 6].min() > EXACT_MM, "what is far off is told apart from what just fits"
    assert (table.cells(at) == np.column_stack([v.ravel() for v in (k, j, i)])).all()


def roofed(gap: float) -> tuple[Mesh, np.ndarray]:
    """A tip in a well: four walls around it and a floor under it, one wall with a window of `gap` mm down to
    its floor.
    """
    walls = [box((-6, 0, 10), (1, 13, 16)), box((0, -6, 10), (13, 1, 16)), box((0, 6, 10), (13, 1, 16))]
    sides = [
        box((6, -(gap / 4 + 3.25), 10), (1, 6.5 - gap / 2, 16)),
        box((6, gap / 4 + 3.25, 10), (1, 6.5 - gap / 2, 16)),
    ]
    return Mesh.joined([*walls, *sides, box((0, 0, 2), (13, 13, 1)), box((0, 0, 19), (13, 13, 1))]), np.array(
        [0.0, 0, 18.5]
    )


def test_a_way_is_found_through_a_window_and_none_through_a_slit() -> None:
    for gap, there in ((4.0, True), (1.0, False)):
        figure, tip = roofed(gap)
        way = bent(Around.of(figure), tip, 0.35 + CLEARANCE_MM, 0.0)
        assert (way is not None) == there
        if way is None:
            continue
        joints = way.joints
        assert joints[0][2] == 0 and (joints[-1] == tip).all() and joints[0][0] > 6.8, "it comes out by the window"
        for a, b in itertools.pairwise(joints[:-1]):
            run, rise = np.hypot(*(b - a)[:2]), b[2] - a[2]
            assert run <= MOST_LEAN * rise + 1e-6
            points = a + np.linspace(0, 1, 200)[:, None] * (b - a)
            points = points[points[:, 2] > 0.7]
            assert (Nearest(figure).of(points)[1] > 0.35 + CLEARANCE_MM - 0.06).all()


def test_what_lies_inside_has_no_way_however_much_room_it_has() -> None:
    shell = ball(12, (0, 0, 14), 5)
    ways = Ways.of(shell, 0.7)
    inside, outside = ways.costs(np.array([[0.0, 0, 14], [18.0, 0, 14]]))
    assert np.isinf(inside) and outside == pytest.approx(14, abs=1.0)
    low, high = ways.costs(np.array([[18.0, 0, 5], [18.0, 0, 20]]))
    assert low < high
