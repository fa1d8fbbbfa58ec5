"""Figures of the bench planned over night: the same rows as the command's, limits, stopping and going on, and a plan of
what was planned.
"""

from __future__ import annotations

import io
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tenugui.core.machines import load_material, load_printer
from tenugui.core.mesh import Mesh
from tenugui.core.plan.night import Night, composed, planned_figure
from tenugui.store import machines
from tenugui.store.db import Store
from tests.app.bench import bring_in, fold, machine_ids, work_off
from tests.shapes import ball, cylinder, stl_bytes

KNOB = ball(5, (0, 0, 20), fineness=3)
POST = stl_bytes(Mesh.joined([cylinder(5, 20), KNOB]))
"""Straight below and round above: worth its bands on filament."""
EGG = stl_bytes(ball(3, fineness=3).dropped())
BOTH = (("heron", "lantern grey"), ("kestrel", "marsh matte"))


def begun(client: TestClient, figures: list[int], **more: Any) -> dict[str, Any]:
    asked = {"figures": figures, "machines": [machine_ids(client, *both) for both in BOTH], **more}
    answer = client.post("/api/nights", json=asked)
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def counted(store: Store) -> int:
    with store.work() as sql:
        sql.execute("SELECT COUNT(*) AS n FROM results WHERE kind IN ('pose', 'search', 'held', 'supports', 'layers')")
        return int((sql.fetchone() or {})["n"])


def test_a_night_tells_what_the_command_tells_and_its_ways_become_plans(client: TestClient, store: Store) -> None:
    post = bring_in(client, store, POST, "post.stl")["figure_id"]
    night = begun(client, [post, post])
    assert [r["state"] for r in night["rows"]] == ["waiting"] and night["planned"] == 0
    work_off(store)
    address = f"/api/nights/{night['id']}"
    told = client.get(address).json()
    (one,) = told["rows"]
    assert one["state"] == "planned" and told["planned"] == 1
    specs = [
        (load_printer(p), load_material(m, load_printer(p)))
        for p, m in ((machines.one(store, "printers", i["printer_id"])["spec"],
                      machines.one(store, "materials", i["material_id"])["spec"])
                     for i in (machine_ids(client, *both) for both in BOTH))
    ]  # fmt: skip
    machines_of = tuple((p.model_dump(mode="json"), m.model_dump(mode="json")) for p, m in specs)
    row, _ = planned_figure("post.stl", POST, Night(machines_of))
    here = [{k: v for k, v in way.items() if k not in ("picture", "plan")} for way in one["row"]["ways"]]
    assert here == [way.model_dump(exclude={"picture", "plan"}) for way in row.ways], "page and command plan alike"
    best = row.best or 0
    other = [w.model_copy(update={"material": "other"}) if k == best else w for k, w in enumerate(row.ways)]
    laid, _ = composed([row, row.model_copy(update={"file": "b", "ways": other})])
    assert sorted(p.material for p in laid) == sorted([row.ways[best].material, "other"]), (
        "no plate is of two materials"
    )
    assert one["row"]["best"] == row.best and told["hours"] == pytest.approx(row.ways[row.best or 0].time_s / 3600)
    picture = client.get(f"/api/blobs/{one['row']['ways'][0]['picture']}")
    assert picture.status_code == 200 and picture.content.startswith(b"\x89PNG")

    before = counted(store)
    taken = client.post(f"{address}/take", json={"figure_id": post, "way": 1}).json()
    work_off(store)
    assert client.get(f"/api/jobs/{taken['job_id']}").json()["state"] == "done"
    folds = {f["name"]: f for f in client.get(f"/api/plans/{taken['plan_id']}").json()["folds"]}
    assert folds["layers"]["state"] == "settled" and folds["size"]["choice"]["printer"] == "kestrel"
    assert folds["proof"]["state"] == "open", "accepted by a person"
    assert counted(store) == before, "its boards were there already"
    proof = fold(client, store, taken["plan_id"], "proof")["proof"]
    way = one["row"]["ways"][1]
    assert (proof["time_s"], proof["risk"]) == (way["time_s"], way["risk"]), "what was told is what is proved"
    assert folds["layers"]["choice"]["bands"] is not None, "in bands too"


def test_limits_are_held_to_the_same_plans(client: TestClient, store: Store) -> None:
    egg = bring_in(client, store, EGG, "egg.stl")["figure_id"]
    night = begun(client, [egg], most_hours=0.001)
    work_off(store)
    address = f"/api/nights/{night['id']}"
    told = client.get(address).json()
    assert told["planned"] == 0 and told["looked_first"] == 1 and told["plates"] == []
    assert all("hours, more than 0.001" in way["beyond"][0] for way in told["rows"][0]["row"]["ways"])
    freed = client.put(f"{address}/limits", json={"most_hours": 100}).json()
    assert freed["planned"] == 1 and [p["pieces"] for p in freed["plates"]] == [["Egg"]]
    assert client.get("/api/jobs").json() == [], "nothing is computed again"
    assert client.put(f"{address}/limits", json={"most_risk": 0}).status_code == 422


def test_it_is_stopped_and_goes_on(client: TestClient, store: Store) -> None:
    numbers = [
        bring_in(client, store, stl_bytes(ball(3 + k / 10, fineness=2).dropped()), "egg.stl")["figure_id"]
        for k in range(2)
    ]
    night = begun(client, numbers)
    address = f"/api/nights/{night['id']}"
    stopped = client.post(f"{address}/stop").json()
    assert [r["state"] for r in stopped["rows"]] == ["open", "open"]
    work_off(store)
    assert [r["state"] for r in client.get(address).json()["rows"]] == ["open", "open"]
    assert [r["state"] for r in client.post(f"{address}/go-on").json()["rows"]] == ["waiting", "waiting"]
    work_off(store)
    done = client.get(address).json()
    assert done["planned"] == 2
    assert sorted(n for p in done["plates"] for n in p["pieces"]) == [f"Egg ({n})" for n in numbers], "told apart"
    client.delete(f"/api/figures/{numbers[0]}")
    assert [r["figure_id"] for r in client.get(address).json()["rows"]] == numbers[1:], "what is put away is left out"
    assert [n["figures"] for n in client.get("/api/nights").json()] == [2]


def test_what_no_night_is_made_of_is_said(client: TestClient, store: Store) -> None:
    egg = bring_in(client, store, EGG, "egg.stl")["figure_id"]
    heron, kestrel = (machine_ids(client, *both) for both in BOTH)
    mixed = heron | {"material_id": kestrel["material_id"]}
    for asked, code in (
        ({"figures": [egg], "machines": [mixed]}, "other-process"),
        ({"figures": [egg], "machines": [heron, heron]}, "twice"),
        ({"figures": [4711], "machines": [heron]}, "no-figure"),
        ({"figures": [], "machines": [heron]}, "bad-request"),
        ({"figures": [egg], "machines": []}, "bad-request"),
        ({"figures": [egg], "machines": [heron], "height_mm": 0}, "bad-request"),
    ):
        answer = client.post("/api/nights", json=asked)
        assert answer.status_code >= 400 and answer.json()["code"] == code, answer.text
    with io.BytesIO(EGG) as body:
        new = client.post("/api/figures", params={"name": "new.stl"}, content=body.read()[:-50] + bytes(50)).json()
    unexamined = client.post("/api/nights", json={"figures": [new["figure_id"]], "machines": [heron]})
    assert unexamined.json()["code"] == "not-examined"
    assert client.get("/api/nights/4711").json()["code"] == "no-night"
    assert client.get("/api/nights").json() == []
