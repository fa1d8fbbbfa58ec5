"""Off the plate: amounts by hand, both schools, and what is cheaper, mended or again."""

from __future__ import annotations

import dataclasses
import math

import pytest

from tenugui.core.finish import Failed, Finishing, Step, ends_by, mend_or_print, steps_of
from tenugui.core.finish.mend import FILL_MIN, GLUE_MIN, JOIN_MIN, SEEN
from tenugui.core.finish.steps import AFTER_CURE, SAND_MM2_MIN
from tenugui.core.machines.after import AIR_MIN, CURE_MIN, WASH_MIN
from tenugui.core.worth import Gift, priced, rates_of

SCAR = math.pi / 4 * 0.8**2
CUBE = Finishing("resin", (("front", 2, 3.0), ("below", 1, 1.0)), 3 * SCAR, 20.0, 0, False, 0.0)
"""A cube that three tips of 0.8 mm have held."""


def by_name(steps: list[Step]) -> dict[str, Step]:
    return {step.name: step for step in steps}


def test_amounts_of_a_cube_with_three_scars_by_hand() -> None:
    steps = by_name(steps_of(CUBE, "before"))
    sanded = steps["sand the scars"]
    assert sanded.amount == "1.5 mm²" and sanded.minutes == pytest.approx(max(1.0, 3 * SCAR / SAND_MM2_MIN), abs=0.05)
    assert steps["supports off, 1 of 2, from its front"].amount == "2 tips"
    assert steps["supports off, 2 of 2, from below"].amount == "1 tip"
    rest = 20.0 - 4.0 - 3 * SCAR / SAND_MM2_MIN
    assert steps["smooth steps and undersides"].minutes == pytest.approx(rest, abs=0.05)
    assert (steps["first bath"].minutes, steps["dry in the air"].minutes) == (WASH_MIN, AIR_MIN)


def test_steps_follow_each_other_without_a_gap() -> None:
    for school in ("before", "after"):
        steps = steps_of(CUBE, school)  # type: ignore[arg-type]
        at = 0.0
        for step in steps:
            assert step.start == pytest.approx(at) and step.minutes > 0
            at += step.minutes
        assert ends_by(steps) == pytest.approx(at)


def test_the_schools_differ_in_when_and_how_long_supports_come_off() -> None:
    before, after = (steps_of(CUBE, school) for school in ("before", "after"))  # type: ignore[arg-type]
    names = [s.name for s in before], [s.name for s in after]
    assert names[0].index("supports off, 1 of 2, from its front") < names[0].index("cure one side")
    assert names[1].index("supports off, 1 of 2, from its front") > names[1].index("cure the other side")
    off = by_name(after)["supports off, 1 of 2, from its front"].minutes
    assert off == pytest.approx(AFTER_CURE * by_name(before)["supports off, 1 of 2, from its front"].minutes, abs=0.06)
    assert "uncured" in by_name(before)["supports off, 2 of 2, from below"].caution


def test_a_side_that_comes_again_has_a_name_of_its_own() -> None:
    groups = (("below", 1, 1.0), ("front", 2, 1.0), ("below", 3, 1.0))
    names = [s.name for s in steps_of(dataclasses.replace(CUBE, groups=groups), "before")]
    assert len(set(names)) == len(names) and sum(name.startswith("supports off") for name in names) == 3


def test_a_hollow_is_flushed_cured_inside_and_plugged() -> None:
    hollow = dataclasses.replace(CUBE, holes=2, plugs=True)
    steps = by_name(steps_of(hollow, "before"))
    assert steps["flush the cavity"].amount == "2 holes" and steps["plug the holes"].amount == "2 plugs"
    assert steps["cure the cavity"].minutes == CURE_MIN
    assert not {"flush the cavity", "plug the holes", "cure the cavity"} & set(by_name(steps_of(CUBE, "before")))


def test_filament_is_neither_washed_nor_cured_and_loses_its_hairs() -> None:
    steps = by_name(steps_of(dataclasses.replace(CUBE, process="filament", strings=2000.0), "before"))
    assert not any("bath" in name or "cure" in name for name in steps)
    assert steps["hairs off"].minutes == pytest.approx(5.0) and "burn" in steps["hairs off"].caution
    assert "hairs off" not in by_name(steps_of(dataclasses.replace(CUBE, process="filament"), "before"))


def test_every_step_that_can_hurt_says_what_to_mind() -> None:
    for process in ("resin", "filament"):
        work = dataclasses.replace(CUBE, process=process, holes=1, plugs=True, strings=900.0)
        for step in steps_of(work, "before"):
            assert step.caution or step.name == "it dries", step.name


TAKES, RATES = Gift(30.0, 6.0, 2.0, 0.05), rates_of(None)


def test_what_broke_at_hand_is_glued_and_by_what_it_costs() -> None:
    mend, again = mend_or_print(Failed("thin", 400, 1000), takes=TAKES, rates=RATES)
    rates = rates_of(None)
    all_again = priced(Gift(30.0, 6.0, 2.0, 0.05), rates).total
    glued = priced(Gift(GLUE_MIN + FILL_MIN, 0.0, 0.0, 0.0), rates).total + SEEN["glue"] * all_again
    assert mend.way == "glue" and mend.coins == pytest.approx(glued) and again.coins == pytest.approx(all_again)
    assert mend.coins < again.coins


def test_what_was_lost_while_printing_is_printed_apart_or_again() -> None:
    high, again = mend_or_print(Failed("island", 900, 1000), takes=TAKES, rates=RATES)
    low, _ = mend_or_print(Failed("island", 100, 1000), takes=TAKES, rates=RATES)
    assert high.way == low.way == "apart" and high.hours == pytest.approx(0.6)
    assert high.hands_min == pytest.approx(JOIN_MIN + FILL_MIN + 3.0)
    assert high.coins < low.coins and low.coins > again.coins, "a stump of a tenth is no figure to join"
    hidden, _ = mend_or_print(Failed("island", 990, 1000), takes=TAKES, rates=RATES)
    assert hidden.way in ("hide", "apart") and hidden.coins <= high.coins
