"""Pieces that somebody puts where they lie (shapely is the checker), what a plate costs, and when it is looked at."""

from __future__ import annotations

import dataclasses

import numpy as np
import pytest
import shapely
from shapely import affinity

from tenugui.core.plate import Box, Dear, Nested, Piece, Plate, Shape, Threat, looks, nested, plates_of, trespasses
from tenugui.core.plate.by_hand import apart
from tenugui.core.plate.card import FIRST_LAYERS_MM, time_at
from tenugui.core.plate.cost import COINS_PER_KWH, NOZZLE_COINS, NOZZLE_HOURS, PLATE_MIN, STUFF, WATTS, spent_on
from tenugui.core.plate.plates import plate_of
from tenugui.core.worth import Rates
from tests.core.test_plate import SIZE, placed, star

SQUARE = [[(0.0, 0.0), (10.0, 0.0), (10.0, 10.0), (0.0, 10.0)]]
PIECE = Piece("warden", 1, SQUARE, 60.0, 7200.0, 120.0, 12.0, 14.0, 0.05, 0.01, (1.0, 2.0), 30.0, "grey 0.05")


def put(*places: tuple[float, float, float], piece: Piece = PIECE) -> Plate:
    return plate_of([(piece, Nested(0, 0, x, y, turn)) for x, y, turn in places], hangs=True)


def found(plate: Plate, gap: float = 2.0, free: tuple[Box, ...] = ()) -> list[tuple[str, tuple[int, ...], float]]:
    return [(t.kind, t.items, round(t.by_mm, 6)) for t in trespasses(plate, SIZE, gap=gap, free=free)]


def test_how_far_two_outlines_are_apart_is_what_shapely_says() -> None:
    rng = np.random.default_rng(3)
    for _ in range(300):
        one, other = (star(a, b, int(rng.integers(3, 8))) for a, b in rng.uniform(2, 12, (2, 2)).tolist())
        shift = rng.uniform(-25, 25, 2)
        a, b = np.array(one[0]), np.array(other[0]) + shift
        wanted = shapely.Polygon(a).buffer(0).distance(shapely.Polygon(b).buffer(0))
        assert apart([a], [b]) == pytest.approx(wanted, abs=1e-9)
    inside, around = np.array(SQUARE[0]) * 0.1 + 3, np.array(SQUARE[0])
    assert apart([inside], [around]) == apart([around], [inside]) == 0.0


def test_what_is_wrong_on_a_plate_is_told_by_pieces_and_millimetres() -> None:
    assert found(put((5, 5, 0), (17, 5, 0))) == []
    assert found(put((5, 5, 0), (16.5, 5, 0))) == [("near", (0, 1), 0.5)]
    assert found(put((5, 5, 0), (9, 9, 0))) == [("near", (0, 1), 2.0)], "over each other: the whole gap is missing"
    assert found(put((-3, 5, 0))) == [("outside", (0,), 3.0)]
    assert found(put((SIZE[0] - 9, 5, 0))) == [("outside", (0,), 1.0)]
    assert found(put((5, 5, 90))) == [("outside", (0,), 5.0)], "turned about its origin it reaches to the left"
    assert found(put((5, 5, 0)), free=(Box(12, 0, 30, 9),)) == [("free", (0,), 0.0)]
    assert found(put((5, 5, 0)), free=(Box(16, 0, 30, 9),)) == []
    other = dataclasses.replace(PIECE, alike="red 0.05")
    mixed = plate_of([(PIECE, Nested(0, 0, 5, 5, 0)), (other, Nested(0, 0, 40, 5, 0))], hangs=True)
    assert found(mixed) == [("unlike", (1,), 0.0)]


def test_what_lies_fixed_stays_and_nothing_comes_near_it_nor_where_it_is_kept_free() -> None:
    rng = np.random.default_rng(4)
    for _ in range(60):
        sides = [sorted(rng.uniform(3, 14, 2).tolist()) for _ in range(8)]
        shapes = [Shape(star(outer, inner, int(rng.integers(3, 7)))) for inner, outer in sides]
        x, y, turn, left, front = rng.uniform((20, 20, 0, 0, 0), (60, 60, 360, 40, 40)).tolist()
        fixed = [Nested(0, 0, x, y, turn)]
        free = Box(left, front, 75.0, 70.0)
        laid, _ = nested(shapes, (120, 90), 1.5, fixed=fixed, free=[free], most_plates=1)
        assert laid[0] == fixed[0]
        stays = placed(shapes[0], fixed[0])
        kept = shapely.box(free.x0_mm, free.y0_mm, free.x1_mm, free.y1_mm)
        for at in laid[1:]:
            mine = placed(shapes[at.shape], at)
            assert mine.distance(stays) >= 1.5 - 1e-6 and not mine.intersects(kept)
        assert len(laid) > 1


def test_plates_are_filled_around_what_is_pinned_and_unlike_ones_lie_apart() -> None:
    red = dataclasses.replace(PIECE, plan="heron", alike="red 0.05")
    pinned = [(dataclasses.replace(PIECE, copy=9), Nested(0, 1, 50.0, 50.0, 0.0))]
    grey = [dataclasses.replace(PIECE, copy=k) for k in (1, 2)]
    laid = plates_of([*grey, red], SIZE, gap=2.0, hangs=True, fixed=pinned)
    told = [sorted((p.plan, p.copy, at.plate) for p, at in plate.items) for plate in laid.plates]
    assert told == [[("warden", 1, 0), ("warden", 2, 0)], [("warden", 9, 1)], [("heron", 1, 2)]]
    (stays,) = (at for plate in laid.plates for p, at in plate.items if p.copy == 9)
    assert (stays.x_mm, stays.y_mm) == (50.0, 50.0)


@pytest.mark.parametrize("hangs", [True, False])
def test_coins_of_a_plate_are_sums_by_hand(hangs: bool) -> None:
    kind = "hangs" if hangs else "stands"
    plate = plate_of([(PIECE, Nested(0, 0, 5, 5, 0)), (PIECE, Nested(0, 0, 30, 5, 0))], hangs=hangs)
    hours = 2.0 if hangs else (120 + 2 * 7080) / 3600
    dear, rates = [Dear(0.5, 10.0, 0.1), Dear(0.7, 6.0, 0.1)], Rates(0.2, 0.4, 1.0)
    spent = spent_on(plate, dear, rates, hangs=hangs)
    share = plate.good / 2
    assert spent.machine == pytest.approx(hours * 0.4)
    assert spent.power == pytest.approx(hours * WATTS[kind] / 1000 * COINS_PER_KWH)
    worn = 0.2 if hangs else 0.2 + hours / NOZZLE_HOURS * NOZZLE_COINS
    assert (spent.material, spent.film, spent.stuff) == pytest.approx((1.2, worn, STUFF[kind]))
    assert spent.hands == pytest.approx((PLATE_MIN[kind] + share * 16) * 0.2)
    made = spent.material + spent.machine + spent.power + spent.film + spent.stuff
    assert spent.lost == pytest.approx(made * (1 / share - 1)), "made until it comes off"
    slow = spent_on(plate, dear, rates, hangs=hangs, times=2.0, more_min=3.0)
    assert slow.hands == pytest.approx((2 * (PLATE_MIN[kind] + 3) + share * 16) * 0.2)
    assert spent.total == pytest.approx(made + spent.hands + spent.lost) and spent.each == pytest.approx(
        spent.total / 2
    )


def test_a_plate_is_looked_at_by_the_clock_of_its_pieces() -> None:
    slow = dataclasses.replace(PIECE, plan="slow", tall_mm=30.0, time_s=10_000.0)
    both = [(PIECE, Nested(0, 0, 5, 5, 0)), (slow, Nested(0, 0, 30, 5, 0))]
    hanging, standing = plate_of(both, hangs=True), plate_of(both, hangs=False)
    assert time_at(hanging, 15.0, hangs=True) == pytest.approx(120 + 9880 / 2), "as fast as its slowest"
    assert time_at(standing, 15.0, hangs=False) == pytest.approx(120 + 7080 / 4 + 9880 / 2)
    assert time_at(standing, 45.0, hangs=False) == pytest.approx(120 + 7080 * 0.75 + 9880), "the lower one is done"
    known = dataclasses.replace(PIECE, clock=(600.0, 7200.0))
    alone = plate_of([(known, Nested(0, 0, 5, 5, 0))], hangs=True)
    assert time_at(alone, 29.0, hangs=True) == 600.0 and time_at(alone, 31.0, hangs=True) == 7200.0
    seen = looks(hanging, {"warden": [Threat(20.0, 0.1, "sways")], "slow": [Threat(3.0, 0.0001, "a hair")]}, hangs=True)
    assert [look.said for look in seen][1:2] == ["sways"], "what hardly ever comes is no line"
    assert seen[0].z_mm == FIRST_LAYERS_MM and seen[-1].at_s == hanging.time_s
    assert [look.at_s for look in seen] == sorted(look.at_s for look in seen)
    twice = plate_of([(PIECE, Nested(0, 0, 5, 5, 0)), (PIECE, Nested(0, 0, 30, 5, 0))], hangs=True)
    assert looks(twice, {"warden": [Threat(20.0, 0.1, "sways")]}, hangs=True)[1].chance == pytest.approx(0.19)


def test_one_after_the_other_each_piece_has_its_own_clock() -> None:
    slow = dataclasses.replace(PIECE, plan="slow", tall_mm=30.0, time_s=10_000.0)
    plate = plate_of([(PIECE, Nested(0, 0, 5, 5, 0)), (slow, Nested(0, 0, 80, 5, 0))], hangs=False)
    threats = {"warden": [Threat(15.0, 0.1, "sways")], "slow": [Threat(15.0, 0.2, "falls")]}
    told = {look.said: look.at_s for look in looks(plate, threats, hangs=False, order=[1, 0])}
    assert told["falls"] == pytest.approx(120 + 9880 / 2), "the slow one is first"
    assert told["sways"] == pytest.approx(9880 + 120 + 7080 / 4), "and the warden begins when that is done"
    assert told["the first layers stick, and again as each piece begins"] == pytest.approx(120 + 9880 / 30)


def test_the_checker_turns_as_the_nest_does() -> None:
    piece = dataclasses.replace(PIECE, outlines=star(9, 4, 5))
    plate = put((40, 40, 33.0), piece=piece)
    mine = affinity.translate(affinity.rotate(shapely.Polygon(star(9, 4, 5)[0]), 33, origin=(0, 0)), 40, 40)
    assert shapely.Polygon(plate.footprint(0)[0]).symmetric_difference(mine).area < 0.05
