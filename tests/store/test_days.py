"""Plates, orders and the house's documents as they are kept: steps that are taken back, versions, and what stays."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from typing import Any

import pytest

from tenugui.store import blobs, figures, house, machines, orders, plans, plates, runs
from tenugui.store.db import Store, StoreError

WHEN = datetime(2026, 11, 30, 18, 0)


@pytest.fixture
def printer(store: Store) -> int:
    return int(machines.every(store, "printers")[0]["id"])


@pytest.fixture
def plan(store: Store) -> int:
    warden = figures.NewFigure(
        name="Reed warden", file_name="warden.stl", source_sha=blobs.put_bytes(store, b"solid"), triangles=10
    )
    return plans.create(store, figures.add(store, warden))


def body(**more: Any) -> dict[str, Any]:
    return {"gap_mm": 2.0, "rates": "evening", "pieces": []} | more


def test_a_plate_is_changed_taken_back_and_made_again(store: Store, printer: int) -> None:
    number = plates.add(store, "Gate", printer, body())
    row = plates.one(store, number)
    assert (row["version"], row["back"], row["forth"], row["body"]["gap_mm"]) == (1, 0, None, 2.0)
    plates.step(store, number, 1, "a gap of 3 mm", body(gap_mm=3.0))
    plates.step(store, number, 2, "a gap of 4 mm", body(gap_mm=4.0), name="The gate")
    plates.turn(store, number, 3, -1)
    row = plates.one(store, number)
    assert row["body"]["gap_mm"] == 3.0 and row["forth"] == "a gap of 4 mm" and row["name"] == "The gate"
    plates.turn(store, number, 4, 1)
    assert plates.one(store, number)["body"]["gap_mm"] == 4.0
    plates.turn(store, number, 5, -1)
    plates.step(store, number, 6, "a gap of 9 mm", body(gap_mm=9.0))
    row = plates.one(store, number)
    assert row["body"]["gap_mm"] == 9.0 and row["forth"] is None, "what was taken back is forgotten by the next change"
    for by in (1, -1, -1, -1):
        try:
            plates.turn(store, number, plates.one(store, number)["version"], by)
        except StoreError as reason:
            assert reason.code == "nothing-there"
    assert plates.one(store, number)["body"]["gap_mm"] == 2.0 and not plates.one(store, number)["back"]


def test_so_many_changes_of_a_plate_are_kept_and_no_more(store: Store, printer: int) -> None:
    number = plates.add(store, "Gate", printer, body())
    for k in range(plates.MOST_STEPS + 15):
        plates.step(store, number, k + 1, f"step {k}", body(gap_mm=float(k)))
    with store.work() as sql:
        sql.execute("SELECT COUNT(*) AS n FROM plate_steps WHERE plate_id = %s", (number,))
        assert (sql.fetchone() or {})["n"] <= plates.MOST_STEPS + 1
    assert plates.one(store, number)["body"]["gap_mm"] == plates.MOST_STEPS + 14.0


def test_whoever_has_not_seen_the_last_change_changes_nothing(store: Store, printer: int) -> None:
    number = plates.add(store, "Gate", printer, body())
    plates.amend(store, number, 1, body(ticked=["gloves"]))
    assert plates.one(store, number)["body"]["ticked"] == ["gloves"] and not plates.one(store, number)["back"]
    deeds: list[Callable[[], Any]] = [
        lambda: plates.step(store, number, 1, "late", body()),
        lambda: plates.amend(store, number, 1, body()),
        lambda: plates.turn(store, number, 1, -1),
    ]
    for late in deeds:
        with pytest.raises(StoreError, match="meanwhile"):
            late()
    plates.delete(store, number)
    deeds = [lambda: plates.one(store, number), lambda: plates.step(store, number, 2, "gone", body())]
    for gone in deeds:
        with pytest.raises(StoreError, match="no plate"):
            gone()


def begun(store: Store, plan: int, printer: int) -> int:
    material = machines.every(store, "materials")[0]["id"]
    return runs.start(
        store, plan, None, printer_id=printer, material_id=material, planned=(100.0, 5.0, 0.05, 0.0), started_at=WHEN
    )


def test_a_batch_keeps_its_runs_in_order_and_outlives_its_plate(store: Store, plan: int, printer: int) -> None:
    number = plates.add(store, "Gate", printer, body())
    mine = [begun(store, plan, printer) for _ in range(3)]
    alone = begun(store, plan, printer)
    batch = plates.begin(store, number, "Gate", 1, planned_s=360.0, started_at=WHEN, runs=mine)
    runs.end(store, mine[1], {"result": "part lost"})
    (held,) = plates.batches(store, number)
    assert held["id"] == batch and [row["id"] for row in held["runs"]] == mine
    assert [row["result"] for row in held["runs"]] == [None, "part lost", None]
    assert [row["begun"] for row in plates.every(store)] == [1]
    plates.delete(store, number)
    assert {row["id"] for row in runs.every(store)} == {*mine, alone}
    with store.work() as sql:
        sql.execute("SELECT plate_id, plate_name FROM batches WHERE id = %s", (batch,))
        assert sql.fetchone() == {"plate_id": None, "plate_name": "Gate"}


def test_plans_are_offered_to_the_printer_of_their_last_size(store: Store, plan: int, printer: int) -> None:
    other = int(machines.every(store, "printers")[1]["id"])

    def decide(fold: str, choice: dict[str, Any]) -> None:
        plans.decide(store, plan, fold, choice=choice, evidence={}, reason="", expected=plans.ANY)

    decide("size", {"printer_id": printer})
    assert plates.offers(store, printer) == [], "it was never proved"
    decide("proof", {})
    assert [row["id"] for row in plates.offers(store, printer)] == [plan] and plates.offers(store, other) == []
    decide("size", {"printer_id": other})
    assert plates.offers(store, printer) == [] and [row["id"] for row in plates.offers(store, other)] == [plan]


def order(plan: int, **more: Any) -> dict[str, Any]:
    return {
        "name": "Wardens", "plan_id": plan, "plate_id": None, "copies": 2, "due": WHEN, "chance": 0.9, "goes": "clean",
    } | more  # fmt: skip


def test_orders_stand_by_their_dates_and_are_changed_pinned_and_let_go(store: Store, plan: int) -> None:
    late = orders.add(store, order(plan, name="late", due=datetime(2026, 12, 9)))
    never = orders.add(store, order(plan, name="some day", due=None))
    soon = orders.add(store, order(plan))
    assert [row["id"] for row in orders.every(store)] == [soon, late, never]
    orders.pin(store, soon, 2, {"not_before": "2026-12-01T18:00"})
    orders.pin(store, soon, 1, {"first": True})
    orders.pin(store, soon, 2, None)
    held = orders.every(store)[0]
    assert held["pins"] == {"1": {"first": True}} and held["figure_name"] == "Reed warden"
    changed = {"name": "Gate", "copies": 5, "due": None, "chance": 0.5, "goes": "primed", "made": 3}
    orders.change(store, soon, changed)
    held = next(row for row in orders.every(store) if row["id"] == soon)
    assert {k: held[k] for k in changed} == changed and held["pins"] == {"1": {"first": True}}
    orders.delete(store, soon)
    assert soon not in {row["id"] for row in orders.every(store)}
    deeds: list[Callable[[], Any]] = [
        lambda: orders.change(store, soon, changed),
        lambda: orders.pin(store, soon, 1, None),
    ]
    for gone in deeds:
        with pytest.raises(StoreError, match="no order"):
            gone()


def test_an_order_outlives_its_plate_and_says_that_it_is_gone(store: Store, printer: int) -> None:
    plate = plates.add(store, "Gate", printer, body())
    orders.add(store, order(0, plan_id=None, plate_id=plate))
    assert orders.every(store)[0]["plate_name"] == "Gate"
    plates.delete(store, plate)
    (held,) = orders.every(store)
    assert held["plate_id"] is None and held["plate_name"] is None


def test_a_document_of_the_house_is_kept_by_who_has_seen_its_last_version(store: Store) -> None:
    assert house.get(store, "week") == (None, 0)
    house.put(store, "week", {"days": 7}, 0)
    assert house.get(store, "week") == ({"days": 7}, 1)
    with pytest.raises(StoreError, match="meanwhile"):
        house.put(store, "week", {"days": 9}, 0)
    house.put(store, "week", {"days": 9}, 1)
    house.put(store, "week", {"days": 14})
    assert house.get(store, "week") == ({"days": 14}, 3)
    house.delete(store, "week")
    assert house.get(store, "week") == (None, 0)
