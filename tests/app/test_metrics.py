"""What is watched from outside: doors by their pattern, states of jobs, bytes of content; nobody's names."""

from __future__ import annotations

from fastapi.testclient import TestClient
from prometheus_client.parser import text_string_to_metric_families

from tenugui.store import blobs, jobs
from tenugui.store.db import Store


def meters(client: TestClient) -> dict[tuple[str, tuple[tuple[str, str], ...]], float]:
    answer = client.get("/metrics")
    assert answer.status_code == 200 and answer.headers["content-type"].startswith("text/plain")
    return {
        (sample.name, tuple(sorted(sample.labels.items()))): sample.value
        for family in text_string_to_metric_families(answer.text)
        for sample in family.samples
    }


def test_doors_are_counted_by_their_pattern_and_not_by_what_was_asked(client: TestClient) -> None:
    key = ("tenugui_requests_total", (("door", "/api/plans/{number}"), ("method", "GET"), ("status", "404")))
    seconds = ("tenugui_request_seconds_count", (("door", "/api/plans/{number}"), ("method", "GET")))
    before = meters(client)
    for number in (4711, 4712):
        assert client.get(f"/api/plans/{number}").status_code == 404
    after = meters(client)
    assert after[key] == before.get(key, 0.0) + 2
    assert not [k for k in after if "4711" in str(k)], "no number of anybody's plan"
    assert after[seconds] == before.get(seconds, 0.0) + 2


def test_jobs_and_content_are_what_the_database_says(client: TestClient, store: Store) -> None:
    jobs.want(store, "intake", {"sha": "0" * 64}, key="k", title="A secret figure")
    size = len(b"reed" * 1000)
    blobs.put_bytes(store, b"reed" * 1000)
    told = meters(client)
    assert told["tenugui_jobs", (("state", "waiting"),)] == 1 and told["tenugui_content_bytes", ()] >= size
    assert "secret" not in client.get("/metrics").text


def test_backups_are_set_and_told(client: TestClient) -> None:
    held = client.get("/api/settings/backups").json()
    assert (held["kept"], held["hour"], held["here"], held["taken"]) == (3, 3, False, [])
    now = client.put("/api/settings/backups", json={"kept": 9, "hour": 23}).json()
    assert (now["kept"], now["hour"]) == (9, 23)
    for bad in ({"kept": -1, "hour": 3}, {"kept": 61, "hour": 3}, {"kept": 3, "hour": 24}):
        assert client.put("/api/settings/backups", json=bad).status_code == 422
