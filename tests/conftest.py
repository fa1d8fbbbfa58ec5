"""What all tests share: a private database for the session, emptied before each test that asks for it."""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from pathlib import Path

import pytest
from hypothesis import settings

from tenugui.demo.load import load_machines
from tenugui.store.db import Store, migrate
from tenugui.store.server import Address, DatabaseServer
from tests.seen import seen_once

# What lands is decided by the same examples each time, half as many; new ones are looked for at every desk. How long
# one takes is nobody's business: the machine may be busy.
settings.register_profile("desk", deadline=None)
settings.register_profile("ci", derandomize=True, max_examples=50, deadline=None)
settings.load_profile("ci" if os.environ.get("CI") else "desk")


@pytest.fixture(scope="session", autouse=True)
def looks(tmp_path_factory: pytest.TempPathFactory, worker_id: str) -> Iterator[None]:
    """Of one folder for all processes."""
    base = tmp_path_factory.getbasetemp()
    with seen_once((base if worker_id == "master" else base.parent) / "looks"):
        yield


@pytest.fixture(scope="session")
def database(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Address]:
    """A MariaDB of the tests' own."""
    server = DatabaseServer(tmp_path_factory.mktemp("db"))
    address = server.start()
    migrate(address)
    yield address
    server.stop()


PEOPLES = (
    "audit", "failed_sign_ins", "invitations", "sessions", "people",
    "nights",
    "settings", "mends", "outcomes", "seen", "photos", "specimens", "series", "evidence", "taken", "timers", "minutes",
    "lot_steps", "lots", "kits", "runs",
    "drill_answers", "drill_pictures", "drills", "batches", "plate_steps", "plates", "orders", "house", "jobs",
    "decisions", "plans", "figures", "printers", "materials",
)  # fmt: skip
COMPUTED = ("results", "result_blobs", "blob_chunks", "blobs")


def emptied(database: Address, tables: Sequence[str]) -> Iterator[Store]:
    """A store without what these tables held, with the shipped printers and materials."""
    held = Store(database)
    with held.work() as sql:
        sql.execute("SET FOREIGN_KEY_CHECKS = 0")
        # A table that is truncated is made anew, and takes as long as fifty that are emptied: only what counted up is.
        sql.execute(
            "SELECT table_name AS name FROM information_schema.tables"
            " WHERE table_schema = DATABASE() AND auto_increment > 1"
        )
        counted = {row["name"] for row in sql.fetchall()}
        for table in tables:
            sql.execute(f"TRUNCATE TABLE {table}" if table in counted else f"DELETE FROM {table}")
        sql.execute("SET FOREIGN_KEY_CHECKS = 1")
    load_machines(held)
    yield held
    held.close()


@pytest.fixture
def store(database: Address) -> Iterator[Store]:
    """An empty store."""
    yield from emptied(database, (*PEOPLES, *COMPUTED))


@pytest.fixture(scope="session")
def figures(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Where small test figures are written."""
    return tmp_path_factory.mktemp("figures")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Journeys first: they take longest, and one that begins last is waited for. What takes long and is held by shorter
    tests too is run where LONG is set: `LONG=1 ./tenugui test`.
    """
    items.sort(key=lambda item: "/browser/" not in item.nodeid)
    if not os.environ.get("LONG"):
        for item in items:
            if item.get_closest_marker("long"):
                item.add_marker(pytest.mark.skip(reason="long: LONG=1 runs it"))
