"""Supports changed by hand on the screen: a tip put, one taken away, proved as a row, taken, and taken back."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tenugui.core.formats import load
from tests.browser.test_journey import drop, go_on_without_marks, settle_size
from tests.shapes import ball, stl_bytes


def test_tips_put_and_taken_away_and_the_set_proved_so(page: Page) -> None:
    drop(page, "reed-egg.stl", stl_bytes(ball(9, fineness=4).dropped()))
    settle_size(page, "18")
    go_on_without_marks(page)
    page.get_by_role("button", name=re.compile("Take pose")).click()
    expect(page.get_by_role("heading", name="How is it held?")).to_be_visible()
    rows = page.get_by_role("table", name="Support sets").locator("tbody tr")
    # A draft of the board has fewer rows.
    expect(page.get_by_role("button", name="Take these supports")).to_be_enabled()
    many = rows.count()
    expect(page.get_by_text(re.compile(r"^Tips: \d+ .*under what starts in mid air"))).to_be_visible()

    two = page.get_by_role("region", name="Two sets beside each other")
    two.get_by_label("Which other set").click()
    page.get_by_role("option").nth(1).click()
    expect(two.get_by_role("figure")).to_have_count(2)
    expect(two.get_by_text(re.compile(r"(in both; \d+ only here|^The same \d+ supports)"))).to_be_visible()
    walk = page.get_by_role("region", name="Tips one by one")
    walk.get_by_role("radio", name="back off").click()
    expect(walk.get_by_text(re.compile(r"(of \d+ may go|^None of \d+ may go)"))).to_be_visible()

    page.get_by_role("radio", name="put a tip").click()
    expect(page.get_by_text("Click where the figure is to be held.")).to_be_visible()
    stage = page.locator("[data-turntable]").bounding_box()
    assert stage is not None
    page.mouse.click(stage["x"] + stage["width"] / 2, stage["y"] + stage["height"] * 0.5)
    expect(page.get_by_text("1 put", exact=True)).to_be_visible()
    page.get_by_role("button", name="The same on the other side").click()
    expect(page.get_by_text("2 put", exact=True)).to_be_visible()
    page.get_by_role("button", name="Take the last back").click()
    expect(page.get_by_role("button", name="Take these supports")).to_be_disabled()
    page.get_by_role("button", name="Take the last back").click()
    expect(page.get_by_role("button", name="Prove it so")).to_have_count(0)
    page.mouse.click(stage["x"] + stage["width"] / 2, stage["y"] + stage["height"] * 0.56)
    # What it would weaken is read before anything is proved.
    expect(page.get_by_text(re.compile(r"^(Nothing falls below|.* would (start|be held))"))).to_be_visible()
    page.get_by_role("button", name="Prove it so").click()

    expect(rows).to_have_count(many + 1)
    expect(rows.last).to_contain_text("one change by hand")
    expect(rows.last).to_have_attribute("aria-selected", "true")
    page.get_by_role("button", name="Take these supports").click()
    expect(page.get_by_role("heading", name="How thin a layer?")).to_be_visible()
    heights = page.get_by_role("table", name="Layer heights").locator("tbody tr")
    expect(heights.first).to_be_visible()
    page.get_by_role("link", name=re.compile(r"^Supports")).click()
    expect(rows).to_have_count(many + 1)
    expect(rows.last).to_contain_text("Yours")
    page.keyboard.press("z")
    expect(rows).to_have_count(many)


@pytest.mark.long
def test_tip_by_tip_and_what_would_give_way_without_each(page: Page) -> None:
    """The lowest point of an egg hangs on one tip; without it the egg starts in mid air, and it is taken away from the
    walk itself.
    """
    drop(page, "heron-egg.stl", stl_bytes(ball(8, fineness=4).dropped()))
    settle_size(page, "16")
    go_on_without_marks(page)
    page.get_by_role("button", name=re.compile("Take pose")).click()
    walk = page.get_by_role("region", name="Tips one by one")
    expect(walk.get_by_text(re.compile(r"^\d+ tips$"))).to_be_visible()
    walk.get_by_role("button", name="next").click()
    expect(walk.get_by_text(re.compile(r"^1 of \d+, \d+ needed$"))).to_be_visible()
    expect(walk.get_by_text(re.compile(r"^(Needed|Comfort), under what starts in mid air: 0\.\d\d mm"))).to_be_visible()
    expect(walk.get_by_text(re.compile("Without it: (?!being)"))).to_be_visible()
    expect(page).to_have_url(re.compile("layer="))
    walk.get_by_role("radio", name="weakest first").click()
    expect(walk.get_by_text(re.compile(r"holds \d+\.\d times what it is asked for"))).to_be_visible()
    walk.get_by_role("button", name="take it away").click()
    expect(walk.get_by_text("You have taken it away.")).to_be_visible()
    hand = page.get_by_role("region", name="By hand")
    expect(hand.get_by_role("button", name="Prove it so")).to_be_enabled()
    hand.get_by_role("radio", name="clear a place").click()
    hand.get_by_role("button", name="Take the last back").click()
    expect(hand.get_by_text("Click: every tip within 5 mm of there goes.")).to_be_visible()

    page.get_by_role("radio", name="as they are").click()
    page.get_by_role("button", name="Take these supports").click()
    page.get_by_role("button", name="Take this height").click()
    off = page.get_by_role("region", name="Taking supports off")
    group = off.get_by_role("listitem").first.get_by_role("button")
    expect(group).to_contain_text(re.compile(r"tips? from (its|below)"))
    group.click()
    expect(group).to_have_attribute("aria-pressed", "true")
    with page.expect_download() as taken:
        off.get_by_role("link", name=re.compile("supports alone")).click()
    with open(taken.value.path(), "rb") as file:
        stand = load(file)
    assert abs(float(stand.lower[2])) < 0.01 and stand.size[2] > 4 and len(stand.faces) > 100
