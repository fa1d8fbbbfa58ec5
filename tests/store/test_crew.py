"""Workers as processes: progress, cancel by ending one, and recovery when one is killed."""

from __future__ import annotations

import os
import resource
import signal
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from tenugui.core.contract import PoseBoard
from tenugui.core.plan.given import MeshGiven
from tenugui.store import blobs, figures, jobs, machines, plans, results
from tenugui.store.db import Store, StoreError, address_to_environment
from tenugui.store.server import Address
from tenugui.work import worker
from tenugui.work.crew import Crew
from tenugui.work.folds import Standing, want
from tests.shapes import knobbly, stl_bytes


@pytest.fixture
def crew(store: Store, database: Address) -> Iterator[Crew]:
    held = Crew(database, 1)
    held.start()
    yield held
    held.stop()


def until(what: Callable[[], bool], seconds: float = 90) -> None:
    end = time.monotonic() + seconds
    while not what():
        assert time.monotonic() < end, "it took too long"
        time.sleep(0.05)


def heavy(store: Store) -> tuple[int, str]:
    """A pose job on 82,000 triangles: a few seconds of work."""
    sha = blobs.put_bytes(store, stl_bytes(knobbly(14, 6)))
    plan = plans.create(store, figures.add(store, figures.NewFigure("Stone", "stone.stl", sha, 81_920)))
    printer = next(m for m in machines.every(store, "printers") if m["name"] == "heron")
    material = next(m for m in machines.every(store, "materials") if m["name"] == "lantern grey")
    size = {"sha": sha, "factor": 1.0, "height_mm": 28.0, "printer": "heron"}
    plans.decide(
        store,
        plan,
        "size",
        choice=size | {"printer_id": printer["id"], "material_id": material["id"]},
        evidence={},
        reason="as it is",
    )
    key, job = want(store, "pose", Standing.of(store, plan).given("pose"), "Finding poses")
    assert job is not None
    return job, key


def test_a_worker_reports_and_finishes(store: Store, crew: Crew) -> None:
    job, key = heavy(store)
    seen: set[str] = set()

    def ended() -> bool:
        row = jobs.one(store, job)
        seen.add(row["doing"])
        return bool(row["state"] == "done")

    until(ended)
    found = results.kept(store, key)
    assert found is not None
    board = PoseBoard.loaded(found)
    assert board.candidates and any("direction" in text for text in seen)


def test_cancel_ends_the_worker_and_the_crew_goes_on(store: Store, crew: Crew) -> None:
    job, key = heavy(store)
    until(lambda: jobs.one(store, job)["state"] == "running")
    jobs.cancel(store, job)
    until(lambda: jobs.one(store, job)["state"] == "cancelled", 5)
    assert results.kept(store, key) is None
    again, _ = heavy(store)
    until(lambda: jobs.one(store, again)["state"] == "done")


def test_a_killed_workers_job_is_taken_up_again(store: Store, crew: Crew) -> None:
    job, _ = heavy(store)
    until(lambda: jobs.one(store, job)["state"] == "running")
    os.kill(int(jobs.one(store, job)["worker"].split(":")[1]), signal.SIGKILL)
    until(lambda: jobs.one(store, job)["state"] == "done")
    assert (jobs.one(store, job)["attempts"], jobs.one(store, job)["starts"]) == (1, 2), "it is held against it"


def test_where_the_one_that_forks_is_killed_another_takes_its_place(store: Store, crew: Crew) -> None:
    job, _ = heavy(store)
    until(lambda: jobs.one(store, job)["state"] == "running")
    worker = int(jobs.one(store, job)["worker"].split(":")[1])
    forks = int(Path(f"/proc/{worker}/stat").read_text().rsplit(")", 1)[1].split()[1])
    assert forks != os.getpid()
    os.kill(forks, signal.SIGKILL)
    until(lambda: jobs.one(store, job)["state"] == "done")
    assert not Path(f"/proc/{worker}").exists(), "it died with the one that forked it"


def test_a_stop_in_the_midst_of_a_job_gives_it_back(store: Store, database: Address) -> None:
    job, _ = heavy(store)
    for stop in range(1, 4):
        held = Crew(database, 1)
        held.start()
        until(lambda: jobs.one(store, job)["state"] == "running")
        if stop == 2:
            os.kill(int(jobs.one(store, job)["worker"].split(":")[1]), signal.SIGTERM)
            until(lambda: jobs.one(store, job)["starts"] > 2)
        held.stop()
        row = jobs.one(store, job)
        assert row["state"] == "waiting" and row["attempts"] == 0, f"after stop {stop}"


def test_a_computation_that_takes_too_long_is_ended_and_says_so(store: Store, database: Address) -> None:
    hasty = Crew(database, 1, limit=0)
    hasty.start()
    try:
        job, _ = heavy(store)
        until(lambda: jobs.one(store, job)["state"] == "failed", 30)
        assert jobs.one(store, job)["problem"]["code"] == "too-long"
    finally:
        hasty.stop()


def test_a_fault_fails_the_job_in_words(store: Store, crew: Crew) -> None:
    sha = blobs.put_bytes(store, b"this was never a figure")
    _, job = want(store, "intake", MeshGiven(sha=sha))
    assert job is not None
    until(lambda: jobs.one(store, job)["state"] == "failed")
    problem = jobs.one(store, job)["problem"]
    assert problem["code"] == "not-stl" and problem["what"] and problem["remedy"]


def test_no_work_is_begun_on_a_full_disk_and_it_goes_on_when_there_is_room(
    store: Store, database: Address, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("TENUGUI_LEAST_MB", "1e12")
    held = Crew(database, 1)
    held.start()
    try:
        job, _ = heavy(store)
        time.sleep(4)
        assert jobs.one(store, job)["state"] == "waiting"
    finally:
        held.stop()
    monkeypatch.delenv("TENUGUI_LEAST_MB")
    again = Crew(database, 1)
    again.start()
    try:
        until(lambda: jobs.one(store, job)["state"] == "running")
    finally:
        again.stop()


def test_a_job_whose_worker_lost_the_database_is_not_beaten_for_forever(store: Store) -> None:
    """The worker lives and its crew beats for it: only the worker itself knows that it let go."""
    job, _ = heavy(store)
    me = jobs.worker_name(os.getpid())
    first = jobs.claim(store, me)
    assert first is not None and first["id"] == job and jobs.claim(store, me) is None
    jobs.give_back(store, "another:1:1")
    assert jobs.one(store, job)["state"] == "running"
    jobs.give_back(store, me)
    assert jobs.one(store, job)["state"] == "waiting"
    again = jobs.claim(store, me)
    assert again is not None and again["id"] == job and jobs.one(store, job)["attempts"] == 0, "it ended no worker"


def test_a_worker_that_lost_the_database_takes_up_what_it_held(
    store: Store, database: Address, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The database goes away while a job is being ended; back again, that job is computed and nothing hangs."""
    job, _ = heavy(store)
    for name, value in address_to_environment(database).items():
        monkeypatch.setenv(name, value)
    took = list[int]()

    class Enough(Exception):
        pass

    def failing(store_: Store, row: dict[str, object], name: str, shelf: object) -> None:
        took.append(int(str(row["id"])))
        if len(took) == 2:
            raise Enough
        raise StoreError("database-away", "The database does not answer.", "", 503)

    monkeypatch.setattr(worker, "compute", failing)
    monkeypatch.setattr(resource, "setrlimit", lambda *_: None)
    monkeypatch.setattr(os, "nice", lambda _: 0)
    monkeypatch.setattr(signal, "signal", lambda *_: None)
    with pytest.raises(Enough):
        worker.main()
    assert took == [job, job]
