"""Where a pipeline puts what it makes: content by its hash, results by the hash of their inputs, and a few objects in
memory.
"""

from __future__ import annotations

import hashlib
import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Any, Protocol, TypeVar

T = TypeVar("T")
REMEMBERED = 16
"""Objects that stay in memory: the figure that is being worked on, its placed copy, its first proof at each height."""


class Memory:
    """The last few objects by key, so that one figure is not unpacked again for every fold."""

    def __init__(self, most: int = REMEMBERED) -> None:
        self._held: OrderedDict[Hashable, Any] = OrderedDict()
        self._lock = threading.Lock()
        self._most = most

    def recall(self, key: Hashable, make: Callable[[], T]) -> T:
        """What is held under `key`, made where it is not."""
        with self._lock:
            if key in self._held:
                self._held.move_to_end(key)
                return self._held[key]  # type: ignore[no-any-return]
        value = make()
        with self._lock:
            self._held[key] = value
            while len(self._held) > self._most:
                self._held.popitem(last=False)
        return value

    def clear(self) -> None:
        """Forget all of them."""
        with self._lock:
            self._held.clear()


class Shelf(Protocol):
    """What a pipeline needs around it. The store has one behind the workers, the command line one in memory."""

    memory: Memory

    def put(self, data: bytes) -> str:
        """Keep content; returns its SHA-256."""

    def get(self, sha: str) -> bytes:
        """Content by its hash."""

    def kept(self, key: str) -> bytes | None:
        """A result by the hash of its inputs."""

    def keep(self, key: str, kind: str, data: bytes) -> None:
        """Keep a result."""

    def forget(self, key: str) -> None:
        """Throw a result away, where it is kept."""


class MemoryShelf:
    """A shelf that lasts as long as the process."""

    def __init__(self) -> None:
        self.memory = Memory()
        self._content: dict[str, bytes] = {}
        self._results: dict[str, bytes] = {}

    def put(self, data: bytes) -> str:
        """Keep content."""
        sha = hashlib.sha256(data).hexdigest()
        self._content[sha] = data
        return sha

    def get(self, sha: str) -> bytes:
        """Content by its hash."""
        return self._content[sha]

    def kept(self, key: str) -> bytes | None:
        """A result."""
        return self._results.get(key)

    def keep(self, key: str, kind: str, data: bytes) -> None:
        """Keep a result."""
        self._results[key] = data

    def forget(self, key: str) -> None:
        """Throw a result away."""
        self._results.pop(key, None)
