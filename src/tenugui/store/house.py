"""Documents of the workshop itself, by name."""

from __future__ import annotations

from typing import Any

import orjson

from .db import Store, StoreError, retried

ANY = -1
"""For a version that was seen: whatever it is. For the engine's own deeds, never for a page's."""


def get(store: Store, name: str) -> tuple[dict[str, Any] | None, int]:
    """A document and its version; None and 0 where there is none."""
    with store.work() as sql:
        sql.execute("SELECT body, version FROM house WHERE name = %s", (name,))
        row = sql.fetchone()
    return (orjson.loads(row["body"]), int(row["version"])) if row else (None, 0)


@retried
def put(store: Store, name: str, body: dict[str, Any], seen: int = ANY) -> None:
    """Keep a document whose version `seen` somebody looked at.

    Raises:
        StoreError: `changed-meanwhile`.
    """
    with store.work() as sql:
        sql.execute("SELECT version FROM house WHERE name = %s FOR UPDATE", (name,))
        row = sql.fetchone()
        if seen not in (ANY, int(row["version"]) if row else 0):
            what = "Somebody else has changed this meanwhile."
            raise StoreError("changed-meanwhile", what, "Look at it as it stands now, then change it.", 409)
        sql.execute(
            "INSERT INTO house (name, body) VALUES (%s, %s)"
            " ON DUPLICATE KEY UPDATE body = VALUES(body), version = version + 1",
            (name, orjson.dumps(body).decode()),
        )


@retried
def delete(store: Store, name: str) -> None:
    """Forget a document."""
    with store.work() as sql:
        sql.execute("DELETE FROM house WHERE name = %s", (name,))
