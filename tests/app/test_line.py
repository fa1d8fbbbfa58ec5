"""A plan as a line of decisions: gone back to as another plan, and compared."""

from __future__ import annotations

import base64
import io

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from tenugui.store.db import Store
from tenugui.work.upkeep import ask_for_upkeep
from tests.app.bench import board, bring_in, decide, proved, size, undo, work_off
from tests.shapes import knobbly, stl_bytes


def test_a_line_tells_every_decision_and_is_gone_back_to_as_another_plan(client: TestClient, store: Store) -> None:
    number = proved(client, store)
    undo(client, number)
    told = client.get(f"/api/plans/{number}/line").json()
    assert [d["fold"] for d in told["decisions"]] == ["size", "pose", "supports", "layers", "proof"]
    assert [d["in_force"] for d in told["decisions"]] == [True] * 4 + [False]
    assert all(d["title"] and d["said"] for d in told["decisions"][:4])
    assert [d["parent"] for d in told["decisions"]] == [None, *(d["id"] for d in told["decisions"][:-1])]
    assert told["plans"] == [{"id": number, "number": 1, "settled": ["Size", "Pose", "Supports", "Layers"]}]
    posed = told["decisions"][1]["id"]
    other = client.post(f"/api/plans/{number}/branch", json={"decision": posed}).json()
    state = client.get(f"/api/plans/{other}").json()
    settled = [f["name"] for f in state["folds"] if f["state"] == "settled"]
    assert settled == ["size", "pose"] and state["number"] == 2 and state["figure_id"] == told["figure_id"]
    before = client.get(f"/api/plans/{number}").json()
    assert [f["state"] for f in before["folds"] if f["name"] == "layers"] == ["settled"], "the plan itself stays"
    taken_back = told["decisions"][-1]["id"]
    third = client.post(f"/api/plans/{number}/branch", json={"decision": taken_back}).json()
    assert client.get(f"/api/plans/{third}").json()["next_fold"] != "proof", "what was taken back can be gone back to"
    empty = client.post(f"/api/plans/{number}/branch", json={"decision": None}).json()
    assert client.get(f"/api/plans/{empty}").json()["next_fold"] == "size"
    assert [p["number"] for p in client.get(f"/api/plans/{empty}/line").json()["plans"]] == [1, 2, 3, 4]
    refused = client.post(f"/api/plans/{other}/branch", json={"decision": posed})
    assert refused.status_code == 404 and refused.json()["code"] == "no-decision", (
        "another plan's decision is none of it"
    )
    assert client.get("/api/plans/99999/line").json()["code"] == "no-plan"


def test_two_sets_of_one_pose_are_dyed_and_told_in_words(client: TestClient, store: Store) -> None:
    number = bring_in(client, store, stl_bytes(knobbly(9, 4)))["plan_id"]
    size(client, number, height_mm=24.0)
    decide(client, store, number, "pose")
    rows = board(client, store, number, "supports")["document"]["choices"]
    decide(client, store, number, "supports", 0)
    first = client.get(f"/api/plans/{number}/line").json()["decisions"][-1]["id"]
    # The row whose minutes are the farthest from the first's: in some two differ by less than is told.
    away = max(range(1, len(rows)), key=lambda i: abs(rows[i]["gift"]["hands_min"] - rows[0]["gift"]["hands_min"]))
    decide(client, store, number, "supports", away)
    told = client.get("/api/compare", params={"a": number, "b": number, "at_a": first}).json()
    one, other = told["sides"]
    assert (one["tips"], other["tips"]) == (rows[0]["tip_count"], rows[away]["tip_count"])
    assert one["worth"]["hands_min"] == pytest.approx(rows[0]["gift"]["hands_min"])
    assert one["decision"] == first and other["decision"] is None and told["same_figure"]
    assert [(c["where"], c["name"]) for c in told["changed"]] == [("plan", "Supports")] and told["alike"] > 20
    assert told["only"] is not None and sum(told["only"]) > 0 and told["said"].startswith("The second takes ")
    a, b = (np.asarray(Image.open(io.BytesIO(base64.b64decode(p)))) for p in told["pictures"])
    assert a.shape == b.shape and (a != b).any()
    same = client.get("/api/compare", params={"a": number, "b": number}).json()
    assert same["changed"] == [] and same["only"] == [0, 0] and same["said"] == "The two take as much of everything."


def test_plans_that_are_not_alike_are_compared_as_far_as_they_go(client: TestClient, store: Store) -> None:
    one = bring_in(client, store, stl_bytes(knobbly(9, 3)))["plan_id"]
    other = bring_in(client, store, stl_bytes(knobbly(8, 3)), "another.stl")["plan_id"]
    refused = client.get("/api/compare", params={"a": one, "b": other})
    assert refused.status_code == 409 and refused.json()["code"] == "nothing-decided"
    size(client, one, height_mm=18.0)
    told = client.get("/api/compare", params={"a": one, "b": other}).json()
    assert not told["same_figure"] and told["pictures"] is None and told["said"] == ""
    assert {c["now"] for c in told["changed"]} == {"not set"} and told["sides"][1]["said"] == "nothing decided"
    for params in ({"a": one}, {"a": 0, "b": one}, {"a": one, "b": one, "at_a": 99999}, {"a": one, "b": 99999}):
        assert client.get("/api/compare", params=params).status_code in (404, 422)


def test_what_is_known_best_is_planned_so_again(client: TestClient, store: Store) -> None:
    number = proved(client, store)
    figure = client.get(f"/api/plans/{number}").json()["figure_id"]
    assert client.get(f"/api/figures/{figure}/best").json() == []
    for result in ("good", "good", "print lost"):
        run = client.post(f"/api/plans/{number}/runs", json={}).json()
        lost = {"failed_layer": 5} if result == "print lost" else {}
        answer = client.put(f"/api/runs/{run}/outcome", json={"result": result, "real_s": 3600.0, **lost})
        assert answer.status_code == 200, answer.text
    print(client.get(f"/api/figures/{figure}/best").text)
    (on,) = client.get(f"/api/figures/{figure}/best").json()
    (way,) = on["ways"]
    assert (way["runs"], way["good"], way["best"], on["few"]) == (3, 2, 1.0, False)
    assert way["otherwise"] == [] and way["low"] < 2 / 3 < way["high"]
    again = client.post(f"/api/plans/{number}/branch", json={"decision": way["decision_id"]}).json()
    state = client.get(f"/api/plans/{again}").json()
    assert next(f["state"] for f in state["folds"] if f["name"] == "proof") == "settled"
    decide(client, store, again, "supports", 2)
    decide(client, store, again, "layers")
    decide(client, store, again, "proof")
    run = client.post(f"/api/plans/{again}/runs", json={}).json()
    client.put(f"/api/runs/{run}/outcome", json={"result": "part lost", "failed_layer": 3})
    (on,) = client.get(f"/api/figures/{figure}/best").json()
    assert [w["runs"] for w in on["ways"]] == [3, 1] and on["ways"][0]["best"] > on["ways"][1]["best"]
    assert any(c["name"] == "Supports" for c in on["ways"][1]["otherwise"])
    assert client.get("/api/figures/99999/best").status_code == 404


def test_older_plans_that_were_proved_are_brought_up_to_date_too(client: TestClient, store: Store) -> None:
    """A new engine: what rests on the old one is asked for, of the newest plan and of what lies behind it."""
    number = proved(client, store)
    newest = client.post(f"/api/plans/{number}/branch", json={"decision": None}).json()
    assert ask_for_upkeep(store) == 0
    with store.work() as sql:
        sql.execute("UPDATE decisions SET evidence = JSON_SET(evidence, '$.key', 'old') WHERE plan_id = %s", (number,))
    stale = [f["name"] for f in client.get(f"/api/plans/{number}").json()["folds"] if f["state"] == "stale"]
    assert "pose" in stale and newest > number
    assert ask_for_upkeep(store) == 1 and ask_for_upkeep(store) == 0, "asked for once"
    work_off(store)
    after = client.get(f"/api/plans/{number}").json()["folds"]
    assert [f["name"] for f in after if f["state"] == "stale"] == []
