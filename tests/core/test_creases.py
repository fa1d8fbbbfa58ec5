"""Where the outside cuts in: slots of known depth, told with what they take from the cavity."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.hollow import creases, depth_field, hollow, pack_hollowed, unpack_hollowed
from tenugui.core.mesh import Mesh
from tests.core.test_hollow_fold import board_of, chain_of
from tests.shapes import ball, box, slotted

WALL = 2.0
HIGH, LONG = 40.0, 30.0


def found_in(mesh: Mesh, wall: float = WALL):  # type: ignore[no-untyped-def]
    return creases(depth_field(mesh, 0.2, wall + 0.8), wall)


@pytest.mark.parametrize(("wide", "deep"), [(0.3, 4.0), (1.0, 5.0), (2.0, 8.0)])
def test_a_slot_is_told_with_its_depth_at_its_bottom_and_what_it_takes(wide: float, deep: float) -> None:
    (one,) = found_in(slotted(wide, deep))
    cell = 0.4
    assert one.deep == pytest.approx(deep, abs=2 * cell) and one.hollow
    x, y, z = one.place
    assert abs(x) <= wide / 2 + 2 * cell and abs(y) < LONG / 2
    assert HIGH - deep - WALL - cell <= z <= HIGH - WALL
    # Around the slot a wall's thickness stays solid, from the wall of the lid down to a half round under its bottom.
    around = 2 * WALL * (deep - WALL) + WALL * wide + np.pi * WALL**2 / 2
    assert one.taken == pytest.approx(around * (LONG - 2 * WALL), rel=0.25)


def test_what_is_shallow_or_wide_or_nowhere_is_told_of_as_nothing() -> None:
    assert found_in(slotted(1.0, 0.8)) == [], "much less than a wall"
    assert found_in(slotted(7.0, 6.0)) == [], "wider than two walls it is form"
    assert found_in(ball(12)) == [] and found_in(box((0, 0, 0), (20, 20, 20))) == []


@settings(max_examples=6, deadline=None)
@given(st.floats(2.5, 5.0), st.floats(1.5, 4.0))
def test_a_deeper_slot_is_never_told_as_less_deep(deep: float, more: float) -> None:
    one, other = found_in(slotted(1.0, deep))[0], found_in(slotted(1.0, deep + more))[0]
    assert other.deep > one.deep and other.taken > one.taken


@pytest.mark.long
def test_the_wall_beside_a_slot_is_no_thinner_than_asked_and_the_board_lists_it() -> None:
    mesh = slotted(1.0, 10.0)
    made = hollow(mesh, WALL)
    assert made.cavities[0].min_wall >= WALL
    shelf, base, choices = chain_of(mesh)
    board = board_of(shelf, base, choices)
    row = next(r for r in board.choices if r.wall_mm and r.hollow and not r.lattice_mm)
    (told,) = row.creases
    assert told.deep_mm == pytest.approx(10.0, abs=0.8) and told.hollow
    assert board.choices[0].creases == [], "nothing is cut out of a solid one"
    assert 40 - 10 - 4 < told.place[2] < 40


def test_creases_are_kept_with_the_hollowed_figure() -> None:
    from dataclasses import replace

    made = hollow(slotted(1.0, 6.0), WALL)
    assert made.field is not None
    told = replace(made, creases=tuple(creases(made.field, WALL)))
    assert len(told.creases) == 1
    assert unpack_hollowed(pack_hollowed(told)).creases == told.creases
