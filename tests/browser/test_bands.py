"""Layers in bands on the screen: dialled, taken, written as a path whose strings and seams are told, and as outlines
for use elsewhere.
"""

from __future__ import annotations

import re
from itertools import pairwise
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tenugui.core.formats import read_slices
from tests.browser.test_journey import drop, go_on_without_marks, settle_size
from tests.shapes import ball, stl_bytes


@pytest.mark.long
def test_bands_dialled_taken_written_and_cut(page: Page) -> None:
    drop(page, "curlew-egg.stl", stl_bytes(ball(6, fineness=4).dropped()))
    expect(page.get_by_role("heading", name="How tall?")).to_be_visible()
    page.get_by_label("Printer", exact=True).click()
    page.get_by_role("option", name=re.compile("kestrel")).click()
    settle_size(page, "12")
    go_on_without_marks(page)
    page.get_by_role("button", name=re.compile("Take pose")).click()
    page.get_by_role("button", name="Take these supports").click()

    rows = page.get_by_role("table", name="Layer heights").locator("tbody tr")
    expect(rows).to_have_count(5)
    expect(rows.last).to_contain_text("in bands")
    dial = page.get_by_role("slider", name="Steps accepted in bands")
    dial.press("Home")
    strict = rows.last.inner_text()
    dial.press("End")
    expect(rows.last).not_to_have_text(strict)
    expect(rows.last).to_have_attribute("aria-selected", "true")
    expect(page.get_by_test_id("bands")).to_be_visible()
    uses = page.get_by_role("region", name="What it is for")
    uses.get_by_role("button").last.click()
    expect(uses.get_by_role("button").last).to_have_attribute("aria-pressed", "true")
    dial.press("End")
    expect(page).to_have_url(re.compile("option="))
    page.get_by_role("button", name="Take this height").click()
    expect(page.get_by_role("link", name=re.compile(r"Layers\s*0\.08 to 0\.2 mm"))).to_be_visible()

    file = page.get_by_role("region", name="The machine's file")
    file.get_by_role("button", name="Write the file for the machine").click()
    expect(file.get_by_text(re.compile(r"layers of 0\.08 to 0\.2 mm.*Every move was read back"))).to_be_visible()
    told = file.get_by_role("region", name="Strings and seams")
    expect(told.get_by_text(re.compile("outermost lines begin where it is seen"))).to_be_visible()
    spot = told.get_by_role("button").first
    layer = re.search(r"play layer (\d+)", spot.get_attribute("aria-label") or "")
    assert layer
    spot.click()
    expect(page).to_have_url(re.compile(f"played={layer[1]}$"))
    file.get_by_role("button", name=re.compile("^Outlines of every layer")).click()
    with page.expect_download() as taken:
        file.get_by_role("link", name="Outlines, 3MF with slices").click()
    back = read_slices(Path(taken.value.path()).read_bytes())
    tops = [top for top, _ in back["figure"]]
    steps = {round(b - a, 3) for a, b in pairwise(tops)}
    assert {0.08, 0.2} <= steps and taken.value.suggested_filename.endswith("-slices.3mf")
