"""Backup and restore: the whole database as one SQL file, by MariaDB's own dump, with an end mark of ours.

A backup may be taken while the application runs. It is restored into a fresh folder, verified there, and only then put
in the place of what was: that is kept beside it.
"""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import re
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path
from typing import IO, Any

from yoyo import read_migrations

from . import blobs
from .db import Store, StoreError, migrate
from .server import Address, DatabaseServer, InUse

MARK = b"-- tenugui backup "
"""Begins the last line of a backup: the SHA-256 of all before it, and the rows of each table."""
ROW = re.compile(rb"INSERT INTO `(\w+)`")
TAIL_BYTES = 1_000_000


class CopyError(Exception):
    """A backup that cannot be taken or restored, in words for the person at the terminal."""


def _client(program: str, address: Address) -> list[str]:
    return [
        program,
        "--no-defaults",
        f"--host={address.host}",
        f"--port={address.port}",
        "--protocol=tcp",
        f"--user={address.user}",
        "--max-allowed-packet=64M",
    ]


def _secret(address: Address) -> dict[str, str]:
    return {**os.environ, "MYSQL_PWD": address.password}


@contextlib.contextmanager
def _address(server: DatabaseServer) -> Iterator[Address]:
    """The folder's database: that of the running application, or one that is started for as long as it is needed."""
    try:
        address = server.start()
    except InUse:
        running = server.running()
        if running is None:
            raise
        yield running
        return
    try:
        yield address
    finally:
        server.stop()


COMPUTED = ("results", "result_blobs", "jobs")
CONTENT = ("blobs", "blob_chunks")
NAMED = re.compile(rb"[0-9a-f]{64}")


def _dumped(address: Address, words: list[str]) -> Iterator[bytes]:
    """Lines of a dump.

    Raises:
        CopyError: it did not end well.
    """
    always = ["--single-transaction", "--hex-blob", "--add-drop-table", "--skip-extended-insert"]
    dump = subprocess.Popen(
        [*_client("mariadb-dump", address), *always, *words],
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        env=_secret(address),
    )
    assert dump.stdout is not None and dump.stderr is not None
    try:
        yield from dump.stdout
        said = dump.stderr.read().decode(errors="replace")
        if dump.wait():
            raise CopyError(f"The backup did not end well: {said.strip()[-400:]}")
    finally:
        dump.kill()
        dump.wait()


def _content(address: Address, named: set[bytes]) -> Iterator[bytes]:
    """Content that is named, as statements: each blob with its chunks."""
    store = Store(address)
    yield b"SET FOREIGN_KEY_CHECKS = 0;\n"
    try:
        with store.work() as sql:
            for sha in sorted(named):
                sql.execute("SELECT sha256, size, chunks, created_at FROM blobs WHERE sha256 = %s", (sha.decode(),))
                row = sql.fetchone()
                if row is None:
                    continue  # sixty-four digits that name no content
                values = f"'{row['sha256']}',{row['size']},{row['chunks']},'{row['created_at']}'"
                yield f"INSERT INTO `blobs` (sha256, size, chunks, created_at) VALUES ({values});\n".encode()
                for n in range(row["chunks"]):
                    sql.execute("SELECT data, packed FROM blob_chunks WHERE sha256 = %s AND n = %s", (row["sha256"], n))
                    chunk = sql.fetchone()
                    if chunk is None:
                        raise CopyError(f"The stored file {row['sha256'][:12]} is not whole. Nothing was written.")
                    data = b"0x" + bytes(chunk["data"]).hex().encode() if chunk["data"] else b"''"
                    yield b"INSERT INTO `blob_chunks` (sha256, n, data, packed) VALUES ('%s',%d,%s,%d);\n" % (
                        sha,
                        n,
                        data,
                        chunk["packed"],
                    )
    finally:
        store.close()


def _lines(address: Address, whole: bool) -> Iterator[bytes]:
    """What a backup holds. Without what can be computed again: results, jobs, and content that only results name."""
    database = address.database
    if whole:
        yield from _dumped(address, [database])
        return
    named = set[bytes]()
    left = [f"--ignore-table={database}.{table}" for table in (*COMPUTED, *CONTENT)]
    for line in _dumped(address, [*left, database]):
        named.update(NAMED.findall(line))
        yield line
    yield from _dumped(address, ["--no-data", database, *COMPUTED, *CONTENT])
    yield from _content(address, named)


def backup(folder: Path, file: Path, *, whole: bool = False) -> int:
    """Write a database folder to a file that only its owner reads; how many rows. `whole`: with what can be computed
    again too. A broken backup never has the asked name.

    Raises:
        CopyError: there is no place for it, or the dump did not end well.
    """
    if not file.parent.is_dir():
        raise CopyError(f"There is no folder {file.parent}: make it first. Nothing was written.")
    part = file.with_name(file.name + ".part")
    with _address(DatabaseServer(folder)) as address:
        digest, rows = hashlib.sha256(), dict[str, int]()
        try:
            with os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "wb") as out:
                for line in _lines(address, whole):
                    digest.update(line)
                    out.write(line)
                    if row := ROW.match(line):
                        rows[row[1].decode()] = rows.get(row[1].decode(), 0) + 1
                out.write(MARK + json.dumps({"sha256": digest.hexdigest(), "rows": rows}).encode() + b"\n")
                out.flush()
                os.fsync(out.fileno())
            part.rename(file)
        except OSError as full:
            raise CopyError(f"{file} cannot be written: {full.strerror}. Nothing was kept of it.") from full
        finally:
            part.unlink(missing_ok=True)
    return sum(rows.values())


def _checked(file: Path, unmarked: bool) -> dict[str, int] | None:
    """Rows of each table that a backup says it holds; None with `unmarked`, where it is of before there was a mark and
    nothing can be checked.

    Raises:
        CopyError: the file is no backup, is cut off, or is not as it was written.
    """
    size = file.stat().st_size
    with open(file, "rb") as handle:
        handle.seek(max(0, size - TAIL_BYTES))
        tail = handle.read()
        last = tail.rstrip(b"\n").rpartition(b"\n")[2]
        if not last.startswith(MARK):
            if b"-- Dump completed" in tail[-200:]:
                if unmarked:
                    return None
                raise CopyError(
                    f"{file} bears no end mark: it is of an older version, or it is cut off. Nothing was changed. "
                    "If you know that it is whole, say --unmarked."
                )
            raise CopyError(f"{file} is no backup, or is cut off: its end is missing. Nothing was changed.")
        try:
            mark: dict[str, Any] = json.loads(last[len(MARK) :])
        except ValueError as cut:
            raise CopyError(f"{file} is cut off within its last line. Nothing was changed.") from cut
        handle.seek(0)
        if _digest(handle, size - len(last) - 1) != mark["sha256"]:
            raise CopyError(f"{file} is not as it was written: its checksum differs. Nothing was changed.")
    return {str(name): int(many) for name, many in mark["rows"].items()}


def _digest(handle: IO[bytes], size: int) -> str:
    digest = hashlib.sha256()
    while size > 0 and (part := handle.read(min(size, 1 << 20))):
        digest.update(part)
        size -= len(part)
    return digest.hexdigest()


def restore(folder: Path, file: Path, *, unmarked: bool = False) -> Path | None:
    """Put a backup in the place of a database folder; where what was there is kept, None where there was nothing.
    `unmarked`: one without an end mark too.

    Raises:
        CopyError: the file or what came out of it is not whole; nothing was changed.
        InUse: the application runs.
    """
    rows = _checked(file, unmarked)
    server = DatabaseServer(folder)
    if folder.exists():
        server.take()
    try:
        fresh = _made(folder.with_name(folder.name + ".new"), file, rows)
        kept = None
        if folder.exists():
            kept = folder.with_name(f"{folder.name}.before-{time.strftime('%Y%m%d-%H%M%S')}")
            folder.rename(kept)
        fresh.rename(folder)
    finally:
        server.leave()
    return kept


def _made(fresh: Path, file: Path, rows: dict[str, int] | None) -> Path:
    """A new database folder with what is in a backup, verified; nothing stays of it where that fails."""
    shutil.rmtree(fresh, ignore_errors=True)
    server = DatabaseServer(fresh)
    try:
        address = server.start()
        with open(file, "rb") as source:
            ended = subprocess.run(
                [*_client("mariadb", address), address.database],
                stdin=source,
                env=_secret(address),
                stderr=subprocess.PIPE,
                text=True,
            )
        if ended.returncode:
            raise CopyError(f"{file} cannot be read back: {ended.stderr.strip()[-400:]} Nothing was changed.")
        _verify(address, rows)
    except BaseException:
        server.stop()
        shutil.rmtree(fresh, ignore_errors=True)
        raise
    server.stop()
    return fresh


def _verify(address: Address, rows: dict[str, int] | None) -> None:
    """Rows as they were counted, a version that is known here, and every file's SHA-256.

    Raises:
        CopyError: what is not so.
    """
    store = Store(address)
    try:
        with store.work() as sql:
            sql.execute("SHOW TABLES")
            tables = [str(next(iter(row.values()))) for row in sql.fetchall()]
            for name in rows or {}:
                if name not in tables:
                    raise CopyError(f"The table {name} did not come back. Nothing was changed.")
            for name in tables if rows is not None else ():
                sql.execute(f"SELECT COUNT(*) AS many FROM `{name}`")
                many, wanted = int((sql.fetchone() or {})["many"]), (rows or {}).get(name, 0)
                if many != wanted:
                    raise CopyError(f"Of {wanted} rows of {name} came back {many}. Nothing was changed.")
            known = {m.id for m in read_migrations(str(Path(__file__).parent / "migrations"))}
            sql.execute("SELECT migration_id FROM _yoyo_migration")
            strange = {str(row["migration_id"]) for row in sql.fetchall()} - known
            if strange:
                raise CopyError(
                    f"The backup is of a newer version ({', '.join(sorted(strange))}). Nothing was changed."
                )
            sql.execute("SELECT sha256 FROM blobs")
            kept = [str(row["sha256"]) for row in sql.fetchall()]
        migrate(address)
        for sha in kept:
            try:
                blobs.get(store, sha)
            except StoreError as damaged:
                raise CopyError(f"{damaged.what} Nothing was changed.") from damaged
    finally:
        store.close()


USAGE = "usage: ./tenugui backup FILE [--whole] | restore FILE [--unmarked]"


def main(words: list[str]) -> int:
    """`backup FILE [--whole]` or `restore FILE [--unmarked]`: 0 when done, 1 when it could not be, 2 when it was asked
    wrongly.
    """
    verb, names, asked = (
        (words or [""])[0],
        [w for w in words[1:] if w[:1] != "-"],
        {w for w in words[1:] if w[:1] == "-"},
    )
    known = {"backup": {"--whole"}, "restore": {"--unmarked"}}
    if verb not in known or len(names) != 1 or asked - known[verb]:
        print(USAGE, file=sys.stderr)
        return 2
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(143))  # what was begun is taken away on the way out
    file = Path(names[0]).resolve()
    if verb == "restore" and not file.is_file():
        print(f"tenugui: there is no file {file}.", file=sys.stderr)
        return 2
    folder = Path(os.environ["TENUGUI_STATE"]).resolve() / "db"
    try:
        if verb == "backup":
            many = backup(folder, file, whole=bool(asked))
            left = "" if asked else " What can be computed again is left out (--whole keeps it)."
            print(f"{many:,} rows are in {file}.{left}")
        else:
            kept = restore(folder, file, unmarked=bool(asked))
            print(
                "The bench is as it was when the backup was taken."
                + (f" What was here before is kept in {kept}." if kept else "")
            )
    except (CopyError, InUse) as refused:
        print(f"tenugui: {refused}", file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
