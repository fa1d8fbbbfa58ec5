"""Freeing what nothing names any more: content without a reference, results that nobody has asked for, jobs
long ended.
"""

from __future__ import annotations

import argparse
import os
import re
from dataclasses import dataclass
from pathlib import Path

from .db import Store, migrate, retried
from .server import DatabaseServer, InUse

RESULT_DAYS = 60
JOB_DAYS = 14
YOUNG_MINUTES = 60
"""Content younger than this may still be on its way into a result."""


@dataclass(frozen=True)
class Freed:
    """How much was, or would be, freed."""

    results: int
    jobs: int
    blobs: int
    bytes: int


_SHA = re.compile(r"[0-9a-f]{64}")
_OLD = "created_at <= CURRENT_TIMESTAMP(3) - INTERVAL %s MINUTE"
_LOOSE = (
    f"SELECT b.sha256, b.size FROM blobs b WHERE b.{_OLD}"
    " AND NOT EXISTS (SELECT 1 FROM figures f WHERE b.sha256 IN (f.source_sha, "
    "f.mesh_sha, f.sight_sha, f.ready_sha, f.picture_sha, f.settings_sha))"
    " AND NOT EXISTS (SELECT 1 FROM photos p WHERE b.sha256 IN (p.sha256, p.small_sha))"
    " AND NOT EXISTS (SELECT 1 FROM kits k WHERE k.source_sha = b.sha256)"
    " AND NOT EXISTS (SELECT 1 FROM result_blobs r WHERE r.sha256 = b.sha256)"
)


@retried
def tidy(store: Store, *, dry: bool = False, young_minutes: int = YOUNG_MINUTES) -> Freed:
    """Free, or with `dry` only count, what nothing names. Decisions name content too: what a plan rests on stays."""
    with store.work() as sql:
        old = "used_at < CURRENT_TIMESTAMP(3) - INTERVAL %s DAY"
        ended = "state IN ('done', 'failed', 'cancelled') AND ended_at < CURRENT_TIMESTAMP(3) - INTERVAL %s DAY"
        if dry:
            sql.execute(f"SELECT COUNT(*) AS n FROM results WHERE {old}", (RESULT_DAYS,))
            results = int((sql.fetchone() or {"n": 0})["n"])
            sql.execute(f"SELECT COUNT(*) AS n FROM jobs WHERE {ended}", (JOB_DAYS,))
            jobs = int((sql.fetchone() or {"n": 0})["n"])
        else:
            results = int(sql.execute(f"DELETE FROM results WHERE {old}", (RESULT_DAYS,)))
            jobs = int(sql.execute(f"DELETE FROM jobs WHERE {ended}", (JOB_DAYS,)))
        sql.execute(_LOOSE, (young_minutes,))
        loose = {row["sha256"]: int(row["size"]) for row in sql.fetchall()}
        if loose:
            sql.execute(
                "SELECT choice FROM decisions UNION ALL SELECT input FROM jobs WHERE state IN ('waiting', 'running')"
            )
            for row in sql.fetchall():
                for sha in _SHA.findall(next(iter(row.values()))):
                    loose.pop(sha, None)
        if not dry:
            for sha in list(loose):
                # What a running task has found again meanwhile is young.
                if not sql.execute(f"DELETE FROM blobs WHERE sha256 = %s AND {_OLD}", (sha, young_minutes)):
                    del loose[sha]
    return Freed(results, jobs, len(loose), sum(loose.values()))


def main() -> None:
    """`./tenugui tidy [--dry-run]`, while the application is stopped; running, it tidies by itself."""
    words = argparse.ArgumentParser(prog="tenugui tidy", description=__doc__)
    words.add_argument("--dry-run", action="store_true", help="count only")
    dry = words.parse_args().dry_run
    server = DatabaseServer(Path(os.environ["TENUGUI_STATE"]) / "db")
    try:
        address = server.start()
    except InUse as held:
        raise SystemExit(f"tenugui: {held} While it runs it tidies by itself.") from held
    try:
        migrate(address)
        store = Store(address)
        freed = tidy(store, dry=dry)
        store.close()
    finally:
        server.stop()
    verb = "would be freed" if dry else "freed"
    print(
        f"{freed.results:,} results, {freed.jobs:,} jobs and "
        f"{freed.blobs:,} contents of {freed.bytes / 2**20:.1f} MB {verb}"
    )


if __name__ == "__main__":
    main()
