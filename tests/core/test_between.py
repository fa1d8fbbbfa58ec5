"""What only a plate knows: crossings and their length by hand, and pairs that cutters do not reach between."""

from __future__ import annotations

import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.plate import CUTTER_MM, Nested, between
from tenugui.core.plate.plates import Plate, plate_of
from tests.core.test_plate import piece

SQUARE = [[(0.0, 0.0), (10.0, 0.0), (10.0, 10.0), (0.0, 10.0)]]


def plate(*placed: tuple[float, float, float]) -> Plate:
    """Squares of 10 mm: where they lie and how tall they are."""
    items = [
        (piece(copy=k, outlines=SQUARE, tall_mm=tall), Nested(0, 0, x, y, 0.0))
        for k, (x, y, tall) in enumerate(placed, 1)
    ]
    return plate_of(items, hangs=False)


def test_a_nozzle_crosses_once_a_layer_for_each_piece_more() -> None:
    told = between(plate((0, 0, 20), (30, 0, 20), (60, 0, 10)), 0.2, draws=True)
    # Fifty layers of three pieces, fifty more of two.
    assert told.crossings == 50 * 2 + 50
    assert told.metres == pytest.approx((50 * 60 + 50 * 30) / 1000)
    assert between(plate((0, 0, 20)), 0.2, draws=True).crossings == 0
    screen = between(plate((0, 0, 20), (30, 0, 20)), 0.05, draws=False)
    assert (screen.crossings, screen.metres) == (0, 0.0), "a screen lights all of them at once"


def test_cutters_want_room() -> None:
    told = between(plate((0, 0, 9), (10 + CUTTER_MM - 0.1, 0, 9), (100, 0, 9)), 0.2, draws=True)
    assert told.tight == [(0, 1)]
    assert between(plate((0, 0, 9), (10 + CUTTER_MM + 0.1, 0, 9)), 0.2, draws=True).tight == []


@settings(max_examples=40, deadline=None)
@given(st.lists(st.tuples(st.floats(0, 80), st.floats(0, 80), st.floats(5, 30)), min_size=1, max_size=6))
def test_pairs_are_those_that_an_independent_library_finds(placed: list[tuple[float, float, float]]) -> None:
    told = between(plate(*placed), 0.2, draws=True)
    boxes = [shapely.box(x, y, x + 10, y + 10) for x, y, _ in placed]
    far = {(j, k): boxes[j].distance(boxes[k]) for k in range(len(boxes)) for j in range(k)}
    sure = {pair for pair, mm in far.items() if mm < CUTTER_MM - 1e-6}
    assert sure <= set(told.tight) <= {pair for pair, mm in far.items() if mm < CUTTER_MM + 1e-6}
    layers = [round(tall / 0.2) for _, _, tall in placed]
    assert told.crossings == pytest.approx(sum(layers) - max(layers), abs=len(placed) + 1)
