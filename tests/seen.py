"""What figures look like is worked out once for all test processes: results are found again by what they are of, as
everybody's are, and here they lie in one folder.
"""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from tenugui.core.plan import MemoryShelf, Shelf
from tenugui.core.plan.figure import MadeDoc
from tenugui.work.shelf import StoreShelf

LOOKS = ("salient", "faces", "faced", "upright")
"""Which way up a figure stands, and what of it is looked at, takes seconds of every file."""


class Seen:
    """Results with the contents that they name, by their keys, in a folder."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        folder.mkdir(exist_ok=True)

    def keep(self, shelf: Shelf, key: str, kind: str, data: bytes) -> None:
        """For other processes too."""
        if kind == "salient":
            sha = MadeDoc.loaded(data).sha
            self._write(sha, shelf.get(sha))
        self._write(key, kind.encode() + b"\n" + data)

    def kept(self, shelf: Shelf, key: str) -> bytes | None:
        """What any process has kept, put on this shelf."""
        if not (self.folder / key).exists():
            return None
        kind, data = (self.folder / key).read_bytes().split(b"\n", 1)
        if kind == b"salient":
            shelf.put((self.folder / MadeDoc.loaded(data).sha).read_bytes())
        shelf.keep(key, kind.decode(), data)
        return data

    def _write(self, name: str, data: bytes) -> None:
        path = self.folder / f"{name}.{os.getpid()}"
        path.write_bytes(data)
        path.replace(self.folder / name)


@contextmanager
def seen_once(folder: Path) -> Iterator[None]:
    """Every shelf of this process keeps looks in a folder, and finds them there."""
    seen = Seen(folder)
    with pytest.MonkeyPatch.context() as patch:
        for shelf in (MemoryShelf, StoreShelf):
            _shared(patch, shelf, seen)
        yield


def _shared(patch: pytest.MonkeyPatch, shelf: type[MemoryShelf] | type[StoreShelf], seen: Seen) -> None:
    kept, keep = shelf.kept, shelf.keep

    def keep_it(self: Shelf, key: str, kind: str, data: bytes) -> None:
        keep(self, key, kind, data)  # type: ignore[arg-type]
        if kind in LOOKS:
            seen.keep(self, key, kind, data)

    patch.setattr(shelf, "kept", lambda self, key: kept(self, key) or seen.kept(self, key))
    patch.setattr(shelf, "keep", keep_it)
