"""Figures that came hollow: their voids and holes are found and judged like those that are made here."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from tenugui.core.contract import HollowBoard, HollowChoice
from tenugui.core.formats import read_whole
from tenugui.core.hollow import (
    came_hollow,
    drilled,
    filled,
    hollow,
    judged,
    open_shell,
    pack_hollowed,
    suggest,
    unpack_hollowed,
)
from tenugui.core.hollow.drilling import Hole
from tenugui.core.mesh import Mesh, measure
from tenugui.core.mesh.edges import face_volumes
from tenugui.core.plan import MemoryShelf, computed, spec_of
from tenugui.core.plan.cut_out import AS_IT_CAME, FILLED
from tenugui.core.plan.figure import MadeDoc
from tenugui.core.plan.given import BodyGiven, Cut, HollowGiven
from tests.figures import CASES, egg
from tests.given import figure_given
from tests.shapes import ball, box, cup, hollow_ball

DOWN = np.array([0.0, 0.0, -1.0])


@pytest.fixture(scope="module")
def two_holes() -> Mesh:
    """A ball of 12 mm with a wall of 2 mm and holes of 3 mm at both poles."""
    made = hollow(ball(12, fineness=4), 2.0)
    return drilled(made, [Hole((0, 0, s * 12.0), (0, 0, -s * 1.0), 3.0, 2.0) for s in (-1, 1)])


def test_a_closed_void_is_found_with_its_volume_and_wall_and_can_be_filled() -> None:
    made = came_hollow(hollow_ball(10, 8, 5))
    (void,) = made.cavities
    assert void.volume == pytest.approx(4 / 3 * np.pi * 512, rel=0.01)
    assert void.min_wall == pytest.approx(2, rel=0.05) and made.wall == pytest.approx(2, rel=0.05) and not void.own
    assert face_volumes(filled(made)).sum() == pytest.approx(face_volumes(ball(10, fineness=5)).sum(), rel=1e-6)


def test_its_own_holes_are_mouths_and_let_it_run_empty(two_holes: Mesh) -> None:
    (cavity,) = came_hollow(two_holes).cavities
    assert cavity.volume == pytest.approx(4 / 3 * np.pi * 1000, rel=0.03)
    assert [m.radius for m in cavity.own] == [pytest.approx(1.5, abs=0.25)] * 2
    assert [m.length for m in cavity.own] == [pytest.approx(2.0, abs=0.6)] * 2
    as_it_is = judged(cavity, [], DOWN)
    assert as_it_is.vented and as_it_is.drips.seconds is not None and as_it_is.drips.retained < 0.01 * cavity.volume
    assert filled(came_hollow(two_holes)) is two_holes or len(filled(came_hollow(two_holes)).faces) == len(
        two_holes.faces
    )


@pytest.mark.parametrize("solid", [ball(8), cup(inner=5, wall=1, floor=1, height=12), box((0, 0, 0), (20, 12, 9))])
def test_what_is_solid_or_wide_open_came_with_no_cavity(solid: Mesh) -> None:
    assert came_hollow(solid).cavities == ()


def test_what_is_kept_of_it_judges_as_it_did(two_holes: Mesh) -> None:
    made = came_hollow(two_holes)
    again = unpack_hollowed(pack_hollowed(made))
    before, after = (judged(m.cavities[0], [], DOWN).drips for m in (made, again))
    assert again.came and (after.seconds, after.retained, after.clings) == (
        pytest.approx(before.seconds),
        pytest.approx(before.retained),
        pytest.approx(before.clings),
    )
    assert [len(m.cells) for m in again.cavities[0].own] == [len(m.cells) for m in made.cavities[0].own]


def test_holes_for_a_void_are_drilled_from_outside_and_open_it() -> None:
    made = came_hollow(hollow_ball(14, 12, 5))
    opened = suggest(made, made.cavities[0], DOWN)
    assert len(opened.holes) == 2 and opened.vented
    middle = (made.outer.lower + made.outer.upper) / 2
    for hole in opened.holes:
        out = np.array(hole.point) - middle
        assert np.linalg.norm(out) == pytest.approx(14, abs=0.1) and np.dot(hole.axis, out) < 0
    (after,) = came_hollow(drilled(made, opened.holes)).cavities
    assert len(after.own) == 2


def board(mesh: Mesh) -> tuple[MemoryShelf, HollowGiven, HollowBoard]:
    shelf = MemoryShelf()
    given = figure_given(shelf, mesh).to(HollowGiven, down=DOWN)
    return shelf, given, computed(shelf, "hollow", given, HollowBoard)


def test_a_void_is_drained_or_filled_and_never_left(two_holes: Mesh) -> None:
    shelf, given, found = board(hollow_ball(10, 8, 4))
    walls = [r.wall_mm for r in found.choices]
    assert walls[:3] == [None, AS_IT_CAME, FILLED] and found.recommended in (1, 2) and found.refused is None
    as_came, drained, solid = found.choices[:3]
    assert as_came.retained_ml == pytest.approx(2.14, abs=0.05) and as_came.hollow is not None
    assert as_came.hollow.findings[0].code == "sealed-cavity" and as_came.gift.lost > 0.4
    assert drained.holes == 2 and drained.retained_ml < 0.5 and solid.retained_ml == 0
    spec = spec_of("hollow")
    assert spec is not None and spec.take is not None
    for option, volume in ((1, None), (2, 4 / 3 * np.pi * 1000)):
        choice = spec.take(found, option).choice
        assert isinstance(choice, HollowChoice) and choice.wall is not None
        cut = Cut(wall=choice.wall, lattice=choice.lattice, holes=tuple(choice.holes))
        body = read_whole(shelf.get(computed(shelf, "body", given.to(BodyGiven, hollow=cut), MadeDoc).sha))
        assert measure(body).watertight
        assert volume is None or face_volumes(body).sum() == pytest.approx(volume, rel=0.02)
    _, _, open_ = board(two_holes)
    assert open_.choices[0].hollow is not None and AS_IT_CAME not in [r.wall_mm for r in open_.choices]


def cast(up_at: float) -> Mesh:
    """An egg of 14 x 12 x 20 mm with a wall of 2 mm, cut off so far above its lowest point: a bust cast hollow."""
    inside = egg((0, 0, 20), (12, 10, 18))
    whole = manifold_difference(egg((0, 0, 20), (14, 12, 20)), inside)
    return manifold_difference(whole, box((0, 0, up_at - 50), (100, 100, 100)))


def manifold_difference(one: Mesh, other: Mesh) -> Mesh:
    """One without the other."""
    made = trimesh.boolean.difference([trimesh.Trimesh(m.vertices, m.faces) for m in (one, other)])
    return Mesh(np.asarray(made.vertices), np.asarray(made.faces, np.int32))


@pytest.mark.parametrize(("up", "opens"), [((0, 0, 1), "foot"), ((0, 0, -1), "top"), ((0, 1, 0), "side")])
def test_a_shell_that_is_open_is_told_by_its_wall_and_where_it_opens(
    up: tuple[float, float, float], opens: str
) -> None:
    found = open_shell(cast(8.0), up)
    assert found is not None and found.opens == opens
    assert found.wall_mm == pytest.approx(2.0, rel=0.1)


@pytest.mark.parametrize("name", sorted(CASES))
def test_what_is_no_shell_is_not_called_one(name: str) -> None:
    assert open_shell(CASES[name].make(), CASES[name].up) is None


def test_the_board_says_that_it_came_as_a_shell() -> None:
    shelf, mesh = MemoryShelf(), cast(8.0)
    board = computed(shelf, "hollow", figure_given(shelf, mesh).to(HollowGiven), HollowBoard)
    assert board.shell is not None and board.shell.opens == "foot"
    assert board.shell.wall_mm == pytest.approx(2.0, rel=0.1)
