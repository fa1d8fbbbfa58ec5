"""A better version of a file takes over what was decided, in every fold, and says what it could not."""

from __future__ import annotations

import numpy as np
from fastapi.testclient import TestClient

from tenugui.core.mesh import Mesh
from tenugui.store.db import Store
from tests.app.bench import bring_in, decide, head, size, work_off
from tests.shapes import box, knobbly, stl_bytes

OLD = knobbly(8.3, 4)
PLACE = OLD.vertices[OLD.vertices[:, 0].argmax()].tolist()
NEW = Mesh.joined([Mesh(OLD.vertices + np.array([5.0, 0, 0]), OLD.faces), box((5, 0, 9), (2, 2, 5))])


def planned(client: TestClient, store: Store) -> int:
    plan = int(bring_in(client, store, stl_bytes(OLD), name="stone.stl")["plan_id"])
    size(client, plan, height_mm=14.0)
    strokes = [
        {"tool": "brush", "kind": "show", "points": [PLACE], "radius": 1.5},
        {"tool": "brush", "kind": "hidden", "points": [[90, 0, 0]], "radius": 1.0},
    ]
    marked = client.post(f"/api/plans/{plan}/marks", json={"head": head(client, plan), "strokes": strokes})
    assert marked.status_code == 200, marked.text
    decide(client, store, plan, "pose", 1)
    decide(client, store, plan, "supports", 1)
    decide(client, store, plan, "layers")
    decide(client, store, plan, "proof")
    return plan


def test_every_fold_is_taken_over(client: TestClient, store: Store) -> None:
    old = planned(client, store)
    new = int(bring_in(client, store, stl_bytes(NEW), name="stone two.stl")["plan_id"])
    (offered,) = client.get(f"/api/plans/{new}/earlier").json()
    assert offered["plan_id"] == old and offered["settled"][-1] == "Proof"
    job = client.post(f"/api/plans/{new}/earlier", json={"plan": old}).json()
    assert isinstance(job, int)
    work_off(store)
    one, other = (client.get(f"/api/plans/{n}").json() for n in (old, new))
    a, b = ({f["name"]: f for f in state["folds"]} for state in (one, other))
    assert {n: f["state"] for n, f in b.items()} == {n: f["state"] for n, f in a.items()}
    assert b["size"]["choice"]["factor"] == a["size"]["choice"]["factor"], "as large as it was, whatever was added"
    assert b["pose"]["choice"]["down"] == a["pose"]["choice"]["down"]
    assert (b["supports"]["choice"]["risk"], b["supports"]["choice"]["style"]) == (
        a["supports"]["choice"]["risk"],
        a["supports"]["choice"]["style"],
    )
    assert b["layers"]["choice"]["layer_height_mm"] == a["layers"]["choice"]["layer_height_mm"]
    (stroke,) = b["marks"]["choice"]["strokes"]
    assert np.allclose(stroke["points"][0], np.array(PLACE) + [5, 0, 0], atol=0.2), "the file was moved by 5 mm"
    line = client.get(f"/api/plans/{new}/line").json()["decisions"]
    by_fold = {row["fold"]: row["reason"] for row in line}
    assert all(reason.startswith("From Stone, plan 1: ") for reason in by_fold.values()), by_fold
    assert "1 stroke lies on the surface no more, and went" in by_fold["marks"]
    assert client.get("/api/compare", params={"a": old, "b": new}).status_code == 200
    assert client.get(f"/api/plans/{new}/earlier").json() == [], "something is decided now"
    again = client.post(f"/api/plans/{new}/earlier", json={"plan": old})
    assert again.status_code == 200, "a job that is asked for twice goes on where it stopped"
    work_off(store)
    assert len(client.get(f"/api/plans/{new}/line").json()["decisions"]) == len(line)


def test_what_cannot_take_over_is_said(client: TestClient, store: Store) -> None:
    old = planned(client, store)
    other = int(bring_in(client, store, stl_bytes(box((0, 0, 0), (3, 9, 31))), name="rod.stl")["plan_id"])
    door = f"/api/plans/{other}/earlier"
    assert client.post(f"/api/plans/{old}/earlier", json={"plan": old}).json()["code"] == "same-figure"
    assert client.post(f"/api/plans/{old}/earlier", json={"plan": other}).json()["code"] == "begun"
    assert client.post(door, json={"plan": 99999}).json()["code"] == "no-plan"
    job = client.post(door, json={"plan": old}).json()
    work_off(store)
    state = client.get(f"/api/jobs/{job}").json()
    assert state["state"] == "failed" and state["problem"]["code"] == "not-alike"
    assert client.get(f"/api/plans/{other}").json()["head"] is None, "nothing half done"
    third = int(bring_in(client, store, stl_bytes(box((0, 0, 0), (4, 9, 31))), name="rod two.stl")["plan_id"])
    assert client.post(f"/api/plans/{third}/earlier", json={"plan": other}).json()["code"] == "fold-open"
