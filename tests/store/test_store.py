"""What is kept, on a real database: blobs, chains of decisions, the job table, and recovery."""

from __future__ import annotations

import io
import os
import signal
import threading
import time
from pathlib import Path

import pytest

from tenugui.store import blobs, figures, jobs, machines, plans, runs
from tenugui.store.db import Store, StoreError, migrate
from tenugui.store.server import DatabaseServer


def new_plan(store: Store) -> int:
    sha = blobs.put_bytes(store, b"a figure")
    return plans.create(store, figures.add(store, figures.NewFigure("Toad", "toad.stl", sha, 12)))


def test_blobs_are_stored_once_and_checked(store: Store) -> None:
    body = os.urandom(blobs.CHUNK * 2 + 17)
    sha = blobs.put(store, io.BytesIO(body))
    assert blobs.put(store, io.BytesIO(body)) == sha and blobs.get(store, sha) == body
    with store.work() as sql:
        sql.execute("SELECT COUNT(*) AS n FROM blob_chunks")
        assert sql.fetchone()["n"] == 3  # type: ignore[index]
        sql.execute("UPDATE blob_chunks SET data = 'other' WHERE n = 2")
    with pytest.raises(StoreError, match="damaged"):
        blobs.get(store, sha)
    with pytest.raises(StoreError, match="no stored file"):
        blobs.get(store, "0" * 64)


def test_a_failed_put_leaves_nothing(store: Store) -> None:
    class Breaks(io.BytesIO):
        reads = 0

        def read(self, size: int | None = -1) -> bytes:
            Breaks.reads += 1
            if Breaks.reads > 1:  # after the first chunk
                raise OSError("the disk went away")
            return super().read(size)

    with pytest.raises(OSError, match="disk"):
        blobs.put(store, Breaks(os.urandom(blobs.CHUNK * 3)))
    with store.work() as sql:
        sql.execute("SELECT (SELECT COUNT(*) FROM blobs) + (SELECT COUNT(*) FROM blob_chunks) AS n")
        assert sql.fetchone()["n"] == 0  # type: ignore[index]


def test_decisions_are_appended_undone_and_redone(store: Store) -> None:
    plan = new_plan(store)
    first = plans.decide(store, plan, "size", choice={"factor": 1.0}, evidence={}, reason="as it is")
    second = plans.decide(
        store, plan, "pose", choice={"down": [0, 0, -1]}, evidence={"numbers": {"risk": 0.1}}, reason="it stands"
    )
    assert [d["id"] for d in plans.chain(store, plan)] == [first, second]
    plans.undo(store, plan)
    assert [d["fold"] for d in plans.chain(store, plan)] == ["size"]
    plans.redo(store, plan)
    assert plans.chain(store, plan)[-1]["evidence"] == {"numbers": {"risk": 0.1}}
    plans.undo(store, plan)
    third = plans.decide(store, plan, "pose", choice={"down": [0, 1, 0]}, evidence={}, reason="another way")
    assert [d["id"] for d in plans.chain(store, plan)] == [first, third] and plans.next_of(store, plan) is None
    plans.undo(store, plan)
    plans.redo(store, plan)
    assert plans.chain(store, plan)[-1]["id"] == third, "redo takes the newest branch"
    with store.work() as sql:
        sql.execute("SELECT COUNT(*) AS n FROM decisions")
        assert sql.fetchone()["n"] == 3, "nothing was rewritten"  # type: ignore[index]


def test_undo_and_redo_have_ends(store: Store) -> None:
    plan = new_plan(store)
    for move in (plans.undo, plans.redo):
        with pytest.raises(StoreError, match="no decision"):
            move(store, plan)


def test_two_at_once_never_lose_a_decision(store: Store) -> None:
    plan = new_plan(store)
    hands = [
        threading.Thread(target=lambda i=i: plans.decide(store, plan, "size", choice={"i": i}, evidence={}, reason=""))
        for i in range(8)
    ]
    for hand in hands:
        hand.start()
    for hand in hands:
        hand.join()
    assert sorted(d["choice"]["i"] for d in plans.chain(store, plan)) == list(range(8))


def test_a_job_is_claimed_once_and_shared(store: Store) -> None:
    job = jobs.want(store, "intake", {"sha": "x"}, key="k" * 64)
    assert jobs.want(store, "intake", {"sha": "x"}, key="k" * 64) == job
    claimed: list[int] = []
    hands = [
        threading.Thread(target=lambda: claimed.extend([row["id"]] if (row := jobs.claim(store, "w")) else []))
        for _ in range(6)
    ]
    for hand in hands:
        hand.start()
    for hand in hands:
        hand.join()
    assert claimed == [job]


def silent(store: Store) -> None:
    with store.work() as sql:
        sql.execute("UPDATE jobs SET heartbeat_at = heartbeat_at - INTERVAL 60 SECOND")


def test_a_job_is_left_to_the_idle_worker_that_has_its_figure_in_memory(store: Store) -> None:
    mine, other = jobs.worker_name(os.getpid()), jobs.worker_name(os.getppid())
    first = jobs.want(store, "pose", {}, key="a" * 64, figure_id=7)
    assert jobs.claim(store, mine) is not None
    jobs.end(store, first, mine, "done")
    job = jobs.want(store, "supports", {}, key="b" * 64, figure_id=7)
    stranger = jobs.want(store, "pose", {}, key="c" * 64, figure_id=8)
    taken = jobs.claim(store, other)
    assert taken is not None and taken["id"] == stranger, "it is passed over for what is nobody's"
    assert jobs.claim(store, other) is None
    taken = jobs.claim(store, mine)
    assert taken is not None and taken["id"] == job


def test_bringing_plans_up_to_date_keeps_nobody_waiting(store: Store) -> None:
    updates = [
        jobs.want(store, "refresh", {"plan": i}, key=f"r{i}".ljust(64, "x")) for i in range(jobs.MOST_WAITING + 5)
    ]
    asked = jobs.want(store, "pose", {}, key="p" * 64)
    taken = [jobs.claim(store, f"w{i}") for i in range(3)]
    assert [t and t["id"] for t in taken] == [asked, updates[0], None], "one update at a time, after what is asked for"
    jobs.end(store, updates[0], "w1", "done")
    following = jobs.claim(store, "w1")
    assert following is not None and following["id"] == updates[1]


@pytest.mark.parametrize("why", ["busy", "gone", "slow"])
def test_a_job_waits_for_nobody_who_does_not_come(store: Store, why: str) -> None:
    mine, other = jobs.worker_name(os.getpid()), jobs.worker_name(os.getppid())
    had = mine if why != "gone" else mine.rsplit(":", 1)[0] + ":1"
    first = jobs.want(store, "pose", {}, key="a" * 64, figure_id=7)
    assert jobs.claim(store, had) is not None
    jobs.end(store, first, had, "done")
    if why == "busy":
        jobs.want(store, "pose", {}, key="d" * 64, figure_id=9)
        assert jobs.claim(store, had) is not None
    job = jobs.want(store, "supports", {}, key="b" * 64, figure_id=7)
    if why == "slow":
        with store.work() as sql:
            sql.execute("UPDATE jobs SET created_at = created_at - INTERVAL 2 SECOND WHERE id = %s", (job,))
    taken = jobs.claim(store, other)
    assert taken is not None and taken["id"] == job


def test_a_dead_worker_loses_its_job_and_a_deadly_job_is_given_up(store: Store) -> None:
    job = jobs.want(store, "intake", {}, key="d" * 64)
    for attempt in range(jobs.MOST_ATTEMPTS):
        row = jobs.claim(store, f"elsewhere-{attempt}:1:1")
        assert row is not None and jobs.claim(store, "another:1:1") is None, "while its heart beats nobody takes it"
        jobs.died(store, f"elsewhere-{attempt}:1:1")
    assert not jobs.report(store, job, "elsewhere-0:1:1", 0.5, "still here") and jobs.claim(store, "last") is None
    ended = jobs.one(store, job)
    assert ended["state"] == "failed" and ended["problem"]["code"] == "worker-died"


def test_stops_and_the_deaths_of_others_are_not_held_against_a_job(store: Store) -> None:
    """Three ordinary stops in the midst of a long job, and three in which everything was killed at once: it goes on."""
    job = jobs.want(store, "intake", {}, key="f" * 64)
    for stop in range(3):
        assert jobs.claim(store, f"elsewhere-{stop}:1:1") is not None
        jobs.give_back(store, f"elsewhere-{stop}:1:1")
        gone = jobs.worker_name(os.getpid()).rsplit(":", 1)[0] + f":{stop}"
        assert jobs.claim(store, gone) is not None
        jobs.take_back(store)
        assert jobs.one(store, job)["state"] == "waiting", "at once, not after a silence"
    me = jobs.worker_name(os.getpid())
    row = jobs.claim(store, me)
    assert row is not None and row["attempts"] == 0
    jobs.take_back(store)
    assert jobs.one(store, job)["state"] == "running", "its worker lives"


def test_a_job_that_never_comes_to_an_end_is_given_up_whoever_stops_it(store: Store) -> None:
    job = jobs.want(store, "intake", {}, key="g" * 64)
    for stop in range(jobs.MOST_STARTS):
        assert jobs.claim(store, f"elsewhere-{stop}:1:1") is not None
        jobs.give_back(store, f"elsewhere-{stop}:1:1")
    assert jobs.claim(store, "last:1:1") is None and "never came to an end" in jobs.one(store, job)["problem"]["what"]


def test_a_silent_worker_that_lives_keeps_its_job(store: Store) -> None:
    me = jobs.worker_name(os.getpid())
    job = jobs.want(store, "intake", {}, key="e" * 64)
    jobs.claim(store, me)
    silent(store)
    assert jobs.claim(store, "another:1:1") is None and jobs.one(store, job)["worker"] == me
    # A later process of the same number is not that worker.
    with store.work() as sql:
        sql.execute("UPDATE jobs SET worker = %s", (me.rsplit(":", 1)[0] + ":1",))
    silent(store)
    taken = jobs.claim(store, "another:1:1")
    assert taken is not None and taken["id"] == job


def test_cancel_waiting_and_running(store: Store) -> None:
    waiting = jobs.want(store, "pose", {}, key="a" * 64)
    jobs.cancel(store, waiting)
    assert jobs.one(store, waiting)["state"] == "cancelled" and jobs.claim(store, "w") is None
    running = jobs.want(store, "pose", {}, key="b" * 64)
    jobs.claim(store, "w")
    assert jobs.report(store, running, "w", 0.2, "going on")
    jobs.cancel(store, running)
    again = jobs.want(store, "pose", {}, key="b" * 64)
    assert again != running, "what is asked for again after a cancel is not the job that is ending"
    assert not jobs.report(store, running, "w", 0.3, "going on")
    jobs.end(store, running, "w", "cancelled")
    assert jobs.want(store, "pose", {}, key="b" * 64) == again


def test_many_hands_that_want_one_thing_get_one_job(store: Store) -> None:
    found: list[int] = []
    hands = [
        threading.Thread(target=lambda: found.append(jobs.want(store, "pose", {"a": 1}, key="c" * 64)))
        for _ in range(8)
    ]
    for hand in hands:
        hand.start()
    for hand in hands:
        hand.join()
    assert len(found) == 8 and len(set(found)) == 1 and len(jobs.under_way(store)) == 1


def test_a_queue_has_an_end(store: Store, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(jobs, "MOST_WAITING", 2)
    for n in range(2):
        jobs.want(store, "pose", {}, key=f"{n:064}")
    with pytest.raises(StoreError, match="wait already"):
        jobs.want(store, "pose", {}, key="f" * 64)
    assert jobs.want(store, "pose", {}, key=f"{0:064}"), "what is under way already is not one more"


def test_machines_are_kept_by_name(store: Store) -> None:
    heron = next(m for m in machines.every(store, "printers") if m["name"] == "heron")
    assert machines.keep(store, "printers", {**heron["spec"], "watts": 75.0}) == heron["id"]
    assert machines.one(store, "printers", heron["id"])["spec"]["watts"] == 75.0
    with pytest.raises(StoreError, match="kept for resin"):
        machines.keep(store, "printers", {"name": "heron", "process": "filament"})
    with pytest.raises(ValueError, match="users"):
        machines.every(store, "users")


def test_runs_and_outcomes(store: Store) -> None:
    from datetime import datetime

    plan = new_plan(store)
    run = runs.start(
        store,
        plan,
        None,
        printer_id=1,
        material_id=1,
        planned=(3600.0, 12.0, 0.1, 0.02),
        started_at=datetime(2026, 11, 1, 20, 0),
    )
    assert runs.of_plan(store, plan)[0]["result"] is None
    runs.end(store, run, {"result": "scarred", "real_s": 4000.0, "removal": 3})
    runs.end(store, run, {"result": "good", "real_s": 4100.0, "removal": 2, "note": "corrected"})
    (row,) = runs.every(store)
    assert (row["result"], row["real_s"], row["note"]) == ("good", 4100.0, "corrected")
    with pytest.raises(StoreError, match="no run"):
        runs.end(store, 999, {"result": "good"})


def test_a_killed_database_recovers_what_was_acknowledged(tmp_path: Path) -> None:
    server = DatabaseServer(tmp_path / "db")
    address = server.start()
    try:
        migrate(address)
        migrate(address)  # again: nothing to do
        held = Store(address)
        plan = new_plan(held)
        plans.decide(held, plan, "size", choice={"factor": 2.0}, evidence={}, reason="acknowledged")
        pid = int((tmp_path / "db" / "pid").read_text())
        os.kill(pid, signal.SIGKILL)
        time.sleep(0.5)
        with pytest.raises(StoreError) as gone:
            plans.chain(held, plan)
        assert gone.value.code == "database-away" and gone.value.status == 503
        server.stop()
        server.start(address.port)
        assert plans.chain(held, plan)[0]["reason"] == "acknowledged", "the same pool goes on by itself"
        assert oct((tmp_path / "db" / "password").stat().st_mode)[-3:] == "600"
    finally:
        server.stop()
