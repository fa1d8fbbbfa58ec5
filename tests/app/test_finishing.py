"""Off the plate over the wire: steps of a proved plan, and timers that outlive whoever started them."""

from __future__ import annotations

from datetime import datetime, timedelta

import pytest
from fastapi.testclient import TestClient

from tenugui.store import timers
from tenugui.store.db import Store, StoreError
from tests.app.bench import bring_in, proved
from tests.shapes import ball, stl_bytes


def test_steps_of_a_proved_plan_in_both_schools(client: TestClient, store: Store) -> None:
    plan = proved(client, store)
    before, after = (client.get(f"/api/plans/{plan}/finish", params={"school": s}).json() for s in ("before", "after"))
    names = [[s["name"] for s in doc["steps"]] for doc in (before, after)]
    off = next(name for name in names[0] if name.startswith("supports off"))
    assert names[0].index(off) < names[0].index("cure one side") < names[1].index(off)
    begun = datetime.fromisoformat(before["steps"][0]["start"])
    assert abs(begun - datetime.now()) < timedelta(minutes=2)
    assert before["mend_or_print"] is None and before["hands_min"] > 0
    assert client.get(f"/api/plans/{plan}/finish", params={"school": "never"}).status_code == 422


def test_a_plan_that_is_not_proved_says_so(client: TestClient, store: Store) -> None:
    plan = bring_in(client, store, stl_bytes(ball(4)))["plan_id"]
    refused = client.get(f"/api/plans/{plan}/finish")
    assert refused.status_code == 409 and refused.json()["detail"]
    assert client.get("/api/plans/99999/finish").status_code == 404


def test_timers_live_in_the_database_and_ring(client: TestClient, store: Store) -> None:
    plan = bring_in(client, store, stl_bytes(ball(4)))["plan_id"]
    first = client.post(f"/api/plans/{plan}/timers", json={"step": "first bath", "minutes": 3}).json()
    client.post(f"/api/plans/{plan}/timers", json={"step": "dry in the air", "minutes": 30})
    listed = client.get("/api/timers").json()
    assert [t["step"] for t in listed] == ["first bath", "dry in the air"], "the one that rings first before"
    assert 170 < listed[0]["left_s"] <= 180 and listed[0]["figure_name"] == "Marsh stone"
    with store.work() as sql:  # four minutes pass
        sql.execute("UPDATE timers SET ends_at = ends_at - INTERVAL 240 SECOND WHERE id = %s", (first,))
    assert -70 < client.get("/api/timers").json()[0]["left_s"] < -50, "it has rung, and stays until it is seen"
    again = client.post(f"/api/plans/{plan}/timers", json={"step": "first bath", "minutes": 5}).json()
    listed = client.get("/api/timers").json()
    assert len(listed) == 2 and listed[0]["id"] == again and listed[0]["left_s"] > 290
    assert client.delete(f"/api/timers/{again}").status_code == 200
    assert [t["step"] for t in client.get("/api/timers").json()] == ["dry in the air"]
    for body in ({"step": "", "minutes": 1}, {"step": "x", "minutes": 0}, {"step": "x", "minutes": 1e9}):
        assert client.post(f"/api/plans/{plan}/timers", json=body).status_code == 422
    assert client.post("/api/plans/99999/timers", json={"step": "x", "minutes": 1}).status_code == 404


def test_more_timers_than_anybody_hears_are_refused(
    client: TestClient, store: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    plan = bring_in(client, store, stl_bytes(ball(4)))["plan_id"]
    monkeypatch.setattr(timers, "MOST_RUNNING", 1)
    timers.start(store, plan, "first bath", 3)
    with pytest.raises(StoreError, match="timers run already"):
        timers.start(store, plan, "dry in the air", 3)
