"""Which way up: guessed from the figure itself, whatever axis its file calls up."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.look import around, sight
from tenugui.core.mesh import Mesh
from tenugui.core.pose import (
    AXES,
    DirectionError,
    front_of,
    guess_up,
    height_along,
    is_sure,
    settled_up,
    standing,
    unit,
    up_of,
)
from tenugui.core.pose.directions import rotation_to_plate
from tenugui.demo.beasts import stilt_giant_upper
from tests.figures import CASES, hound, keeper, plaque, warden, y_up
from tests.shapes import ball, box, cylinder, knobbly

TURNS = {
    "y": np.array([[1.0, 0, 0], [0, 0, 1], [0, -1, 0]]),
    "-y": np.array([[1.0, 0, 0], [0, 0, -1], [0, 1, 0]]),
    "x": np.array([[0, 0, 1.0], [0, 1, 0], [-1, 0, 0]]),
    "-z": np.array([[1.0, 0, 0], [0, -1, 0], [0, 0, -1]]),
}


@pytest.mark.parametrize("name", sorted(CASES))
def test_every_figure_of_the_club_is_stood_up(name: str) -> None:
    case = CASES[name]
    assert guess_up(case.make())[0].direction == pytest.approx(case.up, abs=0.02)


@pytest.mark.parametrize("axis", sorted(TURNS))
@pytest.mark.parametrize("make", [warden, keeper], ids=["warden", "bust"])
def test_a_flat_foot_is_found_on_any_side(make, axis: str) -> None:  # type: ignore[no-untyped-def]
    turned = make().transformed(TURNS[axis])
    found = guess_up(turned)
    assert found[0].direction == pytest.approx(AXES[axis], abs=1e-6) and is_sure(found)
    assert "flat foot" in found[0].why


@pytest.mark.parametrize("degrees", [-5.0, 3.0])
def test_a_tilted_beast_is_set_level_on_its_paws(degrees: float) -> None:
    a = np.radians(degrees)
    tilt = np.array([[1.0, 0, 0], [0, np.cos(a), -np.sin(a)], [0, np.sin(a), np.cos(a)]])
    found = guess_up(hound().transformed(tilt))[0]
    assert float(np.dot(found.direction, tilt @ [0, 0, 1.0])) > np.cos(np.radians(0.7)), found


def test_a_trunk_that_stands_on_two_collars_is_known_in_a_tilted_file() -> None:
    a = np.radians(6.0)
    tilt = np.array([[1.0, 0, 0], [0, np.cos(a), -np.sin(a)], [0, np.sin(a), np.cos(a)]])
    found = guess_up(stilt_giant_upper(cell=0.8).transformed(tilt))
    assert found[0].direction == pytest.approx(tuple(tilt @ [0, 0, 1.0]), abs=0.02)


def test_what_is_flat_on_all_sides_stands_on_its_wheels() -> None:
    """A carrier: its stern is flat, its flanks are, its roof is; six wheels carry it."""
    hull = [box((0, 0, 14), (60, 26, 12)), box((-4, 0, 23), (40, 22, 8))]
    around = np.array([[1.0, 0, 0], [0, 0, 1], [0, -1, 0]])
    wheels = [
        Mesh(w.vertices + [x, y, 7], w.faces)
        for w in [cylinder(7, 6).transformed(around)]
        for x in (-22, 0, 22)
        for y in (-19, 13)
    ]
    found = guess_up(Mesh.joined([*hull, *wheels]))
    assert found[0].direction == pytest.approx((0, 0, 1), abs=1e-6) and "feet" in found[0].why


@settings(max_examples=12, deadline=None)
@given(st.integers(0, 10_000))
def test_a_bust_turned_anyhow_is_stood_on_its_socle(seed: int) -> None:
    rng = np.random.default_rng(seed)
    turn, _ = np.linalg.qr(rng.normal(size=(3, 3)))
    turn *= np.sign(np.linalg.det(turn))
    up = turn @ [0, 0, 1.0]
    found = guess_up(keeper().transformed(turn))[0]
    assert float(np.dot(found.direction, up)) > 0.998, (found, up)


def test_where_nothing_speaks_the_file_is_believed_and_doubt_is_told() -> None:
    for shape in (ball(10, fineness=3), box((0, 0, 0), (10, 10, 10))):
        found = guess_up(shape)
        assert found[0].direction == (0.0, 0.0, 1.0)
    assert not is_sure(guess_up(ball(10, fineness=3)))
    assert guess_up(plaque())[0].direction == (0.0, 0.0, 1.0), "a coin lies"


def test_the_axes_of_the_file_are_always_offered_with_their_reasons() -> None:
    found = guess_up(y_up(hound()), most=40)
    assert {u.direction for u in found} >= set(AXES.values())
    assert all(u.why for u in found) and [u.score for u in found] == sorted((u.score for u in found), reverse=True)


def test_it_faces_along_its_mirror_to_the_side_of_more_relief() -> None:
    figure = warden()
    assert front_of(figure, (0, 0, 1)) == pytest.approx((0, -1, 0), abs=0.15)
    turned = y_up(figure)
    front = front_of(turned, (0, 1, 0))
    assert front == pytest.approx((0, 0, 1), abs=0.15), "the same face, where y is up"
    odd = Mesh.joined([box((0, 0, 2), (9, 5, 4)), box((3, 1, 8), (2, 3, 9)), box((-3, -1, 5), (3, 1, 5))])
    plain = np.zeros(len(odd.faces))
    assert front_of(odd, (0, 0, 1), salient=plain) == (0.0, -1.0, 0.0), "custom where nothing is to be seen"


@pytest.mark.parametrize(
    ("name", "front"),
    [
        ("reed warden", (0, -1, 0)),
        ("ferry keeper, a bust", (0, -1, 0)),
        ("marsh hound, y up", (1, 0, 0)),
        ("winged hound", (1, 0, 0)),
        ("courier riding", (1, 0, 0)),
        ("sleeping abbot", (1, 0, 0)),
    ],
)
def test_people_face_where_their_nose_is_and_beasts_where_their_head_is(
    name: str, front: tuple[float, float, float]
) -> None:
    mesh = CASES[name].make()
    assert float(np.dot(front_of(mesh, guess_up(mesh)[0].direction), front)) > 0.95


@settings(max_examples=60, deadline=None)
@given(st.tuples(*[st.floats(-1, 1)] * 3), st.tuples(*[st.floats(-1, 1)] * 3))
def test_standing_is_a_turn_that_takes_up_to_z(
    up: tuple[float, float, float], front: tuple[float, float, float]
) -> None:
    if np.linalg.norm(up) < 0.1 or np.linalg.norm(np.cross(up, front)) < 0.05:
        return
    turn = standing(unit(up), front)
    assert turn @ turn.T == pytest.approx(np.eye(3), abs=1e-5) and np.linalg.det(turn) == pytest.approx(1, abs=1e-5)
    assert turn @ np.array(unit(up)) == pytest.approx([0, 0, 1], abs=1e-5)
    ahead = turn @ np.array(front)
    assert ahead[0] == pytest.approx(0, abs=1e-5) and ahead[1] < 0, "and what it faces to -y"


def test_a_face_that_was_pointed_at_is_snapped_to_what_it_rests_on() -> None:
    hull = box((0, 0, 5), (8, 6, 10)).vertices
    assert settled_up(hull, (0.1, 0.05, -1.0)) == pytest.approx((0, 0, 1), abs=1e-6)
    assert settled_up(hull, (1, 1, -1)) == pytest.approx(tuple(np.array([-1, -1, 1]) / np.sqrt(3)), abs=1e-5)


def test_words_for_up() -> None:
    assert up_of("-x") == (-1.0, 0.0, 0.0) and up_of("auto") is None
    for wrong in ("up", "zz", ""):
        with pytest.raises(DirectionError, match="no direction"):
            up_of(wrong)
    with pytest.raises(DirectionError):
        unit((0, 0, 0))


def test_height_is_measured_along_it() -> None:
    points = cylinder(4, 10).vertices
    assert height_along(points, (0, 0, 1)) == pytest.approx(10)
    assert height_along(points, (1, 0, 0)) == pytest.approx(8, abs=0.05)
    slant = unit((0, 0.6, 0.8))
    assert height_along(points, slant) == pytest.approx(0.6 * 8 + 0.8 * 10, abs=0.05)


def test_people_look_from_around_the_table_on_which_it_stands() -> None:
    for up in AXES.values():
        eyes = around(up)
        assert (eyes @ np.array(up) > 0.15).all() and np.abs(np.linalg.norm(eyes, axis=1) - 1).max() < 1e-9
        assert np.abs((eyes - np.outer(eyes @ np.array(up), up)).sum(axis=0)).max() < 1e-9, "evenly"
    # A table with a bumpy top: whatever is up, its top is seen and its underside is not.
    top = knobbly(8, 4)
    figure = Mesh.joined([top, box((0, 0, -12), (14, 14, 4))])
    upright, turned = sight(figure), figure.transformed(TURNS["y"])
    assert np.abs(sight(turned, (0, 1, 0)) - upright).mean() < 0.03
    assert np.abs(sight(turned) - upright).mean() > 0.1, "by the file's z it would be seen otherwise"


def wyvern() -> Mesh:
    """A body on two legs with a tail that trails, a raised neck and two wings spread: tips all around it."""

    def bone(a: tuple[float, float, float], b: tuple[float, float, float], wide: float) -> Mesh:
        begin, end = np.array(a), np.array(b)
        along = end - begin
        long = float(np.linalg.norm(along))
        turn = rotation_to_plate(-along / long).T
        return box((0, 0, long / 2), (wide, wide, long)).transformed(turn, begin)

    limbs = [bone((s * 5, 0, 16), (s * 7, -2, 0), 3.0) for s in (-1, 1)]
    limbs += [bone((s * 3, -2, 24), (s * 20, -4, 42), 2.0) for s in (-1, 1)]
    limbs += [bone((s * 20, -4, 42), (s * 40, 6, 34), 1.4) for s in (-1, 1)]
    limbs += [
        bone((0, 8, 19), (5, 24, 8), 3.0),
        bone((5, 24, 8), (14, 31, 2), 1.6),
        bone((0, -8, 22), (0, -20, 36), 4.0),
    ]
    body = ball(7.0).transformed(np.diag([0.9, 1.5, 0.9]), np.array([0.0, 0.0, 20.0]))
    return Mesh.joined([body, *limbs])


@pytest.mark.parametrize("tilt", [0.0, 3.0])
def test_what_ends_in_tips_all_around_is_not_set_down_on_any_three_of_them(tilt: float) -> None:
    """Every face of a spiky figure's hull stands on tips and broadly: that says little of which is down."""
    lean = np.radians(tilt)
    turn = np.array([[1, 0, 0], [0, np.cos(lean), -np.sin(lean)], [0, np.sin(lean), np.cos(lean)]])
    ups = guess_up(wyvern().transformed(turn, np.zeros(3)), faces=lambda up: [])
    assert float(np.dot(ups[0].direction, turn @ [0, 0, 1])) > np.cos(np.radians(12))
