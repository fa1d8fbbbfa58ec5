"""Ask why: turns and bounds against plain search, and a board's evidence by its own rows."""

from __future__ import annotations

from dataclasses import asdict, replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tenugui.core.contract import Document
from tenugui.core.errors import CoreError
from tenugui.core.plan.why import worths_in
from tenugui.core.worth import Gift, Rates, alike, bounds, gift_of_worth, least, least_coins, priced, turns

some = st.floats(0.1, 100)
chance = st.floats(0.0, 0.9)
gifts = st.lists(st.builds(Gift, some, some, some, chance, chance), min_size=2, max_size=5)
rates = st.builds(Rates, st.floats(0.01, 5), st.floats(0.01, 5), st.floats(0.1, 5))


@given(st.builds(Gift, some, some, some, chance, chance), rates)
def test_what_an_alternative_takes_is_read_back_from_its_worth(gift: Gift, at: Rates) -> None:
    back = gift_of_worth(priced(gift, at))
    assert list(asdict(back).values()) == pytest.approx(list(asdict(gift).values()), abs=1e-7)


@given(gifts, rates)
def test_the_cheapest_is_the_one_of_least_total(rows: list[Gift], at: Rates) -> None:
    totals = [priced(row, at).total for row in rows]
    assert totals[least_coins(rows, at)] == pytest.approx(min(totals))


@given(gifts, rates)
def test_a_turn_is_where_another_row_becomes_the_least_coins(rows: list[Gift], at: Rates) -> None:
    now = least_coins(rows, at)
    for turn in turns(rows, at):
        assert turn.now == getattr(at, turn.rate) and turn.row != now
        beyond = 1 + 1e-6 if turn.then > turn.now else 1 - 1e-6
        there, before = (replace(at, **{turn.rate: turn.then * f}) for f in (beyond, 1 / beyond))
        totals = [priced(row, there).total for row in rows]
        assert totals[turn.row] == pytest.approx(min(totals), rel=1e-5)
        assert totals[turn.row] == pytest.approx(priced(rows[now], there).total, rel=1e-4)
        assert priced(rows[now], before).total <= priced(rows[turn.row], before).total * (1 + 1e-5)


def test_a_turn_that_is_there_is_told_and_none_else() -> None:
    """30 minutes and an hour against 10 minutes and three: alike where 20 minutes are worth two hours."""
    fast, neat = Gift(30.0, 1.0, 0.0, 0.0), Gift(10.0, 3.0, 0.0, 0.0)
    told = {(t.rate, t.row): t.then for t in turns([fast, neat], Rates(0.05, 1.0, 1.0))}
    assert told == {("minute", 1): pytest.approx(0.1), ("hour", 1): pytest.approx(0.5)}
    assert turns([fast, replace(fast, hands_min=31.0)], Rates(0.05, 1.0, 1.0)) == []


def test_a_bound_is_how_far_an_estimate_may_be_off() -> None:
    rows, at = [Gift(10.0, 1.0, 1.0, 0.0), Gift(20.0, 1.0, 1.0, 0.0)], Rates(0.2, 0.5, 1.0)
    held = {b.part: b for b in bounds(rows, at, 0)}
    assert held["hands"].times == pytest.approx(2.0) and held["hands"].row == 1
    assert held["machine"].times == pytest.approx(5.0), "two more coins at half a coin an hour: four more hours"
    assert held["material"].times == pytest.approx(3.0) and "risk" not in held, "none is lost, however many times"
    assert [(b.part, b.times) for b in bounds(rows, at, 1)] == [("hands", pytest.approx(0.5))]
    risky = [replace(rows[0], lost=0.1), rows[1]]
    b = {b.part: b for b in bounds(risky, at, 0)}["risk"]
    dear = priced(replace(risky[0], lost=0.1 * b.times), at).total
    assert dear == pytest.approx(priced(rows[1], at).total) and b.now == pytest.approx(0.1)


def test_alike_is_what_least_goes_by() -> None:
    at = Rates(0.2, 0.5, 1.0)
    near = [priced(Gift(m, 1.0, 1.0, 0.0), at) for m in (10.0, 11.0)]
    far = [priced(Gift(m, 1.0, 1.0, 0.0), at) for m in (10.0, 40.0)]
    assert alike(near[1], near[0]) and least(near, 1) == 1
    assert not alike(far[1], far[0]) and least(far, 1) == 0
    riskier = priced(Gift(10.0, 1.0, 1.0, 0.2), at)
    assert not alike(riskier, near[0]), "as many coins, and a fifth lost"
    assert np.isclose(near[0].total, 3.5 + 0.0)


def test_a_board_without_prices_has_no_why() -> None:
    with pytest.raises(CoreError, match="Nothing is weighed"):
        worths_in(Document())
