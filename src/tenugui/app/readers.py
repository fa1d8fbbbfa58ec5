"""Files are read by processes of their own: one waits, warm; each reads one file and ends; whoever leaves ends the one
that read for them.
"""

from __future__ import annotations

import asyncio
import contextlib
import json
import os
import sys
from collections.abc import Awaitable, Callable
from dataclasses import asdict
from pathlib import Path
from typing import Any

from ..core.formats import FormatError, Limits

LIMIT_SECONDS = 180.0
AT_ONCE = 3
"""Files that are read side by side; more wait."""


def _died() -> FormatError:
    return FormatError(
        "reader-died",
        "The file ended the process that read it.",
        remedy="Decimate it, or export it again as a plain mesh.",
    )


class Readers:
    """The readers of one application. One warm process waits ahead of the next file."""

    def __init__(self, limit_seconds: float = LIMIT_SECONDS) -> None:
        self._warm: asyncio.subprocess.Process | None = None
        self._warming: asyncio.Task[asyncio.subprocess.Process] | None = None
        self._limit = limit_seconds
        self._closed = False
        self._room: asyncio.Semaphore | None = None
        self._running: set[asyncio.subprocess.Process] = set()

    async def _started(self) -> asyncio.subprocess.Process:
        pipe = asyncio.subprocess.PIPE
        return await asyncio.create_subprocess_exec(
            sys.executable,
            "-m",
            "tenugui.reader",
            stdin=pipe,
            stdout=pipe,
            limit=2**26,
            start_new_session=True,
            env=dict(os.environ),
        )

    async def warm_up(self) -> None:
        """Have a process wait; one at a time, however many ask."""
        if self._closed or self._warm is not None or self._warming is not None:
            return
        self._warming = asyncio.get_running_loop().create_task(self._started())
        try:
            self._warm = await self._warming
        finally:
            self._warming = None

    async def _taken(self) -> asyncio.subprocess.Process:
        """The process that waits, where it lives still; else another."""
        process, self._warm = self._warm, None
        if process is not None and process.returncode is not None:
            process = None
        return process or await self._started()

    async def read(
        self, path: Path, out: Path, limits: Limits, *, thin_to: int | None, gone: Callable[[], Awaitable[bool]]
    ) -> dict[str, Any] | None:
        """What the file holds, its parts' content in files under `out`; None where `gone` says that nobody waits any
        more.

        Raises:
            FormatError: the file cannot be read, or not within the limit of time.
        """
        self._room = self._room or asyncio.Semaphore(AT_ONCE)
        async with self._room:
            process = await self._taken()
            self._running.add(process)
            asyncio.get_running_loop().create_task(self.warm_up())
            try:
                return await self._answer(process, path, out, limits=limits, thin_to=thin_to, gone=gone)
            finally:
                self._running.discard(process)
                with contextlib.suppress(ProcessLookupError):
                    process.kill()
                await process.wait()

    async def _answer(
        self,
        process: asyncio.subprocess.Process,
        path: Path,
        out: Path,
        *,
        limits: Limits,
        thin_to: int | None,
        gone: Callable[[], Awaitable[bool]],
    ) -> dict[str, Any] | None:
        assert process.stdin is not None and process.stdout is not None
        asked = {"path": str(path), "out": str(out), "limits": asdict(limits), "thin_to": thin_to}
        try:
            process.stdin.write(json.dumps(asked).encode() + b"\n")
            await process.stdin.drain()
        except ConnectionError:
            raise _died() from None
        line = asyncio.ensure_future(process.stdout.readline())
        until = asyncio.get_running_loop().time() + self._limit
        while not line.done():
            await asyncio.wait({line}, timeout=0.25)
            if line.done():
                break
            if await gone():
                line.cancel()
                return None
            if asyncio.get_running_loop().time() > until:
                line.cancel()
                raise FormatError(
                    "too-long",
                    f"Reading the file takes more than {self._limit:.0f} seconds.",
                    remedy="Export it again as a plain mesh, or decimate it.",
                )
        text = line.result()
        if not text:
            raise _died()
        answer = json.loads(text)
        if "refused" in answer:
            r = answer["refused"]
            raise FormatError(r["code"], r["what"], r["where"], r["remedy"])
        return dict(answer["read"])

    async def close(self) -> None:
        """End all, the one that is just being started too; no other is started."""
        self._closed = True
        if self._warming is not None:
            await asyncio.wait({self._warming})
            await asyncio.sleep(0)  # for whoever started it to note it
        for process in [*self._running, *([self._warm] if self._warm else [])]:
            with contextlib.suppress(ProcessLookupError):
                process.kill()
            await process.wait()
        self._warm = None
