"""Out of one bench and into another: the same runs, the same knowledge of machines, the same series."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tenugui.store import evidence, runs
from tenugui.store.db import Store
from tests.app.bench import machine_ids, proved

RUN: dict[str, Any] = {
    "figure_name": "Reed warden",
    "printer_name": "heron",
    "material_name": "lantern grey",
    "started_at": "2026-10-03T18:20:00",
    "planned_s": 7200.0,
    "planned_risk": 0.1,
    "planned_g": 12.5,
    "result": "part lost",
    "real_s": 7000.0,
    "failed_layer": 512,
    "cause": "pull",
    "note": "=lantern torn off",
}


def emptied_log(store: Store) -> None:
    with store.work() as sql:
        sql.execute("DELETE FROM outcomes")
        sql.execute("DELETE FROM evidence")
        sql.execute("DELETE FROM runs")


def log(store: Store) -> list[dict[str, Any]]:
    own = ("id", "plan_id", "decision_id", "figure_id", "by_scatter", "planned_film")
    return [{k: v for k, v in row.items() if k not in own} for row in runs.whole_log(store, 100)]


def test_runs_come_back_as_they_were_and_only_once(client: TestClient, store: Store) -> None:
    plan = proved(client, store)
    started = client.post(f"/api/plans/{plan}/runs", json={"room": {"lot": "A7"}})
    assert started.status_code == 200, started.text
    assert client.post("/api/runs", json=[RUN]).json() == {"taken": 1, "there": 0}
    before, whole = log(store), client.get("/api/runs.json").content
    assert len(before) == 2 and any(row["frozen"] and row["told"] is not None for row in before)
    emptied_log(store)
    assert client.post("/api/runs", content=whole).json() == {"taken": 2, "there": 0}
    assert log(store) == before
    assert client.post("/api/runs", content=whole).json() == {"taken": 0, "there": 2}
    assert log(store) == before


def test_the_table_of_the_log_can_be_brought_back(client: TestClient, store: Store) -> None:
    client.post("/api/runs", json=[RUN, RUN | {"started_at": "2026-10-04T09:00:00", "result": None, "cause": None}])
    before, table = log(store), client.get("/api/log.csv").content
    emptied_log(store)
    assert client.post("/api/runs", content=table).json() == {"taken": 2, "there": 0}
    assert log(store) == before and before[0]["note"] == "=lantern torn off"


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ({"printer_name": "ibis"}, "no printer on the shelf is called 'ibis'"),
        ({"material_name": "marsh matte"}, "is no material for 'heron'"),
        ({"result": "fine"}, "column 'result'"),
        ({"planned_s": -1}, "column 'planned_s'"),
        ({"cause": "moon"}, "'moon' is no cause"),
        ({"started_at": "2026-10-03T18:20:00+02:00"}, "without zone"),
        ({"figure_name": "two\nlines"}, "column 'figure_name'"),
    ],
)
def test_one_bad_run_leaves_all_out(client: TestClient, store: Store, more: dict[str, Any], said: str) -> None:
    good = RUN | {"started_at": "2026-09-01T08:00:00"}
    refused = client.post("/api/runs", json=[good, RUN | more])
    assert refused.status_code == 422 and said in refused.json()["title"], refused.text
    assert log(store) == []


def test_what_is_too_large_is_refused_before_it_is_read_to_its_end(client: TestClient, store: Store) -> None:
    sent = 0

    def endless() -> Iterator[bytes]:
        nonlocal sent
        for _ in range(400):
            sent += 2**20
            yield b"x" * 2**20

    for address, most in (("/api/runs", 64), ("/api/seen", 64)):
        sent = 0
        refused = client.post(address, content=endless(), headers={"content-type": "text/csv"})
        assert (refused.status_code, refused.json()["code"]) == (413, "too-large") and f"{most} MB" in refused.text
    announced = client.post("/api/runs", content=b"", headers={"content-length": "999999999"})
    assert announced.status_code == 413 and log(store) == []


def test_what_was_seen_of_machines_comes_back_as_often_as_it_was_seen(client: TestClient, store: Store) -> None:
    ids = machine_ids(client)
    for came in (True, True, False):
        evidence.add(
            store, ids["printer_id"], ids["material_id"], "rod", level=0.5, came_out=came, source="series", note="n"
        )
    with store.work() as sql:
        sql.execute("UPDATE evidence SET noted_at = '2026-10-03 18:20:00'")
    path, params = f"/api/printers/{ids['printer_id']}/able", {"material_id": ids["material_id"]}
    before = client.get(path, params=params).json()["abilities"]
    kept = {kind: client.get(f"/api/seen.{kind}").content for kind in ("csv", "json")}
    for data in kept.values():
        emptied_log(store)
        assert client.post("/api/seen", content=data).json() == {"taken": 3, "there": 0}
        assert client.post("/api/seen", content=data).json() == {"taken": 0, "there": 3}
        after = client.get(path, params=params).json()["abilities"]
        assert [a["value"] for a in after] == [a["value"] for a in before]
    line = json.loads(kept["json"])[0]
    for more, said in (({"level": 99.0}, "99 mm is no level"), ({"ability": "moon"}, "no capability")):
        refused = client.post("/api/seen", json=[line, line | more])
        assert refused.status_code == 422 and said in refused.json()["title"]
    assert len(evidence.every(store)) == 3


SERIES: dict[str, Any] = {
    "name": "Heights of a heron",
    "figure_name": None,
    "spec": {"factors": {"height mm": [0.03, 0.05]}, "responses": {"grade": "grade"}, "repeats": 1},
    "specimens": [
        {"name": "a", "levels": {"height mm": 0.03}, "found": {"grade": "7"}},
        {"name": "b", "levels": {"height mm": 0.05}, "found": {}},
    ],
}


def test_a_series_comes_back_with_its_grades(client: TestClient) -> None:
    number = client.post("/api/series/bring", json=SERIES).json()
    whole = client.get(f"/api/series/{number}/whole.json").json()
    assert whole["specimens"] == SERIES["specimens"]
    again = client.post("/api/series/bring", json=whole).json()
    one, other = (client.get(f"/api/series/{n}").json() for n in (number, again))
    assert one["doc"] == other["doc"] and one["doc"]["effects"]


@pytest.mark.parametrize(
    ("specimen", "said"),
    [
        ({"name": "b", "levels": {"height mm": 0.07}}, "'0.07' is no level"),
        ({"name": "b", "levels": {"moon": 1}}, "it names ['moon']"),
        ({"name": "b", "levels": {"height mm": 0.05}, "found": {"mood": "3"}}, "'mood' is no response"),
        ({"name": "b", "levels": {"height mm": 0.05}, "found": {"grade": "11"}}, "beyond the scale"),
        ({"name": "a", "levels": {"height mm": 0.05}}, "'a' is there twice"),
    ],
)
def test_a_series_that_does_not_hold_is_refused(client: TestClient, specimen: dict[str, Any], said: str) -> None:
    refused = client.post("/api/series/bring", json=SERIES | {"specimens": [SERIES["specimens"][0], specimen]})
    assert refused.status_code == 422 and said in refused.json()["title"], refused.text
    assert client.get("/api/series").json() == []
