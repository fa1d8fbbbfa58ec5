"""A backup every night, as many kept as somebody wants, the oldest taken away."""

from __future__ import annotations

import contextlib
import shutil
import threading
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path

from . import settings
from .copy import CopyError, backup
from .db import Store, StoreError
from .server import InUse, tell

KEPT, HOUR = "backups_kept", "backup_hour"
USUAL = {KEPT: 3, HOUR: 3}
MOST_KEPT = 60
ENDING = ".sql"
NAMED = f"bench-%Y-%m-%d-%H%M%S{ENDING}"
UP_FIRST = timedelta(minutes=30)
"""What was missed while the application was off is made up for once it has run so long."""
LATE = timedelta(hours=30)
ROOM = 1.5
"""A backup is begun where the disk has room for so many times the last one."""
LOOK_S = 60.0


@dataclass(frozen=True)
class Taken:
    """A backup in the folder."""

    name: str
    at: datetime
    size: int


def wanted(store: Store) -> tuple[int, int]:
    """How many are kept, none where 0, and the hour at which they are taken."""
    said = USUAL | {name: value for name, value in settings.every(store).items() if name in USUAL}
    return said[KEPT], said[HOUR]


def taken(folder: Path) -> list[Taken]:
    """Backups in a folder by the time in their names, the newest first; other files are none."""
    rows = []
    for file in folder.glob(f"bench-*{ENDING}") if folder.is_dir() else ():
        with contextlib.suppress(ValueError):
            rows.append(Taken(file.name, datetime.strptime(file.name, NAMED), file.stat().st_size))
    return sorted(rows, key=lambda row: row.at, reverse=True)


def due(now: datetime, last: datetime | None, hour: int, since: datetime) -> bool:
    """Whether one is to be taken: at its hour, once; or late, once the application has run for a while.

    >>> night = datetime(2026, 11, 30, 3)
    >>> due(night, night - timedelta(hours=1), 3, night), due(night + timedelta(minutes=9), night, 3, night)
    (True, False)
    """
    began = now.replace(hour=hour, minute=0, second=0, microsecond=0)
    if now.hour == hour:
        return last is None or last < began
    return now - since >= UP_FIRST and (last is None or now - last >= LATE)


def take(folder: Path, into: Path, kept: int, now: datetime) -> Taken:
    """Take a backup of a database folder and keep so many.

    Raises:
        CopyError: there is no room, or it could not be written; those that are there stay.
    """
    into.mkdir(parents=True, exist_ok=True)
    before = taken(into)
    if before and shutil.disk_usage(into).free < ROOM * before[0].size:
        raise CopyError(f"{into} has no room for another backup: the last one has {before[0].size >> 20} MB.")
    file = into / now.strftime(NAMED)
    backup(folder, file)
    there = taken(into)
    for old in there[kept:]:
        (into / old.name).unlink(missing_ok=True)
    return there[0]


class Nightly:
    """Looks every minute whether a backup is due; `problem`: why the last one was not taken."""

    def __init__(self, store: Store, folder: Path, into: Path, clock: Callable[[], datetime] = datetime.now) -> None:
        self.store, self.folder, self.into, self.clock = store, folder, into, clock
        self.since, self.problem, self._tried = clock(), "", datetime.min

    def look(self) -> bool:
        """Take one where it is due; whether it was taken. One that failed is tried again after an hour."""
        now = self.clock()
        kept, hour = wanted(self.store)
        last = next((row.at for row in taken(self.into)), None)
        if kept < 1 or now - self._tried < timedelta(hours=1) or not due(now, last, hour, self.since):
            return False
        self._tried = now
        try:
            take(self.folder, self.into, kept, now)
        except (CopyError, InUse, OSError) as refused:
            self.problem = str(refused)
            tell(f"the nightly backup was not taken: {refused}")
            return False
        self.problem = ""
        return True

    def run(self, ending: threading.Event) -> None:
        """Until the application ends."""
        while not ending.wait(LOOK_S):
            try:
                self.look()
            except StoreError as problem:  # the database is away: it is started again
                self.problem = str(problem)
