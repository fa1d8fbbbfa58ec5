"""The page: a million triangles from the file to a turning picture, opened again, and painted on. A real server,
database and browser.
"""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

FLAGS = [
    "--no-sandbox", "--enable-unsafe-swiftshader", "--use-angle=swiftshader", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
]  # fmt: skip
TRIANGLES = 1_000_000
TIMES = 3
SLOWEST = "document.querySelector('[data-turntable] canvas').dataset.slowestMove"


@contextmanager
def serving(source: Path | None = None) -> Iterator[str]:
    """A Tenugui with an empty bench, of this checkout or of the sources given; its address."""
    path = {"PYTHONPATH": str(source)} if source else {}
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        port = int(s.getsockname()[1])
    with tempfile.TemporaryDirectory() as state:
        process = subprocess.Popen(
            [sys.executable, "-m", "tenugui.cli", "serve", "--port", str(port)],
            env={**os.environ, **path, "TENUGUI_STATE": state},
            stdout=subprocess.DEVNULL,
        )
        address = f"http://127.0.0.1:{port}"
        try:
            for _ in range(300):
                try:
                    urllib.request.urlopen(f"{address}/api/health", timeout=2).read()
                    break
                except OSError:
                    time.sleep(0.1)
            yield address
        finally:
            process.terminate()
            process.wait(30)


def _turning(page: Any) -> None:
    page.wait_for_selector("[data-turntable] canvas")
    page.get_by_text("The figure is on its way").wait_for(state="detached")


def _bring_in(page: Any, path: Path) -> float:
    page.goto("/")
    page.get_by_role("heading", name="On the bench").wait_for()
    page.wait_for_timeout(1500)
    began = time.perf_counter()
    page.locator("#pick-file").set_input_files(path)
    page.wait_for_url("**/plan/*/size")
    _turning(page)
    return time.perf_counter() - began


def _paint(page: Any) -> float:
    """Milliseconds of script of the slowest move of a brush of 4 mm."""
    page.get_by_role("button", name="Take this size").click()
    page.get_by_role("button", name="Lay on as show").wait_for(timeout=120_000)
    box = page.locator("[data-turntable] canvas").bounding_box()
    x, y = box["x"] + box["width"] / 2 - 45, box["y"] + box["height"] / 2 - 40
    page.mouse.move(x, y)
    page.mouse.down()
    for step in range(60):
        page.mouse.move(x + 1.5 * step, y + 1.2 * step)
    page.mouse.up()
    return float(page.evaluate(SLOWEST))


def table(stone: Any) -> None:
    """Print the table; `stone(faces)` makes the figure."""
    from playwright.sync_api import sync_playwright

    from tenugui.core.formats import write_stl
    from tenugui.core.mesh import Mesh

    made = stone(TRIANGLES)
    title = f"The page: {len(made.faces):,} triangles, a real browser without a graphics card; best of {TIMES}"
    print(f"{title}\n{'':52} {'seconds':>9}")
    with serving() as address, sync_playwright() as play, tempfile.TemporaryDirectory() as folder:
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=address)
        page.set_default_timeout(120_000)
        first = []
        for turn in range(TIMES):
            path = Path(folder) / f"stone-{turn}.stl"
            with open(path, "wb") as handle:  # another size each time, so that nothing is known already
                write_stl(Mesh(made.vertices * (1 + turn / 50), made.faces), handle)
            first.append(_bring_in(page, path))
            page.get_by_role("heading", name="What the file brought with it").wait_for()
        print(f"{'from the file to a turning picture':52} {min(first):9.2f}")
        again = []
        for _ in range(TIMES):
            began = time.perf_counter()
            page.reload()
            _turning(page)
            again.append(time.perf_counter() - began)
        print(f"{'opened again':52} {min(again):9.2f}")
        print(f"{'the slowest of 60 brush moves (script alone)':52} {_paint(page) / 1000:9.4f}\n")
        browser.close()
