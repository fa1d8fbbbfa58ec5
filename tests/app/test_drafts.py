"""What is known so far of a board that is on its way: rows that are true, and gone when all are there."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from tenugui.core.contract import Document
from tenugui.core.plan import DRAFT, MemoryShelf, Shelf, computed, draft_key, key_of, tasks
from tenugui.core.plan.given import MeshGiven
from tenugui.store import results
from tenugui.store.db import Store
from tests.app.bench import bring_in, decide, fold, size, work_off
from tests.shapes import ball, stl_bytes


class Little(Document):
    """A document of one number."""

    rows: int


def test_a_draft_is_seen_while_a_board_is_made_and_is_gone_with_it(client: TestClient, store: Store) -> None:
    plan = bring_in(client, store, stl_bytes(ball(4.15)))["plan_id"]
    size(client, plan, height_mm=8.0)
    decide(client, store, plan, "pose")
    address = f"/api/plans/{plan}/compute/supports"
    begun = client.post(address).json()
    assert begun["draft"] is None and begun["document"] is None and begun["job_id"]
    results.keep(store, draft_key(begun["key"]), DRAFT, b'{"choices":[]}')
    seen = client.get(address).json()
    assert seen["draft"] == {"choices": []} and seen["document"] is None
    work_off(store)
    done = client.get(address).json()
    assert done["draft"] is None and len(done["document"]["choices"]) >= 3
    assert not results.has(store, draft_key(begun["key"]))


def test_a_draft_goes_with_its_own_task_also_where_another_asked_for_that(monkeypatch: pytest.MonkeyPatch) -> None:
    given, seen = MeshGiven(sha="a"), []

    def inner(shelf: Shelf, given: MeshGiven, progress: Any) -> Little:
        tasks.draft(shelf, "inner", given, Little(rows=1))
        seen.append(shelf.kept(draft_key(key_of("inner", given))) is not None)
        return Little(rows=1)

    def outer(shelf: Shelf, given: MeshGiven, progress: Any) -> Little:
        return computed(shelf, "inner", given, Little)

    for name, run in (("inner", inner), ("outer", outer)):
        monkeypatch.setitem(tasks._TASKS, name, tasks.Task(name, "code", MeshGiven, Little, run))
    shelf = MemoryShelf()
    computed(shelf, "outer", given, Little)
    assert seen == [True] and shelf.kept(draft_key(key_of("inner", given))) is None
    assert shelf.kept(key_of("inner", given)) is not None


def test_rows_of_a_draft_are_rows_of_the_board(
    client: TestClient, store: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    seen: list[dict[str, Any]] = []
    monkeypatch.setattr(
        "tenugui.core.plan.supports.draft", lambda shelf, name, given, board: seen.append(board.model_dump())
    )
    plan = bring_in(client, store, stl_bytes(ball(3.5)))["plan_id"]
    size(client, plan, height_mm=8.0)
    decide(client, store, plan, "pose")
    whole = fold(client, store, plan, "supports")
    assert [len(board["choices"]) for board in seen] == [2]
    for early, late in zip(seen[0]["choices"], whole["choices"], strict=False):
        assert early["tip_count"] == late["tip_count"] and early["risk"] == late["risk"]
        assert early["worth"] == pytest.approx(late["worth"])
