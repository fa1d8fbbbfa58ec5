"""Two pages of one plan: nobody's decision is lost in silence, whatever order they act in."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tenugui.store import figures, plans
from tenugui.store.db import Store, StoreError
from tests.app.bench import board, bring_in, decide, head, machine_ids, size
from tests.shapes import ball, box, stl_bytes


@pytest.fixture
def plan(client: TestClient, store: Store) -> int:
    return bring_in(client, store, stl_bytes(ball(8)))["plan_id"]


def test_of_two_sizes_at_once_one_is_taken_and_the_other_told(client: TestClient, plan: int) -> None:
    body = {"head": None, **machine_ids(client)}
    with ThreadPoolExecutor(6) as hands:
        answers = list(
            hands.map(lambda h: client.post(f"/api/plans/{plan}/size", json={**body, "height_mm": h}), range(20, 26))
        )
    taken = [a for a in answers if a.status_code == 200]
    told = [a for a in answers if a.status_code == 409]
    assert len(taken) == 1 and len(told) == 5
    assert all(a.json()["code"] == "changed-meanwhile" for a in told)
    chosen = client.get(f"/api/plans/{plan}").json()["folds"][0]["choice"]["height_mm"]
    assert chosen == pytest.approx(taken[0].json()["folds"][0]["choice"]["height_mm"])


def test_a_board_that_is_not_todays_is_not_decided_from(client: TestClient, store: Store, plan: int) -> None:
    size(client, plan, height_mm=20)
    seen = board(client, store, plan, "pose")
    size(client, plan, height_mm=30)
    body = {"head": head(client, plan), "key": seen["key"], "option": 0}
    refused = client.post(f"/api/plans/{plan}/decide/pose", json=body)
    assert refused.status_code == 409 and refused.json()["code"] == "changed-meanwhile"
    assert client.get(f"/api/plans/{plan}").json()["folds"][2]["state"] == "open"


def test_undo_of_what_was_not_seen_is_refused(client: TestClient, plan: int) -> None:
    seen = size(client, plan, height_mm=20)["head"]
    size(client, plan, height_mm=30)
    refused = client.post(f"/api/plans/{plan}/undo", json={"head": seen})
    assert refused.status_code == 409 and "30.0 mm" in refused.json()["title"]


def test_a_stale_fold_says_so_and_what_follows_waits(client: TestClient, store: Store, plan: int) -> None:
    size(client, plan, height_mm=20)
    decide(client, store, plan, "pose")
    decide(client, store, plan, "supports")
    changed = size(client, plan, height_mm=21)
    states = {f["name"]: f["state"] for f in changed["folds"]}
    assert states["size"] == "settled" and states["pose"] == "stale" and states["supports"] == "stale"
    assert changed["next_fold"] == "pose"
    back = size(client, plan, height_mm=20)
    assert {f["name"]: f["state"] for f in back["folds"]}["supports"] == "settled", "it rests on today's inputs again"


def test_the_parts_of_a_kit_have_one_size(client: TestClient, store: Store) -> None:
    made = [
        bring_in(client, store, stl_bytes(s), f"{n}.stl") for n, s in (("a", ball(8)), ("b", box((0, 0, 4), (8, 8, 8))))
    ]
    client.post("/api/kits", json={"name": "Both", "figures": [m["figure_id"] for m in made]})
    size(client, made[0]["plan_id"], factor=1.5)
    other = client.get(f"/api/plans/{made[1]['plan_id']}").json()["folds"][0]["choice"]
    assert other["factor"] == 1.5 and other["height_mm"] == pytest.approx(12)


def test_a_kit_is_sized_whole_or_not_at_all(client: TestClient, store: Store, monkeypatch: pytest.MonkeyPatch) -> None:
    made = [bring_in(client, store, stl_bytes(ball(8 + k)), f"{k}.stl")["plan_id"] for k in range(3)]
    kit = [client.get(f"/api/plans/{plan}").json()["figure_id"] for plan in made]
    client.post("/api/kits", json={"name": "Three", "figures": kit})
    decide_in, times = plans.decide_in, list[int]()

    def breaks(*words: object, **more: object) -> int:
        times.append(1)
        if len(times) == 3:
            raise StoreError("database-away", "The database does not answer.", "", 503)
        return decide_in(*words, **more)  # type: ignore[arg-type]

    monkeypatch.setattr(plans, "decide_in", breaks)
    body = {"factor": 1.5, "head": None, **machine_ids(client)}
    assert client.post(f"/api/plans/{made[0]}/size", json=body).status_code == 503
    assert all(plans.chain(store, plan) == [] for plan in made), "nothing half done"
    monkeypatch.undo()
    assert client.post(f"/api/plans/{made[0]}/size", json=body).status_code == 200
    assert [plans.chain(store, plan)[-1]["choice"]["factor"] for plan in made] == [1.5] * 3


class Model:
    """What a plan should be: a tree of decisions with a head."""

    def __init__(self) -> None:
        self.parent: dict[int, int | None] = {}
        self.head: int | None = None

    def decided(self, made: int) -> None:
        self.parent[made] = self.head
        self.head = made

    def after(self) -> int | None:
        return max((m for m, p in self.parent.items() if p == self.head), default=None)


ACTS = st.lists(st.tuples(st.sampled_from(["size", "marks", "undo", "redo"]), st.booleans()), max_size=14)


@pytest.mark.long
@settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(ACTS)
def test_two_pages_in_any_order(client: TestClient, store: Store, acts: list[tuple[str, bool]]) -> None:
    """`late`: the page has not looked since it was opened. It is refused wherever the plan has moved, and changes
    nothing.
    """
    sha = figures.one(store, bring_in(client, store, stl_bytes(ball(5)))["figure_id"])["mesh_sha"]
    plan = plans.create(store, figures.add(store, figures.NewFigure("Stone", "stone.stl", sha, 5120)))
    ids, model = machine_ids(client), Model()
    for number, (act, late) in enumerate(acts):
        seen = None if late else model.head
        body: dict[str, Any] = {"head": seen}
        if act == "size":
            body |= {**ids, "factor": 1 + number / 10}
        if act == "marks":
            body |= {"strokes": []}
        answer = client.post(f"/api/plans/{plan}/{act}", json=body)
        if seen != model.head:
            assert answer.status_code == 409 and answer.json()["code"] == "changed-meanwhile"
        elif act == "undo" and model.head is None:
            assert answer.json()["code"] == "nothing-to-undo"
        elif act == "redo" and model.after() is None:
            assert answer.json()["code"] == "nothing-to-redo"
        else:
            assert answer.status_code == 200, answer.text
            if act == "undo":
                assert model.head is not None
                model.head = model.parent[model.head]
            elif act == "redo":
                model.head = model.after()
            else:
                model.decided(answer.json()["head"])
        assert client.get(f"/api/plans/{plan}").json()["head"] == model.head
