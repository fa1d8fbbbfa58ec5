"""Minutes that steps by hand took: kept, learned from, taken over, and what plans count with then; and a whole tray."""

from __future__ import annotations

import pytest
from fastapi.testclient import TestClient

from tenugui.store.db import Store
from tests.app.bench import bring_in, decide, machine_ids, proved, size, work_off
from tests.shapes import ball, stl_bytes


def test_hands_that_are_slow_are_learned_and_counted_with(client: TestClient, store: Store) -> None:
    plan = proved(client, store)
    heron = machine_ids(client)["printer_id"]
    steps = [s for s in client.get(f"/api/plans/{plan}/finish").json()["steps"] if s["hands"]]
    reckoned = client.get(f"/api/plans/{plan}/why/supports").json()["parts"][0]["amount"]
    cut_before = client.get(f"/api/plans/{plan}/compute/proof").json()["document"]["removal"]["groups"]
    before = client.get(f"/api/printers/{heron}/able").json()["hands"]
    assert before["whole"]["steps"] == 0 and before["take"] is None and before["set_to"] == 1.0
    early = client.post(f"/api/printers/{heron}/able/take", json={"material_id": 1, "what": "hands_times"})
    assert early.status_code in (409, 422)
    for step in steps[:4]:
        kept = client.post(f"/api/plans/{plan}/minutes", json={"step": step["name"], "minutes": 2 * step["minutes"]})
        assert kept.status_code == 200 and kept.json()["planned"] == step["minutes"]
    page = client.get(f"/api/printers/{heron}/able").json()
    hands, material = page["hands"], page["material"]["id"]
    assert hands["whole"]["steps"] == 4 and 1.5 < hands["whole"]["times"] < 2.0
    assert hands["whole"]["low"] < hands["whole"]["times"] < hands["whole"]["high"]
    assert [m["took"] / m["reckoned"] for m in hands["latest"]] == pytest.approx([2.0] * 4)
    asked = {"material_id": material, "what": "hands_times"}
    assert client.post(f"/api/printers/{heron}/able/take", json=asked).status_code == 200
    after = client.get(f"/api/printers/{heron}/able").json()["hands"]
    assert after["set_to"] == hands["take"] and after["taken_id"]
    other = int(bring_in(client, store, stl_bytes(ball(4)))["plan_id"])
    size(client, other, height_mm=8.0)
    for name in ("pose", "supports", "layers", "proof"):
        decide(client, store, other, name)
    slow = client.get(f"/api/plans/{other}/finish").json()
    quick = {s["name"]: s["minutes"] for s in steps}
    for step in slow["steps"]:
        if step["hands"]:
            assert step["minutes"] == pytest.approx(quick[step["name"]] * hands["take"], rel=0.06, abs=0.1)
    now = client.get(f"/api/plans/{other}/why/supports").json()["parts"][0]["amount"]
    assert now == pytest.approx(hands["take"] * reckoned), "boards count with it"
    cut = client.get(f"/api/plans/{other}/compute/proof").json()["document"]["removal"]["groups"]
    assert sum(g["minutes"] for g in cut) == pytest.approx(hands["take"] * sum(g["minutes"] for g in cut_before))
    again = client.post(f"/api/plans/{other}/minutes", json={"step": steps[0]["name"], "minutes": 5.0})
    assert again.status_code == 200
    latest = client.get(f"/api/printers/{heron}/able").json()["hands"]["latest"][0]
    assert latest["reckoned"] == pytest.approx(again.json()["planned"] / hands["take"]), "what is reckoned for anybody"
    assert client.delete(f"/api/minutes/{latest['id']}").status_code == 200
    assert client.delete(f"/api/minutes/{latest['id']}").json()["code"] == "no-minutes"
    assert client.post(f"/api/printers/{heron}/able/undo/{after['taken_id']}").status_code == 200
    assert client.get(f"/api/printers/{heron}/able").json()["hands"]["set_to"] == 1.0


def test_minutes_of_no_step_are_refused(client: TestClient, store: Store) -> None:
    plan = proved(client, store)
    door = f"/api/plans/{plan}/minutes"
    assert client.post(door, json={"step": "first bath", "minutes": 4}).json()["code"] == "no-step", "nobody's hands"
    assert client.post(door, json={"step": "tarot", "minutes": 4}).json()["code"] == "no-step"
    for minutes in (0, -3, 1e9):
        assert client.post(door, json={"step": "prime", "minutes": minutes}).status_code == 422
    assert client.post("/api/plans/99999/minutes", json={"step": "prime", "minutes": 4}).status_code == 404


def test_a_tray_goes_in_step(client: TestClient, store: Store) -> None:
    one, other = proved(client, store), proved(client, store)
    alone = client.get(f"/api/plans/{one}/finish").json()
    tray = client.get(f"/api/plans/{one}/finish", params={"with": [other, one]}).json()
    assert tray["hands_min"] == pytest.approx(2 * alone["hands_min"], abs=0.3)
    by_name = {s["name"]: s for s in tray["steps"]}
    assert by_name["first bath"]["minutes"] == next(s["minutes"] for s in alone["steps"] if s["name"] == "first bath")
    prime = by_name["prime"]
    assert len(prime["parts"]) == 2 and "plan 1" in prime["parts"][0]
    assert client.get(f"/api/plans/{one}/finish", params={"with": 99999}).status_code == 404
    third = int(bring_in(client, store, stl_bytes(ball(4.2)))["plan_id"])
    assert client.get(f"/api/plans/{one}/finish", params={"with": third}).status_code == 409, "it is not proved"
    work_off(store)
