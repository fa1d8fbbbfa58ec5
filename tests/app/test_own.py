"""Another plan with settings of its own: it alone has them, its boards count with them, cells of series use them."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from tenugui.store import figures, plans
from tenugui.store.db import Store
from tenugui.work.folds import Standing
from tests.app.bench import machine_ids, proved, work_off

SLOWER: dict[str, Any] = {"materials": {"exposure_s": 4.8}}


def branched(client: TestClient, plan: int, own: dict[str, Any]) -> Any:
    head = client.get(f"/api/plans/{plan}").json()["head"]
    return client.post(f"/api/plans/{plan}/branch", json={"decision": head, "own": own})


def test_it_alone_prints_so_and_keeps_what_it_does_not_touch(client: TestClient, store: Store) -> None:
    base = proved(client, store)
    shelf = client.get("/api/materials").json()
    other = int(branched(client, base, SLOWER).json())
    work_off(store)
    given = {plan: Standing.of(store, plan).given("proof") for plan in (base, other)}
    assert given[other].material["exposure_s"] == 4.8 != given[base].material["exposure_s"]
    assert client.get("/api/materials").json() == shelf
    states = {f["name"]: f["state"] for f in client.get(f"/api/plans/{base}").json()["folds"]}
    assert "stale" not in states.values(), "the plan that it came from stays as it is"
    line = client.get(f"/api/plans/{other}/line").json()
    assert [(o["title"], o["value"], o["unit"]) for o in line["own"]] == [("Exposure that is known to work", 4.8, "s")]
    assert client.get(f"/api/plans/{base}/line").json()["own"] == []
    now = {(s["table"], s["name"]): s["now"] for s in line["settable"]}
    assert now["materials", "exposure_s"] == 4.8
    compared = client.get("/api/compare", params={"a": base, "b": other}).json()
    assert [c["name"] for c in compared["changed"] if c["where"] == "material"] == ["Exposure that is known to work"]
    third = client.post(f"/api/plans/{other}/branch", json={"decision": None}).json()
    assert Standing.of(store, third).plan["own"], "another plan of it sets the same"


def test_what_cannot_be_set_begins_no_plan(client: TestClient, store: Store) -> None:
    base = proved(client, store)
    figure = figures.every(store)[0]["id"]
    for own, code in (
        ({"printers": {"build_mm": 3}}, "not-settable"),
        ({"printers": {"wall_mm_s": 30}}, "not-settable"),
        ({"materials": {"exposure_s": -1}}, "bad-field"),
    ):
        refused = branched(client, base, own)
        assert refused.status_code == 422 and refused.json()["code"] == code, refused.text
    empty = plans.create(store, figure)
    assert client.post(f"/api/plans/{empty}/branch", json={"own": SLOWER}).json()["code"] == "fold-open"
    assert len(plans.of_figure(store, figure)) == 2


def test_cells_of_settings_are_planned_with_them(client: TestClient, store: Store) -> None:
    base = proved(client, store)
    spec = {"factors": {"seconds": [2.4, 4.8], "table": ["left", "right"]}, "responses": {"held": "yesno"}}
    asked = {"name": "Exposure", "spec": spec, "figure_id": figures.every(store)[0]["id"]}
    number = client.post("/api/series", json=asked).json()
    told = client.post(f"/api/series/{number}/plans").json()
    assert (told["set_in_plans"], told["by_hand"]) == (["seconds"], ["table"]) and len(set(told["plans"].values())) == 2
    work_off(store)
    held = client.get(f"/api/series/{number}").json()
    assert held["troubled"] == []
    hours = {}
    for specimen in held["specimens"]:
        standing = Standing.of(store, specimen["plan_id"])
        assert standing.given("proof").material["exposure_s"] == specimen["levels"]["seconds"]
        assert standing.fold("proof").state == "settled" and specimen["plan_id"] != base
        hours[specimen["levels"]["seconds"]] = standing.chain[-1]["evidence"]["numbers"]["time_s"]
    assert hours[4.8] > hours[2.4] + 60, "its own plan tells the longer exposure in its hours"


def test_a_level_that_the_machine_cannot_have_plans_nothing(client: TestClient, store: Store) -> None:
    proved(client, store)
    figure = figures.every(store)[0]["id"]
    for factors, code in (({"seconds": [2, -4]}, "bad-field"), ({"wall mm/s": [20, 40]}, "not-settable")):
        spec = {"factors": factors, "responses": {"held": "yesno"}}
        number = client.post("/api/series", json={"name": "No", "spec": spec, "figure_id": figure}).json()
        refused = client.post(f"/api/series/{number}/plans")
        assert refused.status_code == 422 and refused.json()["code"] == code
    assert len(plans.of_figure(store, figure)) == 1


@pytest.mark.parametrize("field", ["lift_mm_s", "name"])
def test_pairs_and_names_are_no_settings(client: TestClient, store: Store, field: str) -> None:
    base = proved(client, store)
    assert branched(client, base, {"printers": {field: 1.0}}).json()["code"] == "not-settable"


def test_what_was_decided_is_decided_again_and_told_with_them(client: TestClient, store: Store) -> None:
    base = proved(client, store)
    other = int(branched(client, base, {"printers": {"wait_before_s": 3.0}}).json())
    work_off(store)
    chains = {plan: plans.chain(store, plan) for plan in (base, other)}
    last = {plan: {row["fold"]: row for row in chain} for plan, chain in chains.items()}
    assert {k: v["choice"] for k, v in last[other].items()} == {k: v["choice"] for k, v in last[base].items()}
    mine, before = (last[plan]["proof"]["evidence"]["numbers"]["time_s"] for plan in (other, base))
    layers = client.get(f"/api/plans/{other}/compute/proof").json()["document"]["proof"]["layers"]["count"]
    waits = 3.0 - float(Standing.of(store, base).workshop.printers[machine_ids(client)["printer_id"]]["wait_before_s"])
    assert mine - before == pytest.approx(waits * layers, rel=0.02)
    assert "With settings of its own" in chains[other][-1]["reason"]
