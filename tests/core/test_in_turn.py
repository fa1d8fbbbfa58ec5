"""Pieces one after the other: the nozzle never comes down among what stands, nothing of any piece is lost, and where
head or rail have no room it is said.
"""

from __future__ import annotations

import numpy as np
import pytest

from tenugui.core.machines import FilamentPrinter
from tenugui.core.paths import Path, planned, read_gcode, write_gcode
from tenugui.core.paths.gcode import CLEAR_MM
from tenugui.core.paths.sequence import one_after_another, shifted
from tenugui.core.plate import TAKES_LATER, Nested, in_turn
from tenugui.core.plate.plates import Plate, good_of, plate_of
from tests.core.test_plate import piece
from tests.presets import FILAMENT, KESTREL
from tests.shapes import box

assert isinstance(KESTREL, FilamentPrinter)
SQUARE = [[(0.0, 0.0), (10.0, 0.0), (10.0, 10.0), (0.0, 10.0)]]
PLACES = ((-40.0, 0.0, 4.0), (0.0, 0.0, 6.0), (40.0, 10.0, 9.0))


def path_of(tall: float) -> Path:
    return planned(box((0, 0, tall / 2), (8, 6, tall)), {}, KESTREL, 0.2)


def test_all_of_every_piece_is_drawn_where_it_lies_and_none_is_met_on_the_way() -> None:
    paths = [shifted(path_of(tall), np.array([x, y, 0.0])) for x, y, tall in PLACES]
    whole = one_after_another(paths, KESTREL)
    assert whole.volume_mm3 == pytest.approx(sum(p.volume_mm3 for p in paths), rel=1e-9)
    assert whole.layers == sum(p.layers for p in paths) and (np.diff(whole.layer) >= 0).all()
    assert len(whole.points) == len(whole.kind) + 1 == len(whole.seconds) + 1 == len(whole.fed) + 1
    at = np.cumsum([0, *(p.layers for p in paths)])
    for k, (x, y, tall) in enumerate(PLACES):
        mine = (whole.layer >= at[k]) & (whole.layer < at[k + 1]) & (whole.fed > 0)
        ends = whole.points[1:][mine]
        assert np.abs(ends[:, 0] - x).max() < 4.5 and np.abs(ends[:, 1] - y).max() < 3.5
        assert ends[:, 2].max() == pytest.approx(tall, abs=0.11)
        # Whatever moves once this piece stands keeps above it wherever it comes near it.
        later = np.flatnonzero(whole.layer >= at[k + 1])
        a, b = whole.points[later], whole.points[later + 1]
        for share in np.linspace(0, 1, 21):
            way = a + (b - a) * share
            near = (np.abs(way[:, 0] - x) < 8) & (np.abs(way[:, 1] - y) < 8)
            assert not near.any() or way[near, 2].min() > tall
    highest = max(tall for *_, tall in PLACES)
    assert whole.points[:, 2].max() == pytest.approx(highest + CLEAR_MM, abs=0.2), "over all that will stand there"


def test_the_file_of_it_reads_back_as_it_was_planned() -> None:
    paths = [shifted(path_of(tall), np.array([x, y, 0.0])) for x, y, tall in PLACES[:2]]
    whole = one_after_another(paths, KESTREL)
    back = read_gcode(write_gcode(whole, KESTREL, FILAMENT))
    gone = KESTREL.retract_mm * np.pi * KESTREL.filament_mm**2 / 4
    assert back.volume_mm3(KESTREL) + gone == pytest.approx(whole.volume_mm3, rel=1e-3)
    assert back.layers == max(p.layers for p in paths), "heights that they share are one"


def test_one_piece_alone_is_its_own_path() -> None:
    path = path_of(4.0)
    assert one_after_another([path], KESTREL) is path


def laid(*placed: tuple[float, float, float]) -> Plate:
    items = [
        (piece(copy=k, outlines=SQUARE, tall_mm=tall), Nested(0, 0, x, y, 0.0))
        for k, (x, y, tall) in enumerate(placed, 1)
    ]
    return plate_of(items, hangs=False)


def test_the_tallest_comes_last_and_may_be_taller_than_the_rail() -> None:
    told = in_turn(laid((0, 0, 60), (50, 0, 20), (100, 0, 25)), 30.0, 30.0)
    assert told.can and told.order == [1, 2, 0]


@pytest.mark.parametrize(
    ("plate", "head", "rail", "why"),
    [
        (laid((0, 0, 20), (50, 0, 20)), None, 30.0, "not on the shelf"),
        (laid((0, 0, 20), (50, 0, 20)), 30.0, None, "not on the shelf"),
        (laid((0, 0, 40), (50, 0, 45)), 30.0, 30.0, "Piece 1 is 40 mm tall; the rail passes at 30."),
        (laid((0, 0, 20), (30, 0, 20)), 30.0, 30.0, "Pieces 1 and 2 are 20 mm apart; the head wants 30."),
    ],
)
def test_where_there_is_no_room_it_is_said(plate: Plate, head: float | None, rail: float | None, why: str) -> None:
    told = in_turn(plate, head, rail)
    assert not told.can and why in told.why


def test_less_is_lost_with_a_piece() -> None:
    pieces = [piece(lost=0.2, mishap=0.0)] * 4
    good, risk = good_of(pieces, hangs=False, takes=TAKES_LATER)
    before, same = good_of(pieces, hangs=False)
    assert good == pytest.approx(4 * 0.8 * (1 - 0.2 * TAKES_LATER) ** 3) and good > before and risk == same
