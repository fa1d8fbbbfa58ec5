"""From supports on other feet to the machine's own file."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tenugui.core.vat import read_archive
from tests.browser.test_journey import drop, go_on_without_marks, settle_size
from tests.shapes import ball, stl_bytes

expect.set_options(timeout=90_000)


def test_other_feet_and_the_machines_own_file(page: Page) -> None:
    drop(page, "otter-egg.stl", stl_bytes(ball(5, fineness=4).dropped()))
    settle_size(page, "10")
    go_on_without_marks(page)
    page.get_by_role("button", name=re.compile("Take pose")).click()
    rows = page.get_by_role("table", name="Support sets").locator("tbody tr")
    expect(rows.first).to_be_visible()
    many = rows.count()
    expect(page.get_by_role("radio", name="full raft")).to_be_checked()
    page.get_by_role("radio", name="wide feet").click()
    expect(rows).to_have_count(many + 1)
    expect(rows.last).to_contain_text("Yours")
    expect(page.get_by_role("radio", name="wide feet")).to_be_checked()
    expect(page.get_by_text(re.compile("Proved at 0.05 mm layers. Priors."))).to_be_visible()
    page.get_by_role("radio", name="hold", exact=True).click()
    page.get_by_role("button", name="Take these supports").click()
    page.get_by_role("button", name="Take this height").click()

    file = page.get_by_role("region", name="The machine's file")
    file.get_by_role("button", name="Write the file for the machine").click()
    expect(file.get_by_text(re.compile("Every pixel was read back"))).to_be_visible()
    with page.expect_download() as taken:
        file.get_by_role("link", name="Layers, ZIP of PNG").click()
    with open(taken.value.path(), "rb") as held:
        back = read_archive(held)
    assert taken.value.suggested_filename.endswith("-layers.zip") and back.differs == 0
    expect(file.get_by_text(re.compile(f"{back.manifest.layers:,} layers of"))).to_be_visible()
