"""Files are read by processes of their own: each reads one file and ends; whoever leaves ends the one that read for
them.
"""

from __future__ import annotations

import asyncio
import json
from collections.abc import Awaitable, Callable
from dataclasses import asdict
from multiprocessing.connection import Connection
from multiprocessing.context import ForkServerProcess
from pathlib import Path
from typing import Any

from ..core.formats import FormatError, Limits
from ..reader import main
from ..work.forked import context, started

LIMIT_SECONDS = 180.0
AT_ONCE = 3
"""Files that are read side by side; more wait."""
LOOKS_SECONDS = 0.25
"""How often somebody looks whether anybody still waits."""


def _died() -> FormatError:
    return FormatError(
        "reader-died",
        "The file ended the process that read it.",
        remedy="Decimate it, or export it again as a plain mesh.",
    )


class Readers:
    """The readers of one application."""

    def __init__(self, limit_seconds: float = LIMIT_SECONDS) -> None:
        self._limit = limit_seconds
        self._room: asyncio.Semaphore | None = None
        self._running: set[ForkServerProcess] = set()

    async def read(
        self, path: Path, out: Path, limits: Limits, *, thin_to: int | None, gone: Callable[[], Awaitable[bool]]
    ) -> dict[str, Any] | None:
        """What the file holds, its parts' content in files under `out`; None where `gone` says that nobody waits any
        more.

        Raises:
            FormatError: the file cannot be read, or not within the limit of time.
        """
        self._room = self._room or asyncio.Semaphore(AT_ONCE)
        asked = {"path": str(path), "out": str(out), "limits": asdict(limits), "thin_to": thin_to}
        async with self._room:
            ours, theirs = context.Pipe(duplex=False)
            # The very first waits until the one that forks has loaded.
            process = await asyncio.to_thread(started, main, "tenugui-reader", theirs, asked)
            theirs.close()
            self._running.add(process)
            try:
                text = await self._answer(ours, gone)
            finally:
                self._running.discard(process)
                process.kill()
                await asyncio.to_thread(process.join)
                process.close()
                ours.close()
        if text is None:
            return None
        answer = json.loads(text)
        if "refused" in answer:
            r = answer["refused"]
            raise FormatError(r["code"], r["what"], r["where"], r["remedy"])
        return dict(answer["read"])

    async def _answer(self, pipe: Connection, gone: Callable[[], Awaitable[bool]]) -> bytes | None:
        """What comes down the pipe; None where nobody waits for it."""
        loop = asyncio.get_running_loop()
        until = loop.time() + self._limit
        while not await asyncio.to_thread(pipe.poll, LOOKS_SECONDS):
            if await gone():
                return None
            if loop.time() > until:
                raise FormatError(
                    "too-long",
                    f"Reading the file takes more than {self._limit:.0f} seconds.",
                    remedy="Export it again as a plain mesh, or decimate it.",
                )
        try:
            return await asyncio.to_thread(pipe.recv_bytes)
        except EOFError:
            raise _died() from None

    async def close(self) -> None:
        """End all."""
        for process in list(self._running):
            process.kill()
