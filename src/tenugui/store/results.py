"""Results: documents by the hash of what they were computed from, with the content they name. They may be thrown away
at any time.
"""

from __future__ import annotations

import re

from .db import Store, retried

NAMED = re.compile(rb'"([0-9a-f]{64})"')


@retried
def kept(store: Store, key: str) -> bytes | None:
    """A document as it was kept, or None; notes that it was used, once a day."""
    with store.work() as sql:
        sql.execute(
            "SELECT document, used_at < CURRENT_TIMESTAMP(3) - "
            "INTERVAL 1 DAY AS old FROM results WHERE result_key = %s",
            (key,),
        )
        row = sql.fetchone()
        if row and row["old"]:
            sql.execute("UPDATE results SET used_at = CURRENT_TIMESTAMP(3) WHERE result_key = %s", (key,))
    return bytes(row["document"]) if row else None


def has(store: Store, key: str) -> bool:
    """Whether a document is there."""
    with store.work() as sql:
        sql.execute("SELECT 1 FROM results WHERE result_key = %s", (key,))
        return sql.fetchone() is not None


@retried
def keep(store: Store, key: str, kind: str, document: bytes, mesh_sha: str | None = None) -> None:
    """Keep a document and the content that it names, in one."""
    named = {match.decode() for match in NAMED.findall(document)}
    with store.work() as sql:
        sql.execute(
            "REPLACE INTO results (result_key, kind, document, mesh_sha) VALUES (%s, %s, %s, %s)",
            (key, kind, document, mesh_sha),
        )
        if named:
            sql.executemany(
                "INSERT INTO result_blobs (result_key, sha256) VALUES (%s, %s)", [(key, sha) for sha in sorted(named)]
            )


@retried
def forget(store: Store, key: str) -> None:
    """Throw a document away, where it is kept."""
    with store.work() as sql:
        sql.execute("DELETE FROM results WHERE result_key = %s", (key,))


def every(store: Store) -> list[tuple[str, bytes]]:
    """(kind, document) of all results: for validation."""
    with store.work() as sql:
        sql.execute("SELECT kind, document FROM results ORDER BY created_at")
        return [(row["kind"], bytes(row["document"])) for row in sql.fetchall()]
