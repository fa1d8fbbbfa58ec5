"""The shelf by lot: opened, counted and wasted by hand, used by runs, and told before which plate it runs out."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

from fastapi.testclient import TestClient

from tenugui.store.db import Store
from tests.app.bench import machine_ids, proved, run_on
from tests.app.test_plates import lay, make


def opened(client: TestClient, **more: Any) -> Any:
    grey = machine_ids(client)["material_id"]
    return client.post("/api/stock", json={"kind": "material", "material_id": grey, "name": "A7", "amount": 500} | more)


def line(client: TestClient) -> dict[str, Any]:
    (row,) = client.get("/api/stock").json()
    return dict(row)


def test_what_runs_take_leaves_the_bottle_that_they_name(client: TestClient, store: Store) -> None:
    plan = proved(client, store)
    first, second = opened(client).json(), opened(client, name="B1").json()
    run = client.post(f"/api/plans/{plan}/runs", json={"room": {"lot": "B1"}}).json()
    client.put(f"/api/runs/{run}/outcome", json={"result": "good", "real_g": 40.0})
    held = {lot["id"]: lot for lot in line(client)["lots"]}
    assert (held[first]["left"], held[second]["left"]) == (500, 460) and line(client)["left"] == 960
    assert (
        client.post(f"/api/stock/{first}/steps", json={"did": "wasted", "amount": 25, "note": "spilt"}).status_code
        == 200
    )
    entry = client.post(f"/api/stock/{second}/steps", json={"did": "counted", "amount": 300}).json()
    assert {lot["id"]: lot["left"] for lot in line(client)["lots"]} == {first: 475, second: 300}
    client.delete(f"/api/stock/{second}/steps/{entry}")
    assert {lot["id"]: lot["left"] for lot in line(client)["lots"]} == {first: 475, second: 460}
    grey = next(m for m in client.get("/api/materials").json() if m["name"] == "lantern grey")
    assert grey["left_g"] == line(client)["left"], "the shelf tells what the lots tell"
    simulated = run_on(store, plan, machine_ids(client), grams=99.0, simulated=True)
    assert simulated and line(client)["left"] == 935, "what only pretends uses nothing"


def test_what_runs_out_is_told_with_the_plate(client: TestClient, store: Store) -> None:
    plan = proved(client, store)
    lot = opened(client).json()
    plate = make(client, store, plan, copies=3)
    grams = lay(client, plate)["plates"][0]["doc"]["material_g"]
    assert line(client)["before"] is None and abs(line(client)["needed"] - grams) < 1e-6
    client.post(f"/api/stock/{lot}/steps", json={"did": "counted", "amount": grams / 2})
    assert line(client)["before"] == "Wardens, plate 1"
    with store.work() as sql:
        sql.execute("UPDATE lots SET opened_at = %s", (datetime.now() - timedelta(days=20),))
    long_ago = datetime.now() - timedelta(days=10)
    used = run_on(store, plan, machine_ids(client), grams=grams / 4, started_at=long_ago)
    told = line(client)
    assert used and abs(told["a_day"] - grams / 40) < 1e-3 * grams and told["days"] is not None


def test_what_is_no_lot_is_refused_in_words(client: TestClient) -> None:
    assert opened(client).status_code == 200
    for more, status, code in (
        ({}, 409, "lot-there"),
        ({"material_id": None}, 422, "which-material"),
        ({"kind": "gloves"}, 422, "which-material"),
        ({"name": "C", "material_id": 9999}, 404, "no-material"),
    ):
        refused = opened(client, **more)
        assert (refused.status_code, refused.json()["code"]) == (status, code), refused.text
    bad: list[dict[str, Any]] = [{"amount": 0}, {"amount": -1}, {"name": "two\nlines"}, {"kind": "moon"}]
    for change in bad:
        assert opened(client, **change).status_code == 422
    assert client.post("/api/stock/9999/steps", json={"did": "counted", "amount": 1}).status_code == 404
    gloves = opened(client, kind="gloves", material_id=None, name="box", amount=50).json()
    assert client.post(f"/api/stock/{gloves}/steps", json={"did": "used", "amount": -2}).status_code == 422
    client.post(f"/api/stock/{gloves}/steps", json={"did": "used", "amount": 3})
    row = next(r for r in client.get("/api/stock").json() if r["kind"] == "gloves")
    assert (row["left"], row["unit"], row["days"] is not None) == (47, "pairs", True)
    client.delete(f"/api/stock/{gloves}")
    assert [r["kind"] for r in client.get("/api/stock").json()] == ["material"]
