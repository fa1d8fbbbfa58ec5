"""Worth: coins by hand, words by difference, and what a held figure takes."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.hazards import Arises, Hazard
from tenugui.core.layers import prove
from tenugui.core.machines import Context
from tenugui.core.machines.kinds import FILAMENT as KIND_FILAMENT
from tenugui.core.machines.kinds import RESIN as KIND_RESIN
from tenugui.core.mesh import Mesh
from tenugui.core.pose.price import FINISH_MIN
from tenugui.core.process import Use
from tenugui.core.process.resin import PULL
from tenugui.core.removal.hands import (
    chances,
    finish_min,
    held_gift,
    mean_lean,
    weights_at,
)
from tenugui.core.risk import ledger
from tenugui.core.supports import CUT_MIN, INSIDE_WEIGHT, PIECE_MIN, SAND_MIN, SCAR_MIN, Tip, make_supports
from tenugui.core.supports.touch import bare_below
from tenugui.core.worth import PRESETS, Gift, Rates, compared, least, priced, rates_of
from tests.figures import keeper
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import ball, box, cylinder

RATES = Rates(0.2, 0.5, 2.0)
gifts = st.builds(Gift, st.floats(0, 300), st.floats(0, 60), st.floats(0, 50), st.floats(0, 0.95), st.floats(0, 0.95))


def tip(x: float, y: float, z: float, *, mm: float = 0.35, on: str = "plate") -> Tip:
    return Tip(x, y, z, mm, (1.0, 1.0), "island", on, ((x, y, 0.0), (x, y, z / 2), (x, y, z)))


def hazard(cost: str, chance: float) -> Hazard:
    return PULL.at(0, (0.0, 0.0, 0.0), 1, 1, unit="N", message="", remedy="", arises=Arises(given=chance), loss=cost)  # type: ignore[arg-type]


def test_a_lost_print_costs_the_clearing_the_hours_and_the_material_again() -> None:
    worth = priced(Gift(30, 4, 2, 0.25), RATES)
    again = 20 * 0.2 + 4 * 0.5 + 2
    assert worth.loss == pytest.approx(0.25 * again * 2.0)
    assert worth.total == pytest.approx(30 * 0.2 + 4 * 0.5 + 2 + worth.loss) and worth.risk == pytest.approx(0.25)


def test_a_lost_part_costs_half_of_it_and_half_of_the_hands() -> None:
    worth = priced(Gift(30, 4, 2, 0.0, 0.4), RATES)
    assert worth.loss == pytest.approx(0.5 * 0.4 * (20 * 0.2 + 2 + 2 + 6) * 2.0)
    both = priced(Gift(30, 4, 2, 0.25, 0.4), RATES)
    assert both.risk == pytest.approx(1 - 0.75 * 0.6)
    assert both.loss == pytest.approx((0.25 * 8 + 0.5 * 0.75 * 0.4 * 14) * 2.0)


def test_a_part_never_costs_more_than_the_whole_print() -> None:
    long = priced(Gift(61, 0, 0, 0.0, 0.5), RATES)
    assert long.loss == pytest.approx(0.5 * 20 * 0.2 * 2.0), "one starts again rather than mend for half an hour"


@settings(max_examples=60, deadline=None)
@given(gifts, gifts)
def test_less_of_everything_is_worth_more(one: Gift, other: Gift) -> None:
    low = Gift(
        *(min(getattr(one, f), getattr(other, f)) for f in ("hands_min", "machine_h", "material", "lost", "part_lost"))
    )
    for rates in PRESETS.values():
        assert priced(low, rates).total <= min(priced(one, rates).total, priced(other, rates).total) + 1e-9


@settings(max_examples=60, deadline=None)
@given(st.lists(gifts, min_size=1, max_size=6), st.floats(0.1, 10))
def test_all_rates_times_anything_change_no_choice_but_for_the_material(found: list[Gift], times: float) -> None:
    free = [Gift(g.hands_min, g.machine_h, 0.0, g.lost, g.part_lost) for g in found]
    here = least([priced(g, RATES) for g in free])
    there = least([priced(g, Rates(RATES.minute * times, RATES.hour * times, RATES.lost)) for g in free])
    assert priced(free[here], RATES).total == pytest.approx(priced(free[there], RATES).total)


def test_words_say_what_differs_and_nothing_else() -> None:
    here = priced(Gift(10, 2, 1, 0.02), RATES)
    assert compared(here, here) == ""
    assert compared(here, priced(Gift(11, 2, 1, 0.02), RATES)) == "1 minute less by hand"
    assert compared(priced(Gift(10, 5, 1, 0.02), RATES), here) == "3.0 hours more printing"
    assert compared(priced(Gift(10, 2, 1.5, 0.02), RATES), here) == "0.50 more of material"
    assert compared(priced(Gift(10, 2, 1, 0.4), RATES), here) == "risk 40 % against 2 %"
    assert compared(priced(Gift(10.4, 2.01, 1, 0.022), RATES), here) == ""


def test_presets_are_named_and_free_values_are_laid_over_the_first() -> None:
    assert set(PRESETS) == {"evening", "order", "army"}
    assert rates_of({"lost": 4}).as_dict() == PRESETS["evening"].as_dict() | {"lost": 4.0}
    assert PRESETS["order"].minute > PRESETS["evening"].minute, "wages are dearer than an evening"


def test_steps_cost_nothing_below_what_primer_hides_and_grow_evenly_above() -> None:
    assert finish_min(0.4, 0.02, "resin") == 0 == finish_min(0.4, 0.01, "resin")
    assert finish_min(0.4, 0.05, "resin") == pytest.approx(FINISH_MIN * 0.4)
    assert finish_min(0.4, 0.08, "resin") == pytest.approx(2 * finish_min(0.4, 0.05, "resin"))
    assert finish_min(0.0, 0.2, "filament") == 0 and finish_min(0.4, 0.12, "filament") == pytest.approx(
        FINISH_MIN * 0.4
    )


def test_the_mean_lean_of_known_shapes() -> None:
    assert mean_lean(box((0, 0, 5), (4, 4, 10)), None) == pytest.approx(0), (
        "walls have none, exactly flat faces neither"
    )
    assert mean_lean(ball(10, fineness=5), None) == pytest.approx(0.5, abs=0.01), "|cos| over a sphere"
    stone = ball(10, fineness=4)
    top = np.where(stone.middles()[:, 2] > 0, 5.0, 1.0)
    assert mean_lean(stone, top) == pytest.approx(0.5, abs=0.01), "both halves are alike"
    side = np.where(np.abs(stone.middles()[:, 2]) < 2, 50.0, 1.0)
    assert mean_lean(stone, side) < 0.25, "what counts is steep"


def test_a_tip_costs_by_where_it_stands_and_what_it_scars() -> None:
    context = Context.of(HERON, RESIN, 0.02)
    use = Use(7200.0, np.zeros(1), 1.0, 1.0, 0.4, "formula")
    none = held_gift([], np.empty(0), 0.0, hazards=[], use=use, context=context)
    assert none == Gift(KIND_RESIN.fixed_min, 2.0, 0.4, 0.0, 0.0)
    one = held_gift([tip(0, 0, 5)], np.ones(1), 0.0, hazards=[], use=use, context=context)
    assert one.hands_min - none.hands_min == pytest.approx(CUT_MIN + PIECE_MIN + SAND_MIN)
    shown = held_gift([tip(0, 0, 5)], np.array([5.0]), 0.0, hazards=[], use=use, context=context)
    assert shown.hands_min - one.hands_min == pytest.approx(4 * SAND_MIN)
    standing = held_gift([tip(0, 0, 5, on="model")], np.ones(1), 0.0, hazards=[], use=use, context=context)
    assert standing.hands_min - one.hands_min == pytest.approx(CUT_MIN)
    thick = held_gift([tip(0, 0, 5, mm=0.7)], np.ones(1), 0.0, hazards=[], use=use, context=context)
    assert thick.hands_min - none.hands_min == pytest.approx(2 * CUT_MIN + PIECE_MIN + 4 * SAND_MIN)


def test_chances_go_by_what_they_cost() -> None:
    found = [
        hazard("print lost", 0.1),
        hazard("print lost", 0.2),
        hazard("part lost", 0.5),
        hazard("scar", 0.9),
        hazard("scar", 0.6),
    ]
    lost, part, scars = chances(found)
    assert lost == pytest.approx(1 - 0.9 * 0.8) and part == pytest.approx(0.5) and scars == pytest.approx(1.5)
    use = Use(3600.0, np.zeros(1), 1.0, 1.0, 0.4, "formula")
    gift = held_gift([], np.empty(0), 0.0, hazards=found, use=use, context=Context.of(KESTREL, FILAMENT))
    assert (gift.lost, gift.part_lost) == (lost, part) and gift.hands_min == pytest.approx(
        KIND_FILAMENT.fixed_min + 1.5 * SCAR_MIN
    )


def test_a_scar_costs_what_the_face_under_it_costs() -> None:
    stone = ball(6, fineness=4)
    left = np.where(stone.middles()[:, 0] < 0, 5.0, 0.2)
    told = weights_at(stone, left, [tip(-3, 0, -5), tip(3, 0, -5)])
    assert told.tolist() == [5.0, 0.2] and weights_at(stone, None, [tip(0, 0, 0)]).tolist() == [1.0]
    assert len(weights_at(stone, left, [])) == 0
    rim = np.where(stone.middles()[:, 0] < 0, INSIDE_WEIGHT, 0.2)
    assert weights_at(stone, rim, [tip(-3, 0, -5), tip(3, 0, -5)]).tolist() == [0.0, 0.2], "nobody sands in a cavity"


def test_what_lies_inside_another_shell_wants_no_tip() -> None:
    """An egg sunk into a block by its lower half: its underside is no surface."""
    block, egg = box((0, 0, 5), (20, 20, 10)), ball(6, (0, 0, 10), fineness=4)
    both = Mesh.joined([block, egg])
    context = Context.of(HERON, RESIN, 0.05)
    proof = prove(both, context.height, context.reach)
    down = np.array([[0, 0, 4.05], [0, 0, 0.05], [9.9, 0, 5.0]])
    assert bare_below(proof, down).tolist() == [False, True, False]
    made = make_supports(both, context)
    assert not any(abs(t.x) < 6 and abs(t.y) < 6 and 1 < t.z < 10 for t in made.tips)


def test_a_ledge_that_clings_wants_none_and_one_that_reaches_far_does() -> None:
    context = Context.of(KESTREL, FILAMENT, 0.2)
    for reach, wanted in ((0.8, False), (4.0, True)):
        figure = Mesh.joined([cylinder(8, 10), box((8 + reach / 2 - 0.5, 0, 9), (reach + 1, 4, 2))])
        proof = prove(figure, context.height, context.reach)
        under = np.array([[8 + reach - 0.05, 0, 8.0]])
        assert bare_below(proof, under, 1.0).all() == wanted, reach
        assert bool(make_supports(figure, context).tips) == wanted, reach


def test_a_bust_of_many_shells_hangs_on_no_more_tips_than_its_union() -> None:
    from tenugui.core.repair import unite

    context = Context.of(HERON, RESIN, 0.05)
    many = make_supports(keeper().dropped(), context)
    one = unite(keeper().dropped())
    assert one is not None
    united = make_supports(one, context)
    assert len(many.tips) <= 1.3 * len(united.tips) + 3


@pytest.mark.parametrize(("count", "low", "high"), [(0, 0.9, 1.0), (2, 0.5, 1.0), (60, 0.0, 0.1)])
def test_a_wide_ledge_is_lost_with_nothing_under_it_and_held_by_enough(count: int, low: float, high: float) -> None:
    table = Mesh.joined([box((0, 0, 5), (4, 4, 10)), box((0, 0, 11), (24, 24, 2))])
    context = Context.of(HERON, RESIN, 0.1)
    proof = prove(table, context.height, context.reach)
    spots = np.linspace(-11, 11, max(1, math.ceil(math.sqrt(count))))
    tips = (
        [tip(float(x), float(y), 10.0) for x in spots for y in spots][:count] * 8
        if count > 2
        else [tip(9, 9, 10.0)] * count
    )
    found = [h for h in ledger(proof, context, tips=tips) if h.code == "overhang"]
    chance = max((h.chance for h in found if h.loss == "part lost"), default=0.0)
    assert low <= chance <= high, [(h.message, h.chance, h.loss) for h in found]


def test_the_nearest_face_is_asked_and_not_the_one_far_above() -> None:
    """Nothing lies within a millimetre of this tip: a face 2.5 mm beside it is nearer than the roof over it."""
    roof, ledge = box((0, 0, 12), (6, 6, 2)), box((5.5, 0, 2), (6, 6, 2))
    both = Mesh.joined([roof, ledge])
    weights = np.where(both.middles()[:, 2] > 8, 5.0, 0.25)
    assert weights_at(both, weights, [tip(0, 0, 1)]).tolist() == [0.25]


def test_what_is_looked_for_is_taken_within_half_of_what_nobody_knows() -> None:
    """By a hair within half of the larger doubt, and by a hair beyond it."""
    rates = Rates(0.2, 0.5, 2.0)
    cheap = priced(Gift(40, 2, 0.5, 0.02), rates)
    apart = 0.5 * cheap.unsure / rates.minute
    for more, taken in ((0.9 * apart, 1), (1.5 * apart, 0)):
        dear = priced(Gift(40 + more, 2, 0.5, 0.02), rates)
        assert least([cheap, dear], 1) == taken
    risky = priced(Gift(40, 2, 0.5, 0.02, part_lost=0.09), rates)
    doomed = priced(Gift(40, 2, 0.5, 0.02, part_lost=0.3), rates)
    assert risky.harm == pytest.approx(0.02 + 0.98 * 0.045) and least([cheap, risky], 1) == 1
    assert least([cheap, doomed], 1) == 0, "a chance that lies farther is not alike"
