"""Marks and poses over the API: strokes that are kept, proposals, rates, a hand that turns the figure, and kits."""

from __future__ import annotations

import io

import numpy as np
import pytest
import trimesh
from fastapi.testclient import TestClient

from tenugui.core.contract import unpack_labels, unpack_mesh
from tenugui.core.formats import read, write_3mf
from tenugui.core.mesh import Mesh
from tenugui.core.worth import PRESETS
from tenugui.store.db import Store
from tests.app.bench import board, bring_in, decide, fold, head, size, undo, work_off
from tests.shapes import ball, box, knobbly, mesh_of, stl_bytes


def sized(client: TestClient, store: Store, body: bytes, name: str = "stone.stl") -> dict[str, int]:
    made = bring_in(client, store, body, name)
    size(client, made["plan_id"], factor=1.0)
    return made


def slab() -> Mesh:
    """A plate of 30 x 24 x 3 mm, cut small, so that strokes have faces to land on."""
    return mesh_of(trimesh.creation.box((30, 24, 3)).subdivide_to_size(1.0))


def test_marks_turn_the_pose_and_a_change_makes_it_stale(client: TestClient, store: Store) -> None:
    plan = sized(client, store, stl_bytes(slab()))["plan_id"]
    top = {"tool": "flat", "kind": "keep_out", "points": [[0, 0, 1.5]]}
    state = client.post(f"/api/plans/{plan}/marks", json={"head": head(client, plan), "strokes": [top]}).json()
    assert (
        state["folds"][1]["state"] == "settled"
        and state["folds"][1]["choice"]["kinds"] == ["keep_out"]
        and state["next_fold"] == "pose"
    )
    poses = fold(client, store, plan, "pose")
    best = poses["candidates"][poses["recommended"]]["pose"]
    assert best["down"][2] < 0.5, "the kept-out side does not look at the plate"
    decide(client, store, plan, "pose")
    state = client.post(f"/api/plans/{plan}/marks", json={"head": head(client, plan), "strokes": []}).json()
    assert [f["state"] for f in state["folds"]][:3] == ["settled", "settled", "stale"]
    state = undo(client, plan)
    assert [f["state"] for f in state["folds"]][:3] == ["settled", "settled", "settled"]


def test_bad_strokes_are_refused_and_nothing_is_kept(client: TestClient, store: Store) -> None:
    plan = sized(client, store, stl_bytes(slab()))["plan_id"]
    refused = client.post(f"/api/plans/{plan}/marks", json={"head": head(client, plan), "strokes": [{"tool": "axe"}]})
    assert (
        refused.status_code == 422
        and refused.json()["code"] == "bad-request"
        and "strokes.0" in refused.json()["title"]
    )
    assert client.get(f"/api/plans/{plan}").json()["folds"][1]["choice"] is None
    assert (
        client.post(f"/api/plans/{plan}/decide/marks", json={"head": None, "key": "0" * 64, "option": 0}).json()["code"]
        == "no-fold"
    )


def test_proposals_are_of_the_preview_that_the_page_shows(client: TestClient, store: Store) -> None:
    made = sized(client, store, stl_bytes(knobbly(fineness=4)))
    first = client.post(f"/api/figures/{made['figure_id']}/proposals").json()
    work_off(store)
    found = client.get(f"/api/figures/{made['figure_id']}/proposals").json()["document"]
    assert not first["job_id"], "they follow the examination by themselves"
    assert {p["name"] for p in found["proposals"]} == {"seen", "unseen", "cuts", "fits", "faces"}
    labels = unpack_labels(client.get(f"/api/blobs/{found['labels_sha']}").content)
    preview = unpack_mesh(client.get(f"/api/blobs/{found['preview_sha']}").content)
    assert len(labels) == len(preview.faces)
    intake = client.get(f"/api/figures/{made['figure_id']}/intake").json()["document"]
    assert found["preview_sha"] == intake["preview_sha"]
    share = {p["name"]: p["share"] for p in found["proposals"]}
    assert 0.05 < share["seen"] < 0.9 and 0 < share["unseen"] < 0.5


def test_rates_rank_at_once_and_the_board_follows(client: TestClient, store: Store) -> None:
    plan = sized(client, store, stl_bytes(Mesh.joined([box((0, 0, 1), (20, 12, 2)), box((0, 0, 12), (4, 4, 20))])))[
        "plan_id"
    ]
    refused = client.post(f"/api/plans/{plan}/pose/rank", json={})
    assert refused.status_code == 409 and refused.json()["code"] == "not-computed"
    poses = fold(client, store, plan, "pose")
    assert (
        len(poses["map"]["down"])
        == poses["evaluated"]
        == len(poses["map"]["aims"]["height_mm"])
        == len(poses["map"]["merit"])
    )
    wish = {"rates": {"minute": 0.0, "hour": 40.0}}
    ranked = client.post(f"/api/plans/{plan}/pose/rank", json={"wish": wish}).json()
    low = ranked["candidates"][ranked["recommended"]]
    assert low["worth"]["machine_h"] == pytest.approx(
        min(c["worth"]["machine_h"] for c in ranked["candidates"]), rel=0.1
    )
    assert len(ranked["merit"]) == poses["evaluated"] and ranked["wish"]["rates"]["hour"] == 40.0
    unmet = client.post(f"/api/plans/{plan}/pose/rank", json={"wish": {"hours": 0.01}}).json()
    assert unmet["unmet"] == ["hours"] and unmet["candidates"]
    import orjson

    asked = {"fold": "pose", "wish": wish, "pinned": [[0, 0.6, -0.8]]}
    query = {"wishes": orjson.dumps(asked).decode()}
    poses = board(client, store, plan, "pose", query["wishes"])["document"]
    rows = [row["pose"] for row in poses["candidates"]]
    assert rows[-1]["down"] == pytest.approx([0, 0.6, -0.8]) and len(rows) == 5
    assert rows[poses["recommended"]]["metrics"]["height_mm"] == pytest.approx(low["aims"]["height_mm"], abs=0.1)
    key = board(client, store, plan, "pose", query["wishes"])["key"]
    body = {"head": head(client, plan), "key": key, "option": 4, "wishes": asked}
    state = client.post(f"/api/plans/{plan}/decide/pose", json=body).json()
    held = state["folds"][2]["choice"]
    assert held["down"] == pytest.approx([0, 0.6, -0.8]) and held["wishes"]["wish"]["rates"] == wish["rates"]
    dear = fold(client, store, plan, "supports")["choices"]
    assert dear[0]["worth"]["machine"] == pytest.approx(40 * dear[0]["gift"]["machine_h"]), "the plan's rates go on"
    for bad in ({"rates": "royal"}, {"rates": {"minute": -2}}):
        refused = client.post(f"/api/plans/{plan}/pose/rank", json={"wish": bad})
        assert refused.status_code == 422 and refused.json()["code"] == "bad-rates"


def test_a_hand_that_turns_the_figure_is_told_what_it_costs(client: TestClient, store: Store) -> None:
    plan = sized(client, store, stl_bytes(slab()))["plan_id"]
    poses = fold(client, store, plan, "pose")
    flat = client.post(f"/api/plans/{plan}/pose/weigh", json={"down": [0, 0, -5]}).json()
    assert flat["aims"]["height_mm"] == pytest.approx(3, abs=0.01) and flat["down"] == [0, 0, -1]
    assert flat["worth"]["total"] > 0 and all("worse" in text or "better" in text for text in flat["why"])
    turned = np.array(flat["matrix"]).reshape(4, 4).T
    assert turned[:3, :3] @ [0, 0, -1] == pytest.approx([0, 0, -1], abs=1e-9)
    best = poses["candidates"][poses["recommended"]]["pose"]["down"]
    same = client.post(f"/api/plans/{plan}/pose/weigh", json={"down": best}).json()
    assert len(same["why"]) <= 3, "the recommended way has little against it"
    for down in ([0, 0, 0], [1, 2]):
        assert client.post(f"/api/plans/{plan}/pose/weigh", json={"down": down}).status_code == 422
    refused = client.get(f"/api/plans/{plan}/compute/pose", params={"wishes": "{broken"})
    assert refused.status_code == 422 and refused.json()["code"] == "bad-request"


def test_marks_come_with_a_3mf_and_leave_with_it(client: TestClient, store: Store) -> None:
    stone = ball(9, fineness=4)
    labels = np.where(stone.corners().mean(axis=1)[:, 2] > 4, 1, 0).astype(np.uint8)
    held = io.BytesIO()
    write_3mf({"figure": stone}, held, {"figure": labels})
    made = bring_in(client, store, held.getvalue(), "marked.3mf")
    plan = made["plan_id"]
    state = client.get(f"/api/plans/{plan}").json()
    assert state["folds"][1]["reason"] == "As the file marks it" and state["next_fold"] == "size"
    sha = state["folds"][1]["choice"]["strokes"][0]["what"]
    client.post(f"/api/figures/{made['figure_id']}/proposals", params={"marks": sha})
    work_off(store)
    found = client.get(f"/api/figures/{made['figure_id']}/proposals", params={"marks": sha}).json()["document"]
    shown = unpack_labels(client.get(f"/api/blobs/{found['file_sha']}").content)
    preview = unpack_mesh(client.get(f"/api/blobs/{found['preview_sha']}").content)
    assert ((preview.corners().mean(axis=1)[:, 2] > 4) == (shown == 1)).mean() > 0.98
    size(client, plan, factor=1.0)
    for name in ("pose", "supports", "layers", "proof"):
        decide(client, store, plan, name)
    back = read(io.BytesIO(client.get(f"/api/plans/{plan}/files/3mf").content))
    assert (back.marks["figure"] == labels).all()


def test_proposals_and_wishes_are_copied_between_the_parts_of_a_kit(client: TestClient, store: Store) -> None:
    held = io.BytesIO()
    write_3mf({"trunk": knobbly(9, 3), "stilts": knobbly(7, 3)}, held)
    made = bring_in(client, store, held.getvalue(), "giant.3mf")
    parts = client.get(f"/api/kits/{made['kit_id']}").json()["parts"]
    here, there = parts[0]["plan_id"], parts[1]["plan_id"]
    size(client, here, factor=1.0)
    assert client.post(f"/api/plans/{here}/marks/share").json()["code"] == "no-marks"
    by_hand = {"tool": "brush", "kind": "hold", "points": [[0, 0, 0]], "radius": 1.0}
    strokes = [{"tool": "propose", "what": "seen", "kind": "show"}, by_hand]
    client.post(
        f"/api/plans/{here}/marks",
        json={"head": head(client, here), "strokes": strokes, "wish": {"rates": "order"}},
    )
    assert client.post(f"/api/plans/{here}/marks/share").json() == 1
    other = client.get(f"/api/plans/{there}").json()["folds"][1]
    assert [(s["tool"], s["what"], s["kind"]) for s in other["choice"]["strokes"]] == [
        ("propose", "seen", "show")
    ] and other["choice"]["wish"]["rates"] == "order"
    assert client.post(f"/api/plans/{here}/marks/share").json() == 0, "what is there already is not decided again"
    bare = {"strokes": [], "bare": True, "wish": {"hours": 12.0}, "head": head(client, there)}
    assert client.post(f"/api/plans/{there}/marks", json=bare).status_code == 200
    assert client.post(f"/api/plans/{here}/marks/share").json() == 1
    kept = next(f for f in client.get(f"/api/plans/{there}").json()["folds"] if f["name"] == "marks")["choice"]
    assert kept["bare"] is True and kept["strokes"], "it stays bare of what it says itself"
    assert kept["wish"]["rates"] == "order"
    assert fold(client, store, there, "pose")["map"]["wish"]["rates"] == PRESETS["order"].as_dict()
    alone = sized(client, store, stl_bytes(slab()))["plan_id"]
    assert client.post(f"/api/plans/{alone}/marks/share").json()["code"] == "no-kit"
