"""Taking supports off: from where a cutter comes, what is delicate, what is locked in."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.machines import Context
from tenugui.core.mesh import Mesh
from tenugui.core.removal.cutter import (
    JAW_MM,
    LIFTS,
    REACH_MM,
    SIDES,
    delicate,
    locked_in,
    necks,
    reached,
    removal_of,
    ways_in,
)
from tenugui.core.supports import Tip, make_supports
from tests.presets import HERON, RESIN
from tests.shapes import ball, box, cylinder

FRONT = np.array([0.0, -1.0, 0.0])


def tip(x: float, y: float, z: float, *, foot: float = 0.0, on: str = "plate", wide: float = 0.35) -> Tip:
    return Tip(x, y, z, wide, (0.8, 0.8), "load", on, ((x, y, foot), (x, y, z - 2.0), (x, y, z)))


def of(figure: Mesh, tips: list[Tip]):  # type: ignore[no-untyped-def]
    return removal_of(figure, tips, np.ones(len(tips)), FRONT, "resin")


def test_a_neck_is_cut_a_little_below_its_contact() -> None:
    assert necks([tip(1, 2, 10)])[0] == pytest.approx([1, 2, 9.4])


def test_a_cutters_ways_lie_evenly_all_around_at_each_lift() -> None:
    ways = ways_in()
    assert np.linalg.norm(ways, axis=1) == pytest.approx(1.0)
    for lift, ring in zip(LIFTS, ways.reshape(len(LIFTS), -1, 3), strict=True):
        assert ring[:, 2] == pytest.approx(np.sin(lift))
        turns = np.unwrap(np.arctan2(ring[:, 1], ring[:, 0]))
        assert np.diff(turns) == pytest.approx(2 * np.pi / len(ring)), "none twice and none left out"


def test_under_an_open_table_every_tip_is_reached_the_outermost_first() -> None:
    table = box((0, 0, 21), (30, 30, 2))
    tips = [tip(x, -10.0, 20.0) for x in (-10.0, 0.0, 10.0)] + [tip(0.0, y, 20.0) for y in (-13.0, 5.0)]
    found = of(table, tips)
    assert found.unreached == () and found.locked == ()
    assert sorted(k for g in found.groups for k in g.tips) == list(range(5))
    (group,) = found.groups
    at = np.array([t.joints[-1] for t in tips])[list(group.tips)] @ np.array(group.towards)
    assert (np.diff(at) <= 1e-9).all()


@pytest.mark.parametrize("side", range(4))
def test_a_tip_in_a_niche_is_reached_from_its_open_side_alone(side: int) -> None:
    """Three walls, a floor and a lid, open to one side: that side is named as the figure's own."""
    wide = 16.0
    walls = {
        "front": box((0, -wide / 2, 12), (wide + 2, 2, 26)),
        "right": box((-wide / 2, 0, 12), (2, wide + 2, 26)),
        "back": box((0, wide / 2, 12), (wide + 2, 2, 26)),
        "left": box((wide / 2, 0, 12), (2, wide + 2, 26)),
    }
    # A figure that looks towards -y has its left at +x.
    open_side = SIDES[side]
    lid, floor = box((0, 0, 24), (wide + 2, wide + 2, 2)), box((0, 0, 0), (wide + 2, wide + 2, 2))
    niche = Mesh.joined([lid, floor, *(w for name, w in walls.items() if name != open_side)])
    (group,) = of(niche, [tip(0, 0, 23.0, foot=1.0, on="model")]).groups
    assert group.side == open_side


def test_behind_bars_a_support_is_locked_in_and_beyond_the_cutter() -> None:
    bars = [
        Mesh(cylinder(1.0, 22).vertices + [9 * np.cos(a), 9 * np.sin(a), 1], cylinder(1.0, 22).faces)
        for a in np.arange(24) * 2 * np.pi / 24
    ]
    cage = Mesh.joined([box((0, 0, 0), (24, 24, 2)), box((0, 0, 24), (24, 24, 2)), *bars])
    found = of(cage, [tip(0, 0, 23.0, foot=1.0, on="model"), tip(20, 0, 23.0)])
    assert found.unreached == (0,) and found.locked == (0,)
    assert [g.tips for g in found.groups] == [(1,)]
    wide = Mesh.joined([box((0, 0, 0), (24, 24, 2)), box((0, 0, 24), (24, 24, 2)), *bars[::6]])
    assert of(wide, [tip(0, 0, 23.0, foot=1.0, on="model")]).locked == (), "between four bars it comes out"


def test_a_thin_feature_is_delicate_by_how_stout_its_tip_is_and_comes_first() -> None:
    leaf = Mesh.joined([box((0, 0, 20.3), (10, 10, 0.6)), box((20, 0, 25), (10, 10, 10))])
    tips = [tip(20, 0, 20.0), tip(0, 0, 20.0), tip(2, 0, 20.0, wide=0.25)]
    assert delicate(leaf, tips).tolist() == [False, True, False], (
        "0.6 mm: no more than twice 0.35, more than twice 0.25"
    )
    groups = of(leaf, tips).groups
    assert groups[0].delicate and groups[0].tips == (1,)
    assert groups[0].minutes < sum(g.minutes for g in groups[1:])


def test_what_a_printed_ball_hangs_on_comes_off_from_around_it() -> None:
    made = make_supports(ball(10, fineness=4).dropped(), Context.of(HERON, RESIN, 0.1))
    found = of(made.figure, made.tips)
    assert found.locked == () and not locked_in(made.figure, made.tips).any()
    assert sorted([*found.unreached, *(k for g in found.groups for k in g.tips)]) == list(range(len(made.tips)))
    assert len(found.unreached) < 0.2 * len(made.tips)


@settings(max_examples=25, deadline=None)
@given(st.floats(2, 40), st.floats(0, 6.28))
def test_a_wall_is_in_the_way_by_its_distance(far: float, around: float) -> None:
    """A tall wall so far off is in the way of a level cutter that comes straight through it, where it is nearer than
    the cutter reaches.
    """
    ways = ways_in()
    level = np.abs(ways[:, 2]) < 1e-9
    assert level.sum() * len(LIFTS) == len(ways)
    way = np.array([np.cos(around), np.sin(around), 0.0])
    wall = box((0, 0, 0), (2, 200, 200))
    turn = np.array([[way[0], -way[1], 0], [way[1], way[0], 0], [0, 0, 1]])
    wall = Mesh((wall.vertices + [far + 1, 0, 0]) @ turn.T, wall.faces)
    clear = reached(wall, np.zeros((1, 3)), ways)[0]
    best = int(np.argmax(np.where(level, ways @ way, -1)))
    along = far / float(ways[best] @ way)
    if abs(along - REACH_MM) > 2 * JAW_MM:
        assert clear[best] == (along > REACH_MM)
    assert clear[int(np.argmin(np.where(level, ways @ way, 1)))], "nothing stands behind"
