"""The shelf on the screen: a machine of one's own is kept, refused with what is wrong, used, put away and
brought back.
"""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.test_journey import drop
from tests.shapes import ball, stl_bytes


def test_a_printer_of_ones_own_from_the_shelf_to_a_plan(page: Page) -> None:
    page.goto("/")
    page.get_by_role("link", name="Shelf").click()
    expect(page.get_by_role("heading", name="What do you print with?")).to_be_visible()
    page.get_by_role("button", name="a resin printer").click()
    keep = page.get_by_role("button", name="Keep it")
    expect(keep).to_be_disabled()
    page.get_by_label("Name").fill("wader")
    for k, text in enumerate(("150", "80", "160")):
        page.get_by_label(f"Wide, deep, tall, number {k + 1}").fill(text)
    for k, text in enumerate(("3840", "63")):
        page.get_by_label(f"Pixels of the screen, wide and deep, number {k + 1}").fill(text)
    expect(page.get_by_role("alert")).to_have_text("from 64 to 40,000")
    expect(keep).to_be_disabled()
    page.get_by_label("Pixels of the screen, wide and deep, number 2").fill("2048")
    keep.click()
    expect(page.get_by_text("wader is kept.", exact=True)).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^wader"))).to_have_attribute("aria-current", "true")
    expect(page.get_by_text("Film: 0 % of its usual life")).to_be_visible()
    page.get_by_role("button", name="A new film is in").click()
    expect(page.get_by_text(re.compile("worn by the runs of the log since"))).to_be_visible()

    drop(page, "marsh-stone.stl", stl_bytes(ball(9, fineness=3).dropped()))
    expect(page.get_by_role("heading", name="How tall?")).to_be_visible()
    page.get_by_label("Printer", exact=True).click()
    page.get_by_role("option", name=re.compile("wader")).click()

    page.goto("/shelf?of=printers&name=wader")
    page.get_by_role("button", name="Put it away").click()
    expect(page.get_by_role("button", name=re.compile("^wader"))).to_have_count(0)
    page.get_by_role("button", name="Back on the shelf").click()
    expect(page.get_by_role("button", name=re.compile("^wader"))).to_be_visible()
