"""Plans of a series' cells: made by the engine at each cell's levels, and what it cannot set said."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from typing import Any

from fastapi.testclient import TestClient

from tenugui.store import figures, plans
from tenugui.store.db import Store
from tests.app.bench import bring_in, machine_ids, proved, size, work_off
from tests.shapes import ball, stl_bytes


def spec(**factors: list[float]) -> dict[str, Any]:
    return {
        "factors": {k.replace("_", " "): v for k, v in factors.items()},
        "responses": {"held": "yesno"},
        "repeats": 2,
        "rate_per_h": None,
    }


def planned(client: TestClient, figure: int | None, factors: dict[str, Any]) -> int:
    answer = client.post("/api/series", json={"name": "Cells", "spec": factors, "figure_id": figure})
    assert answer.status_code == 200, answer.text
    return int(answer.json())


def choices(store: Store, plan: int) -> dict[str, Any]:
    return {row["fold"]: row["choice"] for row in plans.chain(store, plan)}


def test_each_cell_gets_a_plan_at_its_levels(client: TestClient, store: Store) -> None:
    base = proved(client, store)
    figure = figures.every(store)[0]["id"]
    number = planned(client, figure, spec(height_mm=[0.03, 0.05], risk_a_tip=[0.02, 0.2], speed=[40, 60]))
    answer = client.post(f"/api/series/{number}/plans")
    assert answer.status_code == 200, answer.text
    told = answer.json()
    assert (told["set_in_plans"], told["by_hand"]) == (["height mm", "risk a tip"], ["speed"])
    assert len(told["plans"]) == 8 and len(set(told["plans"].values())) == 4, "speed alone makes no other plan"
    work_off(store)
    held = client.get(f"/api/series/{number}").json()
    before = choices(store, base)
    for specimen in held["specimens"]:
        mine, levels = choices(store, specimen["plan_id"]), specimen["levels"]
        assert mine["layers"]["layer_height_mm"] == levels["height mm"], specimen
        assert mine["supports"]["risk"] == levels["risk a tip"]
        assert mine["proof"]["layer_height_mm"] == levels["height mm"]
        assert {k: mine[k] for k in ("size", "pose")} == {k: before[k] for k in ("size", "pose")}
        state = client.get(f"/api/plans/{specimen['plan_id']}").json()
        assert [f["state"] for f in state["folds"] if f["name"] == "proof"] == ["settled"]
    assert choices(store, base) == before, "the plan that it started from stays"
    again = client.post(f"/api/series/{number}/plans").json()
    assert again["plans"] == {}, "none is made twice"


def test_two_who_ask_at_once_get_the_same_plans(client: TestClient, store: Store) -> None:
    base = proved(client, store)
    figure = figures.every(store)[0]["id"]
    number = planned(client, figure, spec(height_mm=[0.03, 0.05]))
    with ThreadPoolExecutor(2) as pool:
        answers = list(pool.map(lambda _: client.post(f"/api/series/{number}/plans"), range(2)))
    assert [a.status_code for a in answers] == [200, 200]
    assert sorted(len(a.json()["plans"]) for a in answers) == [0, 2], "one of them made both"
    assert len(plans.of_figure(store, figure)) == 3 and base in {p["id"] for p in plans.of_figure(store, figure)}


def test_a_level_that_no_board_offers_is_told_on_the_series_and_tried_again(client: TestClient, store: Store) -> None:
    proved(client, store)
    figure = figures.every(store)[0]["id"]
    number = planned(client, figure, spec(height_mm=[0.03, 0.77]))
    made = client.post(f"/api/series/{number}/plans").json()["plans"]
    work_off(store)
    (trouble,) = client.get(f"/api/series/{number}").json()["troubled"]
    assert trouble["plan_id"] in made.values() and trouble["problem"]["code"] == "not-offered"
    assert client.post(f"/api/series/{number}/plans").status_code == 200
    assert client.get(f"/api/series/{number}").json()["troubled"] == [], "it is being tried again"
    work_off(store)
    assert len(client.get(f"/api/series/{number}").json()["troubled"]) == 1


def test_what_cannot_be_planned_is_said(client: TestClient, store: Store) -> None:
    number = bring_in(client, store, stl_bytes(ball(4)))["plan_id"]
    size(client, number, height_mm=8.0)
    figure = figures.every(store)[0]["id"]
    for series, code in (
        (planned(client, None, spec(height_mm=[0.03, 0.05])), "no-figure"),
        (planned(client, figure, spec(speed=[40, 60])), "nothing-to-set"),
        (planned(client, figure, spec(height_mm=[0.03, 0.05])), "no-plan"),
    ):
        refused = client.post(f"/api/series/{series}/plans")
        assert refused.status_code == 422 and refused.json()["code"] == code


def test_a_level_that_no_board_offers_is_told_by_its_job(client: TestClient, store: Store) -> None:
    proved(client, store)
    figure = figures.every(store)[0]["id"]
    number = planned(client, figure, spec(height_mm=[0.05, 0.123]))
    made = client.post(f"/api/series/{number}/plans").json()["plans"]
    work_off(store)
    with store.work() as sql:
        sql.execute("SELECT state, problem FROM jobs WHERE kind = 'cell' ORDER BY id")
        rows = list(sql.fetchall())
    assert [row["state"] for row in rows] == ["done", "failed"] and "not-offered" in rows[1]["problem"]
    assert len(made) == 2
    left = choices(store, next(plan for plan in made.values() if "layers" not in choices(store, plan)))
    assert "proof" not in left, "it is no proved plan at another height"


def test_one_more_specimen_of_a_cell_has_its_plan_and_a_table_of_other_levels_none(
    client: TestClient, store: Store
) -> None:
    proved(client, store)
    number = planned(client, figures.every(store)[0]["id"], spec(height_mm=[0.04, 0.05]))
    client.post(f"/api/series/{number}/plans")
    before = {s["levels"]["height mm"]: s["plan_id"] for s in client.get(f"/api/series/{number}").json()["specimens"]}
    assert client.post(f"/api/series/{number}/next").status_code == 200
    assert client.post(f"/api/series/{number}/plans").status_code == 200
    after = client.get(f"/api/series/{number}").json()["specimens"]
    assert len(after) == 5 and all(s["plan_id"] == before[s["levels"]["height mm"]] for s in after)
    table = "specimen,height mm,held\n1,0.05,yes\n2,0.04,no\n"
    assert client.post(f"/api/series/{number}/results", content=table).json() == 2
    plans_now = [s["plan_id"] for s in client.get(f"/api/series/{number}").json()["specimens"]]
    assert plans_now == [None, before[0.04]], "specimen 1 was of 0.04 mm"


def test_the_shipped_heights_are_those_that_the_machine_offers(client: TestClient) -> None:
    offers = client.get("/api/series/shipped", params=machine_ids(client)).json()
    assert next(o for o in offers if o["code"] == "heights")["spec"]["factors"]["height mm"] == [0.03, 0.04, 0.05, 0.08]
