"""An idle worker gives back what it holds, or ends so that a small one takes its place."""

from __future__ import annotations

import os
import resource
import signal

import numpy as np
import pytest

from tenugui.core.plan import Memory
from tenugui.store import jobs
from tenugui.store.db import Store, address_to_environment
from tenugui.store.server import Address
from tenugui.work import rest, worker
from tests.store.test_crew import heavy

MB = 1_000_000


def test_what_is_beyond_goes_and_what_is_below_stays() -> None:
    memory = Memory()
    before = rest.resident_bytes()
    memory.recall("large", lambda: np.ones(25 * MB))  # 200 MB, every page of it written
    assert 190 * MB < rest.resident_bytes() - before < 260 * MB
    assert rest.rested(memory, before + 400 * MB)
    assert memory.recall("large", lambda: np.zeros(1)).size == 25 * MB, "the next fold finds its figure at hand"
    assert rest.rested(memory, before + 100 * MB)
    assert rest.resident_bytes() - before < 100 * MB
    assert memory.recall("large", lambda: np.zeros(1)).size == 1
    assert not rest.rested(memory, 1 * MB), "an interpreter alone is larger"


def test_a_worker_that_stays_large_ends_once_it_has_been_idle_and_not_before_it_worked(
    store: Store, database: Address, monkeypatch: pytest.MonkeyPatch
) -> None:
    for name, value in address_to_environment(database).items():
        monkeypatch.setenv(name, value)
    job, _ = heavy(store)
    done = list[int]()

    def computing(store_: Store, row: dict[str, object], name: str, shelf: object) -> None:
        done.append(int(str(row["id"])))
        jobs.end(store_, done[-1], name, "done", None)

    def large(memory: Memory) -> bool:
        assert done == [job], "what did nothing yet is not weighed"
        return False

    monkeypatch.setattr(worker, "compute", computing)
    monkeypatch.setattr(worker, "rested", large)
    monkeypatch.setattr(worker, "REST_SECONDS", 0.0)
    monkeypatch.setattr(resource, "setrlimit", lambda *_: None)
    monkeypatch.setattr(os, "nice", lambda _: 0)
    monkeypatch.setattr(signal, "signal", lambda *_: None)
    worker.main()
    assert jobs.one(store, job)["state"] == "done"
