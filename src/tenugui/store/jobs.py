"""Jobs: durable, one for a computation at a time, claimed by one worker at a time."""

from __future__ import annotations

import os
import socket
from pathlib import Path
from typing import Any

import orjson
from pymysql.cursors import DictCursor

from .db import Row, Store, StoreError, retried

LEFT_SECONDS = 1.5
"""How long a job is left to the idle worker that has its figure in memory, before any other takes it."""
STALE_SECONDS = 15
"""A worker on another machine that has been silent for so long is taken for lost; one on this machine is looked for."""
MOST_ATTEMPTS, MOST_STARTS = 3, 20
"""A job that has ended so many workers is given up; so is one that was begun so often and never came to an end, whoever
stopped it.
"""
MOST_WAITING = 400
LATER = ("refresh", "overnight")
"""Kinds of job that nobody waits for: they go after all others, one at a time, so that a worker is free for whoever
opens a plan.
"""
ENDED = ("done", "failed", "cancelled")


def worker_name(pid: int) -> str:
    """Names a process of this machine so that a later one of the same number is not taken for it."""
    try:
        began = Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[19]
    except (OSError, IndexError):
        began = "gone"
    return f"{socket.gethostname()[:30]}:{pid}:{began}"


def is_alive(name: str) -> bool | None:
    """Whether a named worker still runs; None where it is another machine's."""
    host, _, rest = name.partition(":")
    if host != socket.gethostname()[:30]:
        return None
    pid = rest.split(":")[0]
    return pid.isdigit() and os.path.exists(f"/proc/{pid}") and worker_name(int(pid)) == name


@retried
def want(
    store: Store, kind: str, given: dict[str, Any], *, key: str, title: str = "", figure_id: int | None = None
) -> int:
    """The id of the job that computes `key`: the one under way, or a new one.

    Raises:
        StoreError: `too-many-jobs` where more wait than could be worked off.
    """
    with store.work() as sql:
        sql.execute("SELECT id FROM jobs WHERE active_key = %s", (key,))
        row = sql.fetchone()
        if row:
            return int(row["id"])
        sql.execute("SELECT COUNT(*) AS n FROM jobs WHERE state = 'waiting' AND kind NOT IN %s", (LATER,))
        waiting = sql.fetchone()
        if waiting and waiting["n"] >= MOST_WAITING:
            raise StoreError(
                "too-many-jobs",
                f"{MOST_WAITING} computations wait already.",
                "Wait until some are done, or cancel them.",
                503,
            )
        sql.execute(
            "INSERT INTO jobs (kind, input, result_key, active_key, title, figure_id) VALUES (%s, %s, %s, %s, %s, %s)"
            " ON DUPLICATE KEY UPDATE id = LAST_INSERT_ID(id)",
            (kind, orjson.dumps(given, option=orjson.OPT_SERIALIZE_NUMPY).decode(), key, key, title[:200], figure_id),
        )
        return int(sql.lastrowid or 0)


def _row(row: Row) -> Row:
    return {
        **row,
        "input": orjson.loads(row["input"]),
        "problem": orjson.loads(row["problem"]) if row["problem"] else None,
    }


def one(store: Store, number: int) -> Row:
    """A job as it stands.

    Raises:
        StoreError: `no-job`.
    """
    with store.work() as sql:
        sql.execute("SELECT * FROM jobs WHERE id = %s", (number,))
        row = sql.fetchone()
    if not row:
        raise StoreError("no-job", f"There is no job number {number}.")
    return _row(row)


def under_way(store: Store) -> list[Row]:
    """Every job that waits or runs, oldest first."""
    with store.work() as sql:
        sql.execute(
            "SELECT * FROM jobs WHERE state IN ('waiting', 'running') "
            "AND cancel_wanted = 0 ORDER BY state = 'waiting', id"
        )
        return [_row(row) for row in sql.fetchall()]


def counts(store: Store) -> dict[str, int]:
    """How many jobs there are of each state."""
    with store.work() as sql:
        sql.execute("SELECT state, COUNT(*) AS n FROM jobs GROUP BY state")
        return {row["state"]: int(row["n"]) for row in sql.fetchall()}


def last_of(store: Store, key: str) -> Row | None:
    """The newest job of a computation: the one under way, or how the last one ended."""
    with store.work() as sql:
        sql.execute("SELECT * FROM jobs WHERE result_key = %s ORDER BY id DESC LIMIT 1", (key,))
        row = sql.fetchone()
    return _row(row) if row else None


def _left_to_another(sql: DictCursor, job: Row, worker: str) -> bool:
    """Whether an idle worker has the figure's meshes in memory, and will take the job in a moment."""
    if job["figure_id"] is None:
        return False
    sql.execute(
        "SELECT worker FROM jobs WHERE figure_id = %s AND state = "
        "'done' AND worker IS NOT NULL ORDER BY ended_at DESC LIMIT 1",
        (job["figure_id"],),
    )
    last = sql.fetchone()
    if last is None or last["worker"] == worker or not is_alive(last["worker"]):
        return False
    sql.execute("SELECT 1 FROM jobs WHERE worker = %s AND state = 'running' LIMIT 1", (last["worker"],))
    return sql.fetchone() is None


@retried
def claim(store: Store, worker: str) -> Row | None:
    """Take the oldest waiting job that somebody waits for, or one whose worker is gone; None where there is none.

    A worker that is silent but alive, as inside a library that holds the interpreter's lock, keeps its job.
    """
    with store.work() as sql:
        sql.execute(
            "SELECT * FROM jobs WHERE state = 'running' AND heartbeat_at < "
            "CURRENT_TIMESTAMP(3) - INTERVAL %s SECOND ORDER BY id FOR UPDATE SKIP LOCKED",
            (STALE_SECONDS,),
        )
        row = next((r for r in sql.fetchall() if not is_alive(r["worker"] or "")), None)
        if row is None:
            sql.execute(
                "SELECT id FROM jobs WHERE state = 'running' AND kind IN %s LIMIT 1",
                (LATER,),
            )
            busy = sql.fetchone() is not None
            sql.execute(
                "SELECT *, created_at > CURRENT_TIMESTAMP(3) - INTERVAL "
                "%s SECOND AS fresh FROM jobs WHERE state = 'waiting'"
                " AND (kind NOT IN %s OR NOT %s) ORDER BY kind IN %s, id LIMIT 8 FOR UPDATE SKIP LOCKED",
                (LEFT_SECONDS, LATER, busy, LATER),
            )
            row = next((r for r in sql.fetchall() if not (r["fresh"] and _left_to_another(sql, r, worker))), None)
        if not row:
            return None
        if row["cancel_wanted"]:
            sql.execute(
                "UPDATE jobs SET state = 'cancelled', active_key = NULL, ended_at = CURRENT_TIMESTAMP(3) WHERE id = %s",
                (row["id"],),
            )
            return None
        if row["attempts"] >= MOST_ATTEMPTS or row["starts"] >= MOST_STARTS:
            said = (
                f"ended its worker {row['attempts']} times"
                if row["attempts"] >= MOST_ATTEMPTS
                else f"was begun {row['starts']} times and never came to an end"
            )
            problem = {
                "code": "worker-died",
                "what": f"The computation {said}.",
                "where": "",
                "remedy": "The figure may need more memory than there is: bring "
                "in a thinner copy, or choose a coarser layer height.",
            }
            sql.execute(
                "UPDATE jobs SET state = 'failed', active_key = NULL, "
                "problem = %s, ended_at = CURRENT_TIMESTAMP(3) WHERE id = %s",
                (orjson.dumps(problem).decode(), row["id"]),
            )
            return None
        sql.execute(
            "UPDATE jobs SET state = 'running', worker = %s, starts = starts + 1, heartbeat_at = CURRENT_TIMESTAMP(3),"
            " started_at = CURRENT_TIMESTAMP(3), share = 0 WHERE id = %s",
            (worker, row["id"]),
        )
    return {**row, "input": orjson.loads(row["input"])}


@retried
def give_back(store: Store, worker: str) -> None:
    """Have whatever this worker had claimed wait again; it let go of it without a word, and not by its own fault."""
    with store.work() as sql:
        sql.execute(
            "UPDATE jobs SET state = 'waiting', share = 0 WHERE worker = %s AND state = 'running'",
            (worker,),
        )


@retried
def died(store: Store, worker: str) -> None:
    """A worker ended by itself in the midst of a job, seen by whoever looks after it: the job waits again, and is given
    up after MOST_ATTEMPTS of that.
    """
    with store.work() as sql:
        sql.execute(
            "UPDATE jobs SET state = 'waiting', attempts = attempts "
            "+ 1, share = 0 WHERE worker = %s AND state = 'running'",
            (worker,),
        )


@retried
def take_back(store: Store) -> None:
    """At a start: what workers of this machine held that are gone, stopped or killed with all the rest, waits again."""
    with store.work() as sql:
        sql.execute("SELECT DISTINCT worker FROM jobs WHERE state = 'running'")
        gone = [row["worker"] for row in sql.fetchall() if is_alive(row["worker"] or "") is False]
    for worker in gone:
        give_back(store, worker)


def running_by(store: Store, worker: str) -> Row | None:
    """What a worker is at: `id`, `cancel_wanted`, and `seconds` since it began."""
    with store.work() as sql:
        sql.execute(
            "SELECT id, cancel_wanted, TIMESTAMPDIFF(SECOND, started_at, CURRENT_TIMESTAMP(3)) AS seconds FROM jobs"
            " WHERE worker = %s AND state = 'running'",
            (worker,),
        )
        return sql.fetchone()


@retried
def alive(store: Store, worker: str) -> None:
    """A beat for a worker, by whoever sees that it lives."""
    with store.work() as sql:
        sql.execute(
            "UPDATE jobs SET heartbeat_at = CURRENT_TIMESTAMP(3) WHERE worker = %s AND state = 'running'", (worker,)
        )


@retried
def report(store: Store, number: int, worker: str, share: float, doing: str) -> bool:
    """Report progress, which is a beat too; False where the job was cancelled or taken over, and the worker should let
    go of it.
    """
    with store.work() as sql:
        sql.execute(
            "UPDATE jobs SET heartbeat_at = CURRENT_TIMESTAMP(3), share = %s, doing = %s"
            " WHERE id = %s AND worker = %s AND state = 'running' AND cancel_wanted = 0",
            (share, doing[:200], number, worker),
        )
        sql.execute(
            "SELECT 1 FROM jobs WHERE id = %s AND worker = %s AND state = 'running' AND cancel_wanted = 0",
            (number, worker),
        )
        return sql.fetchone() is not None


@retried
def end(store: Store, number: int, worker: str, state: str, problem: dict[str, Any] | None = None) -> None:
    """Mark a job of this worker as done, failed or cancelled."""
    with store.work() as sql:
        sql.execute(
            "UPDATE jobs SET state = %s, active_key = NULL, problem = %s, "
            "share = IF(%s = 'done', 1, share), ended_at = CURRENT_TIMESTAMP(3)"
            " WHERE id = %s AND worker = %s AND state = 'running'",
            (state, orjson.dumps(problem).decode() if problem else None, state, number, worker),
        )


@retried
def cancel(store: Store, number: int) -> None:
    """Ask for a job's end; a waiting one ends at once."""
    one(store, number)
    with store.work() as sql:
        sql.execute(
            "UPDATE jobs SET cancel_wanted = 1, active_key = NULL, ended_at "
            "= IF(state = 'waiting', CURRENT_TIMESTAMP(3), ended_at),"
            " state = IF(state = 'waiting', 'cancelled', state) WHERE id = %s AND state IN ('waiting', 'running')",
            (number,),
        )
