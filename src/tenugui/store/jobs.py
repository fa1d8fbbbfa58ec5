"""Jobs: durable, claimed by one worker at a time, and the results they leave, cached by the hash of their inputs."""

from __future__ import annotations

from typing import Any

import orjson

from .db import Row, Store, StoreError

STALE_SECONDS = 15
MOST_ATTEMPTS = 3


def result(store: Store, key: str) -> Any | None:
    """A cached document, or None."""
    with store.work() as sql:
        sql.execute("SELECT document FROM results WHERE result_key = %s", (key,))
        row = sql.fetchone()
    return orjson.loads(row["document"]) if row else None


def keep_result(store: Store, key: str, kind: str, document: Any) -> None:
    """Cache a document under the hash of its inputs."""
    with store.work() as sql:
        sql.execute(
            "REPLACE INTO results (result_key, kind, document) VALUES (%s, %s, %s)",
            (key, kind, orjson.dumps(document, option=orjson.OPT_SERIALIZE_NUMPY)),
        )


def want(store: Store, kind: str, given: dict[str, Any], key: str) -> int:
    """The id of a job that computes `key`: one that is under way already, or a new one."""
    with store.work() as sql:
        sql.execute(
            "SELECT id FROM jobs WHERE result_key = %s AND state IN ('waiting', 'running') AND cancel_wanted = 0 ORDER BY id LIMIT 1 FOR UPDATE",
            (key,),
        )
        row = sql.fetchone()
        if row:
            return int(row["id"])
        sql.execute("INSERT INTO jobs (kind, input, result_key) VALUES (%s, %s, %s)", (kind, orjson.dumps(given).decode(), key))
        return int(sql.lastrowid or 0)


def one(store: Store, number: int) -> Row:
    """A job as it stands."""
    with store.work() as sql:
        sql.execute("SELECT * FROM jobs WHERE id = %s", (number,))
        row = sql.fetchone()
    if not row:
        raise StoreError("no-job", f"There is no job number {number}.")
    return {**row, "input": orjson.loads(row["input"]), "problem": orjson.loads(row["problem"]) if row["problem"] else None}


def claim(store: Store, worker: str) -> Row | None:
    """Take the oldest waiting job, or one whose worker has fallen silent; None where there is none."""
    with store.work() as sql:
        sql.execute(
            "SELECT * FROM jobs WHERE state = 'waiting' OR (state = 'running' AND heartbeat_at < CURRENT_TIMESTAMP(3) - INTERVAL %s SECOND) ORDER BY id LIMIT 1 FOR UPDATE SKIP LOCKED",
            (STALE_SECONDS,),
        )
        row = sql.fetchone()
        if not row:
            return None
        if row["cancel_wanted"]:
            sql.execute("UPDATE jobs SET state = 'cancelled', ended_at = CURRENT_TIMESTAMP(3) WHERE id = %s", (row["id"],))
            return None
        if row["attempts"] >= MOST_ATTEMPTS:
            problem = {
                "code": "worker-died",
                "what": f"The computation ended its worker {row['attempts']} times.",
                "where": "",
                "remedy": "The figure may need more memory than there is: decimate it, or choose a coarser layer height.",
            }
            sql.execute(
                "UPDATE jobs SET state = 'failed', problem = %s, ended_at = CURRENT_TIMESTAMP(3) WHERE id = %s",
                (orjson.dumps(problem).decode(), row["id"]),
            )
            return None
        sql.execute(
            "UPDATE jobs SET state = 'running', worker = %s, attempts = attempts + 1, heartbeat_at = CURRENT_TIMESTAMP(3), share = 0 WHERE id = %s",
            (worker, row["id"]),
        )
    return {**row, "input": orjson.loads(row["input"])}


def beat(store: Store, number: int, worker: str, share: float, doing: str) -> bool:
    """Report progress; False where the job was cancelled or taken over, and the worker should let go of it."""
    with store.work() as sql:
        sql.execute(
            "UPDATE jobs SET heartbeat_at = CURRENT_TIMESTAMP(3), share = %s, doing = %s WHERE id = %s AND worker = %s AND state = 'running' AND cancel_wanted = 0",
            (share, doing[:200], number, worker),
        )
        sql.execute("SELECT 1 FROM jobs WHERE id = %s AND worker = %s AND state = 'running' AND cancel_wanted = 0", (number, worker))
        return sql.fetchone() is not None


def end(store: Store, number: int, worker: str, state: str, problem: dict[str, Any] | None = None) -> None:
    """Mark a job of this worker as done, failed or cancelled."""
    with store.work() as sql:
        sql.execute(
            "UPDATE jobs SET state = %s, problem = %s, share = IF(%s = 'done', 1, share), ended_at = CURRENT_TIMESTAMP(3) WHERE id = %s AND worker = %s AND state = 'running'",
            (state, orjson.dumps(problem).decode() if problem else None, state, number, worker),
        )


def cancel(store: Store, number: int) -> None:
    """Ask for a job's end; a waiting one ends at once."""
    one(store, number)
    with store.work() as sql:
        sql.execute(
            "UPDATE jobs SET cancel_wanted = 1, ended_at = IF(state = 'waiting', CURRENT_TIMESTAMP(3), ended_at), state = IF(state = 'waiting', 'cancelled', state) WHERE id = %s AND state IN ('waiting', 'running')",
            (number,),
        )
