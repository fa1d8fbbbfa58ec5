"""Which way the figure stands, over the API: guessed, set, pointed at, and heard by what follows."""

from __future__ import annotations

import pytest
from fastapi.testclient import TestClient

from tenugui.core.mesh import Mesh
from tenugui.store.db import Store
from tests.app.bench import bring_in, decide, fold, head, size
from tests.figures import hound, y_up
from tests.shapes import box, cylinder, stl_bytes


@pytest.fixture
def made(client: TestClient, store: Store) -> dict[str, int]:
    return bring_in(client, store, stl_bytes(y_up(hound())), "hound.stl")


def chosen(client: TestClient, plan: int, fold: int = 0) -> dict:  # type: ignore[type-arg]
    return client.get(f"/api/plans/{plan}").json()["folds"][fold]["choice"]


def test_the_guess_is_taken_where_nothing_else_is_said(client: TestClient, store: Store, made: dict[str, int]) -> None:
    intake = client.get(f"/api/figures/{made['figure_id']}/intake").json()["document"]
    assert intake["upright"]["ups"][0]["up"] == [0, 1, 0] == intake["health"]["up_guess"]
    assert intake["upright"]["ups"][0]["height"] == pytest.approx(y_up(hound()).size[1], rel=1e-6)
    size(client, made["plan_id"], height_mm=60.0)
    held = chosen(client, made["plan_id"])
    assert held["up"] == [0, 1, 0] and held["height_mm"] == pytest.approx(60)
    assert held["factor"] == pytest.approx(60 / y_up(hound()).size[1], rel=1e-6)
    poses = fold(client, store, made["plan_id"], "pose")
    best = poses["candidates"][poses["recommended"]]["pose"]
    assert best["down"][1] < -0.7, "it leans back from its feet in the file's frame"
    upright = next(c["pose"] for c in poses["candidates"] if c["pose"]["down"][1] < -0.99)
    assert upright["metrics"]["height_mm"] == pytest.approx(60, rel=0.05)


def test_another_up_is_another_height_and_stales_what_rests_on_it(
    client: TestClient, store: Store, made: dict[str, int]
) -> None:
    plan = made["plan_id"]
    size(client, plan, factor=1.0)
    before = client.get(f"/api/plans/{plan}").json()["folds"][2]["key"]
    size(client, plan, factor=1.0, up=[0, 0, 1])
    assert chosen(client, plan)["height_mm"] == pytest.approx(y_up(hound()).size[2], rel=1e-6)
    assert client.get(f"/api/plans/{plan}").json()["folds"][2]["key"] != before
    slant = chosen_slant(client, plan)
    assert slant == pytest.approx(
        float((y_up(hound()).vertices @ [0, 0.6, 0.8]).max() - (y_up(hound()).vertices @ [0, 0.6, 0.8]).min()), rel=1e-5
    )


def chosen_slant(client: TestClient, plan: int) -> float:
    size(client, plan, factor=1.0, up=[0, 3, 4])
    return float(chosen(client, plan)["height_mm"])


def test_a_face_that_is_pointed_at_becomes_the_foot(client: TestClient, store: Store) -> None:
    made = bring_in(client, store, stl_bytes(Mesh.joined([cylinder(8, 3), box((0, 0, 12), (6, 6, 20))])), "post.stl")
    told = client.post(f"/api/figures/{made['figure_id']}/stand", json={"down": [0.05, 0.02, -1]}).json()
    assert told["up"] == [0, 0, 1] and told["height"] == pytest.approx(22)
    side = client.post(f"/api/figures/{made['figure_id']}/stand", json={"down": [0, 0, 1]}).json()
    assert side["up"] == [0, 0, -1] and side["height"] == pytest.approx(22)
    assert abs(sum(a * b for a, b in zip(side["up"], side["front"], strict=True))) < 1e-6
    refused = client.post(f"/api/figures/{made['figure_id']}/stand", json={"down": [0, 0, 0]})
    assert refused.status_code == 422 and refused.json()["code"] == "bad-direction"


def test_bare_and_soft_are_different_inputs_and_bare_is_plain(
    client: TestClient, store: Store, made: dict[str, int]
) -> None:
    plan = made["plan_id"]
    size(client, plan, height_mm=40.0)
    soft = fold(client, store, plan, "pose")
    state = client.post(
        f"/api/plans/{plan}/marks", json={"head": head(client, plan), "strokes": [], "bare": True}
    ).json()
    assert state["folds"][1]["said"] == "bare" and "bare" in state["folds"][1]["reason"]
    bare = fold(client, store, plan, "pose")
    first = [row["pose"]["metrics"] for row in bare["candidates"]]
    assert all(m["blur_mm2"] == 0 and m["shown_mm2"] == 0 for m in first), "nothing is shown where nothing is said"
    assert all(m["scar_area_mm2"] == pytest.approx(m["support_area_mm2"], rel=1e-3, abs=0.5) for m in first)
    assert any(row["pose"]["metrics"]["blur_mm2"] > 0 for row in soft["candidates"])
    painted = [{"tool": "propose", "what": "seen", "kind": "show"}]
    client.post(f"/api/plans/{plan}/marks", json={"head": head(client, plan), "strokes": painted, "bare": False})
    hand = fold(client, store, plan, "pose")
    weight = max(r["pose"]["metrics"]["blur_mm2"] for r in hand["candidates"])
    assert weight > max(r["pose"]["metrics"]["blur_mm2"] for r in soft["candidates"]), "what is laid on counts fully"
    proposals = client.get(f"/api/figures/{made['figure_id']}/proposals").json()["document"]["proposals"]
    assert {p["name"] for p in proposals if p["soft"]} == {"seen", "unseen", "cuts", "faces"}


def test_the_running_figures_are_those_of_the_furthest_fold(
    client: TestClient, store: Store, made: dict[str, int]
) -> None:
    plan = made["plan_id"]
    size(client, plan, height_mm=30.0)
    for name in ("pose", "supports"):
        state = decide(client, store, plan, name)
    held = state["numbers"]
    assert not held["unheld"] and state["before"]["unheld"]
    again = decide(client, store, plan, "pose")
    told = {f["name"]: f["state"] for f in again["folds"]}
    assert told["pose"] == told["supports"] == "settled", "the same pose: what rests on it stands"
    assert again["numbers"] == held and again["before"] is None
