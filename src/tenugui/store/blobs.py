"""Model files by content: SHA-256, in chunks, stored once, checked on every read."""

from __future__ import annotations

import hashlib
import io
from typing import BinaryIO

import pymysql

from .db import Store, StoreError

CHUNK = 4 * 1024 * 1024


def put(store: Store, handle: BinaryIO) -> str:
    """Store the bytes of a seekable handle and return their SHA-256; all or nothing."""
    digest = hashlib.sha256()
    size = chunks = 0
    handle.seek(0)
    while part := handle.read(CHUNK):
        digest.update(part)
        size, chunks = size + len(part), chunks + 1
    sha = digest.hexdigest()
    with store.work() as sql:
        sql.execute("SELECT 1 FROM blobs WHERE sha256 = %s", (sha,))
        if sql.fetchone():
            return sha
        try:
            sql.execute("INSERT INTO blobs (sha256, size, chunks) VALUES (%s, %s, %s)", (sha, size, chunks))
        except pymysql.err.IntegrityError:
            return sha  # another request stored the same bytes meanwhile
        handle.seek(0)
        for n in range(chunks):
            sql.execute("INSERT INTO blob_chunks (sha256, n, data) VALUES (%s, %s, _binary %s)", (sha, n, handle.read(CHUNK)))
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
            sql.execute("SELECT data FROM blob_chunks WHERE sha256 = %s AND n = %s", (sha, n))
            chunk = sql.fetchone()
            if not chunk:
                break
            digest.update(chunk["data"])
            parts.append(chunk["data"])
    if digest.hexdigest() != sha:
        raise StoreError(
            "damaged-blob", f"The stored file {sha[:12]} is damaged.", "Restore it from a backup, or import the figure again.", 500
        )
    return b"".join(parts)
