"""The demo's own chore: a figure taken through its folds as recommended, with its marks and its story in the log."""

from __future__ import annotations

import pytest
from fastapi.testclient import TestClient

from tenugui.demo import chores, scenario
from tenugui.demo.scenario import Planned, Told, Wanted
from tenugui.store import runs
from tenugui.store.db import Store
from tenugui.work.folds import Standing
from tenugui.work.shelf import StoreShelf
from tests.app.bench import bring_in
from tests.shapes import ball, stl_bytes


def test_a_figure_is_settled_as_far_as_the_scenario_says_and_its_story_is_logged(
    client: TestClient, store: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    made = bring_in(client, store, stl_bytes(ball(4)))
    monkeypatch.setitem(scenario.PLANNED, "pebble", Planned(8.0, "heron", "lantern grey", 5, True))
    monkeypatch.setitem(scenario.STORY, "pebble", (Told(2.0, "good", 2, "it rolls"),))
    monkeypatch.setitem(scenario.ORDERS, "pebble", (Wanted("pebbles", 2, 3, 18, "clean"),))
    monkeypatch.setitem(scenario.PLATES, "pebble", ("Beach", 5))
    given = chores.SettleGiven(name="pebble", plan=made["plan_id"])
    assert chores.settle(StoreShelf(store), given, lambda share, doing: None) == {}
    standing = Standing.of(store, made["plan_id"])
    states = {f.name: f.state for f in standing.folds}
    assert states["proof"] == states["marks"] == "settled" and states["hollow"] == "open"
    (run,) = runs.of_plan(store, made["plan_id"])
    assert run["note"] == "it rolls" and run["result"] == "good"
    assert chores.settle(StoreShelf(store), given, lambda share, doing: None) == {}, "once is enough"
    (order,) = client.get("/api/week").json()["orders"]
    assert order["ready"] and [job["nth"] for job in order["jobs"]] == [1, 2] and order["due"][11:16] == "18:00"
    (plate,) = client.get("/api/plates").json()
    assert client.post(f"/api/plates/{plate['id']}/count").json()["pieces"][0]["state"] == "counting"
