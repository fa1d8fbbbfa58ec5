"""From a dropped file to a logged outcome, through the real screens, workers and database."""

from __future__ import annotations

import base64
import io
import os
import re
import signal
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Locator, Page, expect

from tenugui.core.formats import load
from tenugui.demo.people import reed_warden
from tests.browser.conftest import Running, started, workers
from tests.shapes import fork, knobbly, stl_bytes

DROP = """([selector, name, data]) => {
  const bytes = Uint8Array.from(atob(data), c => c.charCodeAt(0));
  const transfer = new DataTransfer();
  transfer.items.add(new File([bytes], name));
  document.querySelector(selector).dispatchEvent(
    new DragEvent('drop', { dataTransfer: transfer, bubbles: true, cancelable: true }));
}"""


@pytest.fixture(scope="module")
def running(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Running]:
    """A server whose database is killed."""
    yield from started(tmp_path_factory)


def drop(page: Page, name: str, body: bytes) -> None:
    """Drop a file onto the bench."""
    page.goto("/")
    expect(page.get_by_role("heading", name="On the bench")).to_be_visible()
    page.evaluate(DROP, ["main", name, base64.b64encode(body).decode()])


def settle_size(page: Page, height: str) -> None:
    page.get_by_label("Height of the whole figure, mm").fill(height)
    page.get_by_role("button", name=re.compile("Take this size")).click()


def go_on_without_marks(page: Page) -> None:
    expect(page.get_by_role("heading", name="Which surfaces matter?")).to_be_visible()
    page.get_by_role("button", name="Go on without marks").click()


def resting(table: Locator) -> np.ndarray:
    """The stage's picture once two in a row are the same: what still loads moves it."""
    last = np.zeros(0)
    for _ in range(30):
        seen = np.asarray(Image.open(io.BytesIO(table.screenshot())).convert("L"), float)
        if np.array_equal(seen, last):
            return seen
        last = seen
        table.page.wait_for_timeout(500)
    raise AssertionError("the stage's picture does not come to rest")


def turned_share(page: Page) -> float:
    """Which share of the stage's picture changes when the figure is turned by its keys."""
    table = page.locator("[data-turntable]").first
    before = resting(table)
    for _ in range(6):
        table.press("ArrowLeft")
    after = resting(table)
    assert before.shape == after.shape, "the stage changed its size while the figure was turned"
    return float((abs(after - before) > 20).mean())


def test_drop_size_pose_supports_layers_proof_export_log_reload(
    drawn_page: Page, running: Running, tmp_path: Path
) -> None:
    page = drawn_page
    figure = reed_warden(cell=0.9)
    drop(page, "reed-warden.stl", stl_bytes(figure))
    expect(page.get_by_role("heading", name="How tall?")).to_be_visible()
    expect(page.get_by_text(re.compile("closed all round")).first).to_be_visible()
    settle_size(page, "32")
    go_on_without_marks(page)

    expect(page.get_by_role("heading", name="Which way up?")).to_be_visible()
    poses = page.get_by_role("table", name="Poses")
    expect(poses.locator("tbody tr")).to_have_count(4)
    poses.locator("tbody tr").nth(1).click()
    expect(page).to_have_url(re.compile("option=1"))
    expect(poses.locator("tbody tr").nth(1)).to_have_attribute("aria-selected", "true")
    page.get_by_role("button", name=re.compile("Take pose")).click()

    expect(page.get_by_role("heading", name="How is it held?")).to_be_visible()
    sets = page.get_by_role("table", name="Support sets")
    expect(sets.locator("tbody tr").nth(3)).to_be_visible()
    page.keyboard.press("Enter")

    expect(page.get_by_role("heading", name="How thin a layer?")).to_be_visible()
    expect(page.get_by_role("table", name="Layer heights").locator("tbody tr")).to_have_count(4)
    page.get_by_role("button", name="Take this height").click()

    expect(page.get_by_role("heading", name="Will it print?")).to_be_visible()
    expect(page.get_by_text(re.compile(r"All [\d,]+ layers read: no islands left"))).to_be_visible()
    assert turned_share(page) > 0.01
    page.get_by_label("Cut height").focus()
    page.keyboard.press("Home")
    page.keyboard.press("ArrowRight")
    expect(page.get_by_test_id("cut-readout")).to_contain_text("layer 2 of")
    expect(page).to_have_url(re.compile("layer=1"))
    with page.expect_download() as download:
        page.get_by_role("link", name="STL").click()
    path = tmp_path / "out.stl"
    download.value.save_as(path)
    with open(path, "rb") as handle:
        assert len(load(handle).faces) > len(figure.faces) > 30_000
    walk = page.get_by_role("region", name="Walk through the layers")
    expect(walk.get_by_role("img", name=re.compile("^Layer 1: "))).to_be_visible()
    page.keyboard.press(".")
    expect(walk.get_by_role("img", name=re.compile("^Layer 2: "))).to_be_visible()
    page.keyboard.press("n")
    expect(walk.get_by_role("img", name=re.compile("^Layer 2: "))).to_have_count(0)
    expect(walk.get_by_role("listitem").first).to_be_visible()
    page.get_by_role("button", name="Accept this plan").click()

    expect(page.get_by_role("heading", name="What became of it?")).to_be_visible()
    page.get_by_role("button", name="Start a run now").click()
    page.get_by_role("radio", name="part lost").click()
    page.get_by_label("Hours it took").fill("2.5")
    page.get_by_label("Failed at layer").fill("212")
    page.get_by_label("Note").fill("spear snapped")
    page.get_by_role("button", name="Keep this outcome").click()
    expect(page.get_by_text("part lost, 2 h 30, failed at layer 212")).to_be_visible()

    page.reload()
    expect(page.get_by_text("spear snapped")).to_be_visible()
    expect(page.locator("nav[aria-label=Folds] [aria-label=settled]")).to_have_count(6)
    page.goto("/log")
    expect(page.get_by_role("table", name="Runs").get_by_text("spear snapped")).to_be_visible()


def test_without_a_picture_in_the_round_everything_else_works(page: Page) -> None:
    page.add_init_script(
        "const given = HTMLCanvasElement.prototype.getContext;"
        "HTMLCanvasElement.prototype.getContext = function (kind, options) {"
        "  return kind.startsWith('webgl') ? null : given.call(this, kind, options); };"
    )
    drop(page, "stone.stl", stl_bytes(knobbly(fineness=3)))
    expect(page.get_by_text("This browser does not draw in the round")).to_be_visible()
    settle_size(page, "20")
    go_on_without_marks(page)
    expect(page.get_by_role("table", name="Poses").locator("tbody tr")).to_have_count(4)


def test_undo_redo_and_stale_by_keyboard(page: Page) -> None:
    drop(page, "stone.stl", stl_bytes(knobbly(fineness=4)))
    settle_size(page, "20")
    expect(page.get_by_role("heading", name="Which surfaces matter?")).to_be_visible()
    page.keyboard.press("3")
    expect(page.get_by_role("table", name="Poses").locator("tbody tr")).to_have_count(4)
    page.get_by_role("button", name=re.compile("Take pose")).click()
    expect(page.get_by_role("heading", name="How is it held?")).to_be_visible()
    page.keyboard.press("1")
    settle_size(page, "24")
    band = page.get_by_role("navigation", name="Folds")
    expect(band.get_by_label("stale")).to_have_count(1)
    page.keyboard.press("z")
    expect(band.get_by_label("stale")).to_have_count(0)
    expect(band.get_by_label("settled")).to_have_count(2)
    page.keyboard.press("Shift+Z")
    expect(band.get_by_label("stale")).to_have_count(1)


def test_palette_keys_and_deep_links(page: Page) -> None:
    drop(page, "gate-of-reeds.stl", stl_bytes(fork()))
    expect(page.get_by_role("heading", name="How tall?")).to_be_visible()
    here = page.url
    page.keyboard.press("Control+k")
    page.get_by_placeholder("a figure, a fold, something to do").fill("the log")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="What the prints have told")).to_be_visible()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keys")).to_be_visible()
    page.keyboard.press("Escape")
    page.goto(here.replace("/size", "/proof"))
    expect(page.get_by_text("Size comes first.")).to_be_visible()
    page.get_by_role("link", name="Go to Size").click()
    expect(page.get_by_role("heading", name="How tall?")).to_be_visible()
    page.goto("/plan/9999")
    expect(page.get_by_text("There is no plan number 9999.")).to_be_visible()
    page.goto("/nowhere/at/all")
    expect(page.get_by_text("There is no such page.")).to_be_visible()


def test_two_gigabytes_of_zeros_are_refused_at_once(page: Page, tmp_path: Path) -> None:
    zeros = tmp_path / "zeros.stl"
    with open(zeros, "wb") as sparse:
        sparse.truncate(2 * 1024**3)
    page.goto("/")
    page.locator("#pick-file").set_input_files(zeros)
    expect(page.get_by_role("alert").first).to_contain_text("yet its header announces no triangles", timeout=5_000)


def test_a_bad_file_says_what_and_what_to_do(page: Page) -> None:
    drop(page, "diary.stl", b"Dear diary, today the toad smiled. " * 30)
    alert = page.get_by_role("alert").first
    expect(alert).to_contain_text("diary.stl")
    expect(alert).to_contain_text("This is a text file, not an STL")
    expect(page).to_have_url(re.compile("/$"))


def held_up(page: Page, running: Running, kind: str) -> None:
    """A computation under way that does not go on: its worker is stopped, however fast the machine is."""
    for _ in range(1000):
        jobs = page.request.get(f"{running.address}/api/jobs").json()
        if any(job["kind"] == kind and job["state"] == "running" for job in jobs):
            break
        page.wait_for_timeout(10)
    for pid in workers(running):
        os.kill(pid, signal.SIGSTOP)
    assert any(job["kind"] == kind for job in page.request.get(f"{running.address}/api/jobs").json()), "it had ended"


def test_a_long_computation_can_be_cancelled_and_started_again(page: Page, running: Running) -> None:
    drop(page, "boulder.stl", stl_bytes(knobbly(14, 5)))
    settle_size(page, "28")
    go_on_without_marks(page)
    held_up(page, running, "pose")
    page.get_by_role("button", name="Cancel").click()
    expect(page.get_by_text("The computation was cancelled.")).to_be_visible()
    for pid in workers(running):
        os.kill(pid, signal.SIGCONT)
    page.get_by_role("button", name="Try again").click()
    expect(page.get_by_role("table", name="Poses").locator("tbody tr")).to_have_count(4)


def test_the_database_may_go_away_and_come_back(page: Page, running: Running) -> None:
    drop(page, "post-of-reeds.stl", stl_bytes(fork()))
    expect(page.get_by_role("heading", name="How tall?")).to_be_visible()
    cards = page.locator("ul[aria-label=Figures] > li")
    page.goto("/")
    expect(cards.first).to_be_visible()
    shown = cards.count()
    # The launcher starts a lost database again within two seconds; a folder where it writes its setup keeps it from
    # that.
    setup = running.state / "db" / "setup.sql"
    setup.unlink()
    setup.mkdir()
    os.kill(int((running.state / "db" / "pid").read_text()), signal.SIGKILL)
    page.reload()
    expect(page.get_by_text("The database does not answer.").first).to_be_visible()
    setup.rmdir()
    # The launcher starts it again, InnoDB recovers, and the page goes on by itself.
    expect(page.get_by_text("The database does not answer.")).to_have_count(0)
    expect(cards).to_have_count(shown)
