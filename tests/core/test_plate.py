"""Plates: nothing overlaps nor leaves the plate (shapely is the checker); what they take by hand and by simulation."""

from __future__ import annotations

import dataclasses

import numpy as np
import pytest
import shapely
from shapely import affinity

from tenugui.core.errors import CoreError
from tenugui.core.mesh import Mesh
from tenugui.core.plate import Nested, Piece, Polygon, Shape, batch_curve, footprint_of, nested, plates_of
from tenugui.core.plate.footprint import CELL_MM
from tenugui.core.plate.plates import TAKES, good_of, pull_of, time_of
from tests.shapes import ball, box

SIZE = (207.36, 116.64, 240.0)
L_SHAPE: list[Polygon] = [[(0, 0), (30, 0), (30, 6), (6, 6), (6, 30), (0, 30)]]


def star(outer: float, inner: float, points: int) -> list[Polygon]:
    turn = np.linspace(0, 2 * np.pi, 2 * points + 1)[:-1]
    r = np.array([outer, inner] * points)
    return [[(float(x), float(y)) for x, y in zip(r * np.cos(turn), r * np.sin(turn), strict=True)]]


def placed(shape: Shape, at: Nested) -> shapely.Geometry:
    whole = shapely.unary_union([shapely.Polygon(p).buffer(0) for p in shape.outlines])
    return affinity.translate(affinity.rotate(whole, at.turn_deg, origin=(0, 0)), at.x_mm, at.y_mm)


def test_on_500_random_plates_nothing_overlaps_or_leaves() -> None:
    rng, laid_in_all = np.random.default_rng(1), 0
    for _ in range(500):
        size = tuple(rng.uniform(40, 120, 2).tolist())
        gap = float(rng.choice([0.0, 1.0, 3.0]))
        shapes = []
        for _ in range(rng.integers(1, 9)):
            inner, outer = sorted(rng.uniform(2, 18, 2).tolist())
            outlines = star(outer, inner, int(rng.integers(3, 8)))
            turns = tuple(rng.uniform(0, 360, 4).tolist()) if rng.random() < 0.6 else (0.0,)
            shapes.append(Shape(outlines, turns))
        laid, left = nested(shapes, size, gap, most_plates=2, cell=1.0)
        assert sorted([at.shape for at in laid] + left) == list(range(len(shapes)))
        for plate in {at.plate for at in laid}:
            mine = [placed(shapes[at.shape], at) for at in laid if at.plate == plate]
            for one in mine:
                low_x, low_y, high_x, high_y = one.bounds
                assert low_x >= -1e-6 and low_y >= -1e-6 and high_x <= size[0] + 1e-6 and high_y <= size[1] + 1e-6
            for a in range(len(mine)):
                for b in range(a):
                    assert mine[a].distance(mine[b]) >= gap - 1e-6 and not mine[a].intersects(mine[b])
        laid_in_all += len(laid)
    assert laid_in_all > 1500


def test_what_fits_none_is_left() -> None:
    laid, left = nested([Shape(star(60, 50, 5)), Shape(star(5, 4, 5))], (50, 50), 1.0)
    assert left == [0] and [at.shape for at in laid] == [1] and laid[0].plate == 0


def test_turns_and_true_outlines_beat_bounding_boxes_by_a_fifth() -> None:
    turns = tuple(45.0 * k for k in range(8))
    shapes = [Shape(L_SHAPE, turns)] * 60
    laid, _ = nested(shapes, SIZE[:2], 2.0, most_plates=1)
    boxes = int((SIZE[0] + 2) // 32) * int((SIZE[1] + 2) // 32)
    assert len(laid) >= 1.2 * boxes


def test_a_footprint_covers_all_of_it_and_hardly_more() -> None:
    (outline,) = footprint_of([ball(10)])
    covered = shapely.Polygon(outline)
    assert covered.contains(shapely.Point(0, 0).buffer(9.99))
    assert covered.area < np.pi * (10 + 2.2 * CELL_MM) ** 2
    apart = footprint_of([box((0, 0, 0), (4, 4, 4)), box((20, 0, 0), (4, 4, 4))])
    assert len(apart) == 2 and sum(shapely.Polygon(p).area for p in apart) == pytest.approx(32, abs=12)
    rng = np.random.default_rng(2)
    for _ in range(20):
        points = rng.normal(0, 6, (9, 3))
        faces = np.array([[0, 1, 2], [3, 4, 5], [6, 7, 8]], np.int32)
        covered = shapely.unary_union([shapely.Polygon(p) for p in footprint_of([Mesh(points, faces)])])
        for face in points[faces][:, :, :2]:
            assert covered.covers(shapely.Polygon(face)), "thin and sharp ones too"
    with pytest.raises(CoreError, match="covers"):
        footprint_of([Mesh(np.array([[0, 0, 0], [9000, 0, 0], [0, 9000, 0.0]]), np.array([[0, 1, 2]], np.int32))])


def piece(**more: object) -> Piece:
    usual = Piece(
        "plan.json", 1, L_SHAPE, 40.0, 7200.0, 240.0, 9.0, 10.0, 0.04, 0.03, (1.0, 3.0, 2.0), 10.0, "grey 0.05"
    )
    return dataclasses.replace(usual, **more)  # type: ignore[arg-type]


def test_hours_and_pull_of_a_plate_are_sums_and_maxima_by_hand() -> None:
    one, other = piece(), piece(time_s=9000.0, pull_n=(2.0, 2.0, 2.0, 2.0, 9.0, 2.0), pull_mm=5.0)
    assert time_of([one, other, one], hangs=True) == 9000.0
    assert time_of([one, other, one], hangs=False) == 240 + 2 * (7200 - 240) + 9000 - 240
    # At 2.5 mm 1 + 2, at 12.5 mm 3 + 2, at 22.5 mm 2 + 9.
    assert pull_of([one, other]) == 11.0
    assert pull_of([piece(pull_n=())]) == 0.0


@pytest.mark.parametrize("hangs", [True, False])
def test_good_pieces_are_as_many_as_on_simulated_plates(hangs: bool) -> None:
    pieces = [piece(lost=0.02 + 0.03 * k) for k in range(5)]
    good, risk = good_of(pieces, hangs=hangs)
    rng, counted, any_lost = np.random.default_rng(3), 0, 0
    takes = TAKES["hangs" if hangs else "stands"]
    for _ in range(20_000):
        if rng.random() < 0.03:
            any_lost += 1
            continue
        lost = rng.random(5) < [p.lost for p in pieces]
        ruined = lost & (rng.random(5) < takes)
        gone = lost | np.array([ruined[np.arange(5) != k].any() for k in range(5)])
        counted += int((~gone).sum())
        any_lost += bool(lost.any())
    assert good == pytest.approx(counted / 20_000, abs=0.03)
    assert risk == pytest.approx(any_lost / 20_000, abs=0.012)


def test_how_many_at_once_is_best_has_an_end_where_one_takes_the_rest() -> None:
    shaky = piece(lost=0.15, time_s=3000.0, start_s=1200.0)
    curve = batch_curve(shaky, SIZE, gap=2.0, hangs=False, most=30)
    best = min(curve, key=lambda c: c[1])[0]
    takes, own = TAKES["stands"], 3000.0 - 1200.0
    for n, hours in curve:
        good = 0.97 * n * 0.85 * (1 - 0.15 * takes) ** (n - 1)
        assert hours == pytest.approx((1200 + n * own) / 3600 / good)
    assert 1 < best < len(curve)
    hung = batch_curve(piece(), SIZE, gap=2.0, hangs=True, most=30)
    assert min(hung, key=lambda c: c[1])[0] == len(hung), "what hangs takes no longer for more"


def test_what_hangs_is_grouped_by_height_and_what_cannot_be_together_lies_apart() -> None:
    tall, low = [piece(tall_mm=90.0, time_s=20_000.0)] * 30, [piece(tall_mm=20.0, time_s=4000.0)] * 30
    laid = plates_of([*low, *tall], SIZE, gap=2.0, hangs=True)
    heights = [{p.tall_mm for p, _ in plate.items} for plate in laid.plates]
    assert sum(len(h) > 1 for h in heights) <= 1, "at most one plate mixes them"
    apart = plates_of([piece(), piece(alike="tough 0.05")], SIZE, gap=2.0, hangs=True)
    assert [len(plate.items) for plate in apart.plates] == [1, 1]
    beyond = plates_of([piece(tall_mm=300.0), piece()], SIZE, gap=2.0, hangs=True)
    assert len(beyond.plates) == 1 and "300 mm tall" in beyond.unplaced[0][1]
    assert plates_of([piece(tall_mm=300.0)], SIZE, gap=2.0, hangs=True).hours_per_good is None


def test_footprints_of_a_plate_lie_where_its_pieces_do() -> None:
    (plate,) = plates_of([piece()] * 3, SIZE, gap=2.0, hangs=True).plates
    outlines = [shapely.Polygon(plate.footprint(k)[0]) for k in range(3)]
    for k, (one, at) in enumerate(plate.items):
        assert outlines[k].normalize().equals_exact(placed(Shape(one.outlines), at).normalize(), 0.01)
        assert min(outlines[k].bounds) >= 0
