"""Settings: whole numbers by name, over the defaults of the code that uses them."""

from __future__ import annotations

from .db import Store, retried


def every(store: Store) -> dict[str, int]:
    """What has been set."""
    with store.work() as sql:
        sql.execute("SELECT name, value FROM settings")
        return {row["name"]: int(row["value"]) for row in sql.fetchall()}


@retried
def keep(store: Store, values: dict[str, int]) -> None:
    """Set all of `values` at once."""
    with store.work() as sql:
        sql.executemany(
            "INSERT INTO settings (name, value) VALUES (%s, %s) ON DUPLICATE KEY UPDATE value = VALUES(value)",
            list(values.items()),
        )
