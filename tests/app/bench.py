"""What a page does, in a few words: bring in, look, start, decide. Jobs are computed as a worker would."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from fastapi.testclient import TestClient

from tenugui.store import jobs, runs
from tenugui.store.db import Store
from tenugui.work.worker import compute
from tests.shapes import ball, stl_bytes

HOST = "testserver"
ME = jobs.worker_name(1)


def work_off(store: Store) -> None:
    """Compute everything that waits."""
    while job := jobs.claim(store, ME):
        compute(store, job, ME)


def bring_in(client: TestClient, store: Store, body: bytes, name: str = "marsh-stone.stl") -> dict[str, int]:
    """A file on the bench, examined."""
    answer = client.post("/api/figures", params={"name": name}, content=body)
    assert answer.status_code == 200, answer.text
    work_off(store)
    return dict(answer.json())


def machine_ids(client: TestClient, printer: str = "heron", material: str = "lantern grey") -> dict[str, int]:
    """Ids of a printer and a material by name."""
    found = {m["name"]: m["id"] for m in client.get("/api/printers").json()}
    stuff = {m["name"]: m["id"] for m in client.get("/api/materials").json()}
    return {"printer_id": found[printer], "material_id": stuff[material]}


def traces(store: Store) -> int:
    """Rows of whatever an upload may leave."""
    with store.work() as sql:
        tables = ("blobs", "figures", "jobs", "kits")
        sql.execute("SELECT " + " + ".join(f"(SELECT COUNT(*) FROM {t})" for t in tables) + " AS n")
        return int((sql.fetchone() or {})["n"])


def head(client: TestClient, plan: int) -> int | None:
    """The head that a page would have seen."""
    found: int | None = client.get(f"/api/plans/{plan}").json()["head"]
    return found


def size(client: TestClient, plan: int, **body: Any) -> dict[str, Any]:
    """Settle the size; on heron in lantern grey unless told otherwise."""
    ids = {} if "printer_id" in body else machine_ids(client)
    answer = client.post(f"/api/plans/{plan}/size", json={"head": head(client, plan), **ids, **body})
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def board(client: TestClient, store: Store, plan: int, fold: str, wishes: str | None = None) -> dict[str, Any]:
    """A fold's computation, started and worked off: its key and document."""
    params = {} if wishes is None else {"wishes": wishes}
    address = f"/api/plans/{plan}/compute/{fold}"
    first = client.get(address, params=params).json()
    if first["document"] is None:
        started = client.post(address, params=params).json()
        work_off(store)
        assert client.get(f"/api/jobs/{started['job_id']}").json()["state"] == "done"
        first = client.get(address, params=params).json()
    return dict(first)


def fold(client: TestClient, store: Store, plan: int, name: str) -> dict[str, Any]:
    """A fold's document."""
    return dict(board(client, store, plan, name)["document"])


def decide(
    client: TestClient, store: Store, plan: int, name: str, option: int | None = None, **more: Any
) -> dict[str, Any]:
    """Take an alternative, the recommended one unless told otherwise."""
    held = board(client, store, plan, name)
    chosen = held["document"].get("recommended", 0) if option is None else option
    body = {"head": head(client, plan), "key": held["key"], "option": chosen, **more}
    answer = client.post(f"/api/plans/{plan}/decide/{name}", json=body)
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def proved(client: TestClient, store: Store) -> int:
    """The plan of a small ball, taken as recommended up to its proof."""
    number = bring_in(client, store, stl_bytes(ball(4)))["plan_id"]
    size(client, number, height_mm=8.0)
    for name in ("pose", "supports", "layers", "proof"):
        decide(client, store, number, name)
    return number


def undo(client: TestClient, plan: int) -> dict[str, Any]:
    """Take back."""
    return dict(client.post(f"/api/plans/{plan}/undo", json={"head": head(client, plan)}).json())


def redo(client: TestClient, plan: int) -> dict[str, Any]:
    """Bring back."""
    return dict(client.post(f"/api/plans/{plan}/redo", json={"head": head(client, plan)}).json())


def run_on(store: Store, plan: int, ids: dict[str, int], *, grams: float = 1.0, **more: Any) -> int:
    """A run of a plan as the log keeps it, begun now where nothing else is said."""
    usual: dict[str, Any] = {"planned": (60.0, grams, 0.1, 0.0), "started_at": datetime.now()}
    on: dict[str, Any] = dict(ids)
    return runs.start(store, plan, None, **on, **(usual | more))
