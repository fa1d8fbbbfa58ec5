"""Folds through the doors: what was said can be unsaid, updates lose nothing, and a made-up fold has its address, its
line in the list and its command.
"""

from __future__ import annotations

import dataclasses
import json
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from tenugui.cli import main
from tenugui.core.plan import FoldSpec, tasks
from tenugui.store import plans
from tenugui.store.db import Store
from tenugui.work.chores import PlanGiven, refresh
from tenugui.work.folds import Standing
from tenugui.work.shelf import StoreShelf
from tests.app.bench import board, bring_in, decide, head, size
from tests.core.test_folds import blessed
from tests.shapes import ball, box, stl_bytes

__all__ = ["blessed"]


def test_an_evenings_hobby_is_taken_though_the_marks_said_on_order(client: TestClient, store: Store) -> None:
    plan = bring_in(client, store, stl_bytes(ball(6)))["plan_id"]
    size(client, plan, factor=1.0)
    marks: dict[str, object] = {"head": head(client, plan), "strokes": [], "wish": {"rates": "order"}}
    assert client.post(f"/api/plans/{plan}/marks", json=marks).status_code == 200
    assert board(client, store, plan, "pose")["document"]["map"]["wish"]["rates"]["minute"] == 0.6
    evening = {"fold": "pose", "wish": {"rates": "evening"}, "pinned": []}
    seen = board(client, store, plan, "pose", json.dumps(evening))
    assert seen["document"]["map"]["wish"]["rates"]["minute"] == 0.15
    body = {"head": head(client, plan), "key": seen["key"], "option": 0, "wishes": evening}
    state = client.post(f"/api/plans/{plan}/decide/pose", json=body)
    assert state.status_code == 200, state.text
    held = next(f for f in state.json()["folds"] if f["name"] == "pose")
    assert held["state"] == "settled" and held["asked"]["wish"]["rates"] is None
    looked = client.get(f"/api/plans/{plan}/compute/pose").json()
    assert looked["key"] == seen["key"], "nothing asked is what was asked before"
    told = board(client, store, plan, "pose")
    body = {"head": head(client, plan), "key": told["key"], "option": 0}
    assert client.post(f"/api/plans/{plan}/decide/pose", json=body).status_code == 200, "by the same rule at both doors"


def test_bringing_up_to_date_keeps_what_was_asked(
    client: TestClient, store: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    plan = bring_in(client, store, stl_bytes(box((0, 0, 12), (20, 20, 24))))["plan_id"]
    size(client, plan, factor=1.0)
    decide(client, store, plan, "pose")
    asked = {"fold": "hollow", "own": {"wall_mm": 2.5}, "plugs": True}
    seen = board(client, store, plan, "hollow", json.dumps(asked))
    mine = next(k for k, row in enumerate(seen["document"]["choices"]) if row["own"])
    body = {"head": head(client, plan), "key": seen["key"], "option": mine, "wishes": asked}
    assert client.post(f"/api/plans/{plan}/decide/hollow", json=body).status_code == 200
    for name in ("pose", "hollow"):
        held = tasks.task_of(name)
        newer = dataclasses.replace(held, code=held.code + "+")
        monkeypatch.setitem(tasks._TASKS, name, newer)
    assert {f.name: f.state for f in Standing.of(store, plan).folds}["hollow"] == "stale"
    done = refresh(StoreShelf(store), PlanGiven(plan=plan), lambda share, doing: None)
    assert done == {"brought_up_to_date": ["pose", "hollow"]}
    standing = Standing.of(store, plan)
    assert {f.name: f.state for f in standing.folds}["hollow"] == "settled"
    last = plans.chain(store, plan)[-1]["choice"]
    assert last["wishes"]["plugs"] is True and last["wishes"]["own"]["wall_mm"] == 2.5
    assert refresh(StoreShelf(store), PlanGiven(plan=plan), lambda share, doing: None) == {"brought_up_to_date": []}


def test_a_made_up_fold_has_its_doors_its_line_and_its_command(
    blessed: FoldSpec,
    client: TestClient,
    store: Store,
    tmp_path: Path,
    capsys: pytest.CaptureFixture[str],
) -> None:
    assert [f["name"] for f in client.get("/api/folds").json()][-2:] == ["blessing", "log"]
    plan = bring_in(client, store, stl_bytes(ball(6)))["plan_id"]
    size(client, plan, factor=1.0)
    asked = {"fold": "blessing", "by": "a heron"}
    seen = board(client, store, plan, "blessing", json.dumps(asked))
    assert seen["document"]["choices"][0] == "a heron nods"
    body = {"head": head(client, plan), "key": seen["key"], "option": 0, "wishes": asked}
    state = client.post(f"/api/plans/{plan}/decide/blessing", json=body)
    assert state.status_code == 200, state.text
    told = next(f for f in state.json()["folds"] if f["name"] == "blessing")
    assert (told["state"], told["said"], told["choice"]["words"]) == ("settled", "a heron nods", "a heron nods")
    assert told["asked"]["by"] == "a heron" and told["waits"] is None
    size(client, plan, factor=1.1)
    mesh = plans.chain(store, plan)[-1]["choice"]["sha"]
    plans.decide(
        store,
        plan,
        "size",
        choice=plans.chain(store, plan)[-1]["choice"] | {"sha": mesh[::-1]},
        evidence={},
        reason="another mesh",
    )
    after = {f["name"]: f["state"] for f in client.get(f"/api/plans/{plan}").json()["folds"]}
    assert after["blessing"] == "stale"
    file = tmp_path / "egg.stl"
    file.write_bytes(stl_bytes(ball(4)))
    assert main(["plan", str(file), "--printer", "heron", "--out", str(tmp_path), "--json"]) == 0
    assert json.loads(capsys.readouterr().out.splitlines()[-1])["choices"]["blessing"]["words"] == "the toad abbot nods"
