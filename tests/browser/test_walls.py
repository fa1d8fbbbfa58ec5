"""Walls of a filament figure on the screen: what stays open is told, one's own are tried, and what is taken is what the
machine is set to.
"""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tenugui.core.mesh import Mesh
from tests.browser.test_journey import drop, go_on_without_marks, settle_size
from tests.shapes import ball, stl_bytes


@pytest.mark.long
def test_walls_told_tried_and_taken(page: Page) -> None:
    stone = ball(15, fineness=5)
    drop(page, "river-stone.stl", stl_bytes(Mesh(stone.vertices * [1.0, 1.0, 0.6], stone.faces).dropped()))
    expect(page.get_by_role("heading", name="How tall?")).to_be_visible()
    page.get_by_label("Printer", exact=True).click()
    page.get_by_role("option", name=re.compile("kestrel")).click()
    settle_size(page, "18")
    go_on_without_marks(page)
    expect(page.get_by_role("heading", name="Which way up?")).to_be_visible()
    page.get_by_role("button", name=re.compile("Take pose")).click()
    expect(page.get_by_role("heading", name="How is it held?")).to_be_visible()

    page.keyboard.press("4")
    expect(page.get_by_role("heading", name="How thick are its walls?")).to_be_visible()
    rows = page.get_by_role("table", name="Walls").locator("tbody tr")
    expect(rows.first).to_contain_text("As the machine is set")
    expect(page.get_by_text(re.compile(r"mm² that rise [0-9.]+ to [0-9.]+° stay open"))).to_be_visible()
    expect(rows.filter(has_text="Closes its slopes")).to_have_count(1)
    many = rows.count()
    page.get_by_role("radio", name="gaps").click()
    rows.filter(has_text="Solid").click()
    expect(page.get_by_text("Every slope is closed by perimeters or roofs.")).to_be_visible()

    page.get_by_label("Perimeters").fill("0")
    expect(page.get_by_role("button", name="Try it")).to_be_disabled()
    page.get_by_label("Perimeters").fill("7")
    page.get_by_label("Infill, %").fill("40")
    page.get_by_role("button", name="Try it").click()
    expect(rows).to_have_count(many + 1)
    expect(rows.last).to_contain_text("Yours")
    expect(rows.last).to_have_attribute("aria-selected", "true")
    page.get_by_role("button", name="Take these walls").click()
    expect(page.get_by_role("heading", name="How is it held?")).to_be_visible()
    expect(page.get_by_role("link", name=re.compile(r"Walls\s*7 lines, 40 % inside"))).to_be_visible()
    page.keyboard.press("z")
    expect(page.get_by_role("link", name=re.compile(r"Walls\s*open"))).to_be_visible()
