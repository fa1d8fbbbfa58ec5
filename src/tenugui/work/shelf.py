"""The pipeline's shelf on the store."""

from __future__ import annotations

from ..core.plan import Memory
from ..store import blobs, results
from ..store.db import Store


class StoreShelf:
    """See `core.plan.Shelf`. What it remembers stays for the life of its process."""

    def __init__(self, store: Store, memory: Memory | None = None) -> None:
        self.store = store
        self.memory = Memory() if memory is None else memory
        self.mesh_sha: str | None = None
        """The mesh that is worked on: what its results belong to."""

    def about(self, mesh_sha: str | None) -> StoreShelf:
        """The same shelf, for results that belong to a mesh."""
        other = StoreShelf(self.store, self.memory)
        other.mesh_sha = mesh_sha
        return other

    def put(self, data: bytes) -> str:
        """Keep content."""
        return blobs.put_bytes(self.store, data)

    def get(self, sha: str) -> bytes:
        """Content by its hash."""
        return blobs.get(self.store, sha)

    def kept(self, key: str) -> bytes | None:
        """A result."""
        return results.kept(self.store, key)

    def keep(self, key: str, kind: str, data: bytes) -> None:
        """Keep a result and what it names."""
        results.keep(self.store, key, kind, data, self.mesh_sha)

    def forget(self, key: str) -> None:
        """Throw a result away."""
        results.forget(self.store, key)
