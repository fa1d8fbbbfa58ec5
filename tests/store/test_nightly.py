"""A backup every night: when one is due, how many are kept, that one restores, and what is told where none can be."""

from __future__ import annotations

import shutil
import threading
from collections.abc import Iterator
from datetime import datetime, timedelta
from pathlib import Path

import pytest

from tenugui.store import nightly, settings
from tenugui.store.copy import CopyError, restore
from tenugui.store.db import Store, migrate
from tenugui.store.nightly import HOUR, KEPT, Nightly, due, take, taken
from tenugui.store.server import DatabaseServer

NIGHT = datetime(2026, 11, 30, 3, 10)


@pytest.mark.parametrize(
    ("now", "last", "since", "expected"),
    [
        (NIGHT, None, NIGHT, True),
        (NIGHT, NIGHT - timedelta(days=1), NIGHT, True),
        (NIGHT, NIGHT - timedelta(minutes=5), NIGHT, False),
        (NIGHT + timedelta(hours=2), NIGHT - timedelta(days=3), NIGHT + timedelta(hours=1, minutes=50), False),
        (NIGHT + timedelta(hours=2), NIGHT - timedelta(days=3), NIGHT, True),
        (NIGHT + timedelta(hours=2), NIGHT, NIGHT, False),
        (NIGHT + timedelta(hours=20), NIGHT - timedelta(hours=1), NIGHT, False),
        (NIGHT + timedelta(hours=2), None, NIGHT, True),
    ],
)
def test_when_one_is_due(now: datetime, last: datetime | None, since: datetime, expected: bool) -> None:
    assert due(now, last, 3, since) is expected


@pytest.fixture(scope="module")
def bench(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[Path, Store]]:
    """A database folder of its own that runs, with a setting to be known by."""
    folder = tmp_path_factory.mktemp("nightly") / "db"
    server = DatabaseServer(folder)
    address = server.start()
    migrate(address)
    store = Store(address)
    settings.keep(store, {"file_bytes": 12_345_678})
    yield folder, store
    store.close()
    server.stop()


def test_each_night_one_is_taken_the_oldest_goes_and_the_newest_restores(
    bench: tuple[Path, Store], tmp_path: Path
) -> None:
    folder, store = bench
    settings.keep(store, {KEPT: 2, HOUR: 3})
    now = NIGHT
    keeper = Nightly(store, folder, tmp_path / "backups", lambda: now)
    names = []
    for night in range(4):
        now = NIGHT + timedelta(days=night)
        assert keeper.look(), "once a night"
        names.append(taken(keeper.into)[0].name)
        now += timedelta(minutes=20)
        assert not keeper.look(), "and no more"
    assert [row.name for row in taken(keeper.into)] == names[:-3:-1] and keeper.problem == ""
    (keeper.into / "bench-of-mine.sql").write_text("kept by hand")
    assert len(taken(keeper.into)) == 2, "what somebody put there is none of these"
    fresh = tmp_path / "other" / "db"
    restore(fresh, keeper.into / names[-1])
    server = DatabaseServer(fresh)
    other = Store(server.start())
    try:
        assert settings.every(other)["file_bytes"] == 12_345_678
    finally:
        other.close()
        server.stop()


def test_none_is_taken_where_nobody_wants_any(bench: tuple[Path, Store], tmp_path: Path) -> None:
    folder, store = bench
    settings.keep(store, {KEPT: 0, HOUR: 3})
    keeper = Nightly(store, folder, tmp_path / "backups", lambda: NIGHT)
    assert not keeper.look() and taken(keeper.into) == []


def test_what_cannot_be_taken_is_told_and_tried_again_after_an_hour(
    bench: tuple[Path, Store], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    folder, store = bench
    settings.keep(store, {KEPT: 2, HOUR: 3})
    now = NIGHT
    keeper = Nightly(store, folder, tmp_path / "backups", lambda: now)
    took: list[datetime] = []

    def full(*_: object) -> None:
        took.append(now)
        raise CopyError("the disk is full")

    monkeypatch.setattr(nightly, "take", full)
    assert not keeper.look() and keeper.problem == "the disk is full"
    now += timedelta(minutes=20)
    assert not keeper.look()
    now += timedelta(days=1)
    assert not keeper.look() and len(took) == 2


def test_no_room_is_said_before_it_is_begun(
    bench: tuple[Path, Store], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    folder, _ = bench
    first = take(folder, tmp_path, 3, NIGHT)
    usage = shutil.disk_usage(tmp_path)
    monkeypatch.setattr(shutil, "disk_usage", lambda _: usage._replace(free=first.size))
    with pytest.raises(CopyError, match="no room for another backup"):
        take(folder, tmp_path, 3, NIGHT + timedelta(days=1))
    assert [row.name for row in taken(tmp_path)] == [first.name], "what is there stays"


def test_it_ends_with_the_application(bench: tuple[Path, Store], tmp_path: Path) -> None:
    folder, store = bench
    ending = threading.Event()
    thread = threading.Thread(target=Nightly(store, folder, tmp_path).run, args=(ending,))
    thread.start()
    ending.set()
    thread.join(5)
    assert not thread.is_alive()
