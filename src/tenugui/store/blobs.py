"""Model files by content: SHA-256, in packed chunks, stored once, checked on every read."""

from __future__ import annotations

import hashlib
import io
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import BinaryIO

import pymysql
from isal import isal_zlib

from .db import Store, StoreError

CHUNK = 4 * 1024 * 1024
THREADS = 2


def _rewound(handle: BinaryIO) -> BinaryIO:
    handle.seek(0)
    return handle


def _parts(handle: BinaryIO) -> Iterator[bytes]:
    _rewound(handle)
    while part := handle.read(CHUNK):
        yield part


def _pack(part: bytes) -> bytes:
    return bytes(isal_zlib.compress(part, 1))


def put(
    store: Store, handle: BinaryIO, sha: str | None = None, before_commit: Callable[[], object] = lambda: None
) -> str:
    """Store the bytes of a seekable handle and return their SHA-256 (computed here where it is not given); all or nothing.

    `before_commit` may still be at work on the same bytes: what it raises undoes the storing.
    """
    sha = sha or hashlib.file_digest(_rewound(handle), "sha256").hexdigest()  # type: ignore[arg-type]
    size = handle.seek(0, io.SEEK_END)
    chunks = -(-size // CHUNK)
    with store.work() as sql:
        sql.execute("SELECT 1 FROM blobs WHERE sha256 = %s", (sha,))
        if sql.fetchone():
            before_commit()
            return sha
        try:
            sql.execute("INSERT INTO blobs (sha256, size, chunks) VALUES (%s, %s, %s)", (sha, size, chunks))
        except pymysql.err.IntegrityError:
            before_commit()
            return sha  # another request stored the same bytes meanwhile
        # Packing costs less than what the database saves by writing a third of the bytes; it runs beside the writing.
        with ThreadPoolExecutor(THREADS) as pool:
            for n, packed in enumerate(pool.map(_pack, _parts(handle))):
                sql.execute(
                    "INSERT INTO blob_chunks (sha256, n, data, packed) VALUES (%s, %s, _binary %s, 1)", (sha, n, packed)
                )
        before_commit()
    return sha


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
