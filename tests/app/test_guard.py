"""The door: who may ask, and who may change something."""

from __future__ import annotations

import pytest
from fastapi.testclient import TestClient

from tenugui.app import guard
from tenugui.app.main import make_app
from tenugui.store.db import Store
from tests.app.bench import HOST

OURS = {"Origin": f"http://{HOST}"}


@pytest.fixture
def door(store: Store) -> TestClient:
    """A client that says nothing of itself."""
    return TestClient(make_app(store, frozenset({HOST})))


@pytest.mark.parametrize("path", ["/api/health", "/", "/api/figures"])
def test_a_foreign_name_is_refused_everywhere(door: TestClient, path: str) -> None:
    answer = door.get(path, headers={"Host": "marsh.example"})
    assert answer.status_code == 403 and answer.json()["code"] == "other-origin"
    assert "marsh.example" in answer.json()["title"]


@pytest.mark.parametrize("site", ["cross-site", "same-site"])
def test_another_sites_page_reads_nothing(door: TestClient, site: str) -> None:
    assert door.get("/api/figures", headers={"Sec-Fetch-Site": site}).status_code == 403
    assert door.get("/api/figures", headers={"Sec-Fetch-Site": "same-origin"}).status_code == 200


@pytest.mark.parametrize(
    ("headers", "status"),
    [
        ({}, 403),
        ({"Content-Type": "text/plain"}, 403),
        ({"Content-Type": "multipart/form-data; boundary=x"}, 403),
        ({"Origin": "http://marsh.example"}, 403),
        ({"Origin": "null"}, 403),
        ({"Origin": "http://marsh.example", "Content-Type": "application/json"}, 403),
        (OURS | {"Sec-Fetch-Site": "cross-site"}, 403),
        (OURS, 404),
        ({"Content-Type": "application/json"}, 404),
    ],
)
def test_only_our_own_page_or_json_may_change_something(door: TestClient, headers: dict[str, str], status: int) -> None:
    answer = door.post("/api/figures/99/back", headers=headers)
    assert answer.status_code == status


def test_every_answer_carries_the_security_headers(door: TestClient) -> None:
    for answer in (door.get("/api/health"), door.get("/api/figures/99"), door.get("/", headers={"Host": "x"})):
        assert "frame-ancestors 'none'" in answer.headers["Content-Security-Policy"]
        assert answer.headers["X-Content-Type-Options"] == "nosniff"


def test_a_full_disk_is_said_everywhere_and_nothing_new_is_begun(
    door: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    """As with a disk that has less left than is wanted: pages read on, changes wait, and all goes on by itself."""
    made = {"Origin": f"http://{HOST}", "Content-Type": "application/octet-stream"}
    monkeypatch.setenv("TENUGUI_LEAST_MB", "1e12")
    full = door.get("/api/health")
    assert full.status_code == 507 and full.json()["code"] == "disk-full" and "MB left" in full.json()["title"]
    assert "by itself" in full.json()["detail"]
    assert door.get("/api/figures").status_code == 200
    refused = door.post("/api/figures?name=a.stl", content=b"solid", headers=made)
    assert door.delete("/api/jobs/77", headers=made).status_code == 404, "what is waiting may be cancelled"
    assert refused.status_code == 507 and refused.headers["X-Content-Type-Options"] == "nosniff"
    monkeypatch.delenv("TENUGUI_LEAST_MB")
    assert door.get("/api/health").json() == {"database": "here"}
    assert door.post("/api/figures?name=a.stl", content=b"solid", headers=made).status_code != 507


def test_json_of_any_length_is_not_read(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    """Announced or not: what is longer than it may be is refused, and the next request is answered."""
    monkeypatch.setattr(guard, "MOST_JSON", 1 << 20)
    json = {"content-type": "application/json"}
    long = b'{"name": "' + b"a" * (2 << 20) + b'"}'
    announced = client.post("/api/drills/set", content=long, headers=json)
    assert announced.status_code == 413 and announced.json()["code"] == "too-long"
    pieces = client.post(
        "/api/drills/set", content=(long[k : k + 65_536] for k in range(0, len(long), 65_536)), headers=json
    )
    assert pieces.status_code in (400, 413), pieces.text
    assert client.get("/api/health").json() == {"database": "here"}
    assert client.post("/api/drills/set", content=b"{}", headers=json).status_code == 422
