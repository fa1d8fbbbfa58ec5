"""The week over the wire: ordered, woven, pinned, begun, woven again; fed as a calendar; fitted into a slot."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

import icalendar
import pytest
from fastapi.testclient import TestClient
from httpx import Response

from tenugui.store.db import Store
from tests.app.bench import machine_ids, proved, work_off

MONDAY = datetime(2026, 11, 30, 17, 42)


@pytest.fixture
def plan(client: TestClient, store: Store) -> int:
    return proved(client, store)


def order(client: TestClient, plan: int, **more: Any) -> int:
    body = {"name": "Gate wardens", "plan_id": plan, "copies": 2, "due": "2099-12-05T18:00"} | more
    answer = client.post("/api/week/orders", json=body)
    assert answer.status_code == 200, answer.text
    return int(answer.json())


def seen(client: TestClient, now: datetime = MONDAY) -> dict[str, Any]:
    return dict(client.get("/api/week", params={"at": now.isoformat()}).json())


def weave(client: TestClient, store: Store, now: datetime = MONDAY) -> dict[str, Any]:
    assert client.post("/api/week/weave", params={"at": now.isoformat()}).status_code == 200
    work_off(store)
    return seen(client, now)


def test_what_is_ordered_is_woven_with_hands_in_waking_hours(client: TestClient, store: Store, plan: int) -> None:
    assert seen(client)["nothing"].startswith("Nothing is ordered")
    number = order(client, plan)
    held = seen(client)
    assert held["stale"] and held["week"] is None and held["orders"][0]["ready"]
    held = weave(client, store)
    assert not held["stale"] and held["job_id"] is None and held["problem"] is None
    runs = held["week"]["runs"]
    assert [run["job"] for run in runs] == [f"Gate wardens 1 ({number})", f"Gate wardens 2 ({number})"]
    awake = [(datetime.fromisoformat(a), datetime.fromisoformat(b)) for a, b in held["awake"]]
    for run in runs:
        for one in run["attend"]:
            begun = datetime.fromisoformat(one["at"])
            assert any(a <= begun and begun + timedelta(minutes=one["minutes"]) <= b for a, b in awake), one
    assert {one["what"] for one in runs[0]["alone"]} >= {"cure"} and held["orders"][0]["sure"] > 0.99


@pytest.mark.parametrize("year", ["0001", "1999", "9999"])
def test_no_week_is_looked_at_that_no_calendar_reaches(client: TestClient, year: str) -> None:
    refused = client.get("/api/week", params={"at": f"{year}-12-31T23:59:00"})
    assert refused.status_code == 422 and year.lstrip("0") in refused.json()["title"]


def test_a_pin_is_kept_and_let_go(client: TestClient, store: Store, plan: int) -> None:
    number = order(client, plan, copies=1)
    first = weave(client, store)["week"]["runs"][0]["start"]
    later = "2026-12-02T18:00"
    client.put(f"/api/week/orders/{number}/pin", json={"nth": 1, "not_before": later})
    assert seen(client)["stale"]
    pinned = weave(client, store)
    assert pinned["week"]["runs"][0]["start"] >= later and pinned["orders"][0]["pinned"] == [1]
    client.put(f"/api/week/orders/{number}/pin", json={"nth": 1})
    assert weave(client, store)["week"]["runs"][0]["start"] == first


def test_a_run_that_stands_on_a_machine_is_woven_around_and_what_is_made_is_not_made_again(
    client: TestClient, store: Store, plan: int
) -> None:
    number = order(client, plan)
    weave(client, store)
    begun = MONDAY - timedelta(minutes=3)
    client.post(f"/api/plans/{plan}/runs", json={"started_at": begun.isoformat()})
    held = seen(client)
    assert held["stale"] and [r["machine"] for r in held["running"]] == ["heron"]
    held = weave(client, store)
    assert held["week"]["runs"][0]["start"] >= held["running"][0]["ends_at"][:16]
    row = held["orders"][0] | {"made": 1}
    body = {k: row[k] for k in ("name", "copies", "due", "chance", "goes", "made")}
    client.put(f"/api/week/orders/{number}", json=body)
    assert [run["job"] for run in weave(client, store)["week"]["runs"]] == [f"Gate wardens 2 ({number})"]


def test_what_came_off_whole_since_it_was_ordered_counts_and_what_is_under_way_is_not_begun_again(
    client: TestClient, store: Store, plan: int
) -> None:
    order(client, plan, copies=3)
    now = datetime.now()
    runs = [client.post(f"/api/plans/{plan}/runs", json={}).json() for _ in range(2)]
    client.put(f"/api/runs/{runs[0]}/outcome", json={"result": "good"})
    held = weave(client, store, now + timedelta(seconds=5))
    assert held["orders"][0]["made"] == 1 and len(held["running"]) == 1 and len(held["week"]["runs"]) == 1
    client.put(f"/api/runs/{runs[1]}/outcome", json={"result": "print lost"})
    held = seen(client, now + timedelta(seconds=9))
    assert held["stale"] and held["running"] == [] and len(held["orders"][0]["jobs"]) == 2, "what failed is made again"


def test_other_hours_weave_another_week_and_nobody_ever_there_is_told(
    client: TestClient, store: Store, plan: int
) -> None:
    order(client, plan)
    held = seen(client)
    house = held["house"] | {"people": [{"name": "Aki", "hours": [{"days": [3], "begin": "12:00", "end": "23:00"}]}]}
    assert client.put("/api/week/house", json={"version": held["version"], "house": house}).status_code == 200
    assert client.put("/api/week/house", json={"version": held["version"], "house": house}).status_code == 409
    runs = weave(client, store)["week"]["runs"]
    assert {datetime.fromisoformat(run["attend"][0]["at"]).weekday() for run in runs} == {3}
    nobody = seen(client)["house"] | {"people": []}
    client.put("/api/week/house", json={"version": seen(client)["version"], "house": nobody})
    assert "Nobody is ever there" in seen(client)["nothing"]
    twice = house | {"people": [house["people"][0]] * 2}
    refused = client.put("/api/week/house", json={"version": seen(client)["version"], "house": twice})
    assert refused.status_code == 422 and "there twice" in refused.text


def test_the_calendar_is_read_back_and_its_address_can_be_taken_away(
    client: TestClient, store: Store, plan: int
) -> None:
    assert client.get("/api/week/calendar.ics").status_code == 409
    order(client, plan, copies=1)
    run = weave(client, store)["week"]["runs"][0]
    events: list[Any] = list(icalendar.Calendar.from_ical(client.get("/api/week/calendar.ics").content).walk("VEVENT"))
    titles = {str(e["summary"]): e for e in events}
    whole = titles[f"{run['job']} on heron"]
    assert whole["dtstart"].dt == datetime.fromisoformat(run["start"]) and whole["dtstart"].dt.tzinfo is None
    assert titles[f"lift off: {run['job']}"].walk("VALARM") and len({str(e["uid"]) for e in events}) == len(events)
    first = client.post("/api/week/feed").json()
    assert client.get(first).content == client.get("/api/week/calendar.ics").content
    second = client.post("/api/week/feed").json()
    assert client.get(first).status_code == 404 and client.get(second).status_code == 200
    client.delete("/api/week/feed")
    assert client.get(second).status_code == 404


def test_an_order_of_a_plate_takes_a_run_a_plate(client: TestClient, store: Store, plan: int) -> None:
    printer = machine_ids(client)["printer_id"]
    plate = client.post(
        "/api/plates", json={"name": "Gate", "printer_id": printer, "pieces": [{"plan_id": plan, "copies": 4}]}
    ).json()
    work_off(store)
    number = order(client, plan, plan_id=None, plate_id=plate, copies=1, name="Four at once")
    assert "laid out" in seen(client)["orders"][0]["said"]
    client.post(f"/api/plates/{plate}/lay", json={"version": client.get(f"/api/plates/{plate}").json()["version"]})
    (run,) = weave(client, store)["week"]["runs"]
    assert run["job"] == f"Four at once ({number})"


def test_a_slot_is_fitted_by_hours_and_by_size(client: TestClient, plan: int) -> None:
    printer = machine_ids(client)["printer_id"]
    ask = {"printer_id": printer, "begin": "2026-12-01T09:00", "end": "2026-12-01T21:00"}
    (row,) = client.get("/api/week/fits", params=ask).json()
    assert row["fits"] and row["hours"] < row["hours_95"] < 12 and row["heights"]
    (tight,) = client.get("/api/week/fits", params=ask | {"end": "2026-12-01T09:05"}).json()
    assert not tight["fits"] and tight["size"] < 1 and tight["size_mm"] > 0 and tight["heights"] == []
    assert client.get("/api/week/fits", params=ask | {"end": "2026-12-01T08:00"}).status_code == 422


@pytest.mark.parametrize(
    ("change", "status", "said"),
    [
        ({"due": "2020-01-01T10:00"}, 422, "is past"),
        ({"due": "2099-01-01T10:00Z"}, 422, "without a zone"),
        ({"plan_id": None}, 422, "of a plan or of a plate"),
        ({"plan_id": 99_999}, 404, "no plan"),
        ({"copies": 0}, 422, "greater than"),
        ({"chance": 1.5}, 422, "less than 1"),
    ],
)
def test_an_order_that_cannot_be_is_refused_in_words(
    client: TestClient, plan: int, change: dict[str, Any], status: int, said: str
) -> None:
    refused = client.post("/api/week/orders", json={"name": "Wardens", "plan_id": plan} | change)
    assert refused.status_code == status and said in refused.text


def test_an_order_whose_figure_is_gone_is_told_and_the_rest_is_woven(
    client: TestClient, store: Store, plan: int
) -> None:
    order(client, plan, copies=1)
    lost = order(client, plan, copies=1, name="Lost")
    with store.work() as sql:
        sql.execute("UPDATE orders SET plan_id = NULL WHERE id = %s", (lost,))
    held = weave(client, store)
    assert len(held["week"]["runs"]) == 1 and "gone" in next(o for o in held["orders"] if o["id"] == lost)["said"]
    assert (
        client.put(
            f"/api/week/orders/{lost + 50}",
            json={"name": "x", "copies": 1, "due": None, "chance": 0.5, "goes": "clean", "made": 0},
        ).status_code
        == 404
    )


def test_whose_clocks_they_are_is_checked_kept_and_woven_by(client: TestClient, store: Store, plan: int) -> None:
    held = seen(client)
    assert held["house"]["zone"] == ""

    def put(zone: str) -> Response:
        body = {"version": seen(client)["version"], "house": held["house"] | {"zone": zone}}
        return client.put("/api/week/house", json=body)

    refused = put("Ashiwara/Marsh")
    assert refused.status_code == 422 and "no time zone" in refused.json()["title"]
    order(client, plan)
    plain = weave(client, store)
    assert put("Europe/Berlin").status_code == 200 and seen(client)["stale"]
    told = weave(client, store)
    assert told["house"]["zone"] == "Europe/Berlin" and not told["problem"]
    assert told["week"]["runs"][0]["start"] == plain["week"]["runs"][0]["start"], "no clock changes in December"
