"""Series: designs whose faults are known, truths that were simulated, tables that are refused by line and column."""

from __future__ import annotations

import itertools
import json
import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.special import betaincinv, expit, gammaincinv, ndtr

from tenugui.core.contract.series import series_document
from tenugui.core.series import (
    SeriesError,
    Spec,
    aliased,
    cells_of,
    effects_of,
    fitted,
    missing,
    read_results,
    read_spec,
)
from tenugui.core.series.design import Cell
from tenugui.core.series.results import Results

KINDS = ("count", "yesno", "time", "preference")


def spec_of(shape: tuple[int, ...], **more: Any) -> Spec:
    factors = {f"f{k}": list(range(count)) for k, count in enumerate(shape)}
    return Spec.model_validate({"factors": factors, "responses": {"r": "count"}, **more})


def world(
    kind: str, shape: tuple[int, ...], n: int, rng: np.random.Generator
) -> tuple[Spec, Results, dict[Any, float]]:
    """Specimens of a truth that is additive on the link's scale, and what is truly to be expected of each level."""
    spec = spec_of(shape, responses={"r": kind}, repeats=n)
    cells = np.array(list(itertools.product(*(range(c) for c in shape))))
    levels = np.repeat(cells, n, axis=0)
    base = {"count": math.log(4), "yesno": 0.5, "time": 1.0}.get(kind, 0.0)
    effects = [np.concatenate([[0], rng.normal(0, 0.6, c - 1)]) for c in shape]

    def at(rows: np.ndarray) -> np.ndarray:
        return np.asarray(base + sum(e[rows[:, k]] for k, e in enumerate(effects)))

    there, pairs = at(levels), list[tuple[int, int]]()
    mean: Any
    if kind == "count":
        found, mean = rng.poisson(np.exp(there)).astype(float), np.exp
    elif kind == "yesno":
        found, mean = (rng.random(len(there)) < expit(there)).astype(float), expit
    elif kind == "grade":
        cuts = np.array([-1.2, -0.3, 0.4, 1.2])
        found = 1.0 + ((there + rng.normal(size=len(there)))[:, None] > cuts).sum(axis=1)

        def graded(eta: np.ndarray) -> np.ndarray:
            return np.asarray(1 + ndtr(eta[:, None] - cuts).sum(axis=1))

        mean = graded
    else:
        found, mean = np.exp(there + rng.normal(0, 0.15, len(there))), np.exp
        for _ in range(6 * len(levels) if kind == "preference" else 0):
            a, b = (int(v) for v in rng.choice(len(levels), 2, replace=False))
            pairs.append((a, b) if rng.random() < expit(there[a] - there[b]) else (b, a))
    truth = {}
    for k, level in ((k, level) for k, count in enumerate(shape) for level in range(count)):
        whole = mean(at(cells[cells[:, k] == level])).mean()
        truth[f"f{k}", level] = float(expit(effects[k] - effects[k].mean())[level]) if pairs else float(whole)
    names = [str(k) for k in range(len(levels))]
    return spec, Results(names, levels, {} if pairs else {"r": found}, {"r": pairs}), truth


def covered(kind: str, shape: tuple[int, ...], n: int, worlds: int) -> float:
    rng, inside, all_ = np.random.default_rng(7), 0, 0
    for _ in range(worlds):
        spec, results, truth = world(kind, shape, n, rng)
        read = fitted(spec, results, "r")
        assert read is not None
        for e in effects_of(read):
            all_ += 1
            inside += e.low <= truth[e.factor, e.level] <= e.high
    return inside / all_


@pytest.mark.parametrize("shape", [(3,), (3, 2)])
@pytest.mark.parametrize("kind", [*KINDS, "grade"])
def test_intervals_hold_the_truth_as_often_as_they_say(kind: str, shape: tuple[int, ...]) -> None:
    assert 0.89 < covered(kind, shape, 4, 150 if kind == "grade" else 50) < 0.995


@pytest.mark.long
@pytest.mark.parametrize("shape", [(3,), (3, 2), (2, 3, 2)])
@pytest.mark.parametrize("kind", [*KINDS, "grade"])
def test_intervals_hold_five_hundred_truths(kind: str, shape: tuple[int, ...]) -> None:
    assert 0.925 < covered(kind, shape, 5, 300 if kind == "grade" else 500) < 0.985


def test_one_factor_alone_is_read_by_closed_forms() -> None:
    levels = np.array([[0], [0], [0], [1], [1]])
    counts = Results(list("abcde"), levels, {"r": np.array([2.0, 3.0, 4.0, 0.0, 1.0])}, {})
    read = fitted(spec_of((2,)), counts, "r")
    assert read is not None
    for e, (total, n) in zip(effects_of(read), ((9, 3), (1, 2)), strict=True):
        low, high = (float(gammaincinv(0.5 + total, q)) / n for q in (0.025, 0.975))
        assert (e.low, e.high) == (pytest.approx(low, rel=0.06), pytest.approx(high, rel=0.03))
    yes = Results(list("abcde"), levels, {"r": np.array([1.0, 1, 0, 0, 0])}, {})
    told = fitted(spec_of((2,), responses={"r": "yesno"}), yes, "r")
    assert told is not None
    for e, (k, n) in zip(effects_of(told), ((2, 3), (0, 2)), strict=True):
        low, high = (float(betaincinv(k + 0.5, n - k + 0.5, q)) for q in (0.025, 0.975))
        assert (e.low, e.high) == (pytest.approx(low, abs=0.01), pytest.approx(high, abs=0.02))


def test_factors_that_move_together_are_always_named() -> None:
    spec = Spec.model_validate(
        {
            "factors": {"height": [0.1, 0.2], "speed": [40, 60], "gap": [1, 2]},
            "responses": {"blemishes": "count"},
            "cells": [
                {"height": 0.1, "speed": 40, "gap": 1},
                {"height": 0.2, "speed": 60, "gap": 1},
                {"height": 0.1, "speed": 40, "gap": 2},
                {"height": 0.2, "speed": 60, "gap": 2},
            ],
        }
    )
    document = series_document(spec, None)
    assert document.aliased == [["height", "speed"]] and len(document.missing) == 4
    assert document.next is not None and "parts height and speed" in document.next.why
    assert document.next.factors["height"] != {40: 0.1, 60: 0.2}[document.next.factors["speed"]]  # type: ignore[index]
    assert document.said[0].startswith("height and speed move together")
    whole = series_document(spec.model_copy(update={"cells": None}), None)
    assert whole.aliased == [] and whole.missing == [] and [c.runs for c in whole.cells] == [1] * 8
    # Half of the grid in which each factor is the product of the other two: pairs are told apart, three are not.
    cells = [Cell((a, b, (a + b) % 2), 1) for a in (0, 1) for b in (0, 1)]
    assert aliased(spec, cells) == [], "main effects of a half fraction stand apart"


@settings(max_examples=40, deadline=None)
@given(st.data())
def test_what_is_aliased_is_what_one_level_tells_of_another(data: st.DataObject) -> None:
    shape = tuple(data.draw(st.lists(st.integers(2, 3), min_size=2, max_size=3)))
    spec = spec_of(shape)
    grid = list(itertools.product(*(range(c) for c in shape)))
    chosen = data.draw(st.lists(st.sampled_from(grid), min_size=2, max_size=8, unique=True))
    cells = [Cell(levels, 1) for levels in chosen]
    told = aliased(spec, cells)
    assert {cell.levels for cell in cells} | set(missing(spec, cells)) == set(grid)
    for a, b in itertools.combinations(range(len(shape)), 2):
        pairs = {(c[a], c[b]) for c in chosen}
        firsts, seconds = {x for x, _ in pairs}, {y for _, y in pairs}
        one_tells_all = len(pairs) == max(len(firsts), len(seconds)) and min(len(firsts), len(seconds)) > 1
        if one_tells_all:
            assert (f"f{a}", f"f{b}") in told
        if len(pairs) == len(firsts) * len(seconds):
            assert (f"f{a}", f"f{b}") not in told


TABLE = """height,blemishes,hours,survived
0.1,2,9,yes
0.1,3,9.4,yes
0.2,7,5,yes
0.2,9,5.2,no
0.3,22,3.4,no
0.3,19,3.5,no
"""
SPEC = {
    "factors": {"height": [0.1, 0.2, 0.3]},
    "responses": {"blemishes": "count", "hours": "time", "survived": "yesno"},
    "repeats": 2,
}


def read(table: str, rate: float | None = 0.6, **more: Any) -> Any:
    spec = Spec.model_validate({**SPEC, "rate_per_h": rate, **more})
    return series_document(spec, read_results(table.encode(), spec, "results.csv"))


def test_a_series_of_heights_tells_what_is_best_and_where_hours_stop_paying() -> None:
    document = read(TABLE)
    best = {(b.response, b.level): b.chance for b in document.best}
    assert best["blemishes", 0.1] > 0.9 and best["hours", 0.3] > 0.95
    assert sum(c for (r, _), c in best.items() if r == "blemishes") == pytest.approx(1)
    assert not document.few and document.missing == [] and document.knee is not None
    # An hour of 0.6 coins, a blemish of a minute at 0.15: 12 fewer from 0.3 to 0.2 mm pay for 1.6 h, 5 more to 0.1
    # do not pay for 4.
    assert document.knee.level == 0.2 and 0 < document.knee.buys < document.knee.costs
    assert document.knee.costs == pytest.approx(0.6 * 4.1, rel=0.1)
    dear, cheap = read(TABLE, 50.0).knee, read(TABLE, 0.0).knee
    assert dear.level == 0.3 and cheap.level == 0.1 and read(TABLE, None).knee is None
    assert dear.buys < dear.costs


def test_one_run_a_cell_is_a_direction_and_not_a_rate() -> None:
    single = "\n".join(TABLE.splitlines()[k] for k in (0, 1, 3)) + "\n"
    document = read(single)
    assert document.few and [m["height"] for m in document.missing] == [0.3]
    assert any("a direction, not a rate" in text for text in document.said)
    assert document.next.factors == {"height": 0.3}


def test_preferences_come_as_names_or_as_ranks() -> None:
    spec = Spec.model_validate({"factors": {"style": ["lines", "grid"]}, "responses": {"liked": "preference"}})
    named = "specimen,style,liked\nA,lines,C|D\nB,lines,C D\nC,grid,\nD,grid,A\n"
    results = read_results(named.encode(), spec, "r.csv")
    assert results.pairs["liked"] == [(0, 2), (0, 3), (1, 2), (1, 3), (3, 0)]
    ranks = "style;liked\nlines;1\nlines;2\ngrid;3\ngrid;4\n"
    told = series_document(spec, read_results(ranks.encode(), spec, "r.csv"))
    best = {b.level: b.chance for b in told.best}
    assert best["lines"] > 0.8 and told.effects[0].estimate > 0.5 > told.effects[1].estimate


@pytest.mark.parametrize(
    ("table", "says"),
    [
        ("height,blemishes,hours\n0.1,2,9\n", "Line 1, column 'survived': the column is missing"),
        ("height,height,blemishes,hours,survived\n", "Line 1, column 'height': the column is there twice"),
        ("height,blemishes,hours,survived,mood\n", "Line 1, column 'mood': nothing that is asked for"),
        ("height,blemishes,hours,survived\n0.15,2,9,yes\n", "Line 2, column 'height': '0.15' is no level"),
        ("height,blemishes,hours,survived\n0.1mm,2,9,yes\n", "Line 2, column 'height': '0.1mm' is no level"),
        ("height,blemishes,hours,survived\n0.1,2.5,9,yes\n", "Line 2, column 'blemishes': 2.5 is no count"),
        ("height,blemishes,hours,survived\n0.1,2,9h,yes\n", "Line 2, column 'hours': '9h' is no number"),
        ("height,blemishes,hours,survived\n0.1,2,-9,yes\n", "Line 2, column 'hours': -9 is not above 0"),
        ("height,blemishes,hours,survived\n0.1,2,9,maybe\n", "Line 2, column 'survived': 'maybe' is neither"),
        ("height,blemishes,hours,survived\n0.1,2,9\n", "Line 2, column 'hours': 3 cells for 4 columns"),
        (
            "specimen,height,blemishes,hours,survived\na,0.1,2,9,yes\na,0.1,2,9,yes\n",
            "Line 3, column 'specimen': 'a' is there twice",
        ),
        ("", "The table is empty"),
    ],
)
def test_a_table_is_refused_by_line_and_column(table: str, says: str) -> None:
    with pytest.raises(SeriesError) as refused:
        read(table)
    assert says in str(refused.value)


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"factors": {"height": [0.1]}}, "2 to 20 are compared"),
        ({"factors": {"height": [0.1, 0.10]}}, "has a level twice"),
        ({"responses": {"height": "count"}}, "is a factor and a response"),
        ({"responses": {"blemishes": "many"}}, "responses.blemishes"),
        ({"repeats": 0}, "repeats"),
        ({"factors": {f"f{k}": list(range(9)) for k in range(4)}}, "more than 400 cells"),
        ({"cells": [{"height": 0.7}]}, "'0.7' is no level of 'height'"),
    ],
)
def test_a_series_of_no_sense_is_refused_in_a_line(change: dict[str, Any], says: str) -> None:
    with pytest.raises(SeriesError) as refused:
        read_spec(json.dumps({**SPEC, **change}).encode(), "spec.json")
    assert says in str(refused.value) and "\n" not in str(refused.value)


def test_a_grade_of_one_kind_tells_nothing_and_does_not_fail() -> None:
    spec = spec_of((2,), responses={"r": "grade"})
    flat = Results(["a", "b"], np.array([[0], [1]]), {"r": np.array([4.0, 4.0])}, {})
    read_ = fitted(spec, flat, "r")
    assert read_ is not None and {e.estimate for e in effects_of(read_)} == {4.0}
    nothing = Results(["a"], np.array([[0]]), {"r": np.array([np.nan])}, {})
    assert fitted(spec, nothing, "r") is None and len(cells_of(spec, nothing.levels)) == 2
