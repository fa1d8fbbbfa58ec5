"""How much may come in: settings that hold, thinner copies that say how far they moved, folders as kits."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import pytest
from fastapi.testclient import TestClient

from tenugui.core.contract import unpack_mesh
from tenugui.core.formats import Limits
from tenugui.store import settings
from tenugui.store.db import Store
from tests.app.bench import bring_in, size
from tests.shapes import ball, box, stl_bytes

SMALL = {"file_bytes": 2**21, "triangles": 1_000, "thinned_from": 40_000, "unpacked_bytes": 2**22, "entries": 5}


@pytest.fixture
def limited(client: TestClient, store: Store, monkeypatch: pytest.MonkeyPatch) -> Iterator[TestClient]:
    """An application that takes next to nothing, put back afterwards."""
    monkeypatch.setattr("tenugui.app.bring_in.THIN_TO", 800)
    assert client.put("/api/settings/intake", json=SMALL).status_code == 200
    yield client
    with store.work() as sql:
        sql.execute("DELETE FROM settings")


def send(client: TestClient, body: bytes, **params: object):  # type: ignore[no-untyped-def]
    return client.post("/api/figures", params={"name": "heap.stl", **params}, content=body)  # type: ignore[arg-type]


def test_limits_are_the_codes_own_until_set_and_hold_then(
    client: TestClient, limited: TestClient, store: Store
) -> None:
    assert limited.get("/api/settings/intake").json() == SMALL
    assert settings.every(store) == SMALL
    with store.work() as sql:
        sql.execute("DELETE FROM settings")
    assert client.get("/api/settings/intake").json()["triangles"] == Limits().triangles == 5_000_000


@pytest.mark.parametrize(
    "name, value", [("triangles", 0), ("file_bytes", -1), ("entries", 0), ("thinned_from", 10**12)]
)
def test_senseless_limits_are_refused_and_nothing_changes(
    client: TestClient, store: Store, name: str, value: int
) -> None:
    answer = client.put("/api/settings/intake", json=SMALL | {name: value})
    assert answer.status_code == 422 and name in answer.json()["title"]
    assert settings.every(store) == {}


def test_too_large_a_file_is_refused_at_its_head(limited: TestClient) -> None:
    body = stl_bytes(ball(10, (0, 0, 10)))
    answer = limited.post("/api/figures/judge", params={"size": 2**22}, content=body[:1000])
    assert answer.status_code == 422 and answer.json()["code"] in (
        "too-large",
        "bad-count",
        "truncated",
        "too-many-triangles",
    )


def test_too_many_triangles_are_offered_a_thinner_copy(limited: TestClient, store: Store) -> None:
    figure = ball(10, (0, 0, 10), 4)
    assert 1_000 < len(figure.faces) < 40_000
    answer = send(limited, stl_bytes(figure))
    assert answer.status_code == 422 and answer.json()["code"] == "too-many-triangles"
    assert "thinner copy" in answer.json()["detail"]
    made = send(limited, stl_bytes(figure), thin=True)
    assert made.status_code == 200
    plan = limited.get(f"/api/plans/{made.json()['plan_id']}").json()
    told = plan["thinned"]
    assert plan["triangles"] <= 1_000 and told["before"] == len(figure.faces)
    # A sphere of 800 faces: the sagitta of its triangles is some hundredths of its radius.
    assert 0.01 < told["deviation"] < 0.5 and 0 < told["usual"] <= told["deviation"]


def test_a_small_file_that_may_be_thinned_is_not(limited: TestClient) -> None:
    made = send(limited, stl_bytes(box((0, 0, 5), (10, 10, 10))), thin=True).json()
    plan = limited.get(f"/api/plans/{made['plan_id']}").json()
    assert plan["thinned"] is None and plan["triangles"] == 12


def test_past_the_second_limit_nothing_helps(limited: TestClient) -> None:
    limited.put("/api/settings/intake", json=SMALL | {"thinned_from": 2_000})
    answer = send(limited, stl_bytes(ball(10, (0, 0, 10), 4)), thin=True)
    assert answer.status_code == 422 and answer.json()["code"] == "far-too-many-triangles"


def test_raised_limits_let_in_what_was_refused(limited: TestClient, store: Store) -> None:
    figure = ball(10, (0, 0, 10), 4)
    limited.put("/api/settings/intake", json=SMALL | {"triangles": 20_000})
    made = bring_in(limited, store, stl_bytes(figure))
    assert made["triangles"] == len(figure.faces)


def test_a_folder_of_files_becomes_a_kit_with_one_size(client: TestClient, store: Store) -> None:
    parts = [bring_in(client, store, stl_bytes(box((0, 0, t), (10, 10, 2 * t))), f"part-{t}.stl") for t in (3, 4)]
    kit = client.post("/api/kits", json={"name": "Stilt giant", "figures": [p["figure_id"] for p in parts]}).json()
    held = client.get(f"/api/kits/{kit}").json()
    assert held["name"] == "Stilt giant" and not held["placed"] and len(held["parts"]) == 2
    size(client, parts[0]["plan_id"], factor=2.5)
    other = client.get(f"/api/plans/{parts[1]['plan_id']}").json()
    assert other["folds"][0]["choice"]["factor"] == 2.5, "the parts of a kit share one factor"


def test_a_kit_takes_no_part_twice_and_none_that_is_not_there(client: TestClient, store: Store) -> None:
    one, two, three = (
        bring_in(client, store, stl_bytes(box((0, 0, 5), (10, 10, 10 + i))), f"p{i}.stl")["figure_id"] for i in range(3)
    )
    assert client.post("/api/kits", json={"name": "First", "figures": [one, two]}).status_code == 200
    again = client.post("/api/kits", json={"name": "Second", "figures": [two, three]})
    assert again.status_code == 409 and again.json()["code"] == "in-a-kit"
    assert client.post("/api/kits", json={"name": "Third", "figures": [three, 10**6]}).status_code == 404
    assert client.post("/api/kits", json={"name": "Alone", "figures": [three]}).status_code == 422
    # A refused kit leaves nothing behind: the third figure is free for another.
    assert (
        client.post(
            "/api/kits",
            json={
                "name": "Fourth",
                "figures": [three, bring_in(client, store, stl_bytes(ball(5, (0, 0, 5))))["figure_id"]],
            },
        ).status_code
        == 200
    )


def test_the_first_sight_of_a_thinner_copy_is_the_copys(limited: TestClient, store: Store) -> None:
    figure = ball(10, (0, 0, 10), 4)
    made = send(limited, stl_bytes(figure), thin=True).json()
    sha = limited.get(f"/api/plans/{made['plan_id']}").json()["preview_sha"]
    sight = unpack_mesh(limited.get(f"/api/blobs/{sha}").content)
    assert len(sight.faces) <= 1_000
    assert np.allclose(sight.size, figure.size, atol=0.6)
