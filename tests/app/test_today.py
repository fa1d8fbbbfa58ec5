"""The bench as the day: hands of the woven week, timers, and dates, in their order."""

from __future__ import annotations

from datetime import datetime, timedelta

from fastapi.testclient import TestClient

from tenugui.store.db import Store
from tests.app.bench import proved, work_off


def test_the_day_tells_hands_timers_and_dates_first_things_first(client: TestClient, store: Store) -> None:
    assert client.get("/api/today").json()["rows"] == []
    plan = proved(client, store)
    week = client.get("/api/week").json()
    house = week["house"] | {
        "quiet": [],
        "people": [{"name": "Mio", "hours": [{"days": list(range(7)), "begin": "00:00", "end": "00:00"}]}],
    }
    said = client.put("/api/week/house", json={"house": house, "version": week["version"]})
    assert said.status_code == 200, said.text
    due = (datetime.now() + timedelta(days=2)).isoformat(timespec="minutes")
    asked = {"plan_id": plan, "name": "For the club", "copies": 1, "due": due, "chance": 0.9}
    made = client.post("/api/week/orders", json=asked)
    assert made.status_code == 200, made.text
    client.post("/api/week/weave")
    work_off(store)
    client.post(f"/api/plans/{plan}/timers", json={"step": "primer dries", "minutes": 30})
    doc = client.get("/api/today").json()
    rows = doc["rows"]
    assert [r["at"] for r in rows] == sorted(r["at"] for r in rows) and not doc["stale"]
    kinds = {r["kind"] for r in rows}
    assert kinds == {"hands", "dries", "due"}
    (dries,) = [r for r in rows if r["kind"] == "dries"]
    left = datetime.fromisoformat(dries["at"]) - datetime.fromisoformat(doc["now"])
    assert dries["plan"] == plan and timedelta(minutes=29) < left <= timedelta(minutes=30)
    (order,) = [r for r in rows if r["kind"] == "due"]
    assert order["of"] == "For the club" and order["what"] == "0 of 1 made" and 0 <= order["sure"] <= 1
    hands = [r for r in rows if r["kind"] == "hands"]
    assert all(r["by"] == "Mio" and r["of"] == "For the club" for r in hands)
    far = client.get("/api/today", params={"at": (datetime.now() + timedelta(days=30)).isoformat()}).json()
    assert not [r for r in far["rows"] if r["kind"] == "hands"], "what is past wants nobody's hands"
