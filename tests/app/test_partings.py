"""A figure is cut into a kit: places, a look at both parts, two figures at one size, and how far each has come."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from tenugui.core.mesh import Mesh
from tenugui.store import evidence, figures, kits, plans, runs
from tenugui.store.db import Store
from tenugui.work.folds import Standing
from tests.app.bench import bring_in, decide, machine_ids, run_on, size, work_off
from tests.core.test_parting import cut, dumbbell
from tests.shapes import box, stl_bytes

ROD = {"point": [16.0, 0.0, 0.0], "normal": [1.0, 0.0, 0.0]}


@pytest.fixture
def plan(client: TestClient, store: Store) -> int:
    """A box with a ball on a rod of 6 mm, 20 mm tall."""
    number = bring_in(client, store, stl_bytes(dumbbell(6.0)), "lantern-bearer.stl")["plan_id"]
    # As it lies in its file: up is z, one unit is a millimetre.
    size(client, number, factor=1.0, up=[0.0, 0.0, 1.0])
    return int(number)


def looked(client: TestClient, store: Store, plan: int, **cut: Any) -> dict[str, Any]:
    address = f"/api/plans/{plan}/cuts/look"
    first = client.post(address, json=ROD | cut).json()
    if first["document"] is None and first.get("problem") is None:
        work_off(store)
        first = client.post(address, params={"start": False}, json=ROD | cut).json()
    return dict(first)


def made(client: TestClient, store: Store, plan: int, **cut: Any) -> int:
    asked = ROD | {"names": ["Bearer", "Lantern"]} | cut
    answer = client.post(f"/api/plans/{plan}/cuts/kit", json=asked)
    assert answer.status_code == 200, answer.text
    work_off(store)
    assert client.get(f"/api/jobs/{answer.json()}").json()["state"] == "done"
    return int(client.get(f"/api/plans/{plan}/cuts/kits").json()[0]["id"])


def test_places_are_proposed_with_what_they_take(client: TestClient, store: Store, plan: int) -> None:
    assert client.get(f"/api/plans/{plan}/cuts").json()["document"] is None
    client.post(f"/api/plans/{plan}/cuts")
    work_off(store)
    told = client.get(f"/api/plans/{plan}/cuts").json()["document"]
    assert told["fit"] == {"clearance_mm": 0.15, "least_mm": 1.2, "known": False}
    first = told["proposals"][0]
    assert abs(first["plane"]["normal"][0]) > 0.99 and 0.1 < first["share"] < 0.25 and first["minutes"] > 4
    ids = machine_ids(client)
    for level in (0.3, 0.3, 0.35, 0.4):
        at = (ids["printer_id"], ids["material_id"])
        evidence.add(store, *at, "clearance", level=level, came_out=level > 0.32, source="run")
    again = client.post(f"/api/plans/{plan}/cuts").json()
    assert again["document"] is None, "what the machine was seen to do is asked anew"
    work_off(store)
    fit = client.get(f"/api/plans/{plan}/cuts").json()["document"]["fit"]
    assert fit["known"] and fit["clearance_mm"] > 0.25


def test_both_parts_are_looked_at_before_anything_is_made(client: TestClient, store: Store, plan: int) -> None:
    held = looked(client, store, plan)["document"]
    rest, limb = held["parts"]
    assert rest["volume_mm3"] > limb["volume_mm3"] and held["peg"]["clearance_mm"] == 0.15
    assert held["away"][0] == pytest.approx(1.0) and rest["fits"] and limb["fits"]
    assert looked(client, store, plan, peg=False)["document"]["peg"] is None
    missed = looked(client, store, plan, point=[99.0, 0.0, 0.0])
    assert missed["document"] is None and missed["problem"]["code"] == "misses"
    assert len(figures.every(store)) == 1 and client.get(f"/api/plans/{plan}/cuts/kits").json() == []


def test_two_figures_of_one_size_with_their_joint(client: TestClient, store: Store, plan: int) -> None:
    kit = made(client, store, plan)
    held = client.get(f"/api/kits/{kit}").json()
    assert held["placed"] and held["cut_of"] == plan and [p["name"] for p in held["parts"]] == ["Bearer", "Lantern"]
    assert all(p["preview_sha"] and p["state"] == "to plan" and p["triangles"] > 100 for p in held["parts"])
    (joint,) = held["joints"]
    assert joint["names"] == ["Bearer", "Lantern"] and joint["peg"]["width_mm"] > 1
    whole = Standing.of(store, plan)
    for part in held["parts"]:
        standing = Standing.of(store, part["plan_id"])
        mine, before = standing.choices["size"], whole.choices["size"]
        assert (mine.factor, mine.printer_id, mine.up) == (1.0, before.printer_id, before.up)  # type: ignore[attr-defined]
        assert standing.fold("size").state == "settled" and standing.fold("marks").state == "settled"
        state = client.get(f"/api/plans/{part['plan_id']}").json()
        assert state["kit_id"] == kit
    again = made(client, store, plan)
    assert again == kit and len(figures.every(store)) == 3, "cut so once"


def test_joints_are_marked_and_no_support_touches_a_peg(client: TestClient, store: Store, plan: int) -> None:
    kit = made(client, store, plan)
    limb = client.get(f"/api/kits/{kit}").json()["parts"][1]["plan_id"]
    decide(client, store, limb, "pose")
    given = Standing.of(store, limb).given("supports")
    assert given.strokes[0].tool == "file"
    decide(client, store, limb, "supports")
    for name in ("layers", "proof"):
        decide(client, store, limb, name)
    parts = client.get(f"/api/kits/{kit}").json()
    assert [p["state"] for p in parts["parts"]] == ["to plan", "planned"]
    whole, kit_way = parts["ways"]
    assert whole["open"] == 1 and kit_way["open"] == 1
    assert kit_way["hands_min"] > parts["joints"][0]["minutes"] and kit_way["machine_h"] > 0


def test_a_part_is_cut_again_and_leaves_its_kit_for_its_parts(client: TestClient, store: Store, plan: int) -> None:
    kit = made(client, store, plan)
    limb = client.get(f"/api/kits/{kit}").json()["parts"][1]
    same = made(client, store, limb["plan_id"], point=[21.0, 0.0, 0.0], names=["Ring", "Light"], peg=False)
    held = client.get(f"/api/kits/{kit}").json()
    assert same == kit and sorted(p["name"] for p in held["parts"]) == ["Bearer", "Light", "Ring"]
    assert len(held["joints"]) == 2 and figures.one(store, limb["figure_id"])["put_away_at"] is not None


def test_a_better_version_of_a_part_takes_its_place_in_the_kit(client: TestClient, store: Store, plan: int) -> None:
    kit = made(client, store, plan)
    body, limb = client.get(f"/api/kits/{kit}").json()["parts"]
    client.put(f"/api/kits/{kit}/parts/{limb['figure_id']}", json={"wanted": 3, "by_hand": "painted"})
    mesh = cut(dumbbell(6.0), 16.0).limb
    better = Mesh.joined([mesh, box((30, 0, 7), (3, 2, 4))])
    new = bring_in(client, store, stl_bytes(better), "lantern-two.stl")
    asked = client.post(f"/api/plans/{new['plan_id']}/earlier", json={"plan": limb["plan_id"]})
    assert asked.status_code == 200, asked.text
    work_off(store)
    parts = {p["name"]: p for p in client.get(f"/api/kits/{kit}").json()["parts"]}
    assert set(parts) == {"Bearer", "Lantern two"} and parts["Bearer"]["figure_id"] == body["figure_id"]
    assert (parts["Lantern two"]["wanted"], parts["Lantern two"]["by_hand"]) == (3, "nothing")
    size_now = Standing.of(store, new["plan_id"]).choices["size"]
    assert size_now.factor == pytest.approx(1.0)  # type: ignore[attr-defined]
    assert figures.one(store, limb["figure_id"])["put_away_at"] is not None


def test_how_far_each_part_has_come(client: TestClient, store: Store, plan: int) -> None:
    kit = made(client, store, plan)
    body, limb = client.get(f"/api/kits/{kit}").json()["parts"]
    ids = machine_ids(client)

    def state(figure: int) -> tuple[str, int, int]:
        part = next(p for p in client.get(f"/api/kits/{kit}").json()["parts"] if p["figure_id"] == figure)
        return part["state"], part["whole"], part["failed"]

    def printed(plan: int, result: str | None) -> int:
        run = run_on(store, plan, ids)
        if result:
            runs.end(store, run, {"result": result})
        return run

    address = f"/api/kits/{kit}/parts/{body['figure_id']}"
    assert client.put(address, json={"wanted": 2, "by_hand": "nothing"}).status_code == 200
    under_way = printed(body["plan_id"], None)
    assert state(body["figure_id"]) == ("printing", 0, 0)
    runs.end(store, under_way, {"result": "print lost"})
    assert state(body["figure_id"]) == ("failed", 0, 1)
    printed(body["plan_id"], "good")
    assert state(body["figure_id"]) == ("failed", 1, 1), "one of two is there"
    runs.mend(store, under_way, "mend")
    assert state(body["figure_id"]) == ("mended", 2, 0)
    assert client.put(address, json={"wanted": 2, "by_hand": "painted"}).status_code == 200
    assert state(body["figure_id"])[0] == "painted"
    assert kits.on_plates(store, [limb["plan_id"]]) == set()
    for bad, code in (({"wanted": 0, "by_hand": "nothing"}, 422), ({"wanted": 1, "by_hand": "eaten"}, 422)):
        assert client.put(address, json=bad).status_code == code
    other = client.put(f"/api/kits/{kit + 1}/parts/{body['figure_id']}", json={"wanted": 1, "by_hand": "nothing"})
    assert other.status_code == 404


def test_what_cannot_be_cut_is_said(client: TestClient, store: Store) -> None:
    unsized = bring_in(client, store, stl_bytes(dumbbell(5.0)), "marsh-bell.stl")["plan_id"]
    for answer in (
        client.post(f"/api/plans/{unsized}/cuts"),
        client.post(f"/api/plans/{unsized}/cuts/kit", json=ROD),
        client.post(f"/api/plans/{unsized}/cuts/look", json=ROD),
    ):
        assert answer.status_code == 409 and answer.json()["code"] == "fold-open"
    size(client, unsized, factor=1.0, up=[0.0, 0.0, 1.0])
    job = client.post(f"/api/plans/{unsized}/cuts/kit", json=ROD | {"normal": [0.0, 0.0, 0.0]}).json()
    work_off(store)
    told = client.get(f"/api/jobs/{job}").json()
    assert told["state"] == "failed" and told["problem"]["code"] == "misses"
    assert len(figures.every(store)) == 1 and plans.of_figure(store, figures.every(store)[0]["id"])
