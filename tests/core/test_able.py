"""What a machine can do: thresholds that hold the truth, words beside prints, and what contradicts."""

from __future__ import annotations

from datetime import datetime, timedelta

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import norm

from tenugui.core.learn import ABILITIES, BY_CODE, Evidence, abilities_of, chance_at, read_ability
from tenugui.core.learn.able import BORDER, GRID

DAY = datetime(2026, 11, 1, 12)


def seen(levels: list[float], came_out: list[bool]) -> list[Evidence]:
    return [Evidence(v, out, "run", DAY) for v, out in zip(levels, came_out, strict=True)]


@pytest.mark.parametrize("code", [a.code for a in ABILITIES])
def test_without_evidence_it_is_the_prior(code: str) -> None:
    ability = BY_CODE[code]
    told = read_ability(ability, [], DAY)
    assert told.value == pytest.approx(ability.at, abs=ability.spread / 100)
    half = 1.96 * ability.spread
    assert (told.low, told.high) == pytest.approx(
        (max(ability.least, ability.at - half), min(ability.most, ability.at + half)), abs=ability.spread / 50
    )
    wide = ability.spread * (1 + BORDER**2) ** 0.5
    safe = ability.at + norm.ppf(0.9) * wide * (-1 if ability.up else 1)
    assert told.safe == pytest.approx(min(max(safe, ability.least), ability.most), abs=ability.spread / 50)
    assert told.last is None and not told.old and not told.contradicted


def test_one_print_weighs_the_threshold_by_a_probit() -> None:
    ability = BY_CODE["bridge"]
    told = read_ability(ability, seen([30.0], [True]), DAY)
    x = (30.0 - ability.at) / ability.spread
    weight = norm.pdf(GRID) * norm.cdf((GRID - x) / BORDER)
    below = np.cumsum(weight) / weight.sum()
    middle = ability.at + ability.spread * float(np.interp(0.5, below, GRID))
    assert told.value == pytest.approx(middle, rel=1e-6) and told.value > ability.at
    share = weight / weight.sum()
    chance = float((norm.cdf((GRID - (told.safe - ability.at) / ability.spread) / BORDER) * share).sum())
    assert chance == pytest.approx(0.9, abs=2e-3), "nine of ten, whatever is not known of the threshold"


def test_what_is_safe_lies_on_the_side_that_is_easier() -> None:
    for ability in ABILITIES:
        told = read_ability(ability, [], DAY)
        assert (told.safe < told.value) == ability.up, ability.code
        assert chance_at(ability, told, told.value) == pytest.approx(0.5)
        easier, harder = (told.value + s * ability.spread for s in ((-1, 1) if ability.up else (1, -1)))
        assert chance_at(ability, told, easier) > 0.75 > 0.25 > chance_at(ability, told, harder)


@pytest.mark.parametrize("code", ["overhang", "rod"])
def test_the_interval_holds_the_truth_in_19_of_20_worlds(code: str) -> None:
    ability, rng, inside = BY_CODE[code], np.random.default_rng(5), 0
    side = 1 if ability.up else -1
    worlds = 500
    for _ in range(worlds):
        truth = rng.normal(ability.at, ability.spread)
        levels = rng.normal(ability.at, ability.spread, 8)
        chance = norm.cdf((truth - levels) * side / (BORDER * ability.spread))
        told = read_ability(ability, seen(levels.tolist(), (rng.random(8) < chance).tolist()), DAY)
        inside += told.low <= truth <= told.high or truth < ability.least or truth > ability.most
    assert 0.93 <= inside / worlds <= 0.97


@settings(max_examples=40, deadline=None)
@given(st.lists(st.tuples(st.floats(30, 80), st.booleans()), min_size=1, max_size=12), st.floats(30, 80))
def test_more_that_came_out_never_makes_it_less(rows: list[tuple[float, bool]], more: float) -> None:
    ability = BY_CODE["overhang"]
    before = seen(*map(list, zip(*rows, strict=True)))
    told = read_ability(ability, before, DAY)
    after = read_ability(ability, [*before, Evidence(more, True, "run", DAY)], DAY)
    assert after.value >= told.value - 1e-9 and after.low <= after.value <= after.high


def test_a_word_counts_as_evidence_and_prints_overrule_it() -> None:
    ability = BY_CODE["overhang"]
    word = Evidence(70.0, True, "word", DAY)
    told = read_ability(ability, [word], DAY)
    assert 60 < told.value < 70 and told.words == 1, "between the prior and the word"
    prints = seen([45.0, 50.0, 52.0, 55.0] * 3, [True, False, False, False] * 3)
    overruled = read_ability(ability, [word, *prints], DAY)
    assert overruled.value < 52 and overruled.contradicted


def test_what_contradicts_and_what_is_old_is_said() -> None:
    ability = BY_CODE["bridge"]
    agreed = seen([10.0, 15.0, 20.0, 30.0, 35.0], [True, True, True, False, False])
    assert not read_ability(ability, agreed, DAY).contradicted
    assert read_ability(ability, [*agreed, *seen([5.0], [False])], DAY).contradicted
    assert not read_ability(ability, agreed, DAY + timedelta(days=200)).old
    assert read_ability(ability, agreed, DAY + timedelta(days=300)).old


def test_each_process_is_asked_what_concerns_it() -> None:
    resin, filament = ({a.code for a in abilities_of(p)} for p in ("resin", "filament"))
    assert "overhang" in filament - resin and "tip" in resin - filament and "rod" in resin & filament
