"""Readers are forked: many at once leave none behind, and one that dies costs nobody but its own file."""

from __future__ import annotations

import asyncio
import os
import signal
import subprocess
from collections.abc import Coroutine
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from tenugui.app.readers import Readers
from tenugui.core.formats import FormatError, Limits
from tests.shapes import ball, stl_bytes


def _apart(doing: Coroutine[None, None, None]) -> None:
    """Run in a thread of its own: a browser's journey may have left a loop running in this one."""
    with ThreadPoolExecutor(1) as pool:
        pool.submit(asyncio.run, doing).result()


async def _nobody_left() -> bool:
    return False


def of_this_process() -> list[int]:
    """Readers forked for this process that live."""
    below = subprocess.run(["pgrep", "-P", str(os.getpid())], capture_output=True, text=True).stdout.split()
    found = subprocess.run(
        ["pgrep", "-P", ",".join(below) or "0", "-x", "tenugui-reader"], capture_output=True, text=True
    )
    return [int(pid) for pid in found.stdout.split()]


async def _left(many: int) -> list[int]:
    """Readers of this process, once there are so many: they start and end in their own time."""
    for _ in range(200):
        if len(of_this_process()) == many:
            break
        await asyncio.sleep(0.05)
    there = of_this_process()
    assert len(there) == many
    return there


def test_many_uploads_leave_no_reader_behind(tmp_path: Path) -> None:
    figure = tmp_path / "egg.stl"
    figure.write_bytes(stl_bytes(ball(3)))

    async def uploads() -> None:
        readers = Readers()

        async def one(k: int) -> None:
            await asyncio.sleep(0.05 * k)
            out = tmp_path / str(k)
            out.mkdir()
            found = await readers.read(figure, out, Limits(), thin_to=None, gone=_nobody_left)
            assert found and found["parts"]

        await asyncio.gather(*(one(k) for k in range(5)))
        await _left(0)

    _apart(uploads())


def test_a_reader_that_dies_is_told_and_the_next_file_is_read(tmp_path: Path) -> None:
    figure, slow = tmp_path / "egg.stl", tmp_path / "slow.stl"
    figure.write_bytes(stl_bytes(ball(3)))
    os.mkfifo(slow)  # it waits for somebody to write

    async def upload() -> None:
        readers = Readers()
        waits = asyncio.create_task(readers.read(slow, tmp_path, Limits(), thin_to=None, gone=_nobody_left))
        (reader,) = await _left(1)
        os.kill(reader, signal.SIGKILL)
        with pytest.raises(FormatError, match="ended the process"):
            await waits
        assert await readers.read(figure, tmp_path, Limits(), thin_to=None, gone=_nobody_left)

    _apart(upload())


def test_whoever_leaves_ends_the_reader_and_too_long_is_told(tmp_path: Path) -> None:
    slow = tmp_path / "slow.stl"
    os.mkfifo(slow)

    async def left() -> bool:
        return True

    async def uploads() -> None:
        assert await Readers().read(slow, tmp_path, Limits(), thin_to=None, gone=left) is None
        with pytest.raises(FormatError, match="more than 0 seconds"):
            await Readers(0.1).read(slow, tmp_path, Limits(), thin_to=None, gone=_nobody_left)
        await _left(0)

    _apart(uploads())
