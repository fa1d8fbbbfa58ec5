"""Supports changed by hand: what is put holds, what is taken away no longer does, and what leaned on it finds another
way.
"""

from __future__ import annotations

import itertools

import numpy as np
import pytest

from tenugui.core.hazards import combined
from tenugui.core.machines import LIFT_MM, Context
from tenugui.core.mesh import Mesh, measure
from tenugui.core.risk import ledger
from tenugui.core.supports import Edit, SupportSet, make_supports
from tests.presets import HERON, RESIN
from tests.shapes import ball, box, knobbly

CONTEXT = Context(HERON, RESIN, 0.1)
UNDER = 10 + LIFT_MM
"""The table top's underside, once it hangs."""
TABLE = Mesh.joined([box((0, 0, 5), (6, 6, 10)), box((0, 0, 11), (24, 24, 2))])


def made(mesh: Mesh, *edits: Edit, style: str = "pillars") -> SupportSet:
    return make_supports(mesh, CONTEXT, style=style, edits=edits)


def contacts(held: SupportSet) -> set[tuple[float, float, float]]:
    return {(round(t.x, 3), round(t.y, 3), round(t.z, 3)) for t in held.tips}


def risk(held: SupportSet) -> float:
    return combined(ledger(held.after, CONTEXT, tips=held.tips, own=held.before))


def test_a_tip_that_is_put_stands_there_and_one_taken_away_is_gone() -> None:
    plain = made(TABLE)
    spot = (8.0, 8.0, UNDER)
    more = made(TABLE, Edit("add", spot))
    (mine,) = (t for t in more.tips if t.reason == "hand")
    assert (mine.x, mine.y, mine.z) == spot and mine.on == "plate"
    assert contacts(more) == contacts(plain) | {spot}
    assert made(TABLE, Edit("add", spot), Edit("remove", (8.2, 8.0, UNDER))).tips == plain.tips, "put and taken away"
    one = plain.tips[0]
    less = made(TABLE, Edit("remove", (one.x, one.y, one.z)))
    assert contacts(less) == contacts(plain) - {(round(one.x, 3), round(one.y, 3), round(one.z, 3))}


def test_changes_are_proved_and_left_as_they_are_wanted() -> None:
    plain = made(ball(10, fineness=4).dropped())
    assert not plain.after.islands
    low = min(plain.tips, key=lambda t: t.z)
    bare = made(ball(10, fineness=4).dropped(), *[Edit("remove", (t.x, t.y, t.z)) for t in plain.tips])
    assert bare.tips == [] and bare.mesh is None and bare.after.islands, "nobody puts them back"
    assert "island-left" in {f.code for f in bare.findings}
    assert risk(bare) > 0.9 > risk(plain)
    again = made(
        ball(10, fineness=4).dropped(),
        *[Edit("remove", (t.x, t.y, t.z)) for t in plain.tips],
        Edit("add", (low.x, low.y, low.z)),
    )
    assert len(again.tips) == 1 and not again.after.islands


@pytest.mark.parametrize("style", ["pillars", "trees"])
def test_what_leaned_on_a_support_that_is_gone_finds_another_way(style: str) -> None:
    figure = knobbly(12, fineness=4).dropped()
    plain = made(figure, style=style)
    carrier = next(
        t
        for t in plain.tips
        if not t.branch
        and any(
            o.branch and np.linalg.norm(np.array(o.joints[0])[:2] - np.array(t.joints[0])[:2]) < 0.3 for o in plain.tips
        )
    )
    less = made(figure, Edit("remove", (carrier.x, carrier.y, carrier.z)), style=style)
    assert contacts(less) == contacts(plain) - {(round(carrier.x, 3), round(carrier.y, 3), round(carrier.z, 3))}
    assert less.mesh is not None and measure(less.mesh).watertight
    starts = np.array([t.joints[0] for t in less.tips if t.branch]).reshape(-1, 3)
    shafts = [np.array(t.joints) for t in less.tips]
    for start in starts:
        near = min(
            float(np.linalg.norm(start - a - np.clip((start - a) @ (b - a) / ((b - a) @ (b - a)), 0, 1) * (b - a)))
            for s in shafts
            for a, b in itertools.pairwise(s)
            if not np.array_equal(s[0], start)
        )
        assert near < 1.2, "no branch hangs in the air"


def test_a_change_that_comes_to_nothing_is_told() -> None:
    far = made(TABLE, Edit("remove", (0.0, 0.0, 60.0)))
    assert [f.count for f in far.findings if f.code == "hand-missed"] == [1]
    assert contacts(far) == contacts(made(TABLE))


def test_a_foot_goes_where_it_is_put_and_its_tip_stays() -> None:
    plain = made(TABLE)
    one = next(t for t in plain.tips if t.stands and t.x > 8)
    where = (one.joints[0][0] + 4.0, one.joints[0][1] - 1.0, 0.0)
    moved = made(TABLE, Edit("foot", (one.x, one.y, one.z), where))
    assert contacts(moved) == contacts(plain)
    (mine,) = (t for t in moved.tips if t.stands and t.joints[0][:2] == where[:2])
    assert (mine.x, mine.y, mine.z) == (one.x, one.y, one.z) and mine.reason == one.reason
    for a, b in itertools.pairwise(mine.joints):
        run, rise = np.hypot(b[0] - a[0], b[1] - a[1]), b[2] - a[2]
        assert run <= rise * np.tan(np.radians(42)) + 1e-6, "no strut leans farther than others do"
    beyond = made(TABLE, Edit("foot", (one.x, one.y, one.z), (60.0, 60.0, 0.0)))
    assert len(beyond.tips) == len(plain.tips) - 1 and "hand-missed" in {f.code for f in beyond.findings}
    put = made(TABLE, Edit("add", (8.0, 8.0, UNDER)), Edit("foot", (8.0, 8.0, UNDER), (12.0, 12.0, 0.0)))
    (tip,) = (t for t in put.tips if t.reason == "hand")
    assert tip.joints[0] == (12.0, 12.0, 0.0)
