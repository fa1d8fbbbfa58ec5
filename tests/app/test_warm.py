"""The reader that waits: one, however uploads are staggered, and one that has died costs nobody an upload."""

from __future__ import annotations

import asyncio
import contextlib
import os
import signal
from collections.abc import Coroutine
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from tenugui.app.readers import Readers
from tenugui.core.formats import Limits
from tests.shapes import ball, stl_bytes


def _apart(doing: Coroutine[None, None, None]) -> None:
    """Run in a thread of its own: a browser's journey may have left a loop running in this one."""
    with ThreadPoolExecutor(1) as pool:
        pool.submit(asyncio.run, doing).result()


async def _nobody_left() -> bool:
    return False


def of_this_process() -> list[int]:
    """Readers that this process has started and that live."""
    found = []
    for task in Path("/proc/self/task").iterdir():
        with contextlib.suppress(FileNotFoundError, ProcessLookupError):  # a thread or a child that has just ended
            for child in (task / "children").read_text().split():
                words = Path(f"/proc/{child}/cmdline").read_bytes()
                if b"tenugui.reader" in words:
                    found.append(int(child))
    return found


async def _left(many: int) -> list[int]:
    """Readers of this process, once there are so many: they start and end in their own time."""
    for _ in range(200):
        if len(of_this_process()) == many:
            break
        await asyncio.sleep(0.05)
    there = of_this_process()
    assert len(there) == many
    return there


def test_one_reader_waits_however_uploads_are_staggered(tmp_path: Path) -> None:
    figure = tmp_path / "egg.stl"
    figure.write_bytes(stl_bytes(ball(3)))

    async def uploads() -> None:
        readers = Readers()
        await readers.warm_up()

        async def one(k: int) -> None:
            await asyncio.sleep(0.15 * k)
            out = tmp_path / str(k)
            out.mkdir()
            found = await readers.read(figure, out, Limits(), thin_to=None, gone=_nobody_left)
            assert found and found["parts"]

        await asyncio.gather(*(one(k) for k in range(5)), readers.warm_up(), readers.warm_up())
        await _left(1)
        await readers.close()
        await _left(0)

    _apart(uploads())


def test_a_reader_that_died_while_it_waited_is_replaced(tmp_path: Path) -> None:
    figure = tmp_path / "egg.stl"
    figure.write_bytes(stl_bytes(ball(3)))

    async def upload() -> None:
        readers = Readers()
        await readers.warm_up()
        (waits,) = await _left(1)
        os.kill(waits, signal.SIGKILL)
        await asyncio.sleep(0.3)
        assert await readers.read(figure, tmp_path, Limits(), thin_to=None, gone=_nobody_left)
        await readers.close()

    _apart(upload())
