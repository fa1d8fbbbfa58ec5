"""Intake on the screens: the broken demo figure repaired, a kit in a ZIP, other formats, supports taken off."""

from __future__ import annotations

import io
import os
import re
import zipfile
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tenugui.core.formats import write_obj
from tenugui.demo.figures import demo_files
from tests.browser.test_journey import drop
from tests.core.test_repair import propped
from tests.shapes import ball, box, stl_bytes


@pytest.fixture(scope="module")
def broken() -> Path:
    folder = Path(os.environ.get("TENUGUI_STATE", ".state")) / "demo"
    return demo_files(folder, ["reed-warden-broken"])["reed-warden-broken"]


@pytest.mark.long
def test_the_broken_demo_figure_is_understood_repaired_and_taken(page: Page, broken: Path) -> None:
    page.goto("/")
    page.locator("#pick-file").set_input_files(broken)
    expect(page.get_by_text("It came broken and was mended: see what was changed below.")).to_be_visible()
    finding = page.get_by_role("button", name=re.compile("the surface has holes"))
    finding.click()
    expect(page.locator("[data-turntable]").get_by_text("the surface has holes")).to_be_visible()
    expect(page.get_by_text(re.compile("8 holes closed")).first).to_be_visible()
    page.get_by_role("radio", name="As it came").click()
    expect(page.get_by_text(re.compile("8 holes closed"))).to_have_count(0)
    page.get_by_role("radio", name="New surface").click()
    expect(page.get_by_role("img", name=re.compile("by height"))).to_be_visible()
    page.get_by_role("radio", name="Ready to work on").click()
    page.get_by_role("button", name="Take this size").click()
    expect(page.get_by_role("heading", name="Which surfaces matter?")).to_be_visible()
    page.keyboard.press("1")
    page.reload()
    expect(page.get_by_role("radio", name="Ready to work on")).to_be_checked()
    expect(page.get_by_role("heading", name="Too thin to survive at this size")).to_be_visible()
    expect(page.get_by_role("button", name="Dye the figure")).to_be_visible()
    page.keyboard.press("z")
    expect(page.get_by_role("navigation", name="Folds").get_by_label("settled")).to_have_count(0)


def test_a_kit_in_a_zip_shares_its_size(page: Page) -> None:
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w") as archive:
        archive.writestr("post.stl", stl_bytes(box((0, 0, 6), (4, 4, 12))))
        archive.writestr("knob.stl", stl_bytes(ball(5, fineness=3)))
    drop(page, "gate-post.zip", held.getvalue())
    expect(page.get_by_role("heading", name="Gate post")).to_be_visible()
    expect(page.get_by_text("The file does not place them; they stand side by side.")).to_be_visible()
    page.get_by_role("link", name=re.compile("Knob")).click()
    parts = page.get_by_role("navigation", name="Parts of Gate post")
    expect(parts.get_by_role("link", name="Knob")).to_have_attribute("aria-current", "page")
    page.get_by_label("Of the file's numbers").fill("200")
    expect(page.get_by_label("Height of the whole figure, mm")).to_have_value("20.0")
    page.get_by_role("button", name=re.compile("Take this size")).click()
    expect(page.get_by_role("heading", name="Which surfaces matter?")).to_be_visible()
    page.keyboard.press("1")
    parts.get_by_role("link", name="Post", exact=True).click()
    expect(page.get_by_label("Height of the whole figure, mm")).to_have_value("24.0")


def test_all_numbers_of_the_size_are_linked(page: Page) -> None:
    held = io.BytesIO()
    write_obj({"stone": ball(16, fineness=3)}, held)
    drop(page, "stone.obj", held.getvalue())
    height, percent = page.get_by_label("Height of the whole figure, mm"), page.get_by_label("Of the file's numbers")
    expect(height).to_have_value("32.0")
    percent.fill("150")
    expect(height).to_have_value("48.0")
    page.get_by_label("Modelled at 1 to").fill("56")
    page.get_by_label("Printed at 1 to").fill("28")
    expect(height).to_have_value("64.0")
    expect(percent).to_have_value("200.0")
    height.fill("nonsense")
    expect(height).to_have_attribute("aria-invalid", "true")
    percent.fill("100")
    page.get_by_role("button", name="mark").first.click()
    page.locator("[data-turntable] canvas").click()
    eye = page.get_by_label("To the eye")
    expect(eye).not_to_have_value("")
    eye.fill("30")
    expect(eye).to_have_value("30")
    expect(height).not_to_have_value("32.0")


@pytest.mark.long
def test_supports_that_came_along_are_taken_off(page: Page) -> None:
    drop(page, "held.stl", stl_bytes(propped(united=True)))
    expect(page.get_by_text(re.compile("It comes with 8 supports and a raft of its own"))).to_be_visible()
    page.get_by_role("radio", name="Without its supports").click()
    expect(page.get_by_text("Closed all round.", exact=True)).to_be_visible()
    expect(page.get_by_role("img", name=re.compile("by height"))).to_be_visible()
    page.get_by_role("button", name="Take this size").click()
    expect(page.get_by_role("heading", name="Which surfaces matter?")).to_be_visible()
