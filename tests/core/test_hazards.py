"""One type and one registry for what can go wrong: a made-up source appears everywhere; draws belong to a hazard,
whatever else is feared.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np
import pytest
from fastapi.testclient import TestClient
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.contract import HazardDoc, hazard_from, hazard_of
from tenugui.core.hazards import Arises, Hazard, Kind, Sight, kinds, source, sources
from tenugui.core.layers import prove
from tenugui.core.machines import Context
from tenugui.core.mesh import Mesh
from tenugui.core.prints import Draws, tallied
from tenugui.core.prints.tally import fails
from tenugui.core.risk import ledger
from tenugui.core.risk.ledges import _reach_mm
from tenugui.core.supports import Tip, make_supports
from tests.core.test_worth import tip
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import box

GUST = Kind("gust", "blown over", "a gust through the workshop", "print lost", "waves", bare=True)


@pytest.fixture
def gusty() -> Iterator[None]:
    """A source of its own for the length of a test."""
    held = dict(sources._SOURCES)

    @source(GUST, on=lambda printer: printer.draws_lines)
    def gusts(sight: Sight) -> list[Hazard]:
        return [GUST.at(0, (0.0, 0.0, 0.0), 2.0, 1.0, unit="m/s", message="It blows.", remedy="Shut the window.")]

    yield
    sources._SOURCES.clear()
    sources._SOURCES.update(held)


def test_a_made_up_source_reaches_ledger_trial_and_page(gusty: None, client_of: TestClient) -> None:
    figure = box((0, 0, 5), (10, 10, 10))
    for printer, material, height, there in ((KESTREL, FILAMENT, 0.2, True), (HERON, RESIN, 0.05, False)):
        context = Context.of(printer, material, height)
        found = [h for h in ledger(prove(figure, height, context.reach), context) if h.code == "gust"]
        assert bool(found) == there
    (hazard,) = [h for h in ledger(prove(figure, 0.2, 0.21), Context.of(KESTREL, FILAMENT, 0.2)) if h.code == "gust"]
    trial = tallied(None, None, Draws.of(0), [hazard], layers=50, height=0.2)
    assert trial.causes[0].code == "gust" and abs(trial.all - 1000 * hazard.chance) < 40
    assert hazard_from(hazard_of(hazard)) == hazard
    rows = {row["code"]: row for row in client_of.get("/api/hazards").json()}
    assert rows["gust"]["pattern"] == "waves" and set(rows) == set(kinds())


@pytest.fixture
def client_of() -> TestClient:
    from fastapi import FastAPI

    from tenugui.app.workshop import router

    app = FastAPI()
    app.include_router(router)
    return TestClient(app)


def hazards(many: int) -> list[Hazard]:
    """Three that may lose the print, each at its place, and unrelated scars before them."""
    scars = [kinds()["gaps"].at(k, (float(k), 0.0, 1.0), 1.0, 1.0, unit="", message="", remedy="") for k in range(many)]
    told = [
        kinds()["thin"].at(9, (1.0, 2.0, 3.0), 1.5, 1.0, unit="", message="", remedy=""),
        kinds()["overhang"].at(5, (4.0, 2.0, 1.0), 1.2, 1.0, unit="", message="", remedy="", loss="part lost"),
        kinds()["mishap"].at(0, (0.0, 0.0, 0.0), 1.0, 1.0, unit="", message="", remedy="", arises=Arises(given=0.03)),
    ]
    return [*scars, *told]


@settings(max_examples=20, deadline=None)
@given(st.integers(1, 40), st.randoms(use_true_random=False))
def test_what_else_is_feared_changes_no_draw(many: int, order) -> None:  # type: ignore[no-untyped-def]
    """The same three hazards lose the same prints, whatever scars stand beside them and in whichever order."""
    draws = Draws.of(0)
    alone = tallied(None, None, draws, hazards(0), layers=10, height=0.1)
    rows = hazards(many)
    order.shuffle(rows)
    among = tallied(None, None, draws, rows, layers=10, height=0.1)
    assert (among.whole, among.part, among.all) == (alone.whole, alone.part, alone.all)
    assert {(c.code, c.count) for c in among.causes} == {(c.code, c.count) for c in alone.causes}
    assert among.ribbon == alone.ribbon


def test_hazards_of_other_places_have_draws_of_their_own_and_are_rightly_many() -> None:
    draws = Draws.of(0, 4000)
    near, far = (kinds()["thin"].at(3, (x, 0.0, 0.0), 1.0, 1.0, unit="", message="", remedy="") for x in (1.0, 2.0))
    a, b = fails(near, draws), fails(far, draws)
    assert abs(a.mean() - 0.5) < 0.03 and abs((a & b).mean() - 0.25) < 0.03
    assert (fails(near, draws, 1) != a).any(), "two of a kind at one place are two"


def test_what_breaks_when_it_is_handled_does_so_after_the_last_layer() -> None:
    sure = Arises(given=1.0)
    broken = kinds()["handled"].at(2, (0.0, 0.0, 0.0), 1.0, 1.0, unit="", message="", remedy="", arises=sure)
    lost = kinds()["open-surface"].at(8, (0.0, 0.0, 0.0), 1.0, 1.0, unit="", message="", remedy="", arises=sure)
    trial = tallied(None, None, Draws.of(0), [broken, lost], layers=10, height=0.1)
    assert [(c.code, c.count) for c in trial.causes] == [("open-surface", 1000)], "it never came to be handled"


def test_documents_keep_how_a_chance_arises() -> None:
    for hazard in (
        *hazards(2),
        kinds()["pull"].at(1, (0.0, 0.0, 1.0), 2.0, 1.0, unit="N", message="", remedy="", arises=Arises(shared="neck")),
    ):
        told = HazardDoc.loaded(hazard_of(hazard).dumped())
        assert hazard_from(told) == hazard and hazard_from(told).on(2.0).chance == hazard.on(2.0).chance


# Ledges by reach.

TABLE = Mesh.joined([box((0, 0, 5), (6, 6, 10)), box((0, 0, 11.5), (30, 30, 3))])


def ledge(tips: list[Tip], context: Context) -> Hazard | None:
    proof = prove(TABLE, context.height, context.reach, bridge=context.bridge)
    return next((h for h in ledger(proof, context, tips=tips) if h.code == "overhang"), None)


def square(low: float, high: float, apart: float) -> list[Tip]:
    at = np.arange(low, high + 1e-9, apart)
    return [
        tip(float(x), float(y), 10.0) for x in at for y in np.arange(-14, 14.01, apart) if max(abs(x), abs(y)) > 3.5
    ]


def test_tips_hold_what_they_reach_and_not_the_other_half() -> None:
    """A plate of 30 by 30 mm on a post, held on one side alone: by their number its tips would hold all of it."""
    context = Context.of(HERON, RESIN, 0.1)
    bare, held = ledge([], context), ledge(square(-14, 14, 1.75), context)
    assert bare is not None and bare.needs == pytest.approx(900 - 36, rel=0.05)
    assert held is None or held.needs < 12
    one_side = square(-14, -0.5, 1.75)
    half = ledge(one_side * 3, context)
    assert half is not None and half.loss == "part lost" and half.chance > 0.9
    (reach,) = _reach_mm(context, np.zeros(1))  # its underside is flat
    assert half.needs == pytest.approx(bare.needs - (30 * (15 - 0.5 + reach) - 6 * (3 - 0.5 + reach)), rel=0.1)


def test_one_tip_holds_a_disc() -> None:
    context = Context.of(HERON, RESIN, 0.1)
    bare, held = ledge([], context), ledge([tip(10.0, 10.0, 10.0)], context)
    assert bare and held
    (reach,) = _reach_mm(context, np.zeros(1))  # its underside is flat
    assert bare.needs - held.needs == pytest.approx(math.pi * reach**2, rel=0.1)


def test_a_recommended_set_leaves_next_to_nothing() -> None:
    context = Context.of(HERON, RESIN, 0.1)
    made = make_supports(TABLE, context, risk=0.05)
    left = [h for h in ledger(made.after, context, tips=made.tips, own=made.before) if h.code == "overhang"]
    assert all(h.loss == "scar" and h.chance < 0.5 for h in left)
