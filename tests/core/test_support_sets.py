"""More supports or more pieces: how many boxes fit by hand, and what a good piece takes by the plain rule."""

from __future__ import annotations

import dataclasses

import pytest

from tenugui.core.plate import SupportSet, sets_on_plate
from tenugui.core.plate.plates import TAKES

SIZE = (100.0, 100.0, 120.0)
ONE = SupportSet((17.0, 17.0), 40.0, 3600.0, 600.0, 0.0)


def test_as_many_fit_as_by_hand() -> None:
    (told,) = sets_on_plate([ONE], SIZE, gap=2.0, hangs=True, most=60)
    assert told.fits == 25 and told.best == 25
    wide = dataclasses.replace(ONE, box_mm=(47.0, 17.0))
    assert sets_on_plate([wide], SIZE, gap=2.0, hangs=True, most=60)[0].fits == 10
    assert sets_on_plate([dataclasses.replace(ONE, tall_mm=121.0)], SIZE, gap=2.0, hangs=True, most=9)[0].fits == 0
    too_wide = sets_on_plate([dataclasses.replace(ONE, box_mm=(101.0, 10.0))], SIZE, gap=2.0, hangs=True, most=9)[0]
    assert (too_wide.fits, too_wide.best, too_wide.hours_per_good) == (0, 0, None)


def test_a_good_piece_takes_what_the_plain_rule_says() -> None:
    risky = dataclasses.replace(ONE, lost=0.1)
    sure, told = sets_on_plate([ONE, risky], SIZE, gap=2.0, hangs=True, most=4)
    assert sure.hours_per_good == pytest.approx(1 / 4), "a screen prints four in the time of one"
    good = 4 * 0.9 * (1 - TAKES["hangs"] * 0.1) ** 3
    assert told.hours_per_good == pytest.approx(1 / good) and told.best == 4
    drawn = sets_on_plate([dataclasses.replace(ONE, lost=0.3)], SIZE, gap=2.0, hangs=False, most=6)[0]
    assert drawn.best < 6, "what is drawn together is lost together"


def test_fewer_supports_are_more_pieces() -> None:
    sets = [dataclasses.replace(ONE, box_mm=(side, side), lost=lost) for side, lost in ((17.0, 0.2), (24.0, 0.02))]
    few, many = sets_on_plate(sets, SIZE, gap=2.0, hangs=True, most=60)
    assert few.fits > many.fits and few.hours_per_good is not None and many.hours_per_good is not None
