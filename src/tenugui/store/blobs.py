"""Model files by content: SHA-256, in packed chunks, stored once, checked on every read."""

from __future__ import annotations

import hashlib
import io
import tempfile
from collections import deque
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from typing import BinaryIO

import pymysql
from isal import isal_zlib

from .db import Store, StoreError, retried

CHUNK = 4 * 1024 * 1024
THREADS = 2


TOUCHED_MINUTES = 10
"""Content that is stored again counts as new from then on, noted no more often than this: `tidy` leaves it alone until
something names it.
"""


SPOOLED = 64 * 2**20
"""Packed content of more than this waits on the disk."""


@dataclass(frozen=True)
class Packed:
    """Content made ready to be stored: its SHA-256, its size, and its packed chunks, so long each, one after the other
    in `out`.
    """

    sha: str
    size: int
    lengths: list[int]
    out: BinaryIO

    def chunks(self) -> Iterator[bytes]:
        """One after the other, from the first."""
        self.out.seek(0)
        for length in self.lengths:
            yield self.out.read(length)


def _parts(handle: BinaryIO) -> Iterator[bytes]:
    handle.seek(0)
    while part := handle.read(CHUNK):
        yield part


def _pack(part: bytes) -> bytes:
    return bytes(isal_zlib.compress(part, 1))


def packed(handle: BinaryIO, sha: str | None = None) -> Packed:
    """The bytes of a seekable handle made ready, with nothing asked of the database; its SHA-256 is computed here where
    it is not given.
    """
    handle.seek(0)
    sha = sha or hashlib.file_digest(handle, "sha256").hexdigest()  # type: ignore[arg-type]
    size = handle.seek(0, io.SEEK_END)
    out, lengths = tempfile.SpooledTemporaryFile(SPOOLED), list[int]()  # noqa: SIM115 (it goes with what names it)
    with ThreadPoolExecutor(THREADS) as pool:
        ahead: deque[Future[bytes]] = deque()  # no more of it in memory than threads work on
        for part in _parts(handle):
            ahead.append(pool.submit(_pack, part))
            if len(ahead) > THREADS:
                lengths.append(out.write(ahead.popleft().result()))
        lengths += [out.write(left.result()) for left in ahead]
    return Packed(sha, size, lengths, out)  # type: ignore[arg-type]


def bytes_kept(store: Store) -> int:
    """Bytes of all content, each counted once, as it was before it was packed."""
    with store.work() as sql:
        sql.execute("SELECT COALESCE(SUM(size), 0) AS n FROM blobs")
        return int((sql.fetchone() or {"n": 0})["n"])


def is_there(store: Store, sha: str) -> bool:
    """Whether content is stored; that it was asked for keeps it from being freed for a while."""
    with store.work() as sql:
        sql.execute(
            "UPDATE blobs SET created_at = CURRENT_TIMESTAMP(3) WHERE sha256 "
            "= %s AND created_at < CURRENT_TIMESTAMP(3) - INTERVAL %s MINUTE",
            (sha, TOUCHED_MINUTES),
        )
        sql.execute("SELECT 1 FROM blobs WHERE sha256 = %s", (sha,))
        return sql.fetchone() is not None


@retried
def put_packed(store: Store, packed: Packed) -> str:
    """Store what was made ready, once; returns its SHA-256. All or nothing, in as long as it takes to write it."""
    if is_there(store, packed.sha):
        return packed.sha
    with store.work() as sql:
        try:
            sql.execute(
                "INSERT INTO blobs (sha256, size, chunks) VALUES (%s, %s, %s)",
                (packed.sha, packed.size, len(packed.lengths)),
            )
        except pymysql.err.IntegrityError:
            return packed.sha  # another stored the same bytes meanwhile
        for n, chunk in enumerate(packed.chunks()):
            sql.execute(
                "INSERT INTO blob_chunks (sha256, n, data, packed) VALUES (%s, %s, _binary %s, 1)",
                (packed.sha, n, chunk),
            )
    return packed.sha


def put(store: Store, handle: BinaryIO, sha: str | None = None) -> str:
    """Store the bytes of a seekable handle and return their SHA-256 (computed here where it is not given); all or
    nothing.
    """
    if sha is not None and is_there(store, sha):
        return sha
    return put_packed(store, packed(handle, sha))


def put_bytes(store: Store, data: bytes) -> str:
    """`put` for bytes at hand."""
    return put(store, io.BytesIO(data))


def get(store: Store, sha: str) -> bytes:
    """The bytes of a blob, checked. Raises `StoreError` where they are missing or damaged."""
    digest, parts = hashlib.sha256(), []
    with store.work() as sql:
        sql.execute("SELECT chunks FROM blobs WHERE sha256 = %s", (sha,))
        row = sql.fetchone()
        if not row:
            raise StoreError("no-blob", f"There is no stored file {sha[:12]}.")
        for n in range(row["chunks"]):
            sql.execute("SELECT data, packed FROM blob_chunks WHERE sha256 = %s AND n = %s", (sha, n))
            chunk = sql.fetchone()
            if not chunk:
                break
            try:
                part = isal_zlib.decompress(chunk["data"]) if chunk["packed"] else chunk["data"]
            except isal_zlib.error:  # type: ignore[misc]
                break
            digest.update(part)
            parts.append(part)
    if digest.hexdigest() != sha:
        raise StoreError(
            "damaged-blob",
            f"The stored file {sha[:12]} is damaged.",
            "Restore it from a backup, or import the figure again.",
            500,
        )
    return b"".join(parts)
