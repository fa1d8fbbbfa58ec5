"""Drills at their doors: no key before an answer, sets taken whole or refused, and drills of a proved plan."""

from __future__ import annotations

import base64
import io
from typing import Any

import pytest
from fastapi.testclient import TestClient
from PIL import Image

from tenugui.core.drills import KINDS
from tenugui.store import drills
from tenugui.store.db import Store
from tests.app.bench import proved, work_off

ONE: dict[str, Any] = {
    "kind": "factor",
    "text": "What else moved?",
    "options": ["film", "room"],
    "many": True,
    "unit": None,
    "a_picture_each": False,
    "pictures": [],
    "key": {"right": [1], "reasons": ["It stayed.", "It moved too."], "told": "One thing at a time."},
    "hard": 0.1,
}


def a_set(*drills: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {"schema": "tenugui/drills@1", "name": "A friend's", "drills": [*drills]} | more


def test_a_round_is_answered_and_no_key_is_told_before(client: TestClient) -> None:
    before = client.get("/api/drills").json()
    assert before["drills"] == 0 and before["due"] == 0 and before["next_due"] is None, "looking makes nothing"
    assert {row["skill"] for row in before["skills"]} == {kind.skill for kind in KINDS.values()}
    asked = client.post("/api/drills/round").json()
    assert len(asked) == 5 and len({d["kind"] for d in asked}) == 5
    known = set(asked[0])
    assert known == {
        "id", "kind", "skill", "text", "pictures", "options", "many", "unit", "a_picture_each", "source", "again",
        "chance",
    }, "nothing of a key"  # fmt: skip
    assert client.get("/api/drills/set").status_code == 409, "a set carries keys, and nothing was answered yet"
    for drill in asked:
        for nth in range(drill["pictures"]):
            png = client.get(f"/api/drills/{drill['id']}/pictures/{nth}")
            assert Image.open(io.BytesIO(png.content)).format == "PNG"
        said = {"number": 45.0} if drill["unit"] else {"picked": [0]}
        graded = client.post(f"/api/drills/{drill['id']}/answer", json=said).json()
        assert 0 <= graded["score"] <= 1 and graded["told"]
        assert graded["standing"]["answers"] >= 1 and graded["standing"]["skill"] == drill["skill"]
        assert graded["standing"]["low"] < graded["standing"]["share"] < graded["standing"]["high"]
        assert (graded["number"] is None) != bool(drill["unit"])
    after = client.get("/api/drills").json()
    assert sum(row["answers"] for row in after["skills"]) == 5 and after["next_due"] is not None
    again = client.post("/api/drills/round").json()
    assert not {d["id"] for d in again} & {d["id"] for d in asked}, "what was asked rests"


@pytest.mark.parametrize(
    ("said", "code"),
    [({}, "no-answer"), ({"picked": [9]}, "no-such-option"), ({"picked": [0], "number": 3}, None)],
)
def test_answers_that_fit_no_question(client: TestClient, store: Store, said: dict[str, Any], code: str | None) -> None:
    client.post("/api/drills/set", json=a_set(ONE))
    number = next(row["id"] for row in drills.every(store) if row["source"] == "A friend's")
    answer = client.post(f"/api/drills/{number}/answer", json=said)
    assert (answer.json().get("code") == code) if code else answer.status_code == 200
    assert client.post("/api/drills/99999/answer", json={"picked": [0]}).json()["code"] == "no-drill"
    assert client.post(f"/api/drills/{number}/answer", json={"picked": [-1]}).status_code == 422
    assert client.get(f"/api/drills/{number}/pictures/0").status_code == 404


def test_a_set_goes_out_and_comes_in_on_another_bench(client: TestClient) -> None:
    asked = client.post("/api/drills/round").json()
    angle = next(d for d in asked if d["kind"] == "angle")
    client.post(f"/api/drills/{angle['id']}/answer", json={"number": 30})
    told = client.get("/api/drills/set")
    assert told.status_code == 200 and "drills.json" in told.headers["content-disposition"]
    body = told.json()
    assert [d["text"] for d in body["drills"]] == [angle["text"]], "what was answered, and nothing else"
    picture = base64.b64decode(body["drills"][0]["pictures"][0])
    assert picture == client.get(f"/api/drills/{angle['id']}/pictures/0").content
    assert client.delete("/api/drills", params={"source": "laws"}).json() >= 18
    assert client.post("/api/drills/set", json=body).json() == 1
    assert client.post("/api/drills/set", json=body).json() == 0, "what is there is not taken twice"
    client.post("/api/drills/round")
    sources = {row["source"]: row for row in client.get("/api/drills").json()["sources"]}
    assert sources[body["name"]]["drills"] == 1 and not sources[body["name"]]["own"]
    assert sources["laws"]["drills"] >= 17 and sources["laws"]["own"], "what the bench makes itself comes again"
    assert client.post("/api/drills/set", json=a_set(ONE, name="laws")).json() == 1
    assert "'laws'" in {row["source"] for row in client.get("/api/drills").json()["sources"]}, "no set takes its name"


def bad(**more: Any) -> dict[str, Any]:
    return ONE | more


@pytest.mark.parametrize(
    ("drill", "said"),
    [
        (bad(kind="tarot"), "'tarot' is no kind"),
        (bad(key=ONE["key"] | {"right": [7]}), "option that is not there"),
        (bad(key=ONE["key"] | {"right": []}), "option that is not there"),
        (bad(unit="°"), "does not answer"),
        (bad(key=ONE["key"] | {"number": 3.0, "slack": 0.0}), "does not answer"),
        (bad(key=ONE["key"] | {"reasons": ["one"]}), "one line for every option"),
        (bad(a_picture_each=True), "one picture for every option"),
        (bad(pictures=[base64.b64encode(b"no picture").decode()]), "a picture of it is none"),
    ],
)
def test_a_bad_set_is_refused_whole_by_number(client: TestClient, drill: dict[str, Any], said: str) -> None:
    before = client.get("/api/drills").json()["drills"]
    refused = client.post("/api/drills/set", json=a_set(ONE | {"text": "A good one?"}, drill))
    assert refused.status_code == 422 and refused.json()["code"] == "bad-set"
    assert "Drill 2 of the set" in refused.json()["title"] and said in refused.json()["title"]
    assert client.get("/api/drills").json()["drills"] == before, "nothing half taken in"
    assert client.post("/api/drills/set", json=a_set()).status_code == 422
    assert client.post("/api/drills/set", json=a_set(ONE, schema="other@1")).status_code == 422


def test_a_kind_that_a_newer_engine_knows_comes_to_a_bench_that_has_the_others(
    client: TestClient, store: Store
) -> None:
    client.post("/api/drills/round")
    before = {row["id"] for row in drills.every(store)}
    with store.work() as sql:
        gone = sql.execute("DELETE FROM drills WHERE source = 'laws' AND kind = 'primed'")
    assert gone == 8
    client.post("/api/drills/round")
    after = drills.every(store)
    assert sum(row["kind"] == "primed" for row in after) == 8 and len(after) == len(before)
    assert {row["id"] for row in after if row["kind"] != "primed"} <= before, "the others stay as they were"


def png(shade: int) -> str:
    out = io.BytesIO()
    Image.new("RGB", (4, 4), (shade, 0, 0)).save(out, "PNG")
    return base64.b64encode(out.getvalue()).decode()


def test_pictures_of_a_key_come_with_an_answer_and_not_before(client: TestClient, store: Store) -> None:
    more: dict[str, Any] = {"kind": "drain", "many": False, "pictures": [png(1)], "shown": [png(2), png(3)]}
    assert client.post("/api/drills/set", json=a_set(ONE | more)).json() == 1
    (row,) = drills.every(store)
    door = f"/api/drills/{row['id']}/pictures"
    assert client.get(f"{door}/0").status_code == 200
    for nth in (1, 2):
        refused = client.get(f"{door}/{nth}")
        assert refused.status_code == 409 and refused.json()["code"] == "not-answered"
    graded = client.post(f"/api/drills/{row['id']}/answer", json={"picked": [1]}).json()
    assert graded["shown"] == [1, 2]
    assert client.get(f"{door}/2").content == base64.b64decode(more["shown"][1])
    assert client.get(f"{door}/3").json()["code"] == "no-picture"
    told = client.get("/api/drills/set").json()["drills"][0]
    assert told["pictures"] == more["pictures"] and told["shown"] == more["shown"]


def test_an_answer_that_is_given_again_while_the_key_is_fresh_is_graded_and_not_kept(
    client: TestClient, store: Store
) -> None:
    client.post("/api/drills/set", json=a_set(ONE))
    (row,) = drills.every(store)
    door = f"/api/drills/{row['id']}/answer"
    assert client.post(door, json={"picked": [0]}).json()["score"] == 0.0
    again = client.post(door, json={"picked": [1]}).json()
    assert again["score"] == 1.0 and again["standing"]["answers"] == 1
    (kept,) = drills.answers(store)
    assert kept["score"] == 0.0
    with store.work() as sql:
        sql.execute("UPDATE drill_answers SET answered_at = answered_at - INTERVAL 13 MINUTE")
    assert client.post(door, json={"picked": [1]}).json()["standing"]["answers"] == 2


def test_drills_of_a_plan_come_once_their_job_is_done(client: TestClient, store: Store) -> None:
    number = proved(client, store)
    assert [o["plan_id"] for o in client.get("/api/drills").json()["offers"]] == [number]
    waits = client.post(f"/api/drills/figures/{number}").json()
    assert waits["job_id"] and waits["drills"] == 0
    work_off(store)
    made = client.post(f"/api/drills/figures/{number}").json()
    assert made["job_id"] is None and made["drills"] >= 1
    state = client.get("/api/drills").json()
    assert state["offers"] == [] and sum(row["drills"] for row in state["sources"]) == state["drills"]
    assert client.post(f"/api/drills/figures/{number}").json()["drills"] == made["drills"]
    assert client.get("/api/drills").json()["drills"] == state["drills"], "asked twice, kept once"


def test_ones_own_failures_are_asked_with_the_cause_that_was_named(client: TestClient, store: Store) -> None:
    number = proved(client, store)
    for outcome in (
        {"result": "good"},
        {"result": "print lost", "failed_layer": 12, "cause": "pull", "note": "hung in the vat"},
        {"result": "part lost", "failed_layer": 3},
    ):
        run = client.post(f"/api/plans/{number}/runs", json={}).json()
        assert client.put(f"/api/runs/{run}/outcome", json=outcome).status_code == 200
    client.post("/api/drills/round")
    client.post("/api/drills/round")
    (mine,) = [row for row in drills.every(store) if row["source"] == "your log"]
    row = drills.one(store, mine["id"])
    question, key = row["question"], row["answer_key"]
    assert "'print lost' from layer 12 of " in question["text"] and "hung in the vat" in question["text"]
    assert len(question["options"]) == 4 == len(set(question["options"]))
    (right,) = key["right"]
    assert (
        key["reasons"][right].startswith("This is what you named.")
        and question["options"][right] not in question["text"]
    )
    graded = client.post(f"/api/drills/{mine['id']}/answer", json={"picked": [right]}).json()
    assert graded["score"] == 1.0 and graded["standing"]["skill"] == "naming causes"
    log = client.get(f"/api/plans/{number}/runs").json()["runs"]
    lost = next(r["id"] for r in log if r["result"] == "print lost")
    corrected = {"result": "print lost", "failed_layer": 12, "cause": "sealed", "note": "hung in the vat"}
    assert client.put(f"/api/runs/{lost}/outcome", json=corrected).status_code == 200
    client.post("/api/drills/round")
    (now,) = [row for row in drills.every(store) if row["source"] == "your log"]
    assert now["id"] != mine["id"], "an outcome that was corrected takes its old key with it"
