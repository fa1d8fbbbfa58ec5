"""Every door of the API: what is not there, what is not allowed, what cannot be read, each refused in words and as a
problem document.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from datetime import datetime
from typing import Any
from urllib.parse import quote

import pytest
from fastapi.testclient import TestClient

from tenugui.app.main import make_app
from tenugui.core.contract.asks import MOST_EDITS, EditAsk
from tenugui.core.machines import cautions
from tenugui.store import jobs
from tenugui.store.db import Store
from tests.app.bench import HOST, bring_in, decide, head, size, work_off
from tests.shapes import ball, box, fork, stl_bytes

MISSING: tuple[tuple[str, str, Any], ...] = (
    ("GET", "/api/plans/77", None),
    ("POST", "/api/plans/77/size", {"head": None, "height_mm": 20, "printer_id": 1, "material_id": 1}),
    ("POST", "/api/plans/77/marks", {"head": None, "strokes": []}),
    ("POST", "/api/plans/77/marks/share", None),
    ("POST", "/api/plans/77/pose/weigh", {"down": [0, 0, -1]}),
    ("POST", "/api/plans/77/pose/rank", {}),
    ("GET", "/api/plans/77/compute/pose", None),
    ("GET", "/api/plans/77/files/stl", None),
    ("GET", "/api/plans/77/runs", None),
    ("GET", "/api/figures/77/intake", None),
    ("GET", "/api/figures/77/proposals", None),
    ("GET", "/api/figures/77/fits", None),
    ("GET", "/api/figures/77/mend/united", None),
    ("PATCH", "/api/figures/77", {"name": "Nobody"}),
    ("DELETE", "/api/figures/77", None),
    ("POST", "/api/figures/77/back", None),
    ("GET", "/api/kits/77", None),
    ("GET", "/api/jobs/77", None),
    ("GET", "/api/jobs/77/events", None),
    ("GET", "/api/blobs/" + "0" * 64, None),
    ("PUT", "/api/runs/77/outcome", {"result": "good"}),
)


@pytest.mark.parametrize(("method", "path", "body"), MISSING, ids=[f"{m} {p[:34]}" for m, p, _ in MISSING])
def test_what_is_not_there_is_said_to_be_missing(client: TestClient, method: str, path: str, body: object) -> None:
    answer = client.request(method, path, json=body)
    assert answer.status_code == 404, answer.text
    told = answer.json()
    assert answer.headers["content-type"] == "application/problem+json"
    assert told["status"] == 404 and told["title"].endswith(".") and told["type"] == f"tenugui:{told['code']}"


WRONG: tuple[tuple[str, str, Any], ...] = (
    ("POST", "/api/plans/{plan}/size", {"height_mm": "tall", "printer_id": 1, "material_id": 1}),
    ("POST", "/api/plans/{plan}/size", {"height_mm": 1e9, "printer_id": 1, "material_id": 1}),
    ("POST", "/api/plans/{plan}/size", {"factor": 0, "printer_id": 1, "material_id": 1}),
    ("POST", "/api/plans/{plan}/size", {"factor": 1}),
    ("POST", "/api/plans/{plan}/marks", {"strokes": "all over"}),
    (
        "POST",
        "/api/plans/{plan}/marks",
        {"strokes": [{"tool": "brush", "kind": "show", "points": [[0, 0]], "radius": 1}]},
    ),
    ("POST", "/api/plans/{plan}/pose/weigh", {"down": "below"}),
    ("POST", "/api/plans/{plan}/decide/pose", {"option": -1}),
    ("POST", "/api/plans/{plan}/decide/pose", {"option": 999}),
    ("PATCH", "/api/figures/{figure}", {"name": ""}),
    ("PATCH", "/api/figures/{figure}", {}),
    ("GET", "/api/figures/{figure}/mend/polished", None),
    ("GET", "/api/cautions/steam", None),
    ("GET", "/api/figures/{figure}/weak?printer=1&factor=0", None),
    ("POST", "/api/kits", {"name": "Alone", "figures": [1]}),
    ("PUT", "/api/settings/intake", {"triangles": -4}),
    ("PUT", "/api/printers", {"process": "steam"}),
)


@pytest.fixture
def stone(client: TestClient, store: Store) -> Iterator[dict[str, int]]:
    yield bring_in(client, store, stl_bytes(ball(8, fineness=3)))


@pytest.mark.parametrize(("method", "path", "body"), WRONG, ids=[f"{n} {p[-22:]}" for n, (_, p, _) in enumerate(WRONG)])
def test_what_cannot_be_is_refused_with_its_place(
    client: TestClient,
    store: Store,
    stone: dict[str, int],
    method: str,
    path: str,
    body: object,
) -> None:
    where = path.format(plan=stone["plan_id"], figure=stone["figure_id"])
    answer = client.request(method, where, json=body)
    assert answer.status_code == 422, answer.text
    told = answer.json()
    assert told["code"] and told["title"] and "Traceback" not in answer.text
    after = client.get(f"/api/plans/{stone['plan_id']}").json()
    assert all(f["choice"] is None for f in after["folds"]), "nothing of it was kept"


@pytest.mark.parametrize(
    ("process", "other", "own"),
    [("resin", "walls", {"wall_mm": 2}), ("filament", "hollow", {"perimeters": 3, "roof_mm": 1, "infill": 0.2})],
)
def test_a_fold_of_the_other_process_is_no_door_and_takes_no_wishes(
    client: TestClient, stone: dict[str, int], process: str, other: str, own: dict[str, float]
) -> None:
    plan = f"/api/plans/{stone['plan_id']}"
    ids = {
        f"{kind}_id": next(row["id"] for row in client.get(f"/api/{kind}s").json() if row["process"] == process)
        for kind in ("printer", "material")
    }
    head = client.get(plan).json()["head"]
    assert client.post(f"{plan}/size", json={"factor": 1.0, "head": head, **ids}).status_code == 200
    for answer in (
        client.post(f"{plan}/compute/{other}", json={}),
        client.get(f"{plan}/compute/{other}"),
        client.get(
            f"{plan}/compute/hollow" if other == "hollow" else f"{plan}/compute/walls",
            params={"wishes": json.dumps({"own": own})},
        ),
    ):
        assert answer.status_code in (404, 409, 422), answer.text
        assert answer.json()["code"] and answer.json()["title"]


def test_walls_are_no_wish_of_a_hollow_figure(client: TestClient, stone: dict[str, int]) -> None:
    plan = f"/api/plans/{stone['plan_id']}"
    wishes = json.dumps({"own": {"perimeters": 3, "roof_mm": 1.0, "infill": 0.2}})
    answer = client.get(f"{plan}/compute/hollow", params={"wishes": wishes})
    assert answer.status_code == 422 and answer.json()["code"] == "bad-request"


def test_a_body_that_is_no_json_is_refused(client: TestClient, stone: dict[str, int]) -> None:
    answer = client.post(
        f"/api/plans/{stone['plan_id']}/size", content=b"{half", headers={"Content-Type": "application/json"}
    )
    assert answer.status_code == 422 and answer.json()["code"] == "bad-request"


def test_a_method_that_no_door_has(client: TestClient) -> None:
    answer = client.delete("/api/health")
    assert answer.status_code in (404, 405) and answer.json()["code"] in ("no-such-method", "no-address")
    assert client.put("/api/nowhere/at/all", json={}).json()["code"] == "no-address"


def test_folds_wait_for_those_before_them(client: TestClient, store: Store, stone: dict[str, int]) -> None:
    plan = stone["plan_id"]
    for name in ("pose", "supports", "layers", "proof"):
        answer = client.get(f"/api/plans/{plan}/compute/{name}")
        assert answer.status_code == 409 and answer.json()["code"] == "fold-open" and "Size" in answer.json()["title"]
    assert client.get(f"/api/plans/{plan}/compute/size").json()["code"] == "no-address"
    size(client, plan, height_mm=12)
    assert "Pose" in client.get(f"/api/plans/{plan}/compute/supports").json()["title"]
    assert client.get(f"/api/plans/{plan}").json()["next_fold"] == "marks"
    held = client.get(f"/api/plans/{plan}/compute/pose").json()
    assert held["document"] is None and held["job_id"] is None, "looking starts nothing"
    body = {"head": head(client, plan), "key": held["key"], "option": 0}
    assert client.post(f"/api/plans/{plan}/decide/pose", json=body).json()["code"] == "not-computed"


def test_a_cancelled_job_can_be_wanted_again(client: TestClient, store: Store, stone: dict[str, int]) -> None:
    plan = stone["plan_id"]
    size(client, plan, height_mm=12)
    first = client.post(f"/api/plans/{plan}/compute/pose").json()["job_id"]
    assert client.post(f"/api/plans/{plan}/compute/pose").json()["job_id"] == first, "one job for one question"
    client.delete(f"/api/jobs/{first}")
    assert client.get(f"/api/jobs/{first}").json()["state"] == "cancelled"
    assert client.get(f"/api/plans/{plan}/compute/pose").json()["problem"]["code"] == "cancelled"
    second = client.post(f"/api/plans/{plan}/compute/pose").json()["job_id"]
    assert second != first
    work_off(store)
    assert client.get(f"/api/jobs/{second}").json()["state"] == "done"
    client.delete(f"/api/jobs/{second}")
    assert client.get(f"/api/jobs/{second}").json()["state"] == "done", "what is done stays done"


def test_the_running_figures_say_whether_the_figure_is_held(
    client: TestClient, store: Store, stone: dict[str, int]
) -> None:
    plan = stone["plan_id"]
    size(client, plan, height_mm=12)
    for name, unheld in (("pose", True), ("supports", False)):
        state = decide(client, store, plan, name)
        assert state["numbers"]["unheld"] == unheld
    assert state["before"]["unheld"] and state["numbers"]["risk"] == pytest.approx(state["before"]["risk"], abs=0.1), (
        "what was expected of it held is about what it is when it is held"
    )


def test_an_outcome_can_be_corrected_and_must_be_possible(client: TestClient, store: Store) -> None:
    plan = bring_in(client, store, stl_bytes(box((0, 0, 3), (6, 6, 6))))["plan_id"]
    size(client, plan, factor=1.0)
    for name in ("pose", "supports", "layers", "proof"):
        decide(client, store, plan, name)
    run = client.post(f"/api/plans/{plan}/runs", json={"started_at": datetime(2026, 11, 3, 21, 30).isoformat()}).json()
    (open_run,) = client.get(f"/api/plans/{plan}/runs").json()["runs"]
    assert open_run["result"] is None and open_run["started_at"].startswith("2026-11-03T21:30")
    for bad in ({"result": "perfect"}, {"result": "good", "removal": 9}, {"result": "good", "real_s": -1}):
        assert client.put(f"/api/runs/{run}/outcome", json=bad).status_code == 422
    for good in ({"result": "print lost", "failed_layer": 3}, {"result": "good", "real_s": 900, "note": "after all"}):
        assert client.put(f"/api/runs/{run}/outcome", json=good).status_code == 200
    (row,) = client.get("/api/runs").json()["runs"]
    assert row["result"] == "good" and row["note"] == "after all"


def test_exports_are_named_after_figure_and_plan(client: TestClient, store: Store) -> None:
    made = bring_in(client, store, stl_bytes(box((0, 0, 3), (6, 6, 6))), "Gate of REEDS, left.stl")
    plan = made["plan_id"]
    size(client, plan, factor=1.0)
    for name in ("pose", "supports", "layers", "proof"):
        decide(client, store, plan, name)
    for kind, mime in (("stl", "model/stl"), ("3mf", "model/3mf"), ("pdf", "application/pdf")):
        answer = client.get(f"/api/plans/{plan}/files/{kind}")
        assert answer.headers["content-type"] == mime
        assert answer.headers["content-disposition"] == f'attachment; filename="gate-of-reeds-left-plan-1.{kind}"'


def test_blobs_are_served_as_what_they_are_and_for_good(
    client: TestClient, store: Store, stone: dict[str, int]
) -> None:
    intake = client.get(f"/api/figures/{stone['figure_id']}/intake").json()["document"]
    picture = client.get(f"/api/blobs/{intake['picture_sha']}")
    assert picture.headers["content-type"] == "image/png" and picture.content.startswith(b"\x89PNG")
    assert "immutable" in picture.headers["cache-control"]
    mesh = client.get(f"/api/blobs/{intake['preview_sha']}")
    assert mesh.headers["content-type"] == "application/octet-stream" and mesh.content[:4] == b"TNG1"


def test_the_page_is_served_at_every_other_address(store: Store, tmp_path) -> None:  # type: ignore[no-untyped-def]
    (tmp_path / "assets").mkdir()
    (tmp_path / "index.html").write_text("<title>Tenugui</title>")
    (tmp_path / "assets" / "a.js").write_text("1")
    with TestClient(make_app(store, frozenset({HOST}), tmp_path)) as here:
        for path in ("/", "/plan/3/pose", "/nowhere"):
            answer = here.get(path)
            assert (
                answer.status_code == 200 and "Tenugui" in answer.text and answer.headers["cache-control"] == "no-cache"
            )
        assert here.get("/assets/a.js").text == "1" and here.get("/assets/b.js").status_code == 404
        assert "immutable" in here.get("/assets/a.js").headers["cache-control"]
        assert here.get("/api/health").json() == {"database": "here"}
        for name, value in (("x-content-type-options", "nosniff"), ("referrer-policy", "same-origin")):
            assert here.get("/").headers[name] == value


def test_cautions_are_there_for_both_processes(client: TestClient) -> None:
    for process in ("resin", "filament"):
        told = client.get(f"/api/cautions/{process}").json()
        assert told == cautions(process) and len(told) >= 5
    assert any("gloves" in text.lower() for text in client.get("/api/cautions/resin").json())
    assert any("safety data sheet" in text.lower() for text in client.get("/api/cautions/resin").json())


def test_the_same_file_twice_is_stored_once_and_is_two_figures(client: TestClient, store: Store) -> None:
    body = stl_bytes(fork())
    first, second = bring_in(client, store, body, "gate.stl"), bring_in(client, store, body, "gate again.stl")
    assert first["figure_id"] != second["figure_id"]
    with store.work() as sql:
        sql.execute("SELECT COUNT(DISTINCT source_sha) AS n FROM figures")
        assert sql.fetchone()["n"] == 1  # type: ignore[index]
    assert [f["name"] for f in client.get("/api/figures").json()] == ["Gate again", "Gate"]
    assert jobs.claim(store, "idle") is None, "what was examined once is not examined again"


def test_changes_by_hand_are_asked_of_supports_alone_and_within_bounds(
    client: TestClient, stone: dict[str, int]
) -> None:
    plan = stone["plan_id"]
    size(client, plan, height_mm=16)

    def ask(fold: str, own: dict[str, object]) -> int:
        wishes = json.dumps({"own": own})
        return client.post(f"/api/plans/{plan}/compute/{fold}", params={"wishes": wishes}).status_code

    edit = {"op": "add", "at": [0, 0, 1]}
    sound = {"risk": 0.05, "style": "trees", "edits": [edit]}
    assert ask("supports", sound) == 409, "the pose comes first"
    assert ask("supports", sound | {"edits": []}) == 409, "a risk of one's own needs no change by hand"
    assert ask("hollow", sound) == 422 and ask("pose", sound) == 422
    for bad in (
        sound | {"edits": [[0, 0, 1]] * (MOST_EDITS + 1)},
        sound | {"style": "wings"},
        sound | {"risk": 2},
        sound | {"edits": [{"op": "bend", "at": [0, 0, 1]}]},
        sound | {"edits": [{"op": "add", "at": [0, 0]}]},
    ):
        assert ask("supports", bad) == 422
    assert ask("supports", sound | {"edits": [[0, 0, 1], [1.5, 0, 2]]}) == 409, "tips taken away, by their places"
    assert (
        ask("supports", sound | {"edits": [[0, 0]]}) == 422 and ask("supports", sound | {"edits": [["a", 0, 1]]}) == 422
    )
    assert EditAsk.model_validate([1.0, 2.0, 3.0]) == EditAsk(op="remove", at=(1.0, 2.0, 3.0))
    most = json.dumps({"own": sound | {"edits": [[-100.125, -100.125, 100.125]] * MOST_EDITS}}, separators=(",", ":"))
    assert len(quote(most)) < 60_000, "an address that the server takes"
