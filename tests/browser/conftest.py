"""A whole Tenugui of the tests' own: database, workers, server, and Debian's Chromium."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright

from tenugui.demo.figures import demo_files

FLAGS = [
    "--no-sandbox", "--enable-unsafe-swiftshader", "--use-angle=swiftshader", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
    # Only what draws in the round goes through the software that stands in for a graphics card.
    "--disable-gpu-rasterization", "--disable-gpu-compositing",
]  # fmt: skip


# The first look at a figure in a fresh state folder compiles its loops, on whatever machine this is.
PATIENCE = 120_000
expect.set_options(timeout=PATIENCE)


@dataclass
class Running:
    """A started Tenugui."""

    address: str
    state: Path
    process: subprocess.Popen[bytes]


def workers(server: Running) -> list[int]:
    """Forked by a child of the server."""
    found = subprocess.run(["pgrep", "-P", str(server.process.pid)], capture_output=True, text=True)
    below = ",".join(found.stdout.split())
    found = subprocess.run(["pgrep", "-P", below, "-x", "tenugui-worker"], capture_output=True, text=True)
    return [int(pid) for pid in found.stdout.split()]


def start(state: Path, port: int, *, well: bool = True) -> Running:
    """Start and wait until it answers, and says that it is `well`."""
    process = subprocess.Popen(
        [sys.executable, "-m", "tenugui.cli", "serve", "--port", str(port)],
        env={**os.environ, "TENUGUI_STATE": str(state)},
        start_new_session=True,
    )
    address = f"http://127.0.0.1:{port}"
    for _ in range(600):
        try:
            urllib.request.urlopen(f"{address}/api/health", timeout=2).read()
            return Running(address, state, process)
        except urllib.error.HTTPError:
            if not well:
                return Running(address, state, process)
            time.sleep(0.1)
        except OSError:
            assert process.poll() is None, "the server ended at its start"
            time.sleep(0.1)
    raise AssertionError("the server did not start")


def free_port() -> int:
    """A port that nobody uses."""
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return int(s.getsockname()[1])


def started(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Running]:
    """A server, ended afterwards: where a module wants one of its own, this is its fixture."""
    held = start(tmp_path_factory.mktemp("state"), free_port())
    yield held
    held.process.terminate()
    held.process.wait(30)


@pytest.fixture(scope="session")
def running(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Running]:
    """A server that journeys share: they bring in figures of their own. Starting one with its workers takes longer than
    many of them.
    """
    yield from started(tmp_path_factory)


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    """Debian's Chromium, headless, with a software WebGL."""
    with sync_playwright() as play:
        held = play.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield held
        held.close()


UNDRAWN = """
for (const kind of [WebGLRenderingContext, WebGL2RenderingContext])
  for (const deed of ["drawElements", "drawArrays", "drawElementsInstanced", "drawArraysInstanced", "clear"])
    if (deed in kind.prototype) kind.prototype[deed] = () => {};
"""
"""What is clicked on a figure is found by its triangles, and no journey looks at its picture but one: drawn in software
it is most of a browser's work.
"""


@cache
def _window(browser: Browser, address: str) -> BrowserContext:
    return browser.new_context(
        viewport={"width": 1280, "height": 800},
        # Laid out alike, drawn with a quarter of the points.
        device_scale_factor=0.5,
        base_url=address,
        reduced_motion="reduce",
    )


def opened(browser: Browser, running: Running, *, drawn: bool = False) -> Page:
    """A page at the size people use, as patient as every other; scripts are fetched and compiled once a server."""
    held = _window(browser, running.address).new_page()
    held.set_default_timeout(PATIENCE)
    if not drawn:
        held.add_init_script(UNDRAWN)
    return held


def watched(page: Page) -> Iterator[Page]:
    """Any script error fails the test."""
    errors: list[str] = []
    page.on("pageerror", lambda error: errors.append(str(error)))
    yield page
    page.goto("/api/folds")
    page.evaluate("localStorage.clear()")
    page.close()
    assert errors == []


@pytest.fixture
def page(browser: Browser, running: Running) -> Iterator[Page]:
    """A page whose figures are there to click on, and not drawn."""
    yield from watched(opened(browser, running))


@pytest.fixture
def drawn_page(browser: Browser, running: Running) -> Iterator[Page]:
    """A page that draws its figures."""
    yield from watched(opened(browser, running, drawn=True))


@pytest.fixture(scope="session")
def warden() -> Path:
    """The demo's reed warden, sculpted once and kept in the project's state folder."""
    folder = Path(os.environ.get("TENUGUI_STATE", ".state")) / "demo"
    return demo_files(folder, ["reed-warden"])["reed-warden"]
